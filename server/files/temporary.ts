import { mkdirSync, readdirSync, rmSync, statSync } from 'node:fs';
import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const NAME = /^zonula-(\d+)-/;

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/** Removes the temporary folders of processes that have ended without doing so: killed ones do not. */
export function clearLeftovers(folder = tmpdir()): void {
  for (const name of readdirSync(folder)) {
    const pid = NAME.exec(name)?.[1];
    if (!pid || isAlive(Number(pid))) continue;
    try {
      const path = join(folder, name);
      if (statSync(path).uid === process.getuid?.()) rmSync(path, { recursive: true, force: true });
    } catch {
      // Another start was faster.
    }
  }
}

/** A folder of this process, which it removes itself; where it cannot, the next one does. @returns its path */
export async function temporaryFolder(what: string, parent = tmpdir()): Promise<string> {
  mkdirSync(parent, { recursive: true });
  clearLeftovers(parent);
  return mkdtemp(join(parent, `zonula-${process.pid}-${what}-`));
}
