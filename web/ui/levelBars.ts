import type { MeterScale } from '@core/metering/scales';
import type { Decibels } from '@core/base/units';

export interface BarColours {
  readonly well: string;
  readonly signal: string;
  readonly hot: string;
  readonly clip: string;
  readonly ink: string;
}
export const barColours = (token: (name: string) => string): BarColours => ({
  well: token('--well'),
  signal: token('--signal'),
  hot: token('--caution'),
  clip: token('--alert'),
  ink: token('--ink-soft'),
});
export interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Draws levels as bars that lie, one under the other, on a meter's scale: another colour where programme is not meant to go. */
export function paintLevelBars(
  g: CanvasRenderingContext2D,
  { x, y, width, height }: Box,
  levels: readonly Decibels[],
  scale: MeterScale,
  c: BarColours,
): void {
  const gap = 1;
  const bar = (height - gap * (levels.length - 1)) / levels.length;
  const hot = scale.place(scale.hot) * width;
  levels.forEach((level, k) => {
    const top = y + k * (bar + gap);
    const to = scale.place(level) * width;
    g.fillStyle = c.well;
    g.fillRect(x, top, width, bar);
    g.fillStyle = c.signal;
    g.fillRect(x, top, Math.min(to, hot), bar);
    if (to <= hot) return;
    g.fillStyle = level! > 0 ? c.clip : c.hot;
    g.fillRect(x + hot, top, to - hot, bar);
  });
}

/** Draws a scale's marks under bars, with their words where there is room for them. */
export function paintMarks(
  g: CanvasRenderingContext2D,
  { x, y, width }: Pick<Box, 'x' | 'y' | 'width'>,
  scale: MeterScale,
  c: BarColours,
): void {
  g.fillStyle = c.ink;
  g.font = "10px 'Atkinson Hyperlegible Mono', monospace";
  let free = Infinity;
  for (const mark of [...scale.marks].reverse()) {
    const at = x + scale.place(mark.at) * width;
    g.fillRect(Math.min(Math.round(at), x + width - 1), y, 1, 3);
    const half = g.measureText(mark.text).width / 2;
    const middle = Math.max(x + half, Math.min(x + width - half, at));
    if (middle + half > free) continue;
    g.textAlign = 'center';
    g.fillText(mark.text, middle, y + 12);
    free = middle - half - 3;
  }
}
