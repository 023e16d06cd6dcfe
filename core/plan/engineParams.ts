import type { EngineParams, Processor, Timebase } from '../processors/description';

/** A processor's numbers as they stand in a plan's table, one after another. */
export function inOneRow(params: EngineParams): readonly number[] {
  const row: number[] = [];
  for (const name in params) {
    const value = params[name]!;
    if (typeof value === 'number') row.push(value);
    else for (const x of value) row.push(x);
  }
  return row;
}

/** At which byte of a processor's numbers each of its names begins. */
export function placesOf(params: EngineParams): ReadonlyMap<string, number> {
  const places = new Map<string, number>();
  let at = 0;
  for (const [name, value] of Object.entries(params)) {
    places.set(name, at);
    at += 4 * (typeof value === 'number' ? 1 : value.length);
  }
  return places;
}

const known = new Map<string, readonly number[]>();
/** Which of a processor's numbers it crosses over to by itself. */
export function stepsOf(processor: Processor, timebase: Timebase): readonly number[] {
  let steps = known.get(processor.type);
  if (!steps) {
    const params = processor.engineParams({}, timebase);
    const places = placesOf(params);
    steps = (processor.leaps ?? []).flatMap((name) => {
      const value = params[name]!;
      const first = places.get(name)! / 4;
      return typeof value === 'number' ? [first] : value.map((_, i) => first + i);
    });
    known.set(processor.type, steps);
  }
  return steps;
}
