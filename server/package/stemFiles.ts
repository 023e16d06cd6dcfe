import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { readFactsBehind } from '../../core/formats/audio/aiff';
import { judgeSize, readAudioHeader } from '../../core/formats/audio/audioFile';
import {
  FactsBehind,
  frameBytes,
  MOST_HEADER_BYTES,
  oneStem,
  type AudioFacts,
} from '../../core/formats/audio/facts';
import { depthOf, floatsOf, keptBytes, silenceNonFinite } from '../../core/formats/audio/samples';
import { Resampler } from '../../core/formats/resample';
import { Refusal } from '../../core/base/refusal';
import type { Strip } from '../../core/session/types';
import type { Hertz, Samples } from '../../core/base/units';
import { fitFrames, type StemReader } from '../../engine/print';
import { stemsOf, type SessionPackage } from './readPackage';

/** Facts of a stem whose samples stand in its file as they are. */
type StemFileFacts = AudioFacts & { readonly frames: Samples };
interface OpenStem {
  /** Its file descriptor. */
  readonly file: number;
  readonly facts: StemFileFacts;
  /** Set where the file's rate is not the session's: its whole audio, converted. */
  readonly converted: Float32Array | null;
}

const HEAD = 1 << 12;

/** What a file's first bytes tell, or where they do not, those behind its audio. */
function headOf(file: number, head: Uint8Array): AudioFacts | null {
  try {
    return readAudioHeader(head);
  } catch (error) {
    if (!(error instanceof FactsBehind)) throw error;
    const tail = Buffer.alloc(MOST_HEADER_BYTES);
    return readFactsBehind(error, tail.subarray(0, readSync(file, tail, 0, tail.length, error.next)));
  }
}

/** The facts of an audio file. @throws Refusal `audio` naming the file and what is wrong with it */
function factsOf(file: number, name: string): StemFileFacts {
  const refuse = (error: unknown) => {
    throw error instanceof Refusal ? new Refusal('audio', `\`${name}\`: ${error.message}.`, [name]) : error;
  };
  const { size } = fstatSync(file);
  if (size === 0) throw new Refusal('audio', `\`${name}\`: it is empty.`, [name]);
  for (let bytes = HEAD; ; bytes *= 4) {
    const head = Buffer.alloc(Math.min(bytes, size));
    readSync(file, head, 0, head.length, 0);
    try {
      const facts = headOf(file, head);
      if (facts) {
        oneStem(facts.channels);
        judgeSize(facts, size);
        if (facts.flac || facts.frames === null)
          throw new Refusal(
            'audio',
            'it is a FLAC file: bring the package into Zonula, and export it from there',
          );
        return { ...facts, frames: facts.frames };
      }
    } catch (error) {
      refuse(error);
    }
    if (bytes >= size)
      throw new Refusal('audio', `\`${name}\`: it is cut off before its audio begins.`, [name]);
  }
}

/**
 * Reads stems straight from the files of a package, a piece at a time. Nobody is waited for meanwhile, so it reads at once:
 * a turn by way of other threads takes longer than to read a piece.
 */
export class FileStems implements StemReader {
  private readonly files = new Map<string, OpenStem>();

  private constructor(private readonly rate: Hertz) {}

  /** @throws Refusal `audio` naming the file and what is wrong with it */
  static open(pack: SessionPackage): FileStems {
    const stems = new FileStems(pack.session.sampleRate);
    try {
      for (const name of stemsOf(pack.session)) stems.openStem(pack.stemFile(name), name);
    } catch (error) {
      stems.close();
      throw error;
    }
    return stems;
  }

  private openStem(path: string, name: string) {
    const file = openSync(path, 'r');
    try {
      const stem = { file, facts: factsOf(file, name), converted: null };
      const own = stem.facts.sampleRate === this.rate;
      this.files.set(name, own ? stem : { ...stem, converted: this.convert(stem) });
    } catch (error) {
      closeSync(file);
      throw error;
    }
  }

  private convert(stem: OpenStem): Float32Array {
    const { facts } = stem;
    const resampler = new Resampler(facts.sampleRate, this.rate, facts.channels);
    const pieces: Float32Array[] = [];
    for (let at = 0; at < facts.frames; at += 65536) {
      const piece = new Float32Array(Math.min(65536, facts.frames - at) * facts.channels);
      this.raw(stem, at, piece);
      // A filter would spread what is no number over its length.
      silenceNonFinite(piece);
      pieces.push(resampler.push(piece));
    }
    pieces.push(resampler.flush());
    const out = new Float32Array(pieces.reduce((n, p) => n + p.length, 0));
    let n = 0;
    for (const p of pieces) {
      out.set(p, n);
      n += p.length;
    }
    return out;
  }

  /** Interleaved frames as the file has them (the engine lets no number that is none pass), silence past the end. */
  private raw(stem: OpenStem, start: Samples, into: Float32Array): void {
    const { file, facts } = stem;
    const each = frameBytes(facts);
    const { format } = facts;
    const count = Math.max(0, Math.min(into.length / facts.channels, facts.frames - start));
    const there = count * facts.channels;
    const from = facts.dataOffset + start * each;
    if (count > 0 && format.kind === 'float' && format.bytes === 4 && !format.bigEndian)
      readSync(file, new Uint8Array(into.buffer, into.byteOffset, there * 4), 0, there * 4, from);
    else if (count > 0) {
      const bytes = Buffer.alloc(count * each);
      readSync(file, bytes, 0, bytes.length, from);
      into.set(floatsOf(keptBytes(bytes, format), depthOf(format)));
    }
    into.fill(0, there);
  }

  /** Length of the longest stem, at the session's rate. */
  get longest(): Samples {
    return Math.max(
      0,
      ...[...this.files.values()].map((f) =>
        f.converted ? f.converted.length / f.facts.channels : f.facts.frames,
      ),
    );
  }

  read(strip: Strip, start: Samples, into: Float32Array): void {
    const file = strip.stem === null ? undefined : this.files.get(strip.stem);
    if (!file) {
      into.fill(0);
      return;
    }
    const { channels } = file.facts;
    const floats = (into.length / strip.channels) * channels;
    if (file.converted) {
      const there = file.converted.subarray(start * channels, start * channels + floats);
      fitFrames(there, channels, into, strip.channels);
    } else if (channels === strip.channels) this.raw(file, start, into);
    else {
      const own = new Float32Array(floats);
      this.raw(file, start, own);
      fitFrames(own, channels, into, strip.channels);
    }
  }

  close(): void {
    for (const { file } of this.files.values()) closeSync(file);
    this.files.clear();
  }
}
