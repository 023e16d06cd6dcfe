// npm run bench: measures, and prints JSON lines. Figures are compared within one run alone: machines are noisy.
import { spawnSync } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { installPackages } from './start.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
installPackages();
const { buildEngine, buildPage } = await import('./build.mjs');
buildEngine();
buildPage();
process.exit(
  spawnSync(
    process.execPath,
    ['--import', 'tsx', join(root, 'scripts', 'bench.ts'), ...process.argv.slice(2)],
    { stdio: 'inherit' },
  ).status ?? 1,
);
