import { createWriteStream } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { dirname, join, normalize } from 'node:path';
import { Transform, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import yauzl, { type Entry, type ZipFile } from 'yauzl';
import { Refusal } from '../../core/session/refusal';
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
        total += entry.uncompressedSize;
        const bomb =
          entry.uncompressedSize > PACKAGE_LIMITS.freeBytes &&
          entry.uncompressedSize > entry.compressedSize * PACKAGE_LIMITS.growth;
        if (bomb || total > PACKAGE_LIMITS.totalBytes)
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

const stream = (zip: ZipFile, entry: Entry): Promise<Readable> =>
  new Promise((resolve, reject) =>
    zip.openReadStream(entry, (error, s) =>
      error ? reject(no(`\`${entry.fileName}\` cannot be unpacked: ${error.message}.`)) : resolve(s),
    ),
  );

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
  /** Unpacks one entry below a folder. @returns the file's path */
  unpack(name: string, folder: string): Promise<string>;
  close(): void;
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
  return {
    has: (name) => entries.has(name),
    async text(name) {
      const e = entry(name);
      if (e.uncompressedSize > PACKAGE_LIMITS.documentBytes)
        throw no(`\`${name}\` is larger than ${PACKAGE_LIMITS.documentBytes} bytes.`, 'size');
      const pieces: Buffer[] = [];
      const source = await stream(zip, e);
      await pipeline(source, atMost(PACKAGE_LIMITS.documentBytes, name), async (from) => {
        for await (const piece of from) pieces.push(piece as Buffer);
      }).catch(damaged(name));
      return Buffer.concat(pieces).toString('utf8');
    },
    async unpack(name, folder) {
      const e = entry(name);
      const to = join(folder, normalize(name));
      await mkdir(dirname(to), { recursive: true });
      await pipeline(await stream(zip, e), atMost(e.uncompressedSize, name), createWriteStream(to)).catch(
        damaged(name),
      );
      return to;
    },
    close: () => zip.close(),
  };
}

const damaged = (name: string) => (error: unknown) => {
  throw error instanceof Refusal
    ? error
    : no(`\`${name}\` is damaged in the ZIP: ${(error as Error).message}.`);
};
