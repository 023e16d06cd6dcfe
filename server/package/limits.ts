import { Refusal } from '../../core/base/refusal';

/** What a package may hold; beyond it is refused before anything is unpacked. */
export const PACKAGE_LIMITS = {
  entries: 4000,
  documentBytes: 32 * 2 ** 20,
  totalBytes: 64 * 2 ** 30,
  /** A RIFF file says its size in 32 bits. */
  stemBytes: 2 ** 32 + 8,
  /**
   * The whole of a package may unpack to `freeBytes`, and beyond that to `growth` times its own size; what is silent is not
   * counted, as silence shrinks to nearly nothing. More is no recording.
   */
  growth: 100,
  freeBytes: 256 * 2 ** 20,
} as const;

/** A package that is refused as it is. */
export const refusal = (message: string, rule: 'format' | 'size' = 'format') => new Refusal(rule, message);

/** Letters of one part of a path: what file systems take. */
const MOST_LETTERS = 255;

/** Refuses names that lead out of the folder, that mean different things on different machines, or that no machine takes. */
export function checkEntryName(name: string): void {
  const parts = name.split('/');
  const bad =
    name.includes('\0') ||
    name.includes('\\') ||
    name.startsWith('/') ||
    /^[A-Za-z]:/.test(name) ||
    parts.some((part) => part === '..' || part === '.');
  if (bad) throw refusal(`The package holds \`${name}\`, a path that leads out of it. It was not opened.`);
  if (name.length > 1000 || parts.some((part) => Buffer.byteLength(part) > MOST_LETTERS))
    throw refusal(`The package holds \`${name.slice(0, 60)}…\`, a name that is too long. It was not opened.`);
}
