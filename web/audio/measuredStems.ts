import { StemMeter, shiftBetween, type PairMeasure } from '@core/metering/stemMeasure';
import { pairsToMeasure } from '@core/findings/stems';
import type { Stems } from '@core/findings/finding';
import type { Session, Strip } from '@core/session/types';
import type { StemReader } from '@engine/print';

/** Frames of a pair that are held against each other, from where one of them is first heard; and pairs at most. */
const PAIR_FRAMES = 2 ** 18;
const MOST_PAIRS = 24;
const HEARD = 1e-3;

interface Pair {
  readonly left: string;
  readonly right: string;
  readonly audio: readonly [Float32Array, Float32Array];
  /** Frame from which they are kept; not known before something is heard. */
  from: number | null;
}

/** Passes stems on as they are read, from their first frame to their last, and measures them. */
export class MeasuredStems implements StemReader {
  private readonly meters = new Map<string, StemMeter>();
  private readonly pairs: readonly Pair[];
  private readonly waiting = new Map<string, { readonly start: number; readonly audio: Float32Array }>();

  constructor(
    private readonly inner: StemReader,
    private readonly session: Session,
    private readonly frames: (strip: Strip) => number,
    private readonly begins: (strip: Strip) => number | null = () => null,
  ) {
    this.pairs = pairsToMeasure(session.strips)
      .slice(0, MOST_PAIRS)
      .map(([l, r]) => ({
        left: l.id,
        right: r.id,
        audio: [new Float32Array(PAIR_FRAMES), new Float32Array(PAIR_FRAMES)] as const,
        from: null,
      }));
  }

  async read(strip: Strip, start: number, into: Float32Array): Promise<void> {
    await this.inner.read(strip, start, into);
    if (strip.stem === null) return;
    let meter = this.meters.get(strip.id);
    if (!meter) this.meters.set(strip.id, (meter = new StemMeter(strip.channels)));
    meter.add(into);
    for (const pair of this.pairs)
      if (pair.left === strip.id || pair.right === strip.id) this.keep(pair, strip.id, start, into);
  }

  /** Keeps what both have at one time: pieces of the two come in any order, and of one length. */
  private keep(pair: Pair, strip: string, start: number, audio: Float32Array) {
    const other = this.waiting.get(strip === pair.left ? pair.right : pair.left);
    if (other?.start !== start) {
      this.waiting.set(strip, { start, audio: audio.slice() });
      return;
    }
    const [left, right] = strip === pair.left ? [audio, other.audio] : [other.audio, audio];
    if (pair.from === null) {
      const first = left.findIndex((v, i) => Math.abs(v) > HEARD || Math.abs(right[i]!) > HEARD);
      if (first < 0) return;
      pair.from = start + first;
    }
    const { from } = pair;
    const put = (to: Float32Array, x: Float32Array) => {
      const skip = Math.max(0, from - start);
      const at = start + skip - from;
      if (at < to.length) to.set(x.subarray(skip, Math.min(x.length, skip + to.length - at)), at);
    };
    put(pair.audio[0], left);
    put(pair.audio[1], right);
  }

  /** What was measured, once everything was read. */
  get stems(): Stems {
    const strips = new Map(
      this.session.strips.flatMap((s) => {
        const meter = this.meters.get(s.id);
        return meter ? [[s.id, { ...meter.measure(this.frames(s)), begins: this.begins(s) }] as const] : [];
      }),
    );
    const pairs: PairMeasure[] = this.pairs
      .filter((p) => p.from !== null)
      .map(({ left, right, audio }) => ({
        left,
        right,
        ...shiftBetween(audio[0], audio[1], this.session.sampleRate),
      }));
    return { strips, pairs };
  }
}
