import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Readable, Writable } from 'node:stream';

/** Megabytes that a process takes for itself, as the system counts it: proc(5), what is resident without files. */
function ownMegabytes(pid: number): number {
  const status = readFileSync(`/proc/${pid}/status`, 'utf8');
  const of = (name: string) => Number(new RegExp(`${name}:\\s+(\\d+)`).exec(status)?.[1] ?? 0);
  return (of('RssAnon') + of('RssShmem')) / 1024;
}

/**
 * Opens a page in a Chromium that nobody looks into: a tool that steers tests keeps what the page fetches, in the page's own
 * process, and that would be counted.
 * @param play clicks and waits, as source of a function that returns a promise
 * @returns megabytes of the page's process when it has been opened, and after that
 */
export async function pageMemory(
  url: string,
  play: string,
): Promise<{ readonly opened: number; readonly played: number }> {
  const profile = mkdtempSync(join(tmpdir(), 'zonula-bench-browser-'));
  const browser = spawn(
    ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync)!,
    [
      ...['--headless=new', '--no-sandbox', '--no-first-run', '--disable-gpu', '--remote-debugging-pipe'],
      ...[
        `--user-data-dir=${profile}`,
        '--autoplay-policy=no-user-gesture-required',
        '--window-size=1280,800',
      ],
      'about:blank',
    ],
    { stdio: ['ignore', 'ignore', 'ignore', 'pipe', 'pipe'] },
  );
  try {
    const [, , , into, out] = browser.stdio as unknown as [null, null, null, Writable, Readable];
    const waiting = new Map<number, (result: Record<string, unknown>) => void>();
    // Messages end with a byte that is 0.
    let held = '';
    out.setEncoding('utf8').on('data', (piece: string) => {
      const messages = (held + piece).split('\0');
      held = messages.pop()!;
      for (const message of messages) {
        const { id, result, error } = JSON.parse(message) as {
          id?: number;
          result?: Record<string, unknown>;
          error?: object;
        };
        if (id !== undefined) waiting.get(id)?.(result ?? { error });
      }
    });
    let last = 0;
    const send = (method: string, params: object = {}, sessionId?: string) =>
      new Promise<Record<string, unknown>>((done) => {
        waiting.set(++last, done);
        into.write(`${JSON.stringify({ id: last, method, params, sessionId })}\0`);
      });
    const { targetId } = await send('Target.createTarget', { url });
    const { sessionId } = (await send('Target.attachToTarget', { targetId, flatten: true })) as {
      sessionId: string;
    };
    const run = (source: string) =>
      send(
        'Runtime.evaluate',
        { expression: `(${source})()`, awaitPromise: true, userGesture: true },
        sessionId,
      );
    const megabytes = async () => {
      const { processInfo } = (await send('SystemInfo.getProcessInfo')) as {
        processInfo: { type: string; id: number }[];
      };
      return Math.max(...processInfo.filter((p) => p.type === 'renderer').map((p) => ownMegabytes(p.id)));
    };
    // A page that is on its way lets go of what runs in the one before.
    const open = `async () => {
      while (!document.querySelector('[role="grid"]')) await new Promise((r) => setTimeout(r, 50));
      await new Promise((r) => setTimeout(r, 3000));
      return true;
    }`;
    for (let k = 0; !((await run(open)) as { result?: { value?: boolean } }).result?.value; k++)
      if (k > 100) throw new Error('The page does not open.');
    const opened = await megabytes();
    const said = await run(play);
    const { exceptionDetails } = said as {
      exceptionDetails?: { text: string; exception?: { description?: string } };
    };
    if (exceptionDetails) throw new Error(exceptionDetails.exception?.description ?? exceptionDetails.text);
    const played = await megabytes();
    return { opened, played };
  } finally {
    browser.kill();
    await new Promise((done) => (browser.exitCode === null ? browser.once('exit', done) : done(null)));
    rmSync(profile, { recursive: true, force: true, maxRetries: 5 });
  }
}
