import { Refusal } from '../../core/session/refusal';

/** What a package may hold; beyond it is refused before anything is unpacked. */
export const PACKAGE_LIMITS = {
  entries: 4000,
  documentBytes: 32 * 2 ** 20,
  totalBytes: 64 * 2 ** 30,
  /** A small file that grows this much is a bomb, not a recording; below `freeBytes` it may. */
  growth: 200,
  freeBytes: 64 * 2 ** 20,
} as const;

/** A package that is refused as it is. */
export const refusal = (message: string, rule: 'format' | 'size' = 'format') => new Refusal(rule, message);

/** Refuses names that lead out of the folder or that mean different things on different machines. */
export function checkEntryName(name: string): void {
  const bad =
    name.includes('\0') ||
    name.includes('\\') ||
    name.startsWith('/') ||
    /^[A-Za-z]:/.test(name) ||
    name.split('/').some((part) => part === '..' || part === '.');
  if (bad) throw refusal(`The package holds \`${name}\`, a path that leads out of it. It was not opened.`);
}
