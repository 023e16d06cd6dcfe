import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { Client } from 'pg';
import type { Session } from '../core/session/types';
import { toneFile } from '../server/testing/wav';
import { app, gone, running, start } from './app';
import { clock, expectTones, heard, LISTEN, open, playTo, SECONDS, tones } from './tones';

/** Files of stems in the browser's own storage, and their bytes. */
const stored = (page: Page) =>
  page.evaluate(async () => {
    const root = await navigator.storage.getDirectory();
    const folder = await root.getDirectoryHandle('zonula-stems', { create: true });
    const sizes: number[] = [];
    for await (const [name, entry] of folder as unknown as AsyncIterable<[string, FileSystemFileHandle]>)
      if (name !== 'used.json') sizes.push((await entry.getFile()).size);
    return sizes;
  });
const countSlices = (page: Page) => {
  const count = { asked: 0 };
  page.on('request', (r) => {
    if (r.url().endsWith('/api/stems/slices'))
      count.asked += (r.postDataJSON() as { slices: object[] }).slices.length;
  });
  return count;
};

test.beforeEach(({ page }) => page.addInitScript(LISTEN));

test('what was played before is played from the browser’s own storage, without the server; damaged, it is fetched anew', async ({
  page,
}) => {
  const id = await tones(page, 'Near');
  await open(page, id);
  await playTo(page, 4);
  await expectTones(page);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect.poll(async () => (await stored(page)).filter((size) => size > 10 * 32_000).length).toBe(3);

  // The server gives no slices any more: four seconds are there.
  await page.route('**/api/stems/slices', (route) => route.abort());
  await page.reload();
  await expect(page.getByRole('grid')).toBeVisible();
  await playTo(page, 2);
  await expectTones(page);
  // What follows was never played: it is told which fall behind, and the clock goes on.
  await expect(
    page.getByText(/Behind: Tone .*The server does not answer; what is near plays on/).first(),
  ).toBeVisible();
  const before = await clock(page);
  await expect.poll(() => clock(page)).toBeGreaterThan(before + 1);
  // The server is back, and so are they.
  await page.unroute('**/api/stems/slices');
  await expect
    .poll(async () => Math.min(...(await heard(page)).tones), { intervals: [200] })
    .toBeGreaterThan(-60);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();

  // A byte in each thousand is another, put there when no window has the files: what is heard is right, and comes from the server.
  await page.goto(app().base);
  await page.evaluate(async () => {
    const root = await navigator.storage.getDirectory();
    const folder = await root.getDirectoryHandle('zonula-stems');
    for await (const [name, entry] of folder as unknown as AsyncIterable<[string, FileSystemFileHandle]>) {
      if (name === 'used.json') continue;
      const bytes = new Uint8Array(await (await entry.getFile()).arrayBuffer());
      for (let at = 40; at < bytes.length; at += 1000) bytes[at]! ^= 0x55;
      const writing = await entry.createWritable();
      await writing.write(bytes);
      await writing.close();
    }
  });
  const count = countSlices(page);
  await open(page, id);
  await playTo(page, 2);
  await expectTones(page);
  expect(count.asked).toBeGreaterThan(3 * 5);
});

test('the database is away for twenty seconds while it plays: what the server has near plays on', async ({
  page,
}) => {
  const id = await tones(page, 'Away');
  const near = join(app().data, 'near');
  const { strips } = (
    (await (await page.request.get(`${app().base}/api/sessions/${id}`)).json()) as { document: Session }
  ).document;
  const stems = strips.flatMap((s) => (s.stem === null ? [] : [s.stem.slice('sha256:'.length)]));
  expect(stems).toHaveLength(3);
  await open(page, id);
  await playTo(page, 1);
  await expect.poll(() => stems.filter((hash) => existsSync(join(near, hash))).length).toBe(3);
  const client = new Client(running(app().data)!.url.replace(/\/zonula$/, '/postgres'));
  await client.connect();
  const away = Date.now();
  try {
    await client.query(`ALTER DATABASE zonula WITH ALLOW_CONNECTIONS false`);
    await client.query(`SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = 'zonula'`);
    const begun = await clock(page);
    for (let second = 4; second <= 20; second += 4) {
      await expect.poll(() => clock(page), { intervals: [50] }).toBeGreaterThan(begun + second);
      await expectTones(page);
    }
    expect(Date.now() - away).toBeGreaterThan(19_000);
  } finally {
    await client.query(`ALTER DATABASE zonula WITH ALLOW_CONNECTIONS true`);
    await client.end();
  }
  await expect(page.getByText(/Behind:/)).toHaveCount(0);
});

test('the server is killed with -9 while stems come in and others are played: nothing is left behind, and it plays on', async ({
  page,
}) => {
  const id = await tones(page, 'Killed');
  await open(page, id);
  await playTo(page, 2);
  await expectTones(page);
  const { base, data, port } = app();
  const counts = async () => {
    const client = new Client(running(data)!.url);
    await client.connect();
    try {
      const { rows } = await client.query<{ stems: number; parts: number; alone: number }>(
        `SELECT (SELECT count(*) FROM stems)::int AS stems, (SELECT count(*) FROM stem_chunks)::int AS parts,
           (SELECT count(*) FROM stem_chunks c WHERE NOT EXISTS (SELECT 1 FROM stems s WHERE s.id = c.stem_id))::int AS alone`,
      );
      return rows[0]!;
    } finally {
      await client.end();
    }
  };
  const before = await counts();
  // Twelve minutes of stereo: it is being copied when the server ends.
  const large = Buffer.from(toneFile(12 * 60 * 48000, 2, 48000, 333));
  const bring = () => fetch(`${base}/api/stems?name=large.wav&rate=48000`, { method: 'POST', body: large });
  const sending = bring().then(
    () => 'came in',
    () => 'cut off',
  );
  const copies = new Client(running(data)!.url);
  await copies.connect();
  await expect
    .poll(
      async () =>
        (
          await copies.query(
            `SELECT 1 FROM pg_stat_progress_copy p JOIN pg_stat_activity a USING (pid)
             WHERE a.datname = current_database() AND p.bytes_processed > 4000000`,
          )
        ).rowCount,
      { intervals: [5] },
    )
    .toBe(1);
  await copies.end();
  const now = running(data)!;
  process.kill(now.server, 'SIGKILL');
  process.kill(now.pid, 'SIGKILL');
  expect(await sending).toBe('cut off');
  await Promise.all([gone(now.pid), gone(now.server)]);
  await start(data, port);
  expect(await counts()).toEqual({ ...before, alone: 0 });
  expect((await bring()).status).toBe(201);
  expect((await counts()).stems).toBe(before.stems + 1);
  // The page plays on, or goes back to where it is asked to: nobody loads it anew.
  await page
    .getByRole('button', { name: /^(Stop|Play)$/ })
    .first()
    .click();
  const place = (await page.getByRole('slider', { name: 'Position' }).boundingBox())!;
  await page.mouse.click(place.x + place.width / 2, place.y + place.height / 2);
  if (await page.getByRole('button', { name: 'Play', exact: true }).isVisible())
    await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect.poll(() => clock(page), { intervals: [50] }).toBeGreaterThan(SECONDS / 2 + 2);
  await expectTones(page);
});

test('where the browser gives no storage, or hardly any, it plays as before', async ({ page }) => {
  const id = await tones(page, 'No storage');
  // Also in workers, which have the same prototype but of their own: the page's is all that a script here reaches.
  const cdp = await page.context().newCDPSession(page);
  await cdp.send('Storage.overrideQuotaForOrigin', { origin: app().base, quotaSize: 300_000 });
  const count = countSlices(page);
  await open(page, id);
  await playTo(page, 3);
  await expectTones(page);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  const sizes = await stored(page);
  expect(sizes.reduce((n, size) => n + size, 0)).toBeLessThanOrEqual(300_000);
  expect(count.asked).toBeGreaterThan(3 * 8);
});

test('two windows play one session at once, each from its own place; what one edits is heard in both, and both keep what they played', async ({
  page,
  context,
}) => {
  const id = await tones(page, 'Two windows');
  await open(page, id);
  const other = await context.newPage();
  await other.addInitScript(LISTEN);
  await open(other, id);
  const ribbon = (await other.getByRole('slider', { name: 'Position' }).boundingBox())!;
  await other.mouse.click(ribbon.x + ribbon.width / 2, ribbon.y + 30);
  await playTo(page, 1);
  await playTo(other, SECONDS / 2 + 1);
  // Neither stops the other, and neither takes the other's place.
  for (let i = 0; i < 4; i++) {
    await Promise.all([expectTones(page), expectTones(other)]);
    await page.waitForTimeout(700);
  }
  const [first, second] = await Promise.all([clock(page), clock(other)]);
  expect(second - first).toBeGreaterThan(SECONDS / 4);
  // One mutes a strip: it is gone in both, while both play on.
  await other.locator('[id="cell-t700-cap"]').click();
  await other.keyboard.press('m');
  for (const window of [page, other])
    await expect
      .poll(async () => (await heard(window)).tones[1]!, { intervals: [200] })
      .toBeLessThan((await heard(window)).tones[0]! - 40);
  await other.keyboard.press('m');
  for (const window of [page, other])
    await expect
      .poll(async () => Math.min(...(await heard(window)).tones), { intervals: [200] })
      .toBeGreaterThan(-60);
  for (const window of [page, other]) await window.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect(page.getByText(/Behind:/)).toHaveCount(0);
  await other.close();
  // What is near is right, whoever wrote it: from the beginning and from the middle, without the server.
  await page.route('**/api/stems/slices', (route) => route.abort());
  await page.reload();
  await expect(page.getByRole('grid')).toBeVisible();
  await playTo(page, 1.5);
  await expectTones(page);
});

test('sessions of other rates, one after another in one window: each tone is heard where it belongs, from the server and from near', async ({
  page,
}) => {
  const rates = [
    { session: 44100, files: 48000 },
    { session: 96000, files: 44100 },
    { session: 48000, files: 48000 },
  ];
  const ids: string[] = [];
  for (const r of rates) ids.push(await tones(page, `At ${r.session} Hz`, r, 6));
  await page.goto(app().base);
  // From one to the next as a user goes: without loading the page anew.
  for (const cut of [false, true]) {
    if (cut) await page.route('**/api/stems/slices', (route) => route.abort());
    for (const [k, id] of ids.entries()) {
      await page
        .getByRole('link', { name: `At ${rates[k]!.session} Hz` })
        .first()
        .click();
      await expect(page.getByRole('grid')).toBeVisible();
      await page.evaluate(() => delete (globalThis as { heard?: unknown }).heard);
      await playTo(page, cut ? 0.7 : 2);
      const rate = await page.evaluate(
        () => (globalThis as unknown as { heard: AnalyserNode }).heard.context.sampleRate,
      );
      expect([id, rate]).toEqual([id, rates[k]!.session]);
      await expectTones(page);
      await page.getByRole('button', { name: 'Stop', exact: true }).click();
      // What was played is near before it is played without the server.
      await page.waitForTimeout(cut ? 0 : 1200);
      await page.getByRole('link', { name: 'All sessions' }).click();
    }
  }
});
