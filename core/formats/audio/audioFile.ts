import { readAiffHeader } from './aiff';
import { ascii, cut, frameBytes, no, type AudioFacts, type FlacFacts } from './facts';
import { FlacFrames, readFlacHeader } from './flac';
import { keptBytes } from './samples';
import { readWavHeader, WAVE_FORMS } from './wav';
import type { Samples } from '../../base/units';

/** What reads the header of a kind of file, by the first four bytes of it. */
const READERS: readonly (readonly [
  forms: readonly string[],
  read: (head: Uint8Array) => AudioFacts | null,
])[] = [
  [WAVE_FORMS, readWavHeader],
  [['FORM'], readAiffHeader],
  [['fLaC'], readFlacHeader],
];

/**
 * Reads what stands before the audio of a file, whatever kind of audio file it is.
 * @param head the file from its first byte
 * @returns facts, or null where `head` does not reach the audio yet
 * @throws Refusal `audio` saying what is wrong with the file
 */
export function readAudioHeader(head: Uint8Array): AudioFacts | null {
  if (head.length < 12) return null;
  const form = ascii(new DataView(head.buffer, head.byteOffset, head.byteLength), 0);
  const reader = READERS.find(([forms]) => forms.includes(form));
  if (!reader)
    throw no(
      'it is not a WAV file, nor an AIFF or FLAC one: it does not begin as one, whatever its name says',
    );
  return reader[1](head);
}

/**
 * Judges a whole file by its header.
 * @param size of the file, in bytes
 * @throws Refusal `cut` where it holds less than it says, as far as that is told without reading it
 */
export function judgeSize(facts: AudioFacts, size: number): void {
  if (facts.flac || facts.frames === null) return;
  const each = frameBytes(facts);
  const there = Math.floor(Math.max(0, size - facts.dataOffset) / each);
  if (there < facts.frames) throw cutAt(facts.frames, there);
}
const cutAt = (says: Samples, holds: Samples) =>
  cut(`it is cut off: it says ${says} frames and holds ${holds}`);

const NOTHING = new Uint8Array(0);

/** Gives the audio of a kind of file, as it is kept, whole frames, interleaved, a part at a time. */
interface Body {
  push(piece: Uint8Array): Iterable<Uint8Array> | AsyncIterable<Uint8Array>;
  /** @throws Refusal */
  end(asFarAsItGoes: boolean): Iterable<Uint8Array> | AsyncIterable<Uint8Array>;
  /** Frames given so far. */
  readonly frames: Samples;
}

/** Reads an audio file that arrives in pieces of any size. */
export class AudioStream {
  private held: Uint8Array = NOTHING;
  private bytes = 0;
  private body: Body | null = null;
  facts: AudioFacts | null;

  /**
   * @param asFarAsItGoes whether a file that is cut off is taken as far as it goes
   * @param facts what tells of its audio, where it was read behind it
   */
  constructor(
    private readonly asFarAsItGoes = false,
    facts: AudioFacts | null = null,
  ) {
    this.facts = facts;
  }

  /**
   * @returns whole frames, interleaved, as they are kept, as far as they have arrived, a part at a time: what was packed may be
   *   thousands of times as long as the piece
   * @throws Refusal `audio` saying what is wrong with the file
   * @throws FactsBehind where what tells of its audio comes behind it: it is read anew, with that
   */
  async *push(piece: Uint8Array): AsyncGenerator<Uint8Array> {
    this.bytes += piece.length;
    if (this.body) return yield* this.body.push(piece);
    const head = joined(this.held, piece);
    this.facts ??= readAudioHeader(head);
    // What stands before the audio may reach beyond what has come.
    if (!this.facts || this.facts.dataOffset > head.length) {
      this.held = head.slice();
      return;
    }
    this.held = NOTHING;
    const { flac } = this.facts;
    this.body = flac
      ? await FlacFrames.of(this.facts as AudioFacts & { readonly flac: FlacFacts })
      : new SamplesBody(this.facts);
    yield* this.body.push(head.subarray(this.facts.dataOffset));
  }

  /**
   * The file has ended.
   * @returns what was left of its audio, a part at a time
   * @throws Refusal `cut` when the file ended before its audio did, `audio` where it is none or damaged
   */
  async *end(): AsyncGenerator<Uint8Array> {
    if (this.bytes === 0) throw no('it is empty');
    if (!this.body) {
      if (this.bytes < 12) throw no('it is not a WAV file: it is too short to be one');
      throw no('it is cut off before its audio begins');
    }
    yield* this.body.end(this.asFarAsItGoes);
  }

  /** Frames that came out. */
  get frames(): Samples {
    return this.body?.frames ?? 0;
  }
}

/** Samples that stand in the file as they are. */
class SamplesBody implements Body {
  private held: Uint8Array = NOTHING;
  private left: number;
  private readonly all: number;
  constructor(private readonly facts: AudioFacts) {
    this.all = this.left = facts.frames! * frameBytes(facts);
  }
  *push(piece: Uint8Array): Generator<Uint8Array> {
    if (this.left === 0) return;
    const rest = joined(this.held, piece);
    const frame = frameBytes(this.facts);
    const usable = Math.min(this.left, Math.floor(rest.length / frame) * frame);
    this.left -= usable;
    this.held = this.left === 0 ? NOTHING : rest.slice(usable);
    if (usable > 0) yield keptBytes(rest.subarray(0, usable), this.facts.format);
  }
  end(asFarAsItGoes: boolean): readonly Uint8Array[] {
    if (this.left > 0 && !asFarAsItGoes) throw cutAt(this.facts.frames!, this.frames);
    return [];
  }
  get frames(): Samples {
    return (this.all - this.left) / frameBytes(this.facts);
  }
}

function joined(first: Uint8Array, second: Uint8Array): Uint8Array {
  if (first.length === 0) return second;
  const both = new Uint8Array(first.length + second.length);
  both.set(first);
  both.set(second, first.length);
  return both;
}
