import { createHash } from 'node:crypto';
import { floatBytes, WavStream } from '../../core/formats/wav';
import { Resampler } from '../../core/formats/resample';
import { SpanMeter, type Spans } from '../../core/metering/spans';
import { Refusal } from '../../core/base/refusal';
import type { Channels } from '../../core/session/types';
import type { Hertz, Samples } from '../../core/base/units';

/** Bytes of a chunk: whole frames of mono and of stereo. */
export const CHUNK_BYTES = 1 << 20;
/** Longest stem, in seconds. */
const LONGEST = 2 * 3600;

/** A part of a stem's audio: `data` is null where it is silent. */
export interface StemChunk {
  readonly index: number;
  readonly data: Uint8Array<ArrayBuffer> | null;
}
/** What is known of a stem when all of it was read. */
export interface StemRead {
  readonly sha256: string;
  readonly channels: Channels;
  readonly frames: Samples;
  /** Highest peak of each hundredth of a second, 0..255. */
  readonly overview: Uint8Array<ArrayBuffer>;
  /** Where it sounds. */
  readonly spans: Spans;
}

/** The hash that names a stem: of its rate and channels, and of its samples, in the order in which `update` gets them. */
export const stemHash = (rate: Hertz, channels: number) =>
  createHash('sha256').update(`zonula-pcm ${rate} ${channels}\n`);

const SILENCE = Buffer.alloc(CHUNK_BYTES);
const isSilent = (bytes: Uint8Array) => Buffer.compare(bytes, SILENCE.subarray(0, bytes.length)) === 0;

/**
 * Judges a stem by its file's header.
 * @throws Refusal `size` where it is longer than a stem may be
 */
export function judgeLength(frames: Samples, rate: Hertz): void {
  if (frames > LONGEST * rate) throw new Refusal('size', 'it is longer than two hours; split it first');
}

/**
 * Reads a WAV file as it arrives, at the session's rate, into chunks.
 * @param rate the session's, to which the audio is converted
 * @throws Refusal `audio` or `size` with the reason, without the file's name
 */
export async function* readStem(
  source: AsyncIterable<Uint8Array>,
  rate: Hertz,
): AsyncGenerator<StemChunk, StemRead> {
  const wav = new WavStream();
  let out: ChunkMaker | null = null;
  let resampler: Resampler | null = null;
  const begin = () => {
    const facts = wav.facts!;
    if (!out) {
      judgeLength(facts.frames, facts.sampleRate);
      out = new ChunkMaker(facts.channels, rate);
      if (facts.sampleRate !== rate) resampler = new Resampler(facts.sampleRate, rate, facts.channels);
    }
    return out;
  };
  for await (const piece of source) {
    const audio = wav.push(piece);
    if (!wav.facts) continue;
    const to = begin();
    if (audio.length) yield* to.write(resampler ? (resampler as Resampler).push(audio) : audio);
  }
  const { channels } = wav.end();
  const to = begin();
  if (resampler) yield* to.write((resampler as Resampler).flush());
  const last = to.end();
  if (last.chunk) yield last.chunk;
  if (to.frames === 0) throw new Refusal('audio', 'it holds no audio');
  return { sha256: last.sha256, channels, frames: to.frames, overview: last.overview, spans: last.spans };
}

/** Collects floats into chunks of whole size, the hash and the overview, as audio arrives. */
class ChunkMaker {
  private readonly chunk = new Float32Array(CHUNK_BYTES / 4);
  private filled = 0;
  private index = 0;
  private readonly hash;
  private readonly peaks: number[] = [];
  private peak = 0;
  private inPeak = 0;
  private readonly peakFrames: number;
  private readonly spans: SpanMeter;
  frames = 0;

  constructor(
    private readonly channels: Channels,
    rate: Hertz,
  ) {
    this.hash = stemHash(rate, channels);
    this.spans = new SpanMeter(channels, rate);
    this.peakFrames = Math.max(1, Math.round(rate / 100));
  }

  *write(audio: Float32Array): Generator<StemChunk> {
    this.frames += audio.length / this.channels;
    this.spans.push(audio);
    for (let i = 0; i < audio.length; i++) {
      const v = Math.abs(audio[i]!);
      if (v > this.peak) this.peak = v;
      if (++this.inPeak === this.peakFrames * this.channels) this.endPeak();
    }
    for (let at = 0; at < audio.length;) {
      const part = audio.subarray(at, at + this.chunk.length - this.filled);
      this.chunk.set(part, this.filled);
      this.filled += part.length;
      at += part.length;
      if (this.filled === this.chunk.length) yield this.take();
    }
  }

  private endPeak() {
    this.peaks.push(Math.min(255, Math.round(this.peak * 255)));
    this.peak = this.inPeak = 0;
  }

  private take(): StemChunk {
    const data = floatBytes(this.chunk.slice(0, this.filled)) as Uint8Array<ArrayBuffer>;
    this.hash.update(data);
    this.filled = 0;
    return { index: this.index++, data: isSilent(data) ? null : data };
  }

  end(): {
    readonly chunk: StemChunk | null;
    readonly sha256: string;
    readonly overview: Uint8Array<ArrayBuffer>;
    readonly spans: Spans;
  } {
    const chunk = this.filled > 0 ? this.take() : null;
    if (this.inPeak > 0) this.endPeak();
    return {
      chunk,
      sha256: this.hash.digest('hex'),
      overview: Uint8Array.from(this.peaks),
      spans: this.spans.end(),
    };
  }
}
