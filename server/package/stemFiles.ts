import { readSync } from 'node:fs';
import { open, type FileHandle } from 'node:fs/promises';
import { decodeFrames, readWavHeader, silenceNonFinite, type WavFacts } from '../../core/formats/wav';
import { Resampler } from '../../core/formats/resample';
import { Refusal } from '../../core/session/refusal';
import type { Strip } from '../../core/session/types';
import type { Hertz, Samples } from '../../core/session/units';
import { fitFrames, type StemReader } from '../../engine/print';
import { stemsOf, type SessionPackage } from './readPackage';

interface OpenStem {
  readonly handle: FileHandle;
  readonly facts: WavFacts;
  /** Set where the file's rate is not the session's: its whole audio, converted. */
  readonly converted: Float32Array | null;
}

const HEAD = 1 << 12;

/** The facts of a WAV file. @throws Refusal `audio` naming the file and what is wrong with it */
export async function wavFacts(handle: FileHandle, name: string): Promise<WavFacts> {
  const refuse = (error: unknown) => {
    throw error instanceof Refusal ? new Refusal('audio', `\`${name}\`: ${error.message}.`, [name]) : error;
  };
  const { size } = await handle.stat();
  if (size === 0) throw new Refusal('audio', `\`${name}\`: it is empty.`, [name]);
  for (let bytes = HEAD; ; bytes *= 4) {
    const head = Buffer.alloc(Math.min(bytes, size));
    await handle.read(head, 0, head.length, 0);
    let facts: WavFacts | null = null;
    try {
      facts = readWavHeader(head);
    } catch (error) {
      refuse(error);
    }
    if (facts) {
      const need = facts.dataOffset + (facts.frames * facts.channels * facts.bits) / 8;
      if (need > size)
        throw new Refusal(
          'audio',
          `\`${name}\`: it is cut off: it says ${facts.frames} frames and does not hold them.`,
          [name],
        );
      return facts;
    }
    if (bytes >= size)
      throw new Refusal('audio', `\`${name}\`: it is cut off before its audio begins.`, [name]);
  }
}

/** Reads stems straight from the files of a package, a piece at a time. */
export class FileStems implements StemReader {
  private readonly files = new Map<string, OpenStem>();

  private constructor(private readonly rate: Hertz) {}

  static async open(pack: SessionPackage): Promise<FileStems> {
    const stems = new FileStems(pack.session.sampleRate);
    const opened = await Promise.allSettled(
      stemsOf(pack.session).map(async (name) =>
        stems.files.set(name, await stems.openStem(pack.stemFile(name), name)),
      ),
    );
    const failed = opened.find((o) => o.status === 'rejected');
    if (failed) {
      await stems.close();
      throw failed.reason;
    }
    return stems;
  }

  private async openStem(path: string, name: string): Promise<OpenStem> {
    const handle = await open(path, 'r');
    try {
      const stem = { handle, facts: await wavFacts(handle, name), converted: null };
      return stem.facts.sampleRate === this.rate ? stem : { ...stem, converted: this.convert(stem) };
    } catch (error) {
      await handle.close();
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
    const { handle, facts } = stem;
    const frameBytes = (facts.channels * facts.bits) / 8;
    const count = Math.max(0, Math.min(into.length / facts.channels, facts.frames - start));
    const there = count * facts.channels;
    const from = facts.dataOffset + start * frameBytes;
    if (count > 0 && facts.encoding === 'float')
      readSync(handle.fd, new Uint8Array(into.buffer, into.byteOffset, there * 4), 0, there * 4, from);
    else if (count > 0) {
      const bytes = Buffer.alloc(count * frameBytes);
      readSync(handle.fd, bytes, 0, bytes.length, from);
      into.set(decodeFrames(bytes, facts));
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

  async close(): Promise<void> {
    await Promise.all([...this.files.values()].map(({ handle }) => handle.close()));
    this.files.clear();
  }
}
