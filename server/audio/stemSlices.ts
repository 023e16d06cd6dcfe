import type { Sequelize } from 'sequelize';
import { sliceHead, slicePad } from '../../core/formats/audio/slices';
import type { Channels } from '../../core/session/types';
import type { Samples } from '../../core/base/units';
import { StemRow } from '../database/models';
import { stemFrameBytes, type StemPlace } from './stemBytes';
import { nearBytes } from './stemCache';
import { log } from '../log';
import { hashOf } from './stemStore';

/** A part of a stem that is asked for. */
export interface AskedSlice {
  readonly stem: string;
  readonly start: Samples;
  readonly frames: Samples;
}

/** Rows of stems that were asked for: what is named by its content never changes, and playing asks for the same ones all the time. */
const known = new Map<string, StemPlace>();
const MOST_KNOWN = 4000;

/** Milliseconds between two lines of the log about a database that is away: a page that plays asks all the time. */
const SAY_EVERY = 10_000;
let saidAt = -Infinity;
function isAway(error: unknown) {
  if (Date.now() - saidAt < SAY_EVERY) return;
  saidAt = Date.now();
  log.warn({ err: error }, 'The database gives no stems.');
}

/** @returns whether the database told which of them are there */
async function rowsOf(addresses: readonly string[]): Promise<boolean> {
  const fresh = [...new Set(addresses)].filter((a) => !known.has(a));
  const hashes = fresh.map(hashOf).filter((h): h is string => h !== null);
  if (hashes.length === 0) return true;
  if (known.size + hashes.length > MOST_KNOWN) known.clear();
  try {
    const rows = await StemRow.findAll({
      where: { sha256: hashes },
      attributes: { exclude: ['overview', 'spans'] },
    });
    for (const row of rows) known.set(`sha256:${row.sha256.trim()}`, row);
    return true;
  } catch (error) {
    isAway(error);
    return false;
  }
}

/** Bytes that are fetched from the database at once, so that what was asked for first is on its way soon. */
const AT_ONCE = 4 << 20;

/**
 * Slices of many stems, in the order in which they are asked for, as core/formats/audio/slices.ts has them. Of a stem that is not
 * there, or that the database does not give now, it says so.
 */
export async function* stemSlices(
  sequelize: Sequelize,
  asked: readonly AskedSlice[],
): AsyncGenerator<Buffer> {
  const told = await rowsOf(asked.map((a) => a.stem));
  for (let from = 0; from < asked.length;) {
    let to = from;
    for (let bytes = 0; to < asked.length && bytes < AT_ONCE; to++) {
      const row = known.get(asked[to]!.stem);
      bytes += row ? asked[to]!.frames * stemFrameBytes(row) : 0;
    }
    yield* some(sequelize, asked.slice(from, to), from, told);
    from = to;
  }
}

async function* some(
  sequelize: Sequelize,
  asked: readonly AskedSlice[],
  first: number,
  told: boolean,
  again = true,
): AsyncGenerator<Buffer> {
  const rows = asked.map((a) => known.get(a.stem));
  const there = asked.flatMap((a, n) => (rows[n] ? [{ ...a, row: rows[n], n }] : []));
  const found = await nearBytes(sequelize, there, isAway);
  const bytes: (Buffer | null | undefined)[] = asked.map(() => (told ? null : undefined));
  there.forEach(({ n }, k) => (bytes[n] = found[k]));
  // Swept since, and perhaps brought in again, as another row: known by its name alone.
  const gone = there.filter((_, k) => found[k] === null).map((t) => t.stem);
  if (gone.length && again) {
    for (const stem of gone) known.delete(stem);
    return yield* some(sequelize, asked, first, await rowsOf(gone), false);
  }
  const pieces: Uint8Array[] = [];
  for (const [n, audio] of bytes.entries()) {
    const row = rows[n];
    const channels = (row?.channels ?? 1) as Channels;
    if (!row || !audio) pieces.push(sliceHead(first + n, audio === undefined ? 'away' : 'gone', channels, 0));
    else
      pieces.push(
        sliceHead(first + n, row.depth, channels, audio.length / stemFrameBytes(row)),
        audio,
        Buffer.alloc(slicePad(audio.length)),
      );
  }
  yield Buffer.concat(pieces);
}
