import { defineAsyncComponent } from 'vue';
import type { Token } from './theme';

/** An axis of a plot: what it is called, its unit, and how far it goes. */
export interface PlotAxis {
  readonly name: string;
  readonly unit?: string;
  readonly kind?: 'value' | 'log' | 'category';
  readonly min?: number;
  readonly max?: number;
  /** Of a category axis: its places. */
  readonly names?: readonly string[];
  /** How a value is written, without its unit. */
  readonly format?: (value: number) => string;
  /** How a value is written along the axis. */
  readonly label?: (value: never) => string;
  readonly splits?: number;
  readonly interval?: number;
  readonly inverse?: boolean;
  /** Pixels for the numbers beside it. */
  readonly room?: number;
  readonly end?: number;
  readonly shown?: boolean;
}
/** What is plotted: points of x and y. */
export interface PlotLine {
  readonly name: string;
  readonly points: readonly (readonly [x: number, y: number])[];
  readonly colour?: Token;
  readonly dashed?: boolean;
  readonly area?: boolean;
  readonly kind?: 'line' | 'bars';
  readonly thick?: number;
}
/**
 * What a line has at a value of x: between its points as it is drawn, straight from one to the next; bars at their own places alone.
 * @param line its points in the order of x
 * @returns null where it has nothing
 */
export function valueAt({ points, kind }: Pick<PlotLine, 'points' | 'kind'>, x: number): number | null {
  const next = points.findIndex(([at]) => at >= x);
  if (next < 0) return null;
  const [to, value] = points[next]!;
  if (to === x) return value;
  if (kind === 'bars' || next === 0) return null;
  const [from, before] = points[next - 1]!;
  return before + ((value - before) * (x - from)) / (to - from);
}
/** Charts come when they are needed. */
export const Plot = defineAsyncComponent(() => import('./Plot.vue'));

/** 20 Hz to 20 kHz. */
export const HERTZ: PlotAxis = {
  name: 'Frequency',
  unit: 'Hz',
  kind: 'log',
  min: 20,
  max: 20000,
  format: (v) => v.toFixed(0),
  label: (v: number) => (v >= 1000 ? `${v / 1000}k` : `${v}`),
};
