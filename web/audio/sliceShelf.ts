import { SLICE_FRAMES, StemsGone, type FetchSlices, type KeptSlice, type Slice } from './slices';

/** Questions under way at once, and slices in one: the browser keeps room for edits. */
const AT_ONCE = 2;
const IN_ONE = 256;
/** Slices of a size whose room is held ready. */
const MOST_SPARE = 256;
/** Questions whose times are remembered. */
const REMEMBERED = 6;
/** Milliseconds after which a server that did not answer is asked again: the first time, and at the most. */
const AGAIN = 100;
const AGAIN_MOST = 2000;
/** Milliseconds for which a stem that is not on the server is not asked for again. */
const GONE_FOR = 5000;

/** Why a stem is not there: the server takes its time, does not answer, or has it no more. */
export type WhyLate = 'slow' | 'away' | 'gone';

/** A slice that is wanted, and how many frames ahead of what is there it begins. */
interface Wanted {
  readonly key: string;
  readonly slice: Slice;
  readonly ahead: number;
}
interface Question {
  readonly begun: number;
  readonly slices: number;
}
const keyOf = (stem: string, number: number) => `${stem} ${number}`;

/** Slices of stems near the playhead: those that are there, those on their way, and those that are wanted, the nearest first. */
export class SliceShelf {
  private readonly slices = new Map<string, KeptSlice | 'coming'>();
  /** Room of slices that are no longer needed, by its size: what comes next is put there, and nothing is given back and asked for anew. */
  private readonly spare = new Map<number, Uint8Array[]>();
  private readonly wanted = new Map<string, Wanted>();
  private readonly gone = new Map<string, number>();
  private underWay = new Set<Question>();
  private stopper = new AbortController();
  /** Questions that found no answer, one after the other, and when the next may be asked. */
  private failures = 0;
  private notBefore = -Infinity;
  /** The last questions that were answered, and milliseconds that each took. */
  private answered: readonly { readonly took: number; readonly slices: number }[] = [];

  /**
   * @param came called when a slice has come
   * @param now milliseconds that go by
   */
  constructor(
    private readonly fetch: FetchSlices,
    private readonly came: () => void,
    private readonly now: () => number,
  ) {}

  /** A slice; null where it is not there. Its bytes are another's when it is no longer kept. */
  get(stem: string, number: number): KeptSlice | null {
    const audio = this.slices.get(keyOf(stem, number));
    return audio && audio !== 'coming' ? audio : null;
  }
  /** Whether the server said of late that it has no such stem. */
  isGone(stem: string): boolean {
    return this.now() - (this.gone.get(stem) ?? -Infinity) < GONE_FOR;
  }
  why(stem: string): WhyLate {
    return this.isGone(stem) ? 'gone' : this.failures > 0 ? 'away' : 'slow';
  }

  /** Milliseconds in which a slice of each of so many stems comes, by how long questions took of late and take now. */
  expected(stems: number): number {
    const coming = [...this.underWay].map((q) => ({ took: this.now() - q.begun, slices: q.slices }));
    const all = [...this.answered, ...coming].map(({ took, slices }) => took * Math.min(1, stems / slices));
    return Math.max(0, ...all);
  }
  /** Milliseconds that the question takes which was asked longest ago. */
  get waits(): number {
    return Math.max(0, ...[...this.underWay].map((q) => this.now() - q.begun));
  }

  want(stem: string, number: number, ahead: number): void {
    const key = keyOf(stem, number);
    if (this.slices.has(key) || this.wanted.has(key) || this.isGone(stem)) return;
    const slice = { stem, start: number * SLICE_FRAMES, frames: SLICE_FRAMES };
    this.wanted.set(key, { key, slice, ahead });
  }
  /** Forgets all but these, by `stem number`. */
  keep(needed: ReadonlySet<string>): void {
    for (const [key, slice] of this.slices) {
      if (needed.has(key) || slice === 'coming') continue;
      this.slices.delete(key);
      this.letGo(slice);
    }
    for (const key of this.wanted.keys()) if (!needed.has(key)) this.wanted.delete(key);
  }
  /** A slice's own copy of its bytes. */
  private copy(slice: KeptSlice): KeptSlice {
    const { length } = slice.bytes;
    const bytes = this.spare.get(length)?.pop() ?? new Uint8Array(length);
    bytes.set(slice.bytes);
    return { ...slice, bytes };
  }
  private letGo({ bytes }: KeptSlice) {
    const spare = this.spare.get(bytes.length);
    if (!spare) this.spare.set(bytes.length, [bytes]);
    else if (spare.length < MOST_SPARE) spare.push(bytes);
  }

  /** Gives up what is on its way, and what was wanted: it goes on elsewhere. */
  elsewhere(): void {
    this.stopper.abort();
    this.stopper = new AbortController();
    this.underWay = new Set();
    this.wanted.clear();
    // What was slow once need not be so again.
    this.answered = this.answered.map((q) => ({ ...q, took: q.took / 2 }));
    this.notBefore = -Infinity;
    for (const [key, slice] of this.slices) if (slice === 'coming') this.slices.delete(key);
  }

  /** Asks for what is wanted most. */
  ask(): void {
    while (this.wanted.size && this.underWay.size < AT_ONCE && this.now() >= this.notBefore) {
      const first = [...this.wanted.values()].sort((a, b) => a.ahead - b.ahead).slice(0, IN_ONE);
      for (const { key } of first) {
        this.wanted.delete(key);
        this.slices.set(key, 'coming');
      }
      void this.question(first, this.stopper.signal);
    }
  }
  private async question(asked: readonly Wanted[], signal: AbortSignal) {
    const question = { begun: this.now(), slices: asked.length };
    this.underWay.add(question);
    const take = (number: number, kept: KeptSlice) => {
      const { key, slice } = asked[number]!;
      if (signal.aborted || this.slices.get(key) !== 'coming') return;
      this.gone.delete(slice.stem);
      this.slices.set(key, this.copy(kept));
      this.came();
    };
    let failed: unknown = null;
    try {
      await this.fetch(
        asked.map((w) => w.slice),
        take,
        signal,
      );
    } catch (error) {
      failed = error;
    }
    if (signal.aborted) return;
    this.underWay.delete(question);
    if (failed instanceof StemsGone) {
      for (const stem of failed.stems) this.gone.set(stem, this.now());
      this.came();
    }
    if (failed && !(failed instanceof StemsGone)) {
      this.notBefore = this.now() + Math.min(AGAIN_MOST, AGAIN * 2 ** this.failures);
      this.failures++;
    } else {
      this.failures = 0;
      const took = this.now() - question.begun;
      this.answered = [...this.answered, { took, slices: asked.length }].slice(-REMEMBERED);
    }
    // What did not come is asked for again at the next turn, and not before: the server may refuse at once.
    for (const { key } of asked) if (this.slices.get(key) === 'coming') this.slices.delete(key);
    this.ask();
  }
}
