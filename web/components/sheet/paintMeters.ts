import { decibelsOf } from '../../../core/levels/decibels';
import { travelOf } from '../../../core/levels/faderLaw';
import { METER_FLOATS } from '../../../core/plan/layout';
import type { Channels, StripKind } from '../../../core/session/types';
import { LEVEL_FOOT, LEVEL_TOP } from './rows';

export interface MeterPlace {
  readonly slot: number;
  readonly channels: Channels;
  readonly kind: StripKind;
  readonly x: number;
  readonly width: number;
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
  for (const { slot, channels, x, width } of places) {
    const bar = width < 40 ? 3 : width > 80 ? 8 : 5;
    const left = x + Math.round(width * 0.66) - (channels === 2 ? bar + 1 : Math.floor(bar / 2));
    for (let k = 0; k < channels; k++) {
      const at = left + k * (bar + 1);
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
