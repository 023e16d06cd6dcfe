import { PROBE_BYTES, PROBE_FRAMES, probeViews, sharedBytes } from './shared';
import type { WorkletMessage } from './worklet';

/** Looks at what goes into one insert and what comes out of it. */
export class Probe {
  readonly memory = sharedBytes(PROBE_BYTES);
  private readonly views = probeViews(this.memory);
  private at: { readonly strip: string; readonly insert: string } | null = null;

  /** @param tell tells the audio thread, where there is one */
  constructor(private readonly tell: (message: WorkletMessage) => void) {}

  /** Looks at an insert from now on, or at none. */
  look(at: { readonly strip: string; readonly insert: string } | null): void {
    this.at = at;
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
