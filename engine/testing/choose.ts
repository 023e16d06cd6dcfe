import type { Processor } from '../../core/processors/description';

/** Repeatable choices between 0 and 1. */
export function chooser(seed: number) {
  let a = seed;
  return () => {
    a = (Math.imul(a, 1664525) + 1013904223) >>> 0;
    return a / 4294967296;
  };
}
/** A setting of every parameter, anywhere in its range. */
export function anySetting(p: Processor, next: () => number): Record<string, number> {
  return Object.fromEntries(
    p.parameters.map((x) => {
      const value = x.min + next() * (x.max - x.min);
      return [x.id, x.choices ? Math.round(value) : Math.round(value / x.step) * x.step];
    }),
  );
}
