import { createWriteStream } from 'node:fs';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';
import { writeSessionDocument } from '../../core/formats/sessionDocument';
import type { Session } from '../../core/session/types';

/** A stem to be written: its bytes as a WAV file, and how many there are. */
export interface StemSource {
  readonly bytes: number;
  open(): Readable;
}

/** Name of a strip's stem inside a package. */
export const stemPath = (stripId: string) => `stems/${stripId}.wav`;

/**
 * The session as a package: stems that several strips share are written once. Stored, not compressed: audio hardly shrinks.
 * @param stem gives the audio of a stem by the address that the document has for it
 */
export function packageStream(
  session: Session,
  stem: (address: string) => Promise<StemSource>,
): { stream: Readable; done: Promise<void> } {
  const zip = new yazl.ZipFile();
  const paths = new Map<string, string>();
  for (const s of session.strips)
    if (s.stem !== null && !paths.has(s.stem)) paths.set(s.stem, stemPath(s.id));
  const document: Session = {
    ...session,
    strips: session.strips.map((s) => (s.stem === null ? s : { ...s, stem: paths.get(s.stem)! })),
  };
  const mtime = new Date('2000-01-01T00:00:00Z');
  zip.addBuffer(Buffer.from(writeSessionDocument(document)), 'session.json', { mtime });
  const done = (async () => {
    for (const [address, path] of paths) {
      const source = await stem(address);
      zip.addReadStreamLazy(path, { mtime, compress: false, size: source.bytes }, (give) =>
        give(null, source.open()),
      );
    }
    zip.end();
  })();
  return { stream: zip.outputStream as unknown as Readable, done };
}

export async function writePackageFile(
  session: Session,
  file: string,
  stem: (address: string) => Promise<StemSource>,
): Promise<void> {
  const { stream, done } = packageStream(session, stem);
  await Promise.all([done, pipeline(stream, createWriteStream(file))]);
}
