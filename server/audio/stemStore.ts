import { on } from 'node:events';
import { MessageChannel } from 'node:worker_threads';
import pLimit from 'p-limit';
import type { Piscina } from 'piscina';
import { QueryTypes, UniqueConstraintError, type Sequelize, type Transaction } from 'sequelize';
import { floatWavHeader } from '../../core/formats/wav';
import { Refusal } from '../../core/base/refusal';
import type { Channels } from '../../core/session/types';
import type { Hertz, Samples } from '../../core/base/units';
import { bulk } from '../database/database';
import { StemChunkRow, StemRow } from '../database/models';
import { threads } from '../workers';
import { CHUNK_BYTES, type StemChunk, type StemRead } from './stemReader';
import type { ReadingAnswer, ReadingTask, StemSource } from './stemReader.worker';

export { CHUNK_BYTES } from './stemReader';
export type { StemSource } from './stemReader.worker';

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

/** Stems that are read and stored at once: each has a thread and a connection. */
const AT_ONCE = 2;
let readers: Piscina | null = null;
const inTurn = pLimit(AT_ONCE);

/** Reads a stem in a thread of its own: converting a rate takes long, and the server answers others meanwhile. */
async function* readInThread(source: StemSource, rate: Hertz): AsyncGenerator<StemChunk, StemRead> {
  readers ??= threads('server/audio/stemReader.worker.ts', AT_ONCE, 512);
  const { port1, port2 } = new MessageChannel();
  const task: ReadingTask = { source, rate, port: port2 };
  let over = false;
  const stop = new AbortController();
  const working = readers.run(task, { transferList: [port2] as never }).finally(() => (over = true));
  // A thread that ends by itself, out of memory, says nothing more.
  working.catch(() => stop.abort());
  try {
    for await (const [answer] of on(port1, 'message', { signal: stop.signal }) as AsyncIterable<
      [ReadingAnswer]
    >) {
      if ('read' in answer) return answer.read;
      if ('refused' in answer) throw new Refusal(answer.refused.rule, answer.refused.message);
      if ('failed' in answer) throw new Error(answer.failed);
      yield answer.chunk;
      port1.postMessage('next');
    }
    throw new Error('The stem was not read to its end.');
  } catch (error) {
    if (stop.signal.aborted) await working;
    throw error;
  } finally {
    if (!over) port1.postMessage('stop');
    await working.catch(() => {});
    port1.close();
  }
}

/** Raised inside the transaction to throw away what a known stem already has. */
class Known extends Error {
  constructor(readonly row: StemRow) {
    super('known');
  }
}

/** Stems that are met again are young again: they may be on their way into a session. */
export async function touchStems(sha256: readonly string[]): Promise<void> {
  if (sha256.length) await StemRow.update({ usedAt: new Date() }, { where: { sha256: [...sha256] } });
}

/**
 * Takes in a WAV file, at the session's rate, in one transaction on a connection that saving does not need: a file that turns
 * out to be broken leaves nothing behind, and one that is there already is stored once. Parts that are silent take no room.
 * @param name what the file is called in refusals
 * @throws Refusal `audio` or `size` naming the file and the reason
 */
export const storeStem = (
  sequelize: Sequelize,
  name: string,
  rate: Hertz,
  source: StemSource,
): Promise<StemFacts> =>
  inTurn(async () => {
    let content: string | null = null;
    try {
      return await bulk(sequelize).transaction(async (transaction) => {
        const [{ id }] = (await sequelize.query(`SELECT nextval('stems_id_seq')::int AS id`, {
          type: QueryTypes.SELECT,
          transaction,
        })) as [{ id: number }];
        const reading = readInThread(source, rate);
        let read: StemRead;
        try {
          for (;;) {
            const next = await reading.next();
            if (next.done) {
              read = next.value;
              break;
            }
            const { index, data } = next.value;
            if (data)
              await StemChunkRow.create(
                { stemId: id, index, data: Buffer.from(data.buffer) },
                { transaction },
              );
          }
        } finally {
          await reading.return(undefined as never);
        }
        const { sha256, channels, frames, overview, spans } = read;
        content = sha256;
        const [known] = await touched(sha256);
        if (known?.damaged) return factsOf(await renewed(known, id, transaction));
        if (known) throw new Known(known);
        const row = await StemRow.create(
          { id, sha256, channels, sampleRate: rate, frames, overview: Buffer.from(overview), spans },
          { transaction },
        );
        return factsOf(row);
      });
    } catch (error) {
      if (error instanceof Known) return factsOf(error.row);
      // The same audio came in twice at once, and the other one was first: its row is the one to use.
      if (error instanceof UniqueConstraintError && content) {
        const [row] = await touched(content);
        if (row) return factsOf(row);
      }
      if (error instanceof Refusal) throw new Refusal(error.rule, `\`${name}\`: ${error.message}.`, [name]);
      throw error;
    }
  });

/** Puts chunks that were just stored in the place of a damaged stem's. */
async function renewed(row: StemRow, stored: number, transaction: Transaction): Promise<StemRow> {
  await StemChunkRow.destroy({ where: { stemId: row.id }, transaction });
  await StemChunkRow.update({ stemId: row.id }, { where: { stemId: stored }, transaction });
  return row.update({ damaged: false }, { transaction });
}

/** The stem of this content, if it is there, young again. */
async function touched(sha256: string): Promise<readonly StemRow[]> {
  const [, rows] = await StemRow.update({ usedAt: new Date() }, { where: { sha256 }, returning: true });
  return rows;
}

/** Rows of stems that were asked for: what is named by its content never changes, and playing asks for the same ones all the time. */
const knownRows = new Map<string, StemRow>();
const MOST_KNOWN = 4000;

/**
 * A range of a stem by its address: interleaved 32-bit floats, as far as the stem reaches.
 * @throws Refusal `unknown` when there is no such stem
 */
export async function stemAudio(
  sequelize: Sequelize,
  address: string,
  start: Samples,
  frames: Samples,
): Promise<Buffer> {
  const known = knownRows.get(address);
  const there = known && (await stemPcm(sequelize, known, start, frames));
  if (there) return there;
  // Met for the first time, or swept since; it may have come back under another row.
  knownRows.delete(address);
  const row = await stemRow(address);
  const audio = await stemPcm(sequelize, row, start, frames);
  if (!audio) throw noStem(address);
  if (knownRows.size >= MOST_KNOWN) knownRows.clear();
  knownRows.set(address, row);
  return audio;
}
const noStem = (address: string) => new Refusal('unknown', `There is no stem \`${address}\`.`, [address]);

/** @throws Refusal `unknown` when there is no such stem */
export async function stemRow(address: string): Promise<StemRow> {
  const sha256 = hashOf(address) ?? address;
  const row = /^[0-9a-f]{64}$/.test(sha256) ? await StemRow.findOne({ where: { sha256 } }) : null;
  if (!row) throw noStem(address);
  return row;
}

/**
 * A range of a stem: interleaved 32-bit floats, as far as the stem reaches.
 * @returns null where the stem is not there any more
 */
export async function stemPcm(
  sequelize: Sequelize,
  row: StemRow,
  start: Samples,
  frames: Samples,
): Promise<Buffer | null> {
  const frameBytes = row.channels * 4;
  const from = Math.min(row.frames, start) * frameBytes;
  const to = Math.min(row.frames, start + frames) * frameBytes;
  if (to <= from) return Buffer.alloc(0);
  const first = Math.floor(from / CHUNK_BYTES);
  // The stem's own row comes along: chunks that are silent are not there, and those of a stem that was swept neither.
  const parts = (await bulk(sequelize).query(
    `SELECT c.index,
            substring(c.data FROM (GREATEST($2 - c.index * ${CHUNK_BYTES}, 0) + 1)::int
                             FOR (LEAST($3 - c.index * ${CHUNK_BYTES}, ${CHUNK_BYTES}) - GREATEST($2 - c.index * ${CHUNK_BYTES}, 0))::int) AS part
     FROM stems s LEFT JOIN stem_chunks c ON c.stem_id = s.id AND c.index BETWEEN $4 AND $5
     WHERE s.id = $1 AND s.sha256 = $6
     ORDER BY c.index`,
    {
      bind: [row.id, from, to, first, Math.floor((to - 1) / CHUNK_BYTES), row.sha256.trim()],
      type: QueryTypes.SELECT,
    },
  )) as { index: number | null; part: Buffer | null }[];
  if (parts.length === 0) return null;
  if (parts.length === 1 && parts[0]!.part?.length === to - from) return parts[0]!.part;
  const audio = Buffer.alloc(to - from);
  for (const { index, part } of parts) if (part) part.copy(audio, Math.max(0, index! * CHUNK_BYTES - from));
  return audio;
}

/** The stem as a 32-bit float WAV file, a chunk at a time. */
export async function* stemWav(sequelize: Sequelize, row: StemRow): AsyncGenerator<Buffer> {
  yield Buffer.from(floatWavHeader(row.channels, row.sampleRate, row.frames));
  const step = CHUNK_BYTES / 4 / row.channels;
  for (let at = 0; at < row.frames; at += step) {
    const part = await stemPcm(sequelize, row, at, step);
    if (!part) throw noStem(stemAddress(row.sha256.trim()));
    yield part;
  }
}
export const stemWavBytes = (row: StemRow) => 58 + row.frames * row.channels * 4;
