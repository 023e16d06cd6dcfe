import { PROBE_BYTES, PROBE_FRAMES, probeViews, sharedBytes } from './shared';
import type { WorkletMessage } from './worklet';

export interface Probed {
  readonly strip: string;
  readonly insert: string;
}

/** Looks at what goes into one insert and what comes out of it. */
export class Probe {
  readonly memory = sharedBytes(PROBE_BYTES);
  private readonly views = probeViews(this.memory);
  /** What is asked for, by who asks; the last of them is looked at. */
  private readonly asked = new Map<object, Probed>();

  /** @param tell tells the audio thread, where there is one */
  constructor(private readonly tell: (message: WorkletMessage) => void) {}

  private get at(): Probed | null {
    return [...this.asked.values()].at(-1) ?? null;
  }

  /** Looks at an insert from now on, or no more, for one who asks: a small and a large editor may both. */
  look(who: object, at: Probed | null): void {
    const before = this.at;
    this.asked.delete(who);
    if (at) this.asked.set(who, at);
    const now = this.at;
    if (before?.strip === now?.strip && before?.insert === now?.insert) return;
    for (const ring of this.views.rings) ring.fill(0);
    this.say();
  }
  /** Tells it to an audio thread that is new. */
  again(): void {
    if (this.at) this.say();
  }
  private say() {
    this.tell({ type: 'probe', strip: this.at?.strip ?? '', insert: this.at?.insert ?? null });
  }

  /** The last frames before the insert or after it, both sides added. @param into as many as are wanted, at most PROBE_FRAMES */
  read(which: 'before' | 'after', into: Float32Array): void {
    const ring = this.views.rings[which === 'before' ? 0 : 1]!;
    const end = Atomics.load(this.views.count, 0);
    for (let i = 0; i < into.length; i++) into[i] = ring[(end - into.length + i) & (PROBE_FRAMES - 1)]!;
  }
}
