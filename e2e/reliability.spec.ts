import { randomUUID } from 'node:crypto';
import { mkdtempSync, chmodSync, rmSync, writeFileSync } from 'node:fs';
import { networkInterfaces, tmpdir } from 'node:os';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { newStrip } from '../core/session/defaults';
import { isKeepable } from '../core/base/text';
import type { Session } from '../core/session/types';
import { freePort } from '../scripts/postgres.mjs';
import { toneFile } from '../server/testing/wav';
import { app, cell, document as shown, gone, pick, running, saved, start, undoLabel } from './app';

const document = async (page: Page) => (await shown(page)) as unknown as Session;
const commits = '**/api/sessions/*/commits';
async function makeSession(page: Page, name: string): Promise<string> {
  const made = await page.request.post(`${app().base}/api/sessions`, { data: { name } });
  const { id } = (await made.json()) as { id: string };
  const strip = newStrip({ id: 'a', kind: 'source', name: 'A', out: { to: 'main', on: true } });
  await page.request.post(`${app().base}/api/sessions/${id}/commits`, {
    data: {
      revision: 0,
      changeId: randomUUID(),
      label: 'a strip',
      commands: [{ type: 'strip.add', strip, at: 0 }],
    },
  });
  await page.goto(`${app().base}/session/${id}`);
  await expect(page.getByRole('grid')).toBeVisible();
  return id;
}

test('an edit that can never be kept leaves the queue with its reason, the rest goes on, and it is saved as a file', async ({
  page,
}) => {
  await makeSession(page, 'Set aside');
  await page.route(commits, async (route) => {
    const body = route.request().postDataJSON() as { commands?: { patch?: { mute?: boolean } }[] };
    if (body.commands?.[0]?.patch?.mute)
      await route.fulfill({
        status: 500,
        json: { error: { code: 'internal', message: 'The disk’s letter was lost.' } },
      });
    else await route.continue();
  });
  await pick(page, 'main');
  await page.keyboard.press('m');
  await page.keyboard.press('s');
  await expect(page.getByText(/Not saved: 2 edits are kept here/)).toBeVisible();
  await expect(page.getByRole('button', { name: '1 not kept' })).toBeVisible({ timeout: 60_000 });
  await saved(page);
  const main = (await document(page)).strips.at(-1)!;
  expect([main.mute, main.solo]).toEqual([false, true]);
  await page.getByRole('button', { name: '1 not kept' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('The disk’s letter was lost');
  const download = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Save as file' }).click();
  const file = JSON.parse(
    await (await (await download).createReadStream()).toArray().then((p) => Buffer.concat(p).toString()),
  ) as { edits: { change: { commands: unknown } }[] };
  expect(file.edits[0]!.change.commands).toEqual([{ type: 'strip.set', id: 'main', patch: { mute: true } }]);
  await dialog.getByRole('button', { name: 'Discard' }).click();
  await expect(page.getByRole('button', { name: /not kept/ })).toHaveCount(0);
  await page.reload();
  await expect(page.getByRole('grid')).toBeVisible();
  await expect(page.getByRole('button', { name: /not kept/ })).toHaveCount(0);
});

test('undo and redo go as far back as the history, after the page was opened anew', async ({ page }) => {
  const id = await makeSession(page, 'Far back');
  for (let n = 0; n < 260; n++)
    await page.request.post(`${app().base}/api/sessions/${id}/commits`, {
      data: {
        revision: n + 1,
        changeId: randomUUID(),
        label: `edit ${n + 1}`,
        commands: [{ type: 'strip.set', id: 'main', patch: { faderDb: -(n % 50) - 1 } }],
      },
    });
  await page.reload();
  await expect(undoLabel(page)).toHaveText('edit 260');
  for (let n = 260; n > 30; n--) await page.keyboard.press('Control+z');
  await expect(undoLabel(page)).toHaveText('edit 30');
  await saved(page);
  await page.reload();
  await expect(undoLabel(page)).toHaveText('edit 30');
  await page.keyboard.press('Control+Shift+z');
  await expect(undoLabel(page)).toHaveText('edit 31');
  await saved(page);
  expect((await document(page)).strips.at(-1)!.faderDb).toBe(-31);
});

test('two tabs keep their unsent edits apart, and closed ones lose nothing', async ({ page, context }) => {
  const id = await makeSession(page, 'Two tabs');
  const other = await context.newPage();
  await other.goto(`${app().base}/session/${id}`);
  await expect(other.getByRole('grid')).toBeVisible();
  await context.route(commits, (route) => route.abort());
  await pick(page, 'main');
  await page.keyboard.press('m');
  await pick(other, 'main');
  await other.keyboard.press('s');
  await expect(page.getByText(/Not saved: 1 edit is kept here/)).toBeVisible();
  await expect(other.getByText(/Not saved: 1 edit is kept here/)).toBeVisible();
  await page.close();
  await other.close();
  await context.unroute(commits);
  const third = await context.newPage();
  await third.goto(`${app().base}/session/${id}`);
  await expect(cell(third, 'main', 'buttons')).toHaveAttribute('aria-label', /muted, soloed/);
  await saved(third);
  const main = (await document(third)).strips.at(-1)!;
  expect([main.mute, main.solo]).toEqual([true, true]);
});

test('a file whose upload is cut goes on where it was, with any name', async ({ page }) => {
  await makeSession(page, 'Cut');
  const name = `${'Long '.repeat(15)}dru🎻m.wav`;
  const file = join(mkdtempSync(join(tmpdir(), 'zonula-e2e-cut-')), name);
  writeFileSync(file, toneFile(6_000_000));
  const offsets: number[] = [];
  let cuts = 0;
  await page.route('**/api/uploads/*', async (route) => {
    const request = route.request();
    if (request.method() === 'PATCH') {
      offsets.push(Number(request.headers()['upload-offset']));
      if (offsets.length === 2 && cuts++ === 0) return route.abort('connectionreset');
    }
    await route.continue();
  });
  await page.locator('input[type=file]').first().setInputFiles(file);
  await expect.poll(async () => (await document(page)).strips.length, { timeout: 60_000 }).toBe(3);
  // The second piece came after the cut, and the first was not sent again.
  expect(offsets.slice(0, 3)).toEqual([0, 8 << 20, 8 << 20]);
  expect(offsets.filter((o) => o === 0)).toHaveLength(1);
  await saved(page);
  const strip = (await document(page)).strips.find((s) => s.id !== 'a' && s.id !== 'main')!;
  expect(strip.name.length).toBeLessThanOrEqual(80);
  expect(isKeepable(strip.name)).toBe(true);
  await page.reload();
  await expect(page.getByRole('grid')).toBeVisible();
  await saved(page);
});

const own = Object.values(networkInterfaces())
  .flat()
  .find((i) => i && i.family === 'IPv4' && !i.internal)?.address;

test('opened to the network, another machine is let in by a code, edits by plain http, and is taken off again', async ({
  page,
  browser,
}) => {
  test.skip(!own, 'This machine has no address but loopback.');
  const data = mkdtempSync(join(tmpdir(), 'zonula-e2e-open-'));
  chmodSync(data, 0o755);
  const port = await freePort();
  process.env.ZONULA_HTTPS_PORT = String(await freePort());
  process.env.ZONULA_DEMO_SECONDS = '4';
  const here = `http://127.0.0.1:${port}`;
  const there = `http://${own}:${port}`;
  try {
    await start(data, port);
    // Until it is opened nobody answers there.
    await expect(fetch(there)).rejects.toThrow();
    await page.goto(here);
    await page.getByRole('link', { name: 'Other machines' }).click();
    await page.getByLabel('Let machines of the network in').click();
    await expect(page.getByText(there, { exact: true })).toBeVisible();

    const context = await browser.newContext({ ignoreHTTPSErrors: true });
    const tablet = await context.newPage();
    // Whoever comes there is asked for the code, wherever it wanted to go.
    await tablet.goto(`${there}/machines`);
    await tablet.getByLabel('Name of this machine').fill('Tablet under test');
    await tablet.getByLabel('Code', { exact: true }).fill('000000');
    await tablet.getByRole('button', { name: 'Come in' }).click();
    await expect(tablet.getByText('That is not the code.')).toBeVisible();
    await page.getByLabel('do everything').check();
    await page.getByRole('button', { name: 'Show a code' }).click();
    const picture = page.getByRole('img', { name: /as a picture for a camera/ });
    const code = /code=(\d{6})/.exec((await picture.getAttribute('alt'))!)![1]!;
    await expect(page.getByText(`${code.slice(0, 3)} ${code.slice(3)}`)).toBeVisible();
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag22aa'])
      .analyze();
    expect(violations.map((v) => v.id)).toEqual([]);
    const strangers = await new AxeBuilder({ page: tablet })
      .withTags(['wcag2a', 'wcag2aa', 'wcag22aa'])
      .analyze();
    expect(strangers.violations.map((v) => v.id)).toEqual([]);
    await tablet.getByLabel('Code', { exact: true }).fill(code);
    await tablet.keyboard.press('Enter');
    await expect(tablet.getByText('This machine was let in as “Tablet under test”.')).toBeVisible();

    await tablet.goto(there);
    await tablet.getByRole('link', { name: 'Lantern Tide' }).first().click();
    await expect(tablet.getByRole('grid')).toBeVisible();
    expect(await tablet.evaluate(() => [isSecureContext, 'randomUUID' in crypto])).toEqual([false, false]);
    await pick(tablet, 'skin');
    await tablet.keyboard.press('m');
    await expect(undoLabel(tablet)).toHaveText(/mute/);
    await saved(tablet);
    await tablet.reload();
    await expect(cell(tablet, 'skin', 'buttons')).toHaveAttribute('aria-label', /muted/);
    // By plain http it does not play, and says where it would; there it does.
    const secure = `https://${own}:${process.env.ZONULA_HTTPS_PORT}`;
    await tablet.getByRole('button', { name: 'Play', exact: true }).click();
    await expect(tablet.getByText(`Open ${secure} to hear it.`)).toBeVisible();
    const mixing = await context.newPage();
    await mixing.goto(`${secure}/pair#code=${code}`);
    await mixing.getByRole('button', { name: 'Come in' }).click();
    await mixing.getByRole('link', { name: 'Lantern Tide' }).first().waitFor();
    expect(await mixing.evaluate(() => [isSecureContext, crossOriginIsolated])).toEqual([true, true]);

    await page.getByRole('button', { name: 'Take Tablet under test off' }).click();
    await page.getByRole('alertdialog').getByRole('button', { name: 'Take off' }).click();
    await expect(page.getByText('Tablet under test')).toHaveCount(0);
    await tablet.goto(there);
    await expect(tablet.getByLabel('Code', { exact: true })).toBeVisible();
    await context.close();
  } finally {
    delete process.env.ZONULA_HTTPS_PORT;
    delete process.env.ZONULA_DEMO_SECONDS;
    const { pid } = running(data)!;
    process.kill(pid, 'SIGINT');
    await gone(pid, 40);
    rmSync(data, { recursive: true, force: true });
  }
});
