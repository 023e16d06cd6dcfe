import type { Session } from '@core/session/types';

/** A stem as a file, by the address that gives it and the name that it is kept by. */
export interface StemFile {
  readonly name: string;
  readonly href: string;
}
/** Milliseconds between two files: a browser takes many at once for one. */
const APART = 300;

/** The stems of some strips, once each, by the name of the first that has it. */
export function stemFiles({ strips }: Session, ids: readonly string[]): readonly StemFile[] {
  const files = new Map<string, StemFile>();
  for (const { id, name, stem } of strips) {
    if (!ids.includes(id) || stem === null || files.has(stem)) continue;
    const called = name || id;
    const query = new URLSearchParams({ name: called });
    files.set(stem, { name: `${called}.wav`, href: `/api/stems/${stem}/file?${query}` });
  }
  return [...files.values()];
}

/** Has the browser keep files, one after the other. */
export async function saveStems(files: readonly StemFile[]): Promise<void> {
  for (const { name, href } of files) {
    const link = document.createElement('a');
    link.href = href;
    link.download = name;
    link.click();
    await new Promise((done) => setTimeout(done, APART));
  }
}
