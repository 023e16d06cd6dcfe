import { mkdtempSync, rmSync, chmodSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** Builds the engine, and starts a database of its own for the tests: each test file makes its own database in it. */
export default async function setup(): Promise<() => Promise<void>> {
  const { buildEngine } = await import('../../scripts/build.mjs');
  buildEngine();
  if (process.env.ZONULA_TEST_DATABASE) return async () => {};
  const { startPostgres } = await import('../../scripts/postgres.mjs');
  const data = mkdtempSync(join(tmpdir(), 'zonula-test-'));
  chmodSync(data, 0o755);
  const database = await startPostgres(data, { quiet: true });
  process.env.ZONULA_TEST_DATABASE = database.url;
  return async () => {
    await database.stop();
    rmSync(data, { recursive: true, force: true });
  };
}
