// Builds what is stale: the engine (AssemblyScript to WebAssembly) and the page (Vite).
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { at, COMMANDS, ENGINE, filesIn, look, PAGE, root, stamp, stampOf } from './stale.cjs';

/** A fingerprint of what the files hold. */
function fingerprint({ sources }) {
  const hash = createHash('sha256');
  for (const file of filesIn(sources)) hash.update(file.slice(root.length)).update(readFileSync(file));
  return hash.digest('hex');
}

function step(what, command, args) {
  const { name } = what;
  const known = stamp(what);
  const seen = look(what);
  if (known.seen === seen) return;
  const now = fingerprint(what);
  const keep = () => writeFileSync(stampOf(what), `${now}\n${seen}`);
  if (known.content === now) return keep();
  process.stderr.write(`Building the ${name} …\n`);
  mkdirSync(at('build'), { recursive: true });
  const done = spawnSync(process.execPath, [at('node_modules', command), ...args], {
    cwd: root,
    encoding: 'utf8',
  });
  if (done.status !== 0) {
    process.stderr.write(`${done.stdout ?? ''}${done.stderr ?? ''}\nThe ${name} could not be built.\n`);
    process.exit(1);
  }
  keep();
}

export function buildEngine() {
  step(ENGINE, 'assemblyscript/bin/asc.js', [
    'engine/assembly/index.ts',
    '--outFile',
    'build/engine.wasm',
    '--enable',
    'simd',
    '--runtime',
    'stub',
    '-O3',
    '--noAssert',
    '--converge',
    '--initialMemory',
    '16',
  ]);
}

export function buildPage() {
  step(PAGE, 'vite/bin/vite.js', ['build', '--logLevel', 'warn']);
}

/** The command line in one file, so that it starts at once. */
export function buildCommands() {
  step(COMMANDS, '../scripts/bundleCommands.mjs', []);
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  buildEngine();
  if (!process.argv.includes('--engine')) {
    buildPage();
    buildCommands();
  }
}
