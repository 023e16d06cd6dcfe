// Puts the command line into one file, build/cli.cjs: what is known of one file's code can be kept (see keptCode.cjs).
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import Ajv2020 from 'ajv/dist/2020.js';
import standaloneCode from 'ajv/dist/standalone/index.js';
import { build } from 'esbuild';

/** The check for complete documents, compiled beforehand: to compile it takes longer than many a print. */
async function compiledCheck() {
  const folder = mkdtempSync(join(tmpdir(), 'zonula-build-'));
  const { outputFiles } = await build({
    entryPoints: ['core/formats/completeSchema.ts'],
    bundle: true,
    platform: 'node',
    format: 'cjs',
    write: false,
  });
  const file = join(folder, 'schema.cjs');
  writeFileSync(file, outputFiles[0].contents);
  const { completeSchema } = (await import(pathToFileURL(file))).default;
  rmSync(folder, { recursive: true });
  const ajv = new Ajv2020({
    strict: false,
    inlineRefs: false,
    messages: false,
    code: { source: true, esm: true, optimize: 2 },
  });
  const code = standaloneCode(ajv, ajv.compile(completeSchema()));
  return code
    .replace('export const validate =', 'export const hasEveryField =')
    .replace(/export default [^;]+;/, '');
}
const compiled = {
  name: 'compiled check',
  setup(steps) {
    steps.onLoad({ filter: /core[/\\]formats[/\\]completeSchema\.ts$/ }, async () => ({
      contents: await compiledCheck(),
      loader: 'js',
    }));
  },
};

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
  plugins: [compiled],
  minifySyntax: true,
  minifyWhitespace: true,
  logLevel: 'warning',
});
