import type { EngineParams } from '../processors/description';

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
