import { isAudioName } from './audioNames';

/** A file that may come in: chosen, dropped, in a folder, or inside a ZIP file. */
export interface FoundFile {
  readonly name: string;
  readonly size: number;
  /** The file itself; one inside a ZIP file is unpacked now. @throws Error where it cannot be unpacked */
  readonly file: () => Promise<File>;
}

/** What systems leave in folders and ZIP files, which nobody means. */
const UNMEANT = /(^|\/)(?:__MACOSX\/|\.)|(^|\/)(?:thumbs\.db|desktop\.ini)$/i;
/** Bytes a file inside a ZIP file may unpack to. */
const MOST_UNPACKED = 8 * 2 ** 30;

const isZip = (file: File) => /\.(zip|zonula)$/i.test(file.name);
const plain = (file: File): FoundFile => ({
  name: file.name,
  size: file.size,
  file: () => Promise.resolve(file),
});

/**
 * Files that are meant by those that were given: a ZIP file stands for the audio files in it. What else lies beside audio in a folder
 * or a ZIP file is passed over; what was given by itself is kept, whatever it is, so that it is refused by name.
 */
export async function filesWithin(given: readonly File[]): Promise<readonly FoundFile[]> {
  const found: FoundFile[] = [];
  for (const file of given) {
    const path = pathOf(file);
    if (UNMEANT.test(path)) continue;
    if (isZip(file)) found.push(...(await inZip(file)));
    else if (!path.includes('/') || isAudioName(file.name)) found.push(plain(file));
  }
  return found;
}

/** Where a file lies in the folder that was given; its name where it was given by itself. */
function pathOf(file: File): string {
  const { path, relativePath, webkitRelativePath } = file as {
    path?: string;
    relativePath?: string;
    webkitRelativePath?: string;
  };
  return (relativePath || webkitRelativePath || path || file.name).replace(/^\.?\//, '');
}

/** Whether a file is a whole session, and not a ZIP file of stems. */
export async function isPackage(file: File): Promise<boolean> {
  if (/\.zonula$/i.test(file.name)) return true;
  if (!isZip(file)) return false;
  const entries = await entriesOf(file);
  // What cannot be looked into is refused by whoever reads it.
  return entries === null || entries.some((e) => e.filename === 'session.json');
}

async function entriesOf(file: File) {
  const { BlobReader, ZipReader } = await import('@zip.js/zip.js');
  return new ZipReader(new BlobReader(file)).getEntries().catch(() => null);
}

async function inZip(file: File): Promise<readonly FoundFile[]> {
  const entries = await entriesOf(file);
  // It is refused as what it is, by whoever reads it.
  if (!entries) return [plain(file)];
  const { BlobWriter } = await import('@zip.js/zip.js');
  return entries.flatMap((entry): FoundFile[] => {
    if (entry.directory || UNMEANT.test(entry.filename) || !isAudioName(entry.filename)) return [];
    const name = entry.filename.replace(/^.*[\\/]/, '');
    const unpack = async () => {
      if (entry.uncompressedSize > MOST_UNPACKED) throw new Error(`\`${name}\`: more than 8 GB.`);
      return new File([await entry.getData(new BlobWriter(), { checkSignature: true })], name);
    };
    return [{ name, size: entry.uncompressedSize, file: unpack }];
  });
}
