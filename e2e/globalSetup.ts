import { mkdtempSync, rmSync, chmodSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../scripts/postgres.mjs';
import { gone, running, start } from './app';

/** Names the demo, which every test's own session is made like: of those called so, the one that was opened longest ago. */
async function findDemo(): Promise<void> {
  const answer = await fetch(`http://127.0.0.1:${process.env.E2E_PORT}/api/sessions`);
  const { sessions } = (await answer.json()) as { sessions: { id: string; name: string }[] };
  process.env.E2E_DEMO ??= sessions.findLast((s) => s.name === 'Lantern Tide')!.id;
}

export default async function setup(): Promise<() => Promise<void>> {
  // One that runs already may be used, when tests are being written.
  if (process.env.E2E_PORT && process.env.E2E_DATA) {
    await findDemo();
    return async () => {};
  }
  const data = mkdtempSync(join(tmpdir(), 'zonula-e2e-'));
  chmodSync(data, 0o755);
  const port = await freePort();
  process.env.E2E_DATA = data;
  process.env.E2E_PORT = String(port);
  await start(data, port);
  await findDemo();
  return async () => {
    // A test may have started it anew: what runs now is stopped, as Ctrl+C does.
    const now = running(data)!;
    process.kill(now.pid, 'SIGINT');
    await gone(now.pid, 40);
    rmSync(data, { recursive: true, force: true });
  };
}
