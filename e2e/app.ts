import { spawn, type ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { APIRequestContext, Locator, Page } from '@playwright/test';
import { expect } from '@playwright/test';
import type { Command } from '../core/edits/commands';
import type { Session } from '../core/session/types';

const root = fileURLToPath(new URL('..', import.meta.url));

/** The application under test, started as a user starts it, on data of its own. */
export interface App {
  readonly data: string;
  readonly port: number;
  readonly base: string;
}
export const app = (): App => ({
  data: process.env.E2E_DATA!,
  port: Number(process.env.E2E_PORT),
  base: `http://127.0.0.1:${process.env.E2E_PORT}`,
});

/** Starts it, and waits for the line that says it is ready. */
export function start(data: string, port: number, host = '127.0.0.1'): Promise<ChildProcess> {
  const child = spawn(process.execPath, [join(root, 'scripts', 'start.mjs')], {
    env: { ...process.env, ZONULA_DATA: data, PORT: String(port), DATABASE_URL: '' },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  return new Promise((done, fail) => {
    let said = '';
    const timer = setTimeout(() => fail(new Error(`It did not start in time:\n${said}`)), 900_000);
    const hear = (piece: Buffer) => {
      said += piece.toString();
      if (said.includes(`Zonula is ready at http://${host}:${port}`)) {
        clearTimeout(timer);
        done(child);
      }
    };
    child.stdout.on('data', hear);
    child.stderr.on('data', hear);
    child.on('exit', (code) => {
      clearTimeout(timer);
      fail(new Error(`It ended with code ${code}:\n${said}`));
    });
  });
}

export const running = (data: string): { url: string; port: number; pid: number; server: number } | null =>
  existsSync(join(data, 'running.json'))
    ? JSON.parse(readFileSync(join(data, 'running.json'), 'utf8'))
    : null;

/** Waits until a process has gone. */
export async function gone(pid: number, seconds = 20): Promise<void> {
  for (let i = 0; i < seconds * 10; i++) {
    try {
      process.kill(pid, 0);
    } catch {
      return;
    }
    await new Promise((r) => setTimeout(r, 100));
  }
  throw new Error(`Process ${pid} is still there.`);
}

// — what an engineer does, in the page —

/** The demo as it was made. */
async function demo(request: APIRequestContext): Promise<Session> {
  const found = await request.get(`${app().base}/api/sessions/${process.env.E2E_DEMO}`);
  return ((await found.json()) as { document: Session }).document;
}
/** Opens a session of its own, made like the demo, with the demo's audio. */
export async function openDemo(page: Page): Promise<void> {
  const { request } = page;
  const like = await demo(request);
  const made = await request.post(`${app().base}/api/sessions`, {
    data: { name: like.name, sampleRate: like.sampleRate },
  });
  const { id } = (await made.json()) as { id: string };
  const { panLaw, tempo, monitor, dismissed } = like;
  const commands: Command[] = [
    { type: 'session.set', patch: { panLaw, tempo, monitor, dismissed } },
    { type: 'sections.set', sections: like.sections },
    { type: 'strip.remove', id: 'main' },
    ...like.strips.map((strip, at): Command => ({ type: 'strip.add', strip, at })),
    ...like.vcas.map((vca, at): Command => ({ type: 'vca.add', vca, at })),
  ];
  const kept = await request.post(`${app().base}/api/sessions/${id}/commits`, {
    data: { revision: 0, changeId: randomUUID(), label: 'made like the demo', commands },
  });
  expect(kept.status(), await kept.text()).toBe(200);
  await page.goto(`${app().base}/session/${id}`);
  await expect(page.getByRole('grid')).toBeVisible();
}
/** Opens the session that another page shows. */
export async function openLike(page: Page, url: string): Promise<void> {
  await page.goto(url);
  await expect(page.getByRole('grid')).toBeVisible();
}
export const cell = (page: Page, strip: string, row: string) => page.locator(`[id="cell-${strip}-${row}"]`);
/** Waits until the page has drawn so many pictures. */
export const pictures = (page: Page, count: number) =>
  page.evaluate(async (n) => {
    for (let i = 0; i < n; i++) await new Promise(requestAnimationFrame);
  }, count);
/** Whether a strip's column stands wholly inside the part of the Sheet that scrolls. */
const inView = (page: Page, strip: string) =>
  cell(page, strip, 'cap').evaluateAll(([el]) => {
    if (!el) return false;
    const [box, zone] = [el.getBoundingClientRect(), el.closest('.zone')!.getBoundingClientRect()];
    return box.left >= zone.left - 1 && box.right <= zone.right + 1;
  });
/** Turns the wheel until the strip's column is in view. */
export async function show(page: Page, strip: string): Promise<void> {
  await expect(page.locator('[data-strip]').first()).toBeVisible();
  if (await inView(page, strip)) return;
  await page.getByRole('grid').hover({ position: { x: 300, y: 8 } });
  await page.mouse.wheel(0, -5000);
  for (let i = 0; i < 60 && !(await inView(page, strip)); i++) {
    await page.mouse.wheel(0, 100);
    await pictures(page, 3);
  }
  await pictures(page, 6);
}
export async function pick(
  page: Page,
  strip: string,
  modifiers: ('Shift' | 'Control')[] = [],
): Promise<void> {
  await show(page, strip);
  await cell(page, strip, 'cap').click({ modifiers });
}
export const undoLabel = (page: Page) => page.locator('.history .what');
/** Waits until everything that was edited is kept; what was just done is seen two pictures later. */
export async function saved(page: Page): Promise<void> {
  await pictures(page, 2);
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
}
/** Seconds on the transport's clock. */
export async function clock(page: Page): Promise<number> {
  const [m, s] = (await page.getByTestId('clock').textContent())!.trim().split(':');
  return Number(m) * 60 + Number(s);
}
/** Waits until so many seconds more have been played. */
export async function played(page: Page, seconds: number): Promise<void> {
  const from = await clock(page);
  await expect.poll(() => clock(page), { intervals: [20] }).toBeGreaterThanOrEqual(from + seconds);
}
/** Short-term loudness of the main output, as the transport shows it; -Infinity when silent. */
export async function mainLoudness(page: Page): Promise<number> {
  const text = (await page.getByTestId('loudness').textContent())!;
  const n = Number(text.split(' ')[0]!.replace('−', '-'));
  return Number.isNaN(n) ? -Infinity : n;
}
/** The same when it has come to rest: alike twice, a second and more apart. */
export async function steadyLoudness(page: Page): Promise<number> {
  let before = NaN;
  for (let i = 0; i < 15; i++) {
    const now = await mainLoudness(page);
    if (Math.abs(now - before) < 0.15) return now;
    before = now;
    await page.waitForTimeout(1300);
  }
  throw new Error(`The level does not come to rest: ${before} dB.`);
}
/** The session's document, as the server has it. */
export async function document(page: Page): Promise<{
  strips: {
    id: string;
    name: string;
    out: { to: string; on: boolean };
    sends: { to: string; tap: string; levelDb: number | null }[];
    faderDb: number | null;
    mute: boolean;
    family: string;
    icon: string;
  }[];
  vcas: { id: string; faderDb: number | null; members: string[] }[];
}> {
  const id = /session\/([0-9a-f-]+)/.exec(page.url())![1]!;
  return (await (await page.request.get(`${app().base}/api/sessions/${id}`)).json()).document;
}
export async function newSession(page: Page, name: string): Promise<void> {
  await page.goto(app().base);
  await page.getByRole('button', { name: 'New session' }).click();
  await page.getByLabel('Name').fill(name);
  await page.getByRole('button', { name: 'Create' }).click();
  await expect(page.getByText('This session has no stems yet')).toBeVisible();
}
/** Chooses in a list of choices, as a hand does: opens it, and takes the line. */
export async function choose(within: Page | Locator, label: string, option: string | RegExp): Promise<void> {
  const page = 'page' in within ? within.page() : within;
  await within.getByRole('combobox', { name: label, exact: true }).click({ force: true });
  await page.getByRole('option', { name: option, exact: typeof option === 'string' }).click();
}
export const bringIn = (page: Page, files: { name: string; buffer: Buffer }[]) =>
  page
    .getByLabel('Audio files', { exact: true })
    .setInputFiles(files.map((f) => ({ ...f, mimeType: 'audio/wav' })));
