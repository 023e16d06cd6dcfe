// npm test: everything, from a clean clone on a fresh machine. Each step must pass.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { installPackages } from './start.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
installPackages();
const { installDebian, postgresBinaries } = await import('./postgres.mjs');
const { buildEngine, buildPage } = await import('./build.mjs');

const chromium = ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync);
if (!postgresBinaries()) installDebian(['postgresql'], 'No PostgreSQL server was found.');
if (!chromium) installDebian(['chromium'], 'No Chromium was found.');

function step(name, command, args) {
  const begun = Date.now();
  console.log(`\n— ${name}`);
  const done = spawnSync(process.execPath, [join(root, 'node_modules', command), ...args], {
    cwd: root,
    stdio: 'inherit',
  });
  if (done.status !== 0) {
    console.error(`\n${name} failed.`);
    process.exit(done.status ?? 1);
  }
  console.log(`  ${Math.round((Date.now() - begun) / 1000)} s`);
}

step('Lint', 'eslint/bin/eslint.js', ['.', '--max-warnings', '0']);
step('Format', 'prettier/bin/prettier.cjs', ['--check', '--log-level', 'warn', '.']);
step('Types', 'vue-tsc/bin/vue-tsc.js', ['--noEmit']);
step('Types of the core alone', 'typescript/bin/tsc', ['--noEmit', '-p', 'core/tsconfig.json']);
step('What the page must not grow back into', '../scripts/pageCounts.mjs', []);
buildEngine();
step('Unit and server tests', 'vitest/vitest.mjs', ['run']);
buildPage();
step('The real page in Chromium', '@playwright/test/cli.js', ['test']);
console.log('\nAll passed.');
