/**
 * Has work that is asked for many times done once for all that was asked: when what goes on now is done, before anything is drawn.
 * A few times in a row it is done at once, so that what comes in a burst does not wait; over time no more often than at a pace.
 * In a hidden window, whose timers the browser slows down, it is always done at once.
 */
export class Paced {
  private asked = false;
  /** How often it may be done now. */
  private left: number;
  private counted = performance.now();
  private timer: ReturnType<typeof setTimeout> | null = null;

  /**
   * @param pace milliseconds from one time to the next
   * @param burst times in a row
   */
  constructor(
    private readonly work: () => void,
    private readonly pace: number,
    private readonly burst = 8,
  ) {
    this.left = burst;
  }

  ask(): void {
    if (this.asked) return;
    this.asked = true;
    this.count();
    if (this.left >= 1 || globalThis.document?.hidden) queueMicrotask(() => this.run());
    else this.timer = setTimeout(() => this.run(), (1 - this.left) * this.pace);
  }

  private count() {
    const now = performance.now();
    this.left = Math.min(this.burst, this.left + (now - this.counted) / this.pace);
    this.counted = now;
  }

  /** Does now what was asked for. */
  run(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    if (!this.asked) return;
    this.asked = false;
    this.count();
    this.left = Math.max(0, this.left - 1);
    this.work();
  }
  close(): void {
    this.asked = false;
    if (this.timer) clearTimeout(this.timer);
  }
}
