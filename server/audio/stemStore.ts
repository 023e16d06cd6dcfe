import { createHash } from 'node:crypto';
import { QueryTypes, UniqueConstraintError, type Sequelize, type Transaction } from 'sequelize';
import { floatBytes, floatWavHeader, WavStream } from '../../core/formats/wav';
import { Resampler } from '../../core/formats/resample';
import { Refusal } from '../../core/session/refusal';
import type { Channels } from '../../core/session/types';
import type { Hertz, Samples } from '../../core/session/units';
import { StemChunkRow, StemRow } from '../database/models';

/** Bytes of a chunk: whole frames of mono and of stereo. */
export const CHUNK_BYTES = 1 << 20;
/** Longest stem: two hours at 48 kHz. */
const MOST_FRAMES = 2 * 3600 * 48000;

export interface StemFacts {
  /** `sha256:` and the hash of its samples, channels and rate. */
  readonly stem: string;
  readonly channels: Channels;
  readonly sampleRate: Hertz;
  readonly frames: Samples;
}

export const stemAddress = (sha256: string) => `sha256:${sha256}`;
export const hashOf = (address: string): string | null =>
  /^sha256:([0-9a-f]{64})$/.exec(address)?.[1] ?? null;

const factsOf = (row: StemRow): StemFacts => ({
  stem: stemAddress(row.sha256.trim()),
  channels: row.channels as Channels,
  sampleRate: row.sampleRate,
  frames: row.frames,
});

/** Collects floats into chunks of whole size, the hash and the overview, as audio arrives. */
class ChunkWriter {
  private readonly chunk = new Float32Array(CHUNK_BYTES / 4);
  private filled = 0;
  private index = 0;
  private readonly hash = createHash('sha256');
  private readonly peaks: number[] = [];
  private peak = 0;
  private inPeak = 0;
  private readonly peakFrames: number;
  frames = 0;

  constructor(
    private readonly stemId: number,
    private readonly channels: number,
    rate: Hertz,
    private readonly transaction: Transaction,
  ) {
    this.hash.update(`zonula-pcm ${rate} ${channels}\n`);
    this.peakFrames = Math.max(1, Math.round(rate / 100));
  }

  async write(audio: Float32Array): Promise<void> {
    this.frames += audio.length / this.channels;
    if (this.frames > MOST_FRAMES) throw new Refusal('size', 'it is longer than two hours; split it first');
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
      if (this.filled === this.chunk.length) await this.flush();
    }
  }

  private endPeak() {
    this.peaks.push(Math.min(255, Math.round(this.peak * 255)));
    this.peak = this.inPeak = 0;
  }

  private async flush() {
    if (this.filled === 0) return;
    const data = Buffer.from(floatBytes(this.chunk.subarray(0, this.filled)));
    this.hash.update(data);
    await StemChunkRow.create(
      { stemId: this.stemId, index: this.index++, data },
      { transaction: this.transaction },
    );
    this.filled = 0;
  }

  async end(): Promise<{ sha256: string; overview: Buffer }> {
    await this.flush();
    if (this.inPeak > 0) this.endPeak();
    return { sha256: this.hash.digest('hex'), overview: Buffer.from(this.peaks) };
  }
}

/** Raised inside the transaction to throw away what a known stem already has. */
class Known extends Error {
  constructor(readonly row: StemRow) {
    super('known');
  }
}

/**
 * Takes in a WAV file as it arrives, at the session's rate, in one transaction: a file that turns out to be broken leaves
 * nothing behind, and one that is there already is stored once.
 * @throws Refusal `audio` or `size` naming the file and the reason
 */
export async function storeStem(
  sequelize: Sequelize,
  name: string,
  rate: Hertz,
  source: AsyncIterable<Uint8Array>,
): Promise<StemFacts> {
  let content: string | null = null;
  try {
    return await sequelize.transaction(async (transaction) => {
      const [{ id }] = (await sequelize.query(`SELECT nextval('stems_id_seq')::int AS id`, {
        type: QueryTypes.SELECT,
        transaction,
      })) as [{ id: number }];
      const wav = new WavStream();
      let writer: ChunkWriter | null = null;
      let resampler: Resampler | null = null;
      const start = () => {
        const facts = wav.facts!;
        writer ??= new ChunkWriter(id, facts.channels, rate, transaction);
        if (facts.sampleRate !== rate) resampler ??= new Resampler(facts.sampleRate, rate, facts.channels);
        return writer;
      };
      for await (const piece of source) {
        const audio = wav.push(piece);
        if (!wav.facts) continue;
        const to = start();
        if (audio.length) await to.write(resampler ? (resampler as Resampler).push(audio) : audio);
      }
      const facts = wav.end();
      const to = start();
      if (resampler) await to.write((resampler as Resampler).flush());
      const { sha256, overview } = await to.end();
      content = sha256;
      if (to.frames === 0) throw new Refusal('audio', 'it holds no audio');
      const known = await StemRow.findOne({ where: { sha256 }, transaction });
      if (known) throw new Known(known);
      const row = await StemRow.create(
        { id, sha256, channels: facts.channels, sampleRate: rate, frames: to.frames, overview },
        { transaction },
      );
      return factsOf(row);
    });
  } catch (error) {
    if (error instanceof Known) return factsOf(error.row);
    // The same audio came in twice at once, and the other one was first: its row is the one to use.
    if (error instanceof UniqueConstraintError && content) {
      const row = await StemRow.findOne({ where: { sha256: content } });
      if (row) return factsOf(row);
    }
    if (error instanceof Refusal) throw new Refusal(error.rule, `\`${name}\`: ${error.message}.`, [name]);
    throw error;
  }
}

/** Rows of stems that were asked for: what is named by its content never changes, and playing asks for the same ones all the time. */
const knownRows = new Map<string, StemRow>();
const MOST_KNOWN = 4000;

/** The stem's row, remembered. A stem that was swept meanwhile shows itself by having no audio. */
export async function rememberedStem(address: string): Promise<StemRow> {
  const known = knownRows.get(address);
  if (known) return known;
  const row = await stemRow(address);
  if (knownRows.size >= MOST_KNOWN) knownRows.clear();
  knownRows.set(address, row);
  return row;
}
/** Forgets a stem that turned out to be gone. @throws Refusal `unknown` */
export function forgetStem(address: string): never {
  knownRows.delete(address);
  throw new Refusal('unknown', `There is no stem \`${address}\` any more.`, [address]);
}

/** @throws Refusal `unknown` when there is no such stem */
export async function stemRow(address: string): Promise<StemRow> {
  const sha256 = hashOf(address) ?? address;
  const row = /^[0-9a-f]{64}$/.test(sha256) ? await StemRow.findOne({ where: { sha256 } }) : null;
  if (!row) throw new Refusal('unknown', `There is no stem \`${address}\`.`, [address]);
  return row;
}

/** A range of a stem: interleaved 32-bit floats, as far as the stem reaches. */
export async function stemPcm(
  sequelize: Sequelize,
  row: StemRow,
  start: Samples,
  frames: Samples,
): Promise<Buffer> {
  const frameBytes = row.channels * 4;
  const from = Math.min(row.frames, start) * frameBytes;
  const to = Math.min(row.frames, start + frames) * frameBytes;
  if (to <= from) return Buffer.alloc(0);
  const parts = (await sequelize.query(
    `SELECT substring(data FROM (GREATEST($2 - index * ${CHUNK_BYTES}, 0) + 1)::int
                           FOR (LEAST($3 - index * ${CHUNK_BYTES}, ${CHUNK_BYTES}) - GREATEST($2 - index * ${CHUNK_BYTES}, 0))::int) AS part
     FROM stem_chunks
     WHERE stem_id = $1 AND index BETWEEN $4 AND $5
     ORDER BY index`,
    {
      bind: [row.id, from, to, Math.floor(from / CHUNK_BYTES), Math.floor((to - 1) / CHUNK_BYTES)],
      type: QueryTypes.SELECT,
    },
  )) as { part: Buffer }[];
  return parts.length === 1 ? parts[0]!.part : Buffer.concat(parts.map((p) => p.part));
}

/** The stem as a 32-bit float WAV file, a chunk at a time. */
export async function* stemWav(sequelize: Sequelize, row: StemRow): AsyncGenerator<Buffer> {
  yield Buffer.from(floatWavHeader(row.channels, row.sampleRate, row.frames));
  const step = CHUNK_BYTES / 4 / row.channels;
  for (let at = 0; at < row.frames; at += step) yield await stemPcm(sequelize, row, at, step);
}
export const stemWavBytes = (row: StemRow) => 58 + row.frames * row.channels * 4;

/** Removes stems that no session and no change of one names any more. Young ones stay: they may be on their way into a session. */
export async function sweepStems(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    DELETE FROM stems s
    WHERE s.created_at < now() - interval '1 hour'
      AND NOT EXISTS (SELECT 1 FROM sessions d WHERE d.document::text LIKE '%' || s.sha256 || '%')
      AND NOT EXISTS (SELECT 1 FROM session_changes c WHERE c.commands::text LIKE '%' || s.sha256 || '%' OR c.inverse::text LIKE '%' || s.sha256 || '%')`);
}
