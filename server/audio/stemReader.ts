import { createHash } from 'node:crypto';
import { AudioStream } from '../../core/formats/audio/audioFile';
import { groupChannels, groupsOf, takeChannels, type ChannelGroup } from '../../core/formats/audio/channels';
import { oneStem, type AudioFacts } from '../../core/formats/audio/facts';
import { depthBytes, depthOf, floatsOf, peaksOf, type Depth } from '../../core/formats/audio/samples';
import { stemHead } from '../../core/formats/audio/stemName';
import { floatBytes } from '../../core/formats/audio/wav';
import { Resampler } from '../../core/formats/resample';
import { SOUNDS, SpanMeter, type Spans } from '../../core/metering/spans';
import { Refusal } from '../../core/base/refusal';
import type { Channels } from '../../core/session/types';
import type { Hertz, Samples, Seconds } from '../../core/base/units';

/** Bytes of a part: whole frames of every depth and number of channels, and a row that fits a page of the database. */
export const PART_BYTES = 8064;
/** Parts that are read and handed on at once: a megabyte. */
const PARTS_AT_ONCE = 130;
/** Longest stem, in seconds. */
const LONGEST = 2 * 3600;

/** Parts of a stem, one after the other: all but the stem's last are whole. */
export interface StemParts {
  /** Which of the file's stems, counted from 0. */
  readonly stem: number;
  /** Number of the first. */
  readonly first: number;
  readonly data: Uint8Array<ArrayBuffer>;
}
/** What is known of a stem when all of it was read. */
export interface StemRead {
  /** What tells it from others of its file. */
  readonly place: string | null;
  readonly sha256: string;
  readonly channels: Channels;
  readonly depth: Depth;
  readonly frames: Samples;
  /** When it begins, since midnight, where its file tells. */
  readonly begins: Seconds | null;
  /** Highest peak of each hundredth of a second, 0..255. */
  readonly overview: Uint8Array<ArrayBuffer>;
  /** Where it sounds. */
  readonly spans: Spans;
}

/**
 * Judges a stem by its file's header.
 * @throws Refusal `size` where it is longer than a stem may be
 */
export function judgeLength(frames: Samples | null, rate: Hertz): void {
  if (frames !== null && frames > LONGEST * rate)
    throw new Refusal('size', 'it is longer than two hours; split it first');
}

/** How a file is taken. */
export interface Taking {
  /** The session's rate. */
  readonly rate: Hertz;
  /** Whether one of more than two channels becomes several stems; otherwise it is refused. */
  readonly split: boolean;
  /** Whether one that is cut off is taken as far as it goes. */
  readonly asFarAsItGoes: boolean;
}

/**
 * Reads an audio file as it arrives, at the depth it has; where its rate is not the session's, it is converted, as floats.
 * @param begin told how many stems it becomes, before the first part of them
 * @param facts what tells of its audio, where it was read behind it
 * @returns what each of them is, in the order of the file's channels
 * @throws Refusal `audio`, `cut` or `size` with the reason, without the file's name
 * @throws FactsBehind before anything else where what tells of its audio comes behind it
 */
export async function* readStems(
  source: AsyncIterable<Uint8Array>,
  { rate, split, asFarAsItGoes }: Taking,
  begin: (stems: number) => void | Promise<void> = () => {},
  facts: AudioFacts | null = null,
): AsyncGenerator<StemParts, readonly StemRead[]> {
  const file = new AudioStream(asFarAsItGoes, facts);
  let into: Splitter | null = null;
  const started = async (): Promise<Splitter> => {
    if (into) return into;
    const told = file.facts!;
    if (!split) oneStem(told.channels);
    judgeLength(told.frames, told.sampleRate);
    into = new Splitter(told, rate);
    await begin(into.groups.length);
    return into;
  };
  async function* take(parts: AsyncIterable<Uint8Array>): AsyncGenerator<StemParts> {
    for await (const kept of parts) {
      yield* (await started()).write(kept);
      // Of a file that does not tell how long it is, that is only known now.
      judgeLength(file.frames, file.facts!.sampleRate);
    }
  }
  for await (const piece of source) {
    yield* take(file.push(piece));
    // What its facts refuse is refused before its audio comes.
    if (file.facts) await started();
  }
  yield* take(file.end());
  return yield* (await started()).end();
}

/** Takes a file's channels apart, each group to its own rate and parts. */
class Splitter {
  readonly groups: readonly ChannelGroup[];
  private readonly depth: Depth;
  private readonly parts: readonly { readonly resampler: Resampler | null; readonly maker: PartMaker }[];
  constructor(
    private readonly facts: NonNullable<AudioStream['facts']>,
    rate: Hertz,
  ) {
    this.depth = depthOf(facts.format);
    this.groups = groupsOf(facts);
    this.parts = this.groups.map((group, stem) => {
      const channels = groupChannels(group);
      const resampler = facts.sampleRate === rate ? null : new Resampler(facts.sampleRate, rate, channels);
      return { resampler, maker: new PartMaker(stem, channels, rate, resampler ? 'f32' : this.depth) };
    });
  }

  *write(kept: Uint8Array): Generator<StemParts> {
    if (kept.length === 0) return;
    for (const [k, { resampler, maker }] of this.parts.entries()) {
      const own = takeChannels(kept, this.depth, this.facts.channels, this.groups[k]!);
      yield* maker.write(resampler ? floatBytes(resampler.push(floatsOf(own, this.depth))) : own);
    }
  }

  *end(): Generator<StemParts, readonly StemRead[]> {
    const { begins, sampleRate } = this.facts;
    const read: StemRead[] = [];
    for (const [k, { resampler, maker }] of this.parts.entries()) {
      if (resampler) yield* maker.write(floatBytes(resampler.flush()));
      yield* maker.rest();
      if (maker.frames === 0) throw new Refusal('audio', 'it holds no audio');
      const { place } = this.groups[k]!;
      read.push({ ...maker.read(), place, begins: begins === null ? null : begins / sampleRate });
    }
    return read;
  }
}

/** Collects samples into parts, the hash, the overview and the spans, as they arrive. */
class PartMaker {
  private readonly data = new Uint8Array(PART_BYTES * PARTS_AT_ONCE);
  private filled = 0;
  private first = 0;
  private bytes = 0;
  private readonly hash;
  private readonly peaks: number[] = [];
  private peak = 0;
  /** Samples of the hundredth of a second that is looked at. */
  private inPeak = 0;
  private readonly peakSamples: number;
  private readonly spans: SpanMeter;

  constructor(
    private readonly stem: number,
    private readonly channels: Channels,
    rate: Hertz,
    private readonly depth: Depth,
  ) {
    this.hash = createHash('sha256').update(stemHead(rate, channels, depth));
    this.spans = new SpanMeter(channels, rate);
    this.peakSamples = Math.max(1, Math.round(rate / 100)) * channels;
  }

  get frames(): Samples {
    return this.bytes / depthBytes(this.depth) / this.channels;
  }

  *write(kept: Uint8Array): Generator<StemParts> {
    this.bytes += kept.length;
    for (let at = 0; at < kept.length;) {
      const some = kept.subarray(at, at + this.data.length - this.filled);
      this.data.set(some, this.filled);
      this.filled += some.length;
      at += some.length;
      if (this.filled === this.data.length) yield* this.rest();
    }
  }

  /** What has been collected, and is not a whole load yet. */
  *rest(): Generator<StemParts> {
    if (this.filled === 0) return;
    const whole = this.data.subarray(0, this.filled);
    this.hash.update(whole);
    this.look(whole);
    const first = this.first;
    this.first += PARTS_AT_ONCE;
    this.filled = 0;
    yield { stem: this.stem, first, data: whole.slice() };
  }

  private look(kept: Uint8Array) {
    const samples = kept.length / depthBytes(this.depth);
    const peak = peaksOf(kept, this.depth);
    for (let at = 0; at < samples;) {
      const to = Math.min(samples, at + this.peakSamples - this.inPeak);
      this.peak = Math.max(this.peak, peak(at, to));
      this.inPeak += to - at;
      at = to;
      if (this.inPeak === this.peakSamples) this.endPeak();
    }
  }
  private endPeak() {
    this.peaks.push(Math.min(255, Math.round(this.peak * 255)));
    this.spans.part(this.peak >= SOUNDS);
    this.peak = this.inPeak = 0;
  }

  read(): Omit<StemRead, 'begins' | 'place'> {
    if (this.inPeak > 0) this.endPeak();
    return {
      sha256: this.hash.digest('hex'),
      channels: this.channels,
      depth: this.depth,
      frames: this.frames,
      overview: Uint8Array.from(this.peaks),
      spans: this.spans.end(),
    };
  }
}
