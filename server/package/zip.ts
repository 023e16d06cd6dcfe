import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { dirname, join, normalize } from 'node:path';
import { Transform, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import yauzl, { type Entry, type ZipFile } from 'yauzl';
import { Refusal } from '../../core/base/refusal';
import { checkEntryName, PACKAGE_LIMITS, refusal as no } from './limits';

function open(file: string): Promise<ZipFile> {
  return new Promise((resolve, reject) =>
    yauzl.open(
      file,
      {
        lazyEntries: true,
        autoClose: false,
        decodeStrings: true,
        validateEntrySizes: true,
        strictFileNames: false,
      },
      (error, zip) => (error ? reject(no(`It is no ZIP: ${error.message}.`)) : resolve(zip)),
    ),
  );
}

/** Lists the entries of a ZIP, each held against the limits. */
async function entriesOf(zip: ZipFile): Promise<Map<string, Entry>> {
  const entries = new Map<string, Entry>();
  let total = 0;
  await new Promise<void>((resolve, reject) => {
    zip.on('error', (error: Error) => {
      const climbing = /invalid relative path|absolute path|invalid characters in fileName/.test(
        error.message,
      );
      reject(
        no(
          climbing
            ? `The package holds a path that leads out of it (${error.message}). It was not opened.`
            : `The ZIP is damaged: ${error.message}.`,
        ),
      );
    });
    zip.on('end', resolve);
    zip.on('entry', (entry: Entry) => {
      try {
        checkEntryName(entry.fileName);
        if (entries.size >= PACKAGE_LIMITS.entries)
          throw no(`The package holds more than ${PACKAGE_LIMITS.entries} files.`, 'size');
        if (entries.has(entry.fileName))
          throw no(`\`${entry.fileName}\` stands twice in the package: which one is meant is not known.`);
        total += entry.uncompressedSize;
        if (entry.uncompressedSize > PACKAGE_LIMITS.stemBytes || total > PACKAGE_LIMITS.totalBytes)
          throw no(
            `\`${entry.fileName}\` would unpack to ${entry.uncompressedSize} bytes from ${entry.compressedSize}: that is no recording. The package was not opened.`,
            'size',
          );
        if (((entry.externalFileAttributes >>> 16) & 0o170000) === 0o120000)
          throw no(`The package holds \`${entry.fileName}\`, a link. It was not opened.`);
        if (!entry.fileName.endsWith('/')) entries.set(entry.fileName, entry);
        zip.readEntry();
      } catch (error) {
        reject(error as Error);
      }
    });
    zip.readEntry();
  });
  return entries;
}

/** How an entry is kept that is not compressed. */
const STORED = 0;
/** Bytes of such an entry that are read at once. */
const READ_BYTES = 1 << 20;

const streamOf = (file: string, zip: ZipFile, entry: Entry): Promise<Readable> =>
  new Promise((resolve, reject) => {
    const plain = entry.compressionMethod === STORED && !entry.isEncrypted();
    // Recordings hardly shrink, and stand in it as they are: they are read as a file is.
    if (plain && entry.compressedSize > READ_BYTES)
      return zip.readLocalFileHeader(entry, { minimal: true }, (error, local) => {
        if (error) return reject(no(`\`${entry.fileName}\` cannot be unpacked: ${error.message}.`));
        const start = local.fileDataStart;
        resolve(
          createReadStream(file, {
            start,
            end: start + entry.compressedSize - 1,
            highWaterMark: READ_BYTES,
          }),
        );
      });
    zip.openReadStream(entry, (error, s) =>
      error ? reject(no(`\`${entry.fileName}\` cannot be unpacked: ${error.message}.`)) : resolve(s),
    );
  });

/** Stops a stream that gives more than was said. */
const atMost = (bytes: number, name: string) => {
  let seen = 0;
  return new Transform({
    transform(piece: Buffer, _encoding, done) {
      seen += piece.length;
      done(seen > bytes ? no(`\`${name}\` unpacks to more than it says.`, 'size') : null, piece);
    },
  });
};

export interface OpenedZip {
  has(name: string): boolean;
  text(name: string): Promise<string>;
  /** An entry's bytes as they are unpacked. What is damaged ends it with a Refusal. */
  stream(name: string): Promise<Readable>;
  /** What these entries unpack to, as the ZIP says. */
  bytesOf(names: readonly string[]): number;
  /** Unpacks one entry below a folder. @returns the file's path */
  unpack(name: string, folder: string): Promise<string>;
  /** Listens to entries, where together they are much larger than the package. @throws Refusal `size` for what is no recording */
  judge(names: readonly string[]): Promise<void>;
  close(): void;
}

/** Bytes that are judged at once. */
const BLOCK = 4096;
const SILENCE = Buffer.alloc(BLOCK);

/** Bytes of a piece that are not in a silent stretch. */
function loudBytes(piece: Buffer): number {
  let loud = 0;
  for (let at = 0; at < piece.length; at += BLOCK) {
    const block = piece.subarray(at, at + BLOCK);
    if (Buffer.compare(block, SILENCE.subarray(0, block.length)) !== 0) loud += block.length;
  }
  return loud;
}

/** @throws Refusal `format` or `size`, saying what in the ZIP is refused */
export async function openZip(file: string): Promise<OpenedZip> {
  const zip = await open(file);
  let entries: Map<string, Entry>;
  try {
    entries = await entriesOf(zip);
  } catch (error) {
    zip.close();
    throw error;
  }
  const entry = (name: string) => {
    const found = entries.get(name);
    if (!found) throw no(`The package holds no \`${name}\`.`);
    return found;
  };
  const unpacked = async (name: string): Promise<Readable> => {
    const e = entry(name);
    const source = await streamOf(file, zip, e);
    const out = atMost(e.uncompressedSize, name);
    source.on('error', (error) => out.destroy(no(`\`${name}\` is damaged in the ZIP: ${error.message}.`)));
    out.on('close', () => source.destroy());
    return source.pipe(out);
  };
  return {
    has: (name) => entries.has(name),
    async text(name) {
      const e = entry(name);
      if (e.uncompressedSize > PACKAGE_LIMITS.documentBytes)
        throw no(`\`${name}\` is larger than ${PACKAGE_LIMITS.documentBytes} bytes.`, 'size');
      const pieces: Buffer[] = [];
      const source = await streamOf(file, zip, e);
      await pipeline(source, atMost(PACKAGE_LIMITS.documentBytes, name), async (from) => {
        for await (const piece of from) pieces.push(piece as Buffer);
      }).catch(damaged(name));
      return Buffer.concat(pieces).toString('utf8');
    },
    async stream(name) {
      const e = entry(name);
      const source = await streamOf(file, zip, e);
      const out = atMost(e.uncompressedSize, name);
      source.on('error', (error) => out.destroy(no(`\`${name}\` is damaged in the ZIP: ${error.message}.`)));
      return source.pipe(out);
    },
    bytesOf: (names) => names.reduce((sum, name) => sum + entry(name).uncompressedSize, 0),
    async unpack(name, folder) {
      const e = entry(name);
      const to = join(folder, normalize(name));
      await mkdir(dirname(to), { recursive: true });
      await pipeline(
        await streamOf(file, zip, e),
        atMost(e.uncompressedSize, name),
        createWriteStream(to),
      ).catch(damaged(name));
      return to;
    },
    async judge(names) {
      const all = [...new Set(names)].map(entry);
      const most = PACKAGE_LIMITS.freeBytes + PACKAGE_LIMITS.growth * zip.fileSize;
      if (all.reduce((sum, e) => sum + e.uncompressedSize, 0) <= most) return;
      let left = most;
      for (const { fileName } of all) {
        for await (const piece of await unpacked(fileName))
          if ((left -= loudBytes(piece as Buffer)) < 0) break;
        if (left < 0)
          throw no(
            `The package of ${zip.fileSize} bytes unpacks to more than ${most} bytes that are not silent: that is no recording. It was not opened.`,
            'size',
          );
      }
    },
    close: () => zip.close(),
  };
}

const damaged = (name: string) => (error: unknown) => {
  throw error instanceof Refusal
    ? error
    : no(`\`${name}\` is damaged in the ZIP: ${(error as Error).message}.`);
};
