// Puts the command line into one file, build/cli.mjs, and what single commands alone need into others beside it.
import { readdirSync, rmSync } from 'node:fs';
import { build } from 'esbuild';

for (const name of readdirSync('build')) if (/^cli-.*\.mjs$/.test(name)) rmSync(`build/${name}`);
await build({
  entryPoints: ['bin/cli.ts'],
  outdir: 'build',
  chunkNames: 'cli-[hash]',
  outExtension: { '.js': '.mjs' },
  splitting: true,
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  // Packages come along, but for those that talk to a database: reading many small files would take longer than a print.
  external: ['sequelize', 'umzug'],
  banner: {
    js: "import { createRequire as requireFor } from 'node:module'; const require = requireFor(import.meta.url);",
  },
  minifySyntax: true,
  minifyWhitespace: true,
  logLevel: 'warning',
});
