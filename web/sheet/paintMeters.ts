import { decibelsOf } from '@core/levels/decibels';
import { travelOf } from '@core/levels/faderLaw';
import { METER_FLOATS } from '@core/plan/layout';
import type { Channels } from '@core/session/types';
import { LEVEL_FOOT, LEVEL_TOP } from './rows/kind';

export interface MeterPlace {
  readonly slot: number;
  readonly channels: Channels;
  /** Whether it stands among the sources. */
  readonly source: boolean;
  readonly x: number;
  readonly width: number;
  /** Of a strip whose waveform runs in the place of its meter: what it was of late, the newest at `head`. */
  readonly wave?: Wave;
  /** Of a folded band: the meters that its one meter adds up. */
  readonly total?: readonly { readonly slot: number; readonly channels: Channels }[];
}
/** Peaks of the last pictures. */
export interface Wave {
  readonly peaks: Float32Array;
  head: number;
}
export const newWave = (): Wave => ({ peaks: new Float32Array(400), head: 0 });
/** Keeps the peak of this picture. */
export function pushWave(wave: Wave, readings: Float32Array, slot: number, channels: Channels): void {
  let peak = 0;
  for (let k = 0; k < channels; k++) peak = Math.max(peak, readings[slot + k * METER_FLOATS + 3]!);
  wave.head = (wave.head + 1) % wave.peaks.length;
  wave.peaks[wave.head] = peak;
}

export interface MeterColours {
  readonly well: string;
  readonly signal: string;
  readonly hot: string;
  readonly clip: string;
  readonly mark: string;
}

/**
 * Draws the meters of the columns in view: a bar of the falling peak, a mark at the RMS level, a bar across the top where
 * a sample went over full scale since it was last cleared.
 * @param readings the memory that the engine writes; null when nothing runs
 */
export function paintMeters(
  g: CanvasRenderingContext2D,
  readings: Float32Array | null,
  places: readonly MeterPlace[],
  top: number,
  height: number,
  c: MeterColours,
): void {
  const range = height - LEVEL_TOP - LEVEL_FOOT;
  const bottom = top + height - LEVEL_FOOT;
  const y = (gain: number) => bottom - travelOf(decibelsOf(gain)) * range;
  for (const place of places) {
    const { slot, channels, x, width } = place;
    if (place.total) {
      paintTotal(g, readings, place, top, range, bottom, y, c);
      continue;
    }
    if (place.wave) {
      paintWave(g, place, top, range, c);
      continue;
    }
    const far = width < 15;
    // From afar both sides of a meter stand close.
    const half = Math.max(2, Math.floor(width * 0.45));
    const bar = far ? Math.floor(half / channels) : width < 40 ? 3 : width > 80 ? 8 : 5;
    const apart = far ? 0 : 1;
    const left = far
      ? x + Math.floor(width) - 1 - channels * bar
      : x + Math.round(width * 0.66) - (channels === 2 ? bar + 1 : Math.floor(bar / 2));
    for (let k = 0; k < channels; k++) {
      const at = left + k * (bar + apart);
      g.fillStyle = c.well;
      g.fillRect(at, top + LEVEL_TOP, bar, range);
      if (!readings) continue;
      const base = slot + k * METER_FLOATS;
      const peak = readings[base]!;
      if (peak > 0) {
        const up = y(peak);
        g.fillStyle = c.signal;
        g.fillRect(at, up, bar, bottom - up);
        if (peak > 0.5) {
          const hot = y(0.5);
          g.fillStyle = c.hot;
          g.fillRect(at, up, bar, hot - up);
        }
      }
      const square = readings[base + 1]!;
      if (square > 0) {
        g.fillStyle = c.mark;
        g.fillRect(at, y(Math.sqrt(square)), bar, 1);
      }
      if (readings[base + 2]! > 1) {
        g.fillStyle = c.clip;
        g.fillRect(left - 1, top + 3, channels * (bar + 1) + 1, 5);
      }
    }
  }
}

/** A level below which nothing is drawn. */
const UNSEEN = 1e-6;
/** Tells all that meters are painted from. @param note takes each value */
export function seenOfMeters(
  readings: Float32Array | null,
  places: readonly MeterPlace[],
  note: (value: unknown) => void,
): void {
  note(places);
  note(readings);
  if (!readings) return;
  const meter = (slot: number, channels: Channels) => {
    for (let k = 0; k < channels; k++) {
      const base = slot + k * METER_FLOATS;
      note(readings[base]! > UNSEEN ? readings[base] : 0);
      note(readings[base + 1]! > UNSEEN * UNSEEN ? readings[base + 1] : 0);
      note(readings[base + 2]! > 1);
    }
  };
  for (const { slot, channels, wave, total } of places) {
    if (total) for (const one of total) meter(one.slot, one.channels);
    else if (wave) note(wave.head);
    else meter(slot, channels);
  }
}

/** The waveform of late, running upwards: its newest moment at the foot. */
function paintWave(
  g: CanvasRenderingContext2D,
  { wave, x, width }: MeterPlace,
  top: number,
  range: number,
  c: MeterColours,
): void {
  const room = Math.max(6, width * 0.42);
  const middle = x + width * 0.7;
  g.fillStyle = c.well;
  g.fillRect(middle - room / 2, top + LEVEL_TOP, room, range);
  const { peaks, head } = wave!;
  const foot = top + LEVEL_TOP + range;
  for (let i = 0; i < range && i < peaks.length; i++) {
    const peak = peaks[(head - i + peaks.length) % peaks.length]!;
    if (peak <= 0.001) continue;
    // By its height as a level, so that soft passages are seen too.
    const half = (travelOf(decibelsOf(peak)) * room) / 2;
    g.fillStyle = peak > 1 ? c.clip : peak > 0.5 ? c.hot : c.signal;
    g.fillRect(middle - half, foot - 1 - i, half * 2, 1);
  }
}

/** One meter for a folded band: the highest of its peaks, and the sum of its powers as a mark and as a number. */
function paintTotal(
  g: CanvasRenderingContext2D,
  readings: Float32Array | null,
  { total, x, width }: MeterPlace,
  top: number,
  range: number,
  bottom: number,
  y: (gain: number) => number,
  c: MeterColours,
): void {
  const bar = 10;
  const left = x + Math.round((width - bar) / 2);
  g.fillStyle = c.well;
  g.fillRect(left, top + LEVEL_TOP, bar, range);
  let peak = 0;
  let square = 0;
  let clipped = false;
  if (readings)
    for (const { slot, channels } of total!)
      for (let k = 0; k < channels; k++) {
        const base = slot + k * METER_FLOATS;
        peak = Math.max(peak, readings[base]!);
        square += readings[base + 1]! / channels;
        clipped ||= readings[base + 2]! > 1;
      }
  if (peak > 0) {
    g.fillStyle = c.signal;
    g.fillRect(left, y(peak), bar, bottom - y(peak));
  }
  if (square > 1e-12) {
    g.fillStyle = c.mark;
    g.fillRect(left, y(Math.sqrt(square)), bar, 1);
  }
  if (clipped) {
    g.fillStyle = c.clip;
    g.fillRect(left, top + 3, bar, 5);
  }
  g.fillStyle = c.mark;
  g.font = "12px 'Atkinson Hyperlegible Mono', monospace";
  g.textAlign = 'center';
  g.fillText(
    square > 1e-12 ? (10 * Math.log10(square)).toFixed(1).replace('-', '−') : '−∞',
    x + width / 2,
    bottom + 17,
  );
}
