import type { Client } from 'pg';
import { to as copyTo } from 'pg-copy-streams';
import type { Sequelize } from 'sequelize';
import { depthBytes } from '../../core/formats/audio/samples';
import type { Samples } from '../../core/base/units';
import { bulk } from '../database/database';
import type { StemRow } from '../database/models';
import { COPY_BEGINS } from './copyRows';

/** What tells where a stem's samples stand. */
export type StemPlace = Pick<
  StemRow,
  'id' | 'sha256' | 'channels' | 'sampleRate' | 'frames' | 'depth' | 'partBytes'
>;

export const stemFrameBytes = (row: StemPlace) => row.channels * depthBytes(row.depth);

interface Queries {
  getConnection(options: { type: 'read' }): Promise<Client>;
  releaseConnection(client: Client): void;
  destroyConnection(client: Client): Promise<void>;
}
/** Numbers and bytes of a row; null where there are none. */
interface Fetched {
  readonly numbers: readonly (number | null)[];
  readonly data: Buffer | null;
}

/**
 * Rows of numbers and bytes, in the binary form of COPY: written out as text, bytes take twice as much, and longer to read than
 * to fetch.
 */
async function fetched(sequelize: Sequelize, query: string): Promise<readonly Fetched[]> {
  const connections = bulk(sequelize).connectionManager as unknown as Queries;
  const client = await connections.getConnection({ type: 'read' });
  const pieces: Buffer[] = [];
  try {
    for await (const piece of client.query(copyTo(`COPY (${query}) TO STDOUT BINARY`)))
      pieces.push(piece as Buffer);
  } catch (error) {
    await connections.destroyConnection(client).catch(() => {});
    throw error;
  }
  connections.releaseConnection(client);
  return rowsOf(Buffer.concat(pieces));
}
function rowsOf(copied: Buffer): readonly Fetched[] {
  const rows: Fetched[] = [];
  let at = COPY_BEGINS.length;
  for (let fields: number; (fields = copied.readInt16BE(at)) !== -1;) {
    at += 2;
    const numbers: (number | null)[] = [];
    for (let k = 1; k < fields; k++) {
      const size = copied.readInt32BE(at);
      numbers.push(size < 0 ? null : copied.readInt32BE(at + 4));
      at += 4 + Math.max(0, size);
    }
    const size = copied.readInt32BE(at);
    at += 4;
    rows.push({ numbers, data: size < 0 ? null : copied.subarray(at, at + size) });
    at += Math.max(0, size);
  }
  return rows;
}

/** Bytes up to which a part is fetched whole, also where less of it is wanted. */
const SMALL = 1 << 16;

/**
 * Bytes of a stem as they are kept.
 * @param from, to within it
 * @returns null where the stem is not there any more
 */
export async function stemBytes(
  sequelize: Sequelize,
  row: StemPlace,
  from: number,
  to: number,
): Promise<Buffer<ArrayBuffer> | null> {
  const size = row.partBytes;
  const whole = size <= SMALL;
  // COPY takes no parameters: these are whole numbers, and the hash is of hexadecimal digits.
  const [id, first, last] = [row.id, Math.floor(from / size), Math.floor((to - 1) / size)].map(Math.trunc);
  const sha256 = row.sha256.replace(/[^0-9a-f]/g, '');
  const wanted = `(GREATEST(${from} - c.index::bigint * ${size}, 0) + 1)::int
    FOR (LEAST(${to} - c.index::bigint * ${size}, ${size}) - GREATEST(${from} - c.index::bigint * ${size}, 0))::int`;
  // The stem's own row comes along: parts that are silent are not there, and those of a stem that was swept neither. Of the long
  // parts of old stems only what is wanted is fetched.
  const parts = await fetched(
    sequelize,
    `SELECT c.index, ${whole ? 'c.data' : `substring(c.data FROM ${wanted})`}
     FROM stems s LEFT JOIN stem_chunks c ON c.stem_id = s.id AND c.index BETWEEN ${first} AND ${last}
     WHERE s.id = ${id} AND s.sha256 = '${sha256}'`,
  );
  if (parts.length === 0) return null;
  const bytes = Buffer.alloc(to - from);
  for (const { numbers, data } of parts) {
    if (!data) continue;
    const begins = numbers[0]! * size;
    const cut = whole ? data.subarray(Math.max(0, from - begins), Math.max(0, to - begins)) : data;
    cut.copy(bytes, Math.max(0, begins - from));
  }
  return bytes;
}

/** A range of a stem. */
export interface StemRange {
  readonly row: StemPlace;
  readonly start: Samples;
  readonly frames: Samples;
}
/** Where a range stands among its stem's bytes, as far as the stem reaches. */
export function bytesOf({ row, start, frames }: StemRange): { readonly from: number; readonly to: number } {
  const each = stemFrameBytes(row);
  const from = Math.min(row.frames, start) * each;
  return { from, to: Math.max(from, Math.min(row.frames, start + frames) * each) };
}
/**
 * Bytes of ranges of many stems as the database keeps them, as far as each reaches, in one question.
 * @returns null for each whose stem is not there any more
 */
export async function manyBytes(
  sequelize: Sequelize,
  ranges: readonly StemRange[],
): Promise<readonly (Buffer<ArrayBuffer> | null)[]> {
  const spans = ranges.map((range) => ({ ...bytesOf(range), size: range.row.partBytes }));
  const found: (Buffer<ArrayBuffer> | null)[] = ranges.map(() => null);
  const small = ranges.flatMap((_, n) => (spans[n]!.size <= SMALL ? [n] : []));
  if (small.length) {
    const values = small.map((n) => {
      const { from, to, size } = spans[n]!;
      // What is empty asks for no part, and yet whether its stem is there.
      const last = to > from ? Math.floor((to - 1) / size) : -1;
      return `(${[n, ranges[n]!.row.id, Math.floor(from / size), last].map(Math.trunc).join(',')})`;
    });
    // OFFSET 0 has each range looked up by itself, by the index, however the planner sees the table.
    const parts = await fetched(
      sequelize,
      `SELECT v.n, c.index, c.data FROM (VALUES ${values.join(',')}) v (n, id, first, last)
       JOIN stems s ON s.id = v.id
       LEFT JOIN LATERAL (SELECT * FROM stem_chunks WHERE stem_id = v.id AND index BETWEEN v.first AND v.last OFFSET 0) c ON true`,
    );
    for (const { numbers, data } of parts) {
      const [n, index] = numbers as readonly [number, number | null];
      const { from, to, size } = spans[n]!;
      const bytes = (found[n] ??= Buffer.alloc(to - from));
      if (!data || index === null) continue;
      const begins = index * size;
      data
        .subarray(Math.max(0, from - begins), Math.max(0, to - begins))
        .copy(bytes, Math.max(0, begins - from));
    }
  }
  // Old stems, in long parts, one by one.
  for (const [n, { from, to, size }] of spans.entries())
    if (size > SMALL)
      found[n] = to > from ? await stemBytes(sequelize, ranges[n]!.row, from, to) : Buffer.alloc(0);
  return found;
}

/** Frames that are read at once where a whole stem is. */
const STEP = 1 << 17;
/** All of a stem as it is kept, one piece after the other. @returns false where it was not there any more */
export async function* wholeStem(
  sequelize: Sequelize,
  row: StemPlace,
): AsyncGenerator<Buffer<ArrayBuffer>, boolean> {
  const each = stemFrameBytes(row);
  const bytes = row.frames * each;
  const step = STEP * each;
  for (let at = 0; at < bytes; at += step) {
    const piece = await stemBytes(sequelize, row, at, Math.min(bytes, at + step));
    if (!piece) return false;
    yield piece;
  }
  return true;
}
