// One instance a folder: a lock of the kernel's on a file, which goes with the processes that hold it.
import { spawnSync } from 'node:child_process';
import { closeSync, openSync } from 'node:fs';

/**
 * Takes the lock on a file, or says that somebody has it. It is flock(2): it lies on the opened file, so it lasts as long as
 * this process or any that the number is passed on to has it open, and is gone when they are, killed or not. The file itself
 * stays and says nothing.
 * @returns the number of the opened file, or null where another process holds it
 */
export function takeLock(file) {
  const opened = openSync(file, 'a', 0o644);
  const asked = spawnSync('flock', ['--nonblock', '3'], {
    stdio: ['ignore', 'ignore', 'pipe', opened],
    encoding: 'utf8',
  });
  if (asked.status === 0) return opened;
  closeSync(opened);
  if (asked.error || asked.stderr.trim())
    throw new Error(
      `${file} could not be locked: ${asked.error?.message ?? asked.stderr.trim()}. Zonula needs \`flock\`, of Debian's package util-linux.`,
    );
  return null;
}
