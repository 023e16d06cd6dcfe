import { on, once } from 'node:events';
import { finished } from 'node:stream/promises';
import { MessageChannel } from 'node:worker_threads';
import pLimit from 'p-limit';
import type { Client } from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import type { Piscina } from 'piscina';
import { Op, QueryTypes, UniqueConstraintError, type Sequelize, type Transaction } from 'sequelize';
import { floatsOf } from '../../core/formats/audio/samples';
import { floatBytes, wavHeader } from '../../core/formats/audio/wav';
import { Refusal } from '../../core/base/refusal';
import type { Channels } from '../../core/session/types';
import type { Hertz, Samples } from '../../core/base/units';
import { bulk } from '../database/database';
import { StemChunkRow, StemRow } from '../database/models';
import { threads } from '../workers';
import { COPY_BEGINS, COPY_ENDS } from './copyRows';
import { stemFrameBytes, wholeStem } from './stemBytes';
import { nearBytes } from './stemCache';
import { PART_BYTES, type StemRead, type Taking } from './stemReader';
import type { ReadingAnswer, ReadingTask, StemSource } from './stemReader.worker';

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

/**
 * Reads a file in a thread of its own: converting a rate takes long, and the server answers others meanwhile.
 * @param number gives the numbers of so many stems
 */
async function* readInThread(
  source: StemSource,
  taking: Taking,
  number: (stems: number) => Promise<readonly number[]>,
): AsyncGenerator<Uint8Array, readonly StemRead[]> {
  readers ??= threads('server/audio/stemReader.worker.ts', AT_ONCE, 512);
  const { port1, port2 } = new MessageChannel();
  const task: ReadingTask = { source, taking, port: port2 };
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
      if ('begins' in answer) port1.postMessage(await number(answer.begins));
      else {
        yield answer.rows;
        port1.postMessage('next');
      }
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

/** It was given up before its turn came. */
export class NotBegun extends Error {}

/** Stems that are met again are young again: they may be on their way into a session. */
export async function touchStems(sha256: readonly string[]): Promise<void> {
  if (sha256.length) await StemRow.update({ usedAt: new Date() }, { where: { sha256: [...sha256] } });
}

/** Raised inside the transaction to throw away what known stems already have. */
class Known extends Error {
  constructor(readonly rows: readonly StemRow[]) {
    super('known');
  }
}

/** Stems of an audio file, in the order of its channels. */
export type FileStems = readonly (StemFacts & {
  /** What tells it from the file's others; null where it is alone. */
  readonly place: string | null;
})[];

/**
 * Takes in an audio file, at the session's rate, in one transaction on a connection that saving does not need: a file that turns
 * out to be broken leaves nothing behind, and what is there already is stored once. Parts that are silent take no room.
 * @param name what the file is called in refusals
 * @param given whether it is given up meanwhile, asked when its turn comes
 * @throws Refusal `audio`, `cut` or `size` naming the file and the reason
 */
export const storeFile = (
  sequelize: Sequelize,
  name: string,
  taking: Taking,
  source: StemSource,
  given: () => boolean = () => false,
): Promise<FileStems> =>
  inTurn(async () => {
    if (given()) throw new NotBegun();
    let read: readonly StemRead[] = [];
    const stemsOf = (rows: readonly StemRow[]) =>
      rows.map((row, k) => ({ ...factsOf(row), place: read[k]!.place }));
    try {
      return await bulk(sequelize).transaction(async (transaction) => {
        let numbers: readonly number[] = [];
        // Their own connection is busy with what is copied.
        const number = async (stems: number) => (numbers = await freshNumbers(sequelize, stems));
        read = await copied(readInThread(source, taking, number), transaction);
        const there = await Promise.all(read.map(({ sha256 }) => touched(sha256)));
        const known = there.map(([row]) => row).filter((row) => row && !row.damaged) as StemRow[];
        if (known.length === read.length) throw new Known(known);
        const rows = new Map<string, StemRow>();
        for (const [k, stem] of read.entries()) {
          const row = rows.get(stem.sha256) ?? there[k]![0];
          rows.set(stem.sha256, await kept(stem, row, numbers[k]!, taking.rate, transaction));
        }
        return stemsOf(read.map(({ sha256 }) => rows.get(sha256)!));
      });
    } catch (error) {
      if (error instanceof Known) return stemsOf(error.rows);
      // The same audio came in twice at once, and the other one was first: its rows are the ones to use.
      if (error instanceof UniqueConstraintError && read.length) {
        const there = (await Promise.all(read.map(({ sha256 }) => touched(sha256)))).flat();
        if (there.length === read.length) return stemsOf(there);
      }
      if (error instanceof Refusal) throw new Refusal(error.rule, `\`${name}\`: ${error.message}.`, [name]);
      throw error;
    }
  });

const freshNumbers = async (sequelize: Sequelize, stems: number): Promise<readonly number[]> =>
  (
    (await sequelize.query(`SELECT nextval('stems_id_seq')::int AS id FROM generate_series(1, $stems)`, {
      type: QueryTypes.SELECT,
      bind: { stems },
    })) as { id: number }[]
  ).map(({ id }) => id);

/** Takes in an audio file that is one stem. @throws Refusal */
export const storeStem = async (
  sequelize: Sequelize,
  name: string,
  rate: Hertz,
  source: StemSource,
  given?: () => boolean,
): Promise<StemFacts> =>
  (await storeFile(sequelize, name, { rate, split: false, asFarAsItGoes: false }, source, given))[0]!;

/**
 * The row of a stem whose parts were just copied: its own, or that of the same audio, whose parts are kept once.
 * @param row of the same audio, where there is one
 */
async function kept(
  stem: StemRead,
  row: StemRow | undefined,
  id: number,
  rate: Hertz,
  transaction: Transaction,
): Promise<StemRow> {
  const { sha256, channels, depth, frames, begins, overview, spans } = stem;
  if (row?.damaged) return renewed(row, id, transaction);
  if (row) {
    await StemChunkRow.destroy({ where: { stemId: id }, transaction });
    return row;
  }
  return StemRow.create(
    {
      ...{ id, sha256, channels, sampleRate: rate, frames, depth, partBytes: PART_BYTES, begins, spans },
      overview: Buffer.from(overview),
    },
    { transaction },
  );
}

/** Writes a stem's rows to the database as they come, on the transaction's connection. @returns what is known of it then */
async function copied(
  reading: AsyncGenerator<Uint8Array, readonly StemRead[]>,
  transaction: Transaction,
): Promise<readonly StemRead[]> {
  const { connection } = transaction as unknown as { readonly connection: Client };
  const into = connection.query(copyFrom('COPY stem_chunks (stem_id, index, data) FROM STDIN BINARY'));
  const over = finished(into);
  let lost: Error | null = null;
  over.catch((error: Error) => (lost = error));
  try {
    into.write(COPY_BEGINS);
    for (;;) {
      const next = await reading.next();
      if (next.done) {
        into.end(COPY_ENDS);
        await over;
        return next.value;
      }
      if (!into.write(next.value)) await Promise.race([once(into, 'drain'), over]);
    }
  } catch (error) {
    // Where the database let go of it, that is why, and not that nothing can be written any more.
    const why = (lost ?? error) as Error;
    into.destroy(why);
    await over.catch(() => {});
    throw why;
  } finally {
    await reading.return(undefined as never);
  }
}

/** Puts chunks that were just stored in the place of a damaged stem's. */
async function renewed(row: StemRow, stored: number, transaction: Transaction): Promise<StemRow> {
  await StemChunkRow.destroy({ where: { stemId: row.id }, transaction });
  await StemChunkRow.update({ stemId: row.id }, { where: { stemId: stored }, transaction });
  return row.update({ damaged: false, partBytes: PART_BYTES }, { transaction });
}

/** What a window needs of a stem. */
export const stemInfo = (row: StemRow) => ({
  channels: row.channels,
  sampleRate: row.sampleRate,
  frames: row.frames,
  overview: row.overview.toString('base64'),
  spans: row.spans ?? null,
  begins: row.begins,
});

/** Of stems that are named, those that are there and whole: they need not be sent, and are young again. */
export async function knownStems(
  addresses: readonly string[],
): Promise<Record<string, ReturnType<typeof stemInfo>>> {
  const hashes = [...new Set(addresses)].map((a) => hashOf(a)!);
  const [, rows] = await StemRow.update(
    { usedAt: new Date() },
    { where: { sha256: { [Op.in]: hashes }, damaged: false }, returning: true },
  );
  return Object.fromEntries(rows.map((row) => [stemAddress(row.sha256.trim()), stemInfo(row)]));
}

/** The stem of this content, if it is there, young again. */
async function touched(sha256: string): Promise<readonly StemRow[]> {
  const [, rows] = await StemRow.update({ usedAt: new Date() }, { where: { sha256 }, returning: true });
  return rows;
}

/** Rows of stems that were asked for: what is named by its content never changes, and playing asks for the same ones all the time. */
const knownRows = new Map<string, StemRow>();
const MOST_KNOWN = 4000;
export const forgetKnownStems = () => knownRows.clear();

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
async function stemPcm(
  sequelize: Sequelize,
  row: StemRow,
  start: Samples,
  frames: Samples,
): Promise<Buffer | null> {
  const [bytes] = await nearBytes(sequelize, [{ row, start, frames }], (error) => {
    throw error;
  });
  if (!bytes || row.depth === 'f32') return bytes ?? null;
  const floats = floatBytes(floatsOf(bytes, row.depth));
  return Buffer.from(floats.buffer, floats.byteOffset, floats.byteLength);
}
const noStem = (address: string) => new Refusal('unknown', `There is no stem \`${address}\`.`, [address]);

/** @throws Refusal `unknown` when there is no such stem */
export async function stemRow(address: string): Promise<StemRow> {
  const sha256 = hashOf(address) ?? address;
  const row = /^[0-9a-f]{64}$/.test(sha256) ? await StemRow.findOne({ where: { sha256 } }) : null;
  if (!row) throw noStem(address);
  return row;
}

/** The stem as a WAV file of its own depth, piece by piece. */
export async function* stemWav(sequelize: Sequelize, row: StemRow): AsyncGenerator<Buffer> {
  yield Buffer.from(wavHeader(row.depth, row.channels, row.sampleRate, row.frames));
  if (!(yield* wholeStem(sequelize, row))) throw noStem(stemAddress(row.sha256.trim()));
  if (stemBytesOf(row) % 2) yield Buffer.alloc(1);
}
const stemBytesOf = (row: StemRow) => row.frames * stemFrameBytes(row);
export const stemWavBytes = (row: StemRow) =>
  wavHeader(row.depth, row.channels, row.sampleRate, row.frames).length +
  stemBytesOf(row) +
  (stemBytesOf(row) % 2);
