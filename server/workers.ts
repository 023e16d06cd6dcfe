import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { Piscina } from 'piscina';
import { log } from './log';

/** The project's folder, whether this is run as it stands or from the bundle of the command line. */
function projectRoot(): string {
  let folder = dirname(fileURLToPath(import.meta.url));
  while (!existsSync(join(folder, 'package-lock.json'))) {
    const above = dirname(folder);
    if (above === folder) throw new Error('The project’s folder was not found.');
    folder = above;
  }
  return folder;
}

/**
 * Threads for what would keep the server's own from answering. They end when nothing was asked of them for a while, and what
 * takes more memory than it may ends its thread and no other.
 * @param file the thread's code, from the project's folder
 * @param megabytes that one thread may have for its objects
 */
export function threads(file: string, most: number, megabytes: number): Piscina {
  const root = projectRoot();
  const pool = new Piscina({
    filename: join(root, 'server', 'thread.mjs'),
    workerData: { file: pathToFileURL(join(root, file)).href },
    minThreads: 0,
    maxThreads: most,
    concurrentTasksPerWorker: 1,
    idleTimeout: 20_000,
    // Without what the process itself was started with: the thread sees to itself.
    execArgv: [],
    resourceLimits: { maxOldGenerationSizeMb: megabytes },
  });
  // A thread that fails while nothing was asked of it; what was asked is told to who asked.
  pool.on('error', (error: Error) => log.error({ err: error }, 'A thread failed.'));
  return pool;
}
