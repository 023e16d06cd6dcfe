import { readFileSync, realpathSync, statSync } from 'node:fs';
import { isAbsolute, join, sep } from 'node:path';
import { readSessionDocument } from '../../core/formats/sessionDocument';
import { Refusal } from '../../core/base/refusal';
import type { Session } from '../../core/session/types';
import { checkEntryName, PACKAGE_LIMITS } from './limits';
import type { OpenedZip } from './zip';

/** A session package that has been opened: its document, and each stem as a file. */
export interface SessionPackage {
  readonly session: Session;
  /** The file of a stem that the document names. */
  stemFile(stem: string): string;
  close(): Promise<void>;
}

const isStemPath = (stem: string) => {
  checkEntryName(stem);
  if (isAbsolute(stem)) throw new Refusal('format', `The stem \`${stem}\` is not inside the package.`);
};

const factsOf = (path: string) => {
  try {
    return statSync(path);
  } catch {
    return null;
  }
};

/**
 * Opens a package: a folder with session.json, or a ZIP of one. Of a ZIP, only the document and the stems that it names
 * are unpacked, into a temporary folder that `close` removes.
 * @throws Refusal `format`, `version`, `size` or a rule of the session, naming the file or field
 */
export async function openPackage(path: string): Promise<SessionPackage> {
  const facts = factsOf(path);
  if (!facts) throw new Refusal('unknown', `There is no package at ${path}.`);
  if (facts.isDirectory()) return openFolder(path);
  if (!facts.isFile()) throw new Refusal('format', `${path} is no file and no folder.`);
  if (facts.size === 0) throw new Refusal('format', 'The package is empty: it is a file of no bytes.');
  return openFile(path);
}

async function openFile(path: string): Promise<SessionPackage> {
  // A folder is read without what reads ZIPs and waits for them, which takes longer to load than the folder to read.
  const [{ rm }, { temporaryFolder }, { checkRoom }, { openZip }] = await Promise.all([
    import('node:fs/promises'),
    import('../files/temporary'),
    import('../files/room'),
    import('./zip'),
  ]);
  const zip = await openZip(path);
  const folder = await temporaryFolder('package');
  const close = async () => {
    zip.close();
    await rm(folder, { recursive: true, force: true });
  };
  try {
    const session = await sessionIn(zip);
    await checkRoom(folder, zip.bytesOf(stemsOf(session)));
    const files = new Map<string, string>();
    for (const stem of stemsOf(session)) files.set(stem, await zip.unpack(stem, folder));
    return { session, stemFile: (stem) => files.get(stem)!, close };
  } catch (error) {
    await close();
    throw error;
  }
}

/** The session of a package in a ZIP, whose stems are all there and are recordings. */
export async function sessionIn(zip: OpenedZip): Promise<Session> {
  if (!zip.has('session.json')) throw new Refusal('format', 'The package holds no session.json.');
  const session = readSessionDocument(await zip.text('session.json'));
  const stems = stemsOf(session);
  for (const stem of stems) {
    isStemPath(stem);
    if (!zip.has(stem)) throw missing(stem);
  }
  await zip.judge(stems);
  return session;
}

async function openFolder(folder: string): Promise<SessionPackage> {
  const document = join(folder, 'session.json');
  const facts = factsOf(document);
  if (!facts?.isFile()) throw new Refusal('format', `${folder} holds no session.json.`);
  if (facts.size > PACKAGE_LIMITS.documentBytes)
    throw new Refusal('size', `${document} is too large to be a session.`);
  const session = readSessionDocument(readFileSync(document, 'utf8'));
  const home = realpathSync(folder);
  const fileOf = (stem: string) => {
    isStemPath(stem);
    let file;
    try {
      file = realpathSync(join(folder, stem));
    } catch {
      throw missing(stem);
    }
    if (!file.startsWith(home + sep))
      throw new Refusal('format', `The stem \`${stem}\` leads out of the package.`);
    // To open a pipe waits for somebody who writes into it.
    if (!statSync(file).isFile()) throw new Refusal('format', `The stem \`${stem}\` is no file.`, [stem]);
    return file;
  };
  const files = new Map(stemsOf(session).map((stem) => [stem, fileOf(stem)]));
  return { session, stemFile: (stem) => files.get(stem)!, close: async () => {} };
}

const missing = (stem: string) =>
  new Refusal('dangling', `The session names the stem \`${stem}\`, and the package does not hold it.`, [
    stem,
  ]);

/** The stems that a session names, each once. */
export const stemsOf = (session: Session): readonly string[] => [
  ...new Set(session.strips.map((s) => s.stem).filter((s): s is string => s !== null)),
];
