import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';

setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc') as () => void;

/**
 * Bytes that a function leaves on the heap, the least of several runs: what it allocates by itself it does in every run;
 * what the host puts there for its own sake, it does now and then.
 */
export function leastGrowth(run: () => void, runs = 4): number {
  const grown = Array.from({ length: runs }, () => {
    collect();
    const before = process.memoryUsage().heapUsed;
    run();
    return process.memoryUsage().heapUsed - before;
  });
  return Math.min(...grown);
}
