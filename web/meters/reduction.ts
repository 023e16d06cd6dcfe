import type { BarColours, Box } from '@/ui/levelBars';

/** Milliseconds that a point of the past stands for, and how many of them are kept: six seconds. */
const STEP_MS = 50;
const POINTS = 120;
/** Decibels at the foot. */
const FULL_DB = 18;

/** What was taken away of late: the most within each twentieth of a second. */
export class History {
  private readonly points = new Float32Array(POINTS);
  private begun = -Infinity;
  /** How many points there have been. */
  head = 0;

  push(reduction: number, at: number): void {
    if (at - this.begun < STEP_MS) {
      const i = this.head % POINTS;
      this.points[i] = Math.max(this.points[i]!, reduction);
      return;
    }
    this.begun = at;
    this.head++;
    this.points[this.head % POINTS] = reduction;
  }
  /** @param back points before the newest */
  at(back: number): number {
    return this.points[(this.head - back + POINTS * 2) % POINTS]!;
  }
  static readonly length = POINTS;
  /** The most that was taken away in that time. */
  get most(): number {
    return this.points.reduce((a, b) => Math.max(a, b), 0);
  }
}

/** Draws what a processor takes away: of late as an area that hangs, and now as a bar at its right. */
export function paintReduction(
  g: CanvasRenderingContext2D,
  { x, y, width, height }: Box,
  history: History,
  now: number,
  c: BarColours,
): void {
  const bar = 8;
  const past = width - bar - 2;
  g.fillStyle = c.well;
  g.fillRect(x, y, past, height);
  g.fillRect(x + past + 2, y, bar, height);
  const long = (db: number) => (Math.min(FULL_DB, Math.max(0, db)) / FULL_DB) * height;
  g.fillStyle = c.hot;
  g.globalAlpha = 0.55;
  g.beginPath();
  g.moveTo(x + past, y);
  for (let i = 0; i < History.length; i++)
    g.lineTo(x + past * (1 - i / (History.length - 1)), y + long(history.at(i)));
  g.lineTo(x, y);
  g.fill();
  g.globalAlpha = 1;
  g.fillRect(x + past + 2, y, bar, long(now));
  g.fillStyle = c.ink;
  for (const db of [6, 12]) g.fillRect(x, y + long(db), past, 0.5);
}
