// Builds what is stale: the engine (AssemblyScript to WebAssembly) and the page (Vite).
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const at = (...p) => join(root, ...p);

function* filesIn(path) {
  if (!existsSync(path)) return;
  if (statSync(path).isFile()) yield path;
  else for (const name of readdirSync(path).sort()) yield* filesIn(join(path, name));
}

/** A fingerprint of everything below these paths; tests do not count. */
function fingerprint(paths) {
  const hash = createHash('sha256');
  for (const path of paths)
    for (const file of filesIn(at(path)))
      if (!/\.(test|spec)\.ts$/.test(file)) hash.update(file.slice(root.length)).update(readFileSync(file));
  return hash.digest('hex');
}

function step(name, product, sources, command, args) {
  const stamp = at('build', `${name}.stamp`);
  const now = fingerprint(sources);
  if (existsSync(at(product)) && existsSync(stamp) && readFileSync(stamp, 'utf8') === now) return;
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
  writeFileSync(stamp, now);
}

export function buildEngine() {
  step('engine', 'build/engine.wasm', ['engine/assembly', 'scripts/build.mjs'], 'assemblyscript/bin/asc.js', [
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
  step(
    'page',
    'build/web/index.html',
    [
      'web',
      'core',
      'engine/engine.ts',
      'engine/print.ts',
      'vite.config.ts',
      'package-lock.json',
      'build/engine.wasm',
    ],
    'vite/bin/vite.js',
    ['build', '--logLevel', 'warn'],
  );
}

/** The command line in one file, so that it starts at once. */
export function buildCommands() {
  step(
    'command line',
    'build/cli.mjs',
    ['bin/cli.ts', 'core', 'engine', 'server', 'demo', 'scripts/bundleCommands.mjs', 'package-lock.json'],
    '../scripts/bundleCommands.mjs',
    [],
  );
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  buildEngine();
  if (!process.argv.includes('--engine')) {
    buildPage();
    buildCommands();
  }
}
