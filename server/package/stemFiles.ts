import { readSync } from 'node:fs';
import { open, type FileHandle } from 'node:fs/promises';
import { decodeFrames, readWavHeader, silenceNonFinite, type WavFacts } from '../../core/formats/wav';
import { Resampler } from '../../core/formats/resample';
import { Refusal } from '../../core/session/refusal';
import type { Strip } from '../../core/session/types';
import type { Hertz, Samples } from '../../core/session/units';
import { fitChannels, planar, type StemReader } from '../../engine/print';
import type { SessionPackage } from './readPackage';

interface OpenStem {
  readonly handle: FileHandle;
  readonly facts: WavFacts;
  /** Set where the file's rate is not the session's: its whole audio, converted. */
  readonly converted: Float32Array | null;
  /** Room that is read into again and again: fresh memory costs more than the reading. */
  room: Float32Array<ArrayBuffer>;
  /** The same for the two sides of a stereo file. */
  sides: readonly [Float32Array, Float32Array];
}

const HEAD = 1 << 16;
const NOTHING = new Float32Array(0);

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
    try {
      for (const strip of pack.session.strips) {
        if (strip.stem === null || stems.files.has(strip.stem)) continue;
        const handle = await open(pack.stemFile(strip.stem), 'r');
        stems.files.set(strip.stem, {
          handle,
          facts: await wavFacts(handle, strip.stem),
          converted: null,
          room: NOTHING,
          sides: [NOTHING, NOTHING],
        });
        const known = stems.files.get(strip.stem)!;
        if (known.facts.sampleRate !== stems.rate)
          stems.files.set(strip.stem, { ...known, converted: await stems.convert(known) });
      }
    } catch (error) {
      await stems.close();
      throw error;
    }
    return stems;
  }

  private async convert(stem: OpenStem): Promise<Float32Array> {
    const { facts } = stem;
    const resampler = new Resampler(facts.sampleRate, this.rate, facts.channels);
    const pieces: Float32Array[] = [];
    for (let at = 0; at < facts.frames; at += 65536) {
      const piece = await this.raw(stem, at, Math.min(65536, facts.frames - at));
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

  /** Interleaved frames as the file has them (the engine lets no number that is none pass), silence past the end; they are good until the next call for the same stem. */
  private async raw(stem: OpenStem, start: Samples, frames: Samples): Promise<Float32Array> {
    const { handle, facts } = stem;
    const frameBytes = (facts.channels * facts.bits) / 8;
    const floats = frames * facts.channels;
    const count = Math.max(0, Math.min(frames, facts.frames - start));
    if (stem.room.length < floats) stem.room = new Float32Array(floats);
    const room = stem.room.subarray(0, floats);
    const there = count * facts.channels;
    if (facts.encoding === 'float') {
      if (count > 0)
        readSync(
          handle.fd,
          new Uint8Array(room.buffer, 0, there * 4),
          0,
          there * 4,
          facts.dataOffset + start * frameBytes,
        );
    } else if (count > 0) {
      const bytes = Buffer.alloc(count * frameBytes);
      await handle.read(bytes, 0, bytes.length, facts.dataOffset + start * frameBytes);
      room.set(decodeFrames(bytes, facts));
    }
    return room.fill(0, there);
  }

  private async sides(stem: OpenStem, start: Samples, frames: Samples): Promise<readonly Float32Array[]> {
    const both = await this.raw(stem, start, frames);
    if (stem.sides[0].length !== frames) stem.sides = [new Float32Array(frames), new Float32Array(frames)];
    const [l, r] = stem.sides;
    for (let i = 0; i < frames; i++) {
      l[i] = both[2 * i]!;
      r[i] = both[2 * i + 1]!;
    }
    return stem.sides;
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

  async read(strip: Strip, start: Samples, frames: Samples): Promise<readonly Float32Array[]> {
    const file = strip.stem === null ? undefined : this.files.get(strip.stem);
    if (!file) return Array.from({ length: strip.channels }, () => new Float32Array(frames));
    const { channels } = file.facts;
    if (!file.converted && channels === 2 && strip.channels === 2) return this.sides(file, start, frames);
    if (!file.converted)
      return fitChannels(planar(await this.raw(file, start, frames), channels), strip.channels);
    const audio = new Float32Array(frames * channels);
    audio.set(file.converted.subarray(start * channels, (start + frames) * channels));
    return fitChannels(planar(audio, channels), strip.channels);
  }

  async close(): Promise<void> {
    for (const { handle } of this.files.values()) await handle.close();
    this.files.clear();
  }
}
