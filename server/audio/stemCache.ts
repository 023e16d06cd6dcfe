import { createHash } from 'node:crypto';
import { close, mkdirSync, open, read, readdirSync, rmSync, statSync, utimesSync } from 'node:fs';
import { open as openFile, rename, rm, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { promisify } from 'node:util';
import { crc32 } from 'node:zlib';
import type { Sequelize } from 'sequelize';
import { stemHead } from '../../core/formats/audio/stemName';
import { log } from '../log';
import { bytesOf, manyBytes, stemFrameBytes, wholeStem, type StemPlace, type StemRange } from './stemBytes';

const opened = promisify(open);
const closed = promisify(close);
const bytesRead = promisify(read);

/** Bytes that one checksum is of. */
export const BLOCK_BYTES = 32768;
/** What a file ends with: these eight bytes, the bytes of audio (64 bits), the table's checksum, four bytes that are 0. */
const MARK = Buffer.from('zstem\0\0\x01', 'latin1');
const TAIL = 24;

export interface StemCacheOptions {
  readonly folder: string;
  /** Bytes that its files take at the most. */
  readonly limit: number;
  /** All of a stem as the database keeps it, piece by piece. */
  readonly whole: (place: StemPlace) => AsyncIterable<Uint8Array>;
  /** Milliseconds from when a stem is first asked for to when it is copied: what is asked for then comes first. */
  readonly after?: number;
  /** Times as long as a piece took that is waited before the next. */
  readonly rest?: number;
}

interface Kept {
  readonly bytes: number;
  /** Opened when first read: a descriptor and the checksums of its blocks. */
  file: Promise<{ readonly fd: number; readonly sums: Uint32Array }> | null;
  reading: number;
  used: number;
  gone: boolean;
}

/** Stems whose files are held open. */
const MOST_OPEN = 200;
/** A stem that was used within so many milliseconds does not go for another. */
const IN_USE = 60_000;
/** A stem that could not be copied is left alone for as long. */
const LEFT_ALONE = 600_000;
/** Stems that wait to be copied. */
const MOST_WAITING = 400;

/**
 * Whole stems on the server's own disk, read faster than the database gives them. What is there can be thrown away at any time:
 * the database alone is the truth. A file is named by its stem's hash, holds its samples as they are kept, a CRC-32 of each block,
 * and a tail; it takes its name when all of it is written and has its stem's hash. What is read is held against the checksums: a
 * file that is damaged goes, and the database answers.
 */
export class StemCache {
  private readonly kept = new Map<string, Kept>();
  private readonly waiting = new Map<string, { readonly place: StemPlace; readonly since: number }>();
  private readonly failed = new Map<string, number>();
  private copying: Promise<void> | null = null;
  private ended = false;
  private taken = 0;

  constructor(private readonly options: StemCacheOptions) {
    try {
      mkdirSync(options.folder, { recursive: true });
      for (const name of readdirSync(options.folder)) this.meet(name);
    } catch (error) {
      log.warn({ err: error }, 'Stems are not kept near.');
    }
  }

  private path(sha256: string) {
    return join(this.options.folder, sha256);
  }
  /** A file that was there before. What was being written is no more. */
  private meet(name: string) {
    const path = this.path(name);
    if (!/^[0-9a-f]{64}$/.test(name)) return rmSync(path, { recursive: true, force: true });
    const { size, mtimeMs } = statSync(path);
    const blocks = Math.ceil((size - TAIL) / (BLOCK_BYTES + 4));
    this.taken += size;
    this.kept.set(name, {
      bytes: size - TAIL - blocks * 4,
      file: null,
      reading: 0,
      used: mtimeMs,
      gone: false,
    });
  }

  /**
   * Bytes of a stem, where it is near.
   * @param from, to within it
   * @returns null where it is not, or is damaged: the database has it
   */
  async read(place: StemPlace, from: number, to: number): Promise<Buffer | null> {
    const sha256 = place.sha256.trim();
    const kept = this.kept.get(sha256);
    if (!kept) {
      this.want(sha256, place);
      return null;
    }
    kept.used = Date.now();
    kept.reading++;
    try {
      if (kept.bytes !== place.frames * stemFrameBytes(place)) throw new Error('It has another length.');
      const { fd, sums } = await (kept.file ??= this.open(sha256, kept.bytes));
      const first = Math.floor(from / BLOCK_BYTES);
      const begins = first * BLOCK_BYTES;
      const ends = Math.min(kept.bytes, Math.ceil(to / BLOCK_BYTES) * BLOCK_BYTES);
      const blocks = Buffer.allocUnsafeSlow(Math.max(0, ends - begins));
      const got = await bytesRead(fd, blocks, 0, blocks.length, begins);
      if (got.bytesRead !== blocks.length) throw new Error('It is cut off.');
      for (let at = 0, n = first; at < blocks.length; at += BLOCK_BYTES, n++)
        if (crc32(blocks.subarray(at, at + BLOCK_BYTES)) !== sums[n]) throw new Error('A block is damaged.');
      return blocks.subarray(from - begins, to - begins);
    } catch (error) {
      if (!kept.gone) log.info({ err: error, sha256 }, 'A stem that was kept near is fetched anew.');
      this.drop(sha256, kept);
      this.want(sha256, place);
      return null;
    } finally {
      if (--kept.reading === 0 && kept.gone) void this.shut(kept);
    }
  }

  private async open(sha256: string, bytes: number) {
    this.closeSome();
    const path = this.path(sha256);
    const fd = await opened(path, 'r');
    try {
      const blocks = Math.ceil(bytes / BLOCK_BYTES);
      const end = Buffer.alloc(blocks * 4 + TAIL);
      await bytesRead(fd, end, 0, end.length, bytes);
      const tail = end.subarray(blocks * 4);
      const table = end.subarray(0, blocks * 4);
      if (!tail.subarray(0, 8).equals(MARK) || Number(tail.readBigUInt64LE(8)) !== bytes)
        throw new Error('It was not written to its end.');
      if (crc32(table) !== tail.readUInt32LE(16)) throw new Error('Its checksums are damaged.');
      const sums = Uint32Array.from({ length: blocks }, (_, n) => table.readUInt32LE(n * 4));
      // What was used last stays, also when the server was started anew.
      utimesSync(path, new Date(), new Date());
      return { fd, sums };
    } catch (error) {
      await closed(fd).catch(() => {});
      throw error;
    }
  }
  private async shut(kept: Kept) {
    const { file } = kept;
    kept.file = null;
    const held = await file?.catch(() => null);
    if (held) await closed(held.fd).catch(() => {});
  }
  private closeSome() {
    const open = [...this.kept.values()].filter((k) => k.file !== null);
    if (open.length < MOST_OPEN) return;
    open.sort((a, b) => a.used - b.used);
    for (const kept of open.slice(0, MOST_OPEN / 4)) if (kept.reading === 0) void this.shut(kept);
  }

  /** Throws a stem away. */
  drop(sha256: string, kept = this.kept.get(sha256)): void {
    this.waiting.delete(sha256);
    if (!kept || kept.gone) return;
    kept.gone = true;
    this.kept.delete(sha256);
    this.taken -= fileBytes(kept.bytes);
    rmSync(this.path(sha256), { force: true });
    if (kept.reading === 0) void this.shut(kept);
  }

  private want(sha256: string, place: StemPlace) {
    if (this.ended || this.waiting.has(sha256) || this.waiting.size >= MOST_WAITING) return;
    if (Date.now() - (this.failed.get(sha256) ?? -Infinity) < LEFT_ALONE) return;
    if (fileBytes(place.frames * stemFrameBytes(place)) > this.options.limit) return;
    this.waiting.set(sha256, { place, since: Date.now() });
    this.copying ??= this.copyAll().finally(() => (this.copying = null));
  }
  private async copyAll() {
    for (;;) {
      const [next] = this.waiting;
      if (!next || this.ended) return;
      const [sha256, { place, since }] = next;
      const wait = since + (this.options.after ?? 3000) - Date.now();
      if (wait > 0) {
        await sleep(wait, undefined, { ref: false });
        continue;
      }
      try {
        if (await this.makeRoom(fileBytes(place.frames * stemFrameBytes(place))))
          await this.copy(sha256, place);
        else this.failed.set(sha256, Date.now());
      } catch (error) {
        // Where somebody emptied the folder meanwhile, it is copied when it is asked for again.
        if ((error as NodeJS.ErrnoException).code !== 'ENOENT') this.failed.set(sha256, Date.now());
        await rm(`${this.path(sha256)}.part`, { force: true }).catch(() => {});
        if (!this.ended) log.info({ err: error, sha256 }, 'A stem could not be kept near.');
      }
      this.waiting.delete(sha256);
    }
  }
  /** @returns whether there is room, without what is in use */
  private async makeRoom(bytes: number): Promise<boolean> {
    const old = [...this.kept].sort(([, a], [, b]) => a.used - b.used);
    for (const [sha256, kept] of old) {
      if (this.taken + bytes <= this.options.limit) break;
      if (Date.now() - kept.used < IN_USE) return false;
      this.drop(sha256, kept);
    }
    // The database has the disk to itself where little is left of it.
    mkdirSync(this.options.folder, { recursive: true });
    const { bavail, bsize } = await statfs(this.options.folder);
    return this.taken + bytes <= this.options.limit && bavail * bsize > bytes * 2 + LEFT_FREE;
  }

  private async copy(sha256: string, place: StemPlace) {
    const part = `${this.path(sha256)}.part`;
    const file = await openFile(part, 'w');
    const hash = createHash('sha256').update(stemHead(place.sampleRate, place.channels, place.depth));
    const sums: number[] = [];
    let bytes = 0;
    let sum = 0;
    try {
      let begun = performance.now();
      for await (const piece of this.options.whole(place)) {
        hash.update(piece);
        for (let at = 0; at < piece.length;) {
          const some = piece.subarray(at, at + BLOCK_BYTES - ((bytes + at) % BLOCK_BYTES));
          sum = crc32(some, sum);
          at += some.length;
          if ((bytes + at) % BLOCK_BYTES === 0) sum = (sums.push(sum), 0);
        }
        await file.write(piece);
        bytes += piece.length;
        if (this.ended) throw new Error('The server stops.');
        await sleep((performance.now() - begun) * (this.options.rest ?? 3), undefined, { ref: false });
        begun = performance.now();
      }
      if (bytes % BLOCK_BYTES) sums.push(sum);
      if (hash.digest('hex') !== sha256 || bytes !== place.frames * stemFrameBytes(place))
        throw new Error('It has another hash than its name.');
      const end = Buffer.alloc(sums.length * 4 + TAIL);
      sums.forEach((s, n) => end.writeUInt32LE(s, n * 4));
      MARK.copy(end, sums.length * 4);
      end.writeBigUInt64LE(BigInt(bytes), sums.length * 4 + 8);
      end.writeUInt32LE(crc32(end.subarray(0, sums.length * 4)), sums.length * 4 + 16);
      await file.write(end);
    } finally {
      await file.close();
    }
    await rename(part, this.path(sha256));
    this.taken += fileBytes(bytes);
    this.kept.set(sha256, { bytes, file: null, reading: 0, used: Date.now(), gone: false });
  }

  /** Stems that are near, by their hashes, and those that are being copied. */
  get state(): { readonly near: readonly string[]; readonly waiting: number; readonly bytes: number } {
    return { near: [...this.kept.keys()], waiting: this.waiting.size, bytes: this.taken };
  }

  /** Ends what is being copied, and lets go of the files. */
  async close(): Promise<void> {
    this.ended = true;
    this.waiting.clear();
    await this.copying;
    await Promise.all([...this.kept.values()].map((kept) => this.shut(kept)));
  }
}

/** Bytes of the disk that are left to others. */
const LEFT_FREE = 1 << 30;
/** Bytes of a file that holds so many of audio. */
const fileBytes = (bytes: number) => bytes + Math.ceil(bytes / BLOCK_BYTES) * 4 + TAIL;

const caches = new WeakMap<Sequelize, StemCache>();
/** The stems that are kept near for those who ask this database for them. */
export const nearOf = (sequelize: Sequelize): StemCache | null => caches.get(sequelize) ?? null;

/** Keeps stems near that are asked for. @param limit bytes at the most; 0 keeps none */
export function keepNear(
  sequelize: Sequelize,
  folder: string,
  limit: number,
  pace: Pick<StemCacheOptions, 'after' | 'rest'> = {},
): StemCache | null {
  if (limit <= 0) return null;
  const cache = new StemCache({ folder, limit, whole: (place) => wholeStem(sequelize, place), ...pace });
  caches.set(sequelize, cache);
  return cache;
}

/**
 * Bytes of ranges of many stems as they are kept, as far as each reaches, from the disk where they are near, else from the
 * database in one question.
 * @param away told why the database does not answer; what is near is given all the same
 * @returns null for each whose stem is not there any more, undefined for each that the database does not give now
 */
export async function nearBytes(
  sequelize: Sequelize,
  ranges: readonly StemRange[],
  away: (error: unknown) => void,
): Promise<readonly (Buffer | null | undefined)[]> {
  const cache = nearOf(sequelize);
  const found = await Promise.all(
    ranges.map(async (range) => {
      const { from, to } = bytesOf(range);
      return cache ? cache.read(range.row, from, to) : null;
    }),
  );
  const far = ranges.filter((_, n) => !found[n]);
  if (far.length === 0) return found;
  const fetched = await manyBytes(sequelize, far).catch((error: unknown) => {
    away(error);
    return far.map(() => undefined);
  });
  let next = 0;
  return found.map((bytes) => bytes ?? fetched[next++]);
}
