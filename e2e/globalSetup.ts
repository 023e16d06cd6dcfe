import { mkdtempSync, rmSync, chmodSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../scripts/postgres.mjs';
import { gone, running, start } from './app';

export default async function setup(): Promise<() => Promise<void>> {
  // One that runs already may be used, when tests are being written.
  if (process.env.E2E_PORT && process.env.E2E_DATA) return async () => {};
  const data = mkdtempSync(join(tmpdir(), 'zonula-e2e-'));
  chmodSync(data, 0o755);
  const port = await freePort();
  process.env.E2E_DATA = data;
  process.env.E2E_PORT = String(port);
  await start(data, port);
  // The demo as it was made, which every test's own session is made like.
  const answer = await fetch(`http://127.0.0.1:${port}/api/sessions`);
  process.env.E2E_DEMO = ((await answer.json()) as { sessions: { id: string }[] }).sessions[0]!.id;
  return async () => {
    // A test may have started it anew: what runs now is stopped, as Ctrl+C does.
    const now = running(data)!;
    process.kill(now.pid, 'SIGINT');
    await gone(now.pid, 40);
    rmSync(data, { recursive: true, force: true });
  };
}
