// Puts the command line into one file, build/cli.cjs: what is known of one file's code can be kept (see keptCode.cjs).
import { rmSync } from 'node:fs';
import { build } from 'esbuild';

rmSync('build/code', { recursive: true, force: true });
await build({
  entryPoints: ['bin/cli.ts'],
  outfile: 'build/cli.cjs',
  bundle: true,
  platform: 'node',
  format: 'cjs',
  target: 'node20',
  supported: { 'dynamic-import': false },
  define: { 'import.meta.url': 'bundleUrl' },
  banner: { js: "const bundleUrl = require('node:url').pathToFileURL(__filename).href;" },
  // Packages come along, as reading many small files would take longer than a print; but for those that talk to a database or start
  // threads.
  external: ['sequelize', 'umzug', 'piscina'],
  minifySyntax: true,
  minifyWhitespace: true,
  logLevel: 'warning',
});
