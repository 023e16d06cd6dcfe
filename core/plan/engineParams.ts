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

/** A row's numbers that act at the same place of their processor: from the first up to, not including, the last. */
export interface Acting {
  readonly where: 'start' | 'middle' | 'end';
  readonly from: number;
  readonly to: number;
}
const acting = new Map<string, readonly Acting[]>();
/** Where a processor's numbers act in it, in the order of the signal. */
export function actingOf(processor: Processor, timebase: Timebase): readonly Acting[] {
  let groups = acting.get(processor.type);
  if (!groups) {
    const params = processor.engineParams({}, timebase);
    const found: Acting[] = [];
    let at = 0;
    for (const [name, value] of Object.entries(params)) {
      const where = processor.acts?.[name] ?? 'start';
      const to = at + (typeof value === 'number' ? 1 : value.length);
      const last = found.at(-1);
      if (last?.where === where) found[found.length - 1] = { ...last, to };
      else found.push({ where, from: at, to });
      at = to;
    }
    acting.set(processor.type, (groups = found));
  }
  return groups;
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
