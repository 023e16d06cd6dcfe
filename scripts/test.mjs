// npm test: everything, from a clean clone on a fresh machine. Each step must pass.
import { spawn } from 'node:child_process';
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

/** Runs one check. @param quiet whether what it says is kept until it has ended */
function step(name, command, args, quiet = false) {
  const begun = Date.now();
  if (!quiet) console.log(`\n— ${name}`);
  const child = spawn(process.execPath, [join(root, 'node_modules', command), ...args], {
    cwd: root,
    stdio: quiet ? ['ignore', 'pipe', 'pipe'] : 'inherit',
  });
  let said = '';
  child.stdout?.on('data', (piece) => (said += piece));
  child.stderr?.on('data', (piece) => (said += piece));
  return new Promise((done) =>
    child.on('close', (code) => {
      const seconds = Math.round((Date.now() - begun) / 1000);
      console.log(`${quiet ? `\n— ${name}\n${said}` : ''}  ${seconds} s`);
      if (code !== 0) {
        console.error(`\n${name} failed.`);
        process.exit(code || 1);
      }
      done();
    }),
  );
}

// What only reads runs side by side: lint, which takes as long as the rest of it together, and the rest.
await Promise.all([
  step('Lint', 'eslint/bin/eslint.js', ['.', '--max-warnings', '0'], true),
  (async () => {
    await step('Format', 'prettier/bin/prettier.cjs', ['--check', '--log-level', 'warn', '.'], true);
    await step('Types', 'vue-tsc/bin/vue-tsc.js', ['--noEmit'], true);
    await step(
      'Types of the core alone',
      'typescript/bin/tsc',
      ['--noEmit', '-p', 'core/tsconfig.json'],
      true,
    );
    await step('What the page must not grow back into', '../scripts/pageCounts.mjs', [], true);
  })(),
]);
buildEngine();
await step('Unit and server tests', 'vitest/vitest.mjs', ['run']);
buildPage();
await step('The real page in Chromium', '@playwright/test/cli.js', ['test']);
console.log('\nAll passed.');
