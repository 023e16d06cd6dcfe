/**
 * Has work that is asked for many times done once for all that was asked: at the end of what goes on now, and no more often than
 * at a pace. In a hidden window, whose timers the browser slows down, it is done at once.
 * @param pace milliseconds from one time to the next
 */
export class Paced {
  private asked = false;
  private done = -Infinity;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private readonly turns = new MessageChannel();

  constructor(
    private readonly work: () => void,
    private readonly pace: number,
  ) {
    this.turns.port1.onmessage = () => this.asked && this.run();
  }

  ask(): void {
    if (this.asked) return;
    this.asked = true;
    const rest = this.done + this.pace - performance.now();
    if (rest > 0 && !globalThis.document?.hidden) this.timer = setTimeout(() => this.run(), rest);
    else this.turns.port2.postMessage(null);
  }

  /** Does now what was asked for. */
  run(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    if (!this.asked) return;
    this.asked = false;
    this.done = performance.now();
    this.work();
  }
  close(): void {
    this.asked = false;
    if (this.timer) clearTimeout(this.timer);
    this.turns.port1.close();
  }
}
