// Builds what is stale: the engine (AssemblyScript to WebAssembly), the page (Vite) and the command line.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { buildSync } from 'esbuild';
import { at, COMMANDS, ENGINE, filesIn, look, PAGE, root, stamp, stampOf } from './stale.cjs';

/** A fingerprint of what the files hold. */
function fingerprint({ sources }) {
  const hash = createHash('sha256');
  for (const file of filesIn(sources)) hash.update(file.slice(root.length)).update(readFileSync(file));
  return hash.digest('hex');
}

function step(what, command, args, before = () => {}) {
  const { name } = what;
  const known = stamp(what);
  const seen = look(what);
  if (known.seen === seen) return;
  const now = fingerprint(what);
  const keep = () => writeFileSync(stampOf(what), `${now}\n${seen}`);
  if (known.content === now) return keep();
  process.stderr.write(`Building the ${name} …\n`);
  mkdirSync(at('build'), { recursive: true });
  before();
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

/** Writes what the engine's files share with the core into build/engine. */
function writeEngineSource() {
  const { outputFiles } = buildSync({
    entryPoints: [at('core/plan/engineSource.ts')],
    bundle: true,
    platform: 'node',
    format: 'cjs',
    write: false,
  });
  const module = { exports: {} };
  new Function('module', 'require', outputFiles[0].text)(module, createRequire(import.meta.url));
  const folder = at('build', 'engine');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'parameters'), { recursive: true });
  for (const [name, text] of module.exports.engineSource()) writeFileSync(join(folder, name), text);
}

export function buildEngine() {
  const options = '--enable simd --runtime stub -O3 --noAssert --converge --initialMemory 24';
  step(
    ENGINE,
    'assemblyscript/bin/asc.js',
    ['engine/assembly/index.ts', '--outFile', 'build/engine.wasm', ...options.split(' ')],
    writeEngineSource,
  );
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
