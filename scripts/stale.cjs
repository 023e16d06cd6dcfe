// Tells at a glance whether what is built still fits its sources; build.mjs looks closer where it may not. It is CommonJS, as all
// that runs before a command does: what loads modules of the other kind takes longer to start than a command.
const { readdirSync, readFileSync, statSync } = require('node:fs');
const { join } = require('node:path');

const root = join(__dirname, '..');
const at = (...p) => join(root, ...p);

/** What is built: its name, what it makes, and what it is made of. */
const ENGINE = {
  name: 'engine',
  product: 'build/engine.wasm',
  sources: ['engine/assembly', 'core/processors', 'core/plan', 'scripts/build.mjs'],
};
const PAGE = {
  name: 'page',
  product: 'build/web/index.html',
  sources: [
    'web',
    'core',
    'engine',
    'aliases.ts',
    'vite.config.ts',
    'package-lock.json',
    'build/engine.wasm',
  ],
};
const COMMANDS = {
  name: 'command line',
  product: 'build/cli.cjs',
  sources: [
    'bin/cli.ts',
    'bin/commands',
    'package.json',
    'core',
    'engine',
    'server',
    'demo',
    'scripts/bundleCommands.mjs',
    'package-lock.json',
  ],
};

/** Every file below these paths; tests do not count. */
function* filesIn(paths) {
  for (const path of paths) {
    const facts = statSync(at(path), { throwIfNoEntry: false });
    if (facts?.isFile()) yield at(path);
    else if (facts) yield* filesBelow(at(path));
  }
}
function* filesBelow(folder) {
  const entries = readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1));
  for (const entry of entries) {
    const path = `${folder}/${entry.name}`;
    if (entry.isDirectory()) yield* filesBelow(path);
    else if (!/\.(test|spec)\.ts$/.test(entry.name)) yield path;
  }
}

const stampOf = ({ name }) => at('build', `${name}.stamp`);

/** The sources as they look from outside: their names, sizes and times of change. */
function look({ sources }) {
  let seen = '';
  for (const file of filesIn(sources)) {
    const { size, mtimeMs } = statSync(file);
    seen += `${file.slice(root.length)} ${size} ${mtimeMs}, `;
  }
  return seen;
}

/** What was written when it was built last: a fingerprint of what the sources held, and how they looked. */
function stamp(what) {
  try {
    statSync(at(what.product));
    const [content, seen] = readFileSync(stampOf(what), 'utf8').split('\n');
    return { content, seen };
  } catch {
    return { content: '', seen: '' };
  }
}

/** Whether nobody has touched the sources since. */
const untouched = (what) => stamp(what).seen === look(what);

module.exports = { root, at, ENGINE, PAGE, COMMANDS, filesIn, stampOf, look, stamp, untouched };
