import type { Session } from '@core/session/types';
import type { FeederMessage, FeederReport, FeedSource, LateSource } from './feeder';
import FeederWorker from './feeder.worker?worker';
import { ringBytes, RING_SERIAL, type Cue } from './shared';

export interface StemFacts {
  readonly channels: number;
  readonly frames: number;
  readonly begins?: number | null;
}

/** The feeder's thread, and the sources that it feeds, each with a ring of its own. */
export class StemFeed {
  private worker: Worker | null = null;
  private readonly rings = new Map<string, FeedSource>();
  private fed: readonly FeedSource[] = [];
  /** What is known of the stems there are. */
  stems: Readonly<Record<string, StemFacts>> = {};

  /** @param late told which sources were not there in time */
  constructor(private readonly late: (sources: readonly LateSource[]) => void) {}

  private tell(message: FeederMessage) {
    if (!this.worker) {
      this.worker = new FeederWorker();
      this.worker.onmessage = ({ data }: MessageEvent<FeederReport>) => this.late(data.sources);
    }
    this.worker.postMessage(message);
  }
  start(control: SharedArrayBuffer): void {
    this.tell({ type: 'start', control });
  }
  cue(generation: number, cue: Cue): void {
    this.tell({ type: 'cue', generation, cue });
  }
  /** It may be played from a place soon: what is heard first there is fetched before anybody waits for it. @param start frames */
  warm(session: Session, start: number): void {
    const sources = session.strips.filter((s) => s.kind === 'source' && s.stem !== null);
    const stems = [...new Set(sources.map((s) => s.stem!))].flatMap((stem) => {
      const facts = this.stems[stem];
      return facts ? [{ stem, frames: facts.frames }] : [];
    });
    if (stems.length) this.tell({ type: 'warm', stems, start });
  }

  private serial = 0;
  private newRing(channels: 1 | 2): SharedArrayBuffer {
    const ring = new SharedArrayBuffer(ringBytes(channels));
    new Int32Array(ring)[RING_SERIAL] = ++this.serial;
    return ring;
  }

  /** The session's sources with their rings; the same list as before where nothing has changed. */
  sources(session: Session): readonly FeedSource[] {
    const list = session.strips
      .filter((s) => s.kind === 'source')
      .map((s): FeedSource => {
        const facts = s.stem === null ? undefined : this.stems[s.stem];
        const known = this.rings.get(s.id);
        const stem = facts ? s.stem : null;
        if (known && known.channels === s.channels && known.stem === stem) return known;
        const source: FeedSource = {
          strip: s.id,
          channels: s.channels,
          stem,
          stemChannels: facts?.channels ?? 1,
          stemFrames: facts?.frames ?? 0,
          ring: this.newRing(s.channels),
        };
        this.rings.set(s.id, source);
        return source;
      });
    const same = list.length === this.fed.length && list.every((s, i) => s === this.fed[i]);
    return same ? this.fed : list;
  }
  /** Feeds these from now on. */
  feed(sources: readonly FeedSource[]): void {
    if (sources === this.fed) return;
    this.fed = sources;
    this.tell({ type: 'sources', sources });
  }
  isFed(sources: readonly FeedSource[]): boolean {
    return sources === this.fed;
  }

  end(): void {
    this.worker?.terminate();
    this.worker = null;
    this.fed = [];
  }
}
