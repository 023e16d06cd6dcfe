import type { LiveReading } from '@core/metering/liveMeter';
import { TAPS } from './shared';

/** Where a tap's readings stand in the memory that the meters' worker writes; a number that is none is NaN. */
const FIELDS = [
  'momentary',
  'shortTerm',
  'integrated',
  'maxMomentary',
  'maxShortTerm',
  'range',
  'truePeakDb',
  'correlation',
  'mono',
  'seconds',
] as const satisfies readonly (keyof LiveReading)[];
/** The tap's serial, before the fields; channels and their levels after them. */
const LEVELS = FIELDS.length + 1;
const FLOATS = LEVELS + 3;
export const READINGS_BYTES = TAPS * FLOATS * 8;

const told = (v: number | null) => v ?? NaN;
const read = (v: number) => (Number.isNaN(v) ? null : v);

export function writeReading(memory: Float64Array, tap: number, serial: number, reading: LiveReading): void {
  const at = tap * FLOATS;
  FIELDS.forEach((field, i) => (memory[at + 1 + i] = told(reading[field])));
  memory[at + LEVELS] = reading.levels.length;
  reading.levels.forEach((level, c) => (memory[at + LEVELS + 1 + c] = told(level)));
  memory[at] = serial;
}

/** @returns null where what stands there is not of this serial */
export function readingAt(memory: Float64Array, tap: number, serial: number): LiveReading | null {
  const at = tap * FLOATS;
  if (memory[at] !== serial) return null;
  const fields = Object.fromEntries(FIELDS.map((field, i) => [field, read(memory[at + 1 + i]!)]));
  const levels = Array.from({ length: memory[at + LEVELS]! }, (_, c) => read(memory[at + LEVELS + 1 + c]!));
  return { ...fields, levels } as unknown as LiveReading;
}
