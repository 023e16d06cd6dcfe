// Measures how much of each part the unit and server tests run, and shows it. What only the real page (e2e) or another process runs
// counts as not run. Arguments choose test files, as vitest takes them.
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { relative, sep } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
// What is counted costs memory at every line, so that a test which counts memory is left out (ZONULA_COVERAGE).
const done = spawnSync(
  process.execPath,
  [`${root}node_modules/vitest/vitest.mjs`, 'run', '--coverage', ...process.argv.slice(2)],
  { cwd: root, stdio: 'inherit', env: { ...process.env, ZONULA_COVERAGE: '1' } },
);
const summary = JSON.parse(
  readFileSync(new URL('../coverage/coverage-summary.json', import.meta.url), 'utf8'),
);

/** A part: a room of core or of the page, or another folder whole. */
function partOf(file) {
  const [top, room, deeper] = relative(root, file).split(sep);
  return deeper && ['core', 'web', 'server'].includes(top) ? `${top}/${room}` : top;
}
const parts = new Map();
for (const [file, { lines, branches }] of Object.entries(summary)) {
  const names = file === 'total' ? ['all'] : [partOf(file)];
  for (const name of names) {
    const part = parts.get(name) ?? { lines: 0, run: 0, branches: 0, taken: 0 };
    part.lines += lines.total;
    part.run += lines.covered;
    part.branches += branches.total;
    part.taken += branches.covered;
    parts.set(name, part);
  }
}
const share = (run, all) => (all ? `${((100 * run) / all).toFixed(0)} %` : '–');
console.log(`${'part'.padEnd(22)}${'lines'.padStart(8)}${'run'.padStart(8)}${'branches'.padStart(10)}`);
for (const [name, p] of [...parts].sort(([a], [b]) => (a === 'all' ? 1 : b === 'all' ? -1 : a < b ? -1 : 1)))
  console.log(
    `${name.padEnd(22)}${String(p.lines).padStart(8)}${share(p.run, p.lines).padStart(8)}${share(p.taken, p.branches).padStart(10)}`,
  );
process.exitCode = done.status ?? 1;
