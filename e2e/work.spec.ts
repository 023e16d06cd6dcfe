import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { WaveFile as WaveFileType } from 'wavefile';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@playwright/test';
import {
  app,
  bringIn,
  cell,
  clock,
  document,
  gone,
  mainLoudness,
  newSession,
  openDemo,
  openLike,
  pick,
  running,
  saved,
  start,
  steadyLoudness,
  undoLabel,
} from './app';

const { WaveFile } = createRequire(import.meta.url)('wavefile') as { WaveFile: typeof WaveFileType };
const zonula = fileURLToPath(new URL('../bin/zonula', import.meta.url));

/** A WAV file of a tone, written by an independent package. */
function tone(bits: '16' | '24' | '32' | '32f', rate: number, channels = 1, seconds = 4): Buffer {
  const full = bits === '32f' ? 1 : 2 ** (Number(bits) - 1) - 1;
  const one = (hertz: number) =>
    Array.from({ length: Math.round(rate * seconds) }, (_, i) => {
      const v = 0.5 * Math.sin((2 * Math.PI * hertz * i) / rate) * full;
      return bits === '32f' ? v : Math.round(v);
    });
  const wav = new WaveFile();
  wav.fromScratch(channels, rate, bits, channels === 1 ? one(440) : [one(440), one(550)]);
  return Buffer.from(wav.toBuffer());
}

test('hear it: play, stop, locate, loop a section', async ({ page }) => {
  await openDemo(page);
  await page.keyboard.press('Space');
  await expect.poll(() => clock(page)).toBeGreaterThan(1);
  await expect.poll(() => mainLoudness(page)).toBeGreaterThan(-50);
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  const stopped = await clock(page);
  // That nothing moves can only be waited for.
  await page.waitForTimeout(400);
  expect(await clock(page)).toBe(stopped);
  const ribbon = (await page.getByRole('slider', { name: 'Position' }).boundingBox())!;
  await page.mouse.click(ribbon.x + ribbon.width * 0.75, ribbon.y + 30);
  expect(await clock(page)).toBeCloseTo(24, 0);
  // A loop round the Refrain, 7.5 to 15 s: from just before its end it comes back to its start.
  await page.mouse.dblclick(ribbon.x + ribbon.width * (14.7 / 32), ribbon.y + 30);
  await expect(page.getByRole('button', { name: 'Loop' })).toHaveAttribute('aria-pressed', 'true');
  await page.mouse.click(ribbon.x + ribbon.width * (14.7 / 32), ribbon.y + 30);
  await page.keyboard.press('Space');
  await expect.poll(() => clock(page)).toBeLessThan(10);
  expect(await clock(page)).toBeGreaterThanOrEqual(7.5);
  await page.keyboard.press('Space');
});

test('bring in own audio: many files, names and families suggested, broken ones refused by name', async ({
  page,
}) => {
  await newSession(page, 'Own audio');
  const good = tone('16', 48000);
  await bringIn(page, [
    { name: '01_Kick_In.wav', buffer: good },
    { name: '02_Bass DI.wav', buffer: tone('24', 44100) },
    { name: '03_Lead_Vox.wav', buffer: tone('32', 96000) },
    { name: '04_Room Pair.wav', buffer: tone('32f', 48000, 2) },
    { name: 'cut off.wav', buffer: good.subarray(0, 3000) },
    { name: 'letter.wav', buffer: Buffer.from('This is a letter and no sound at all.') },
  ]);
  await expect(page.getByText('4 came in, 2 refused')).toBeVisible();
  await expect(page.getByText(/`cut off\.wav`: it is cut off/)).toBeVisible();
  await expect(page.getByText(/`letter\.wav`: it is not a WAV file/)).toBeVisible();
  await saved(page);
  const { strips } = await document(page);
  expect(strips.map((s) => [s.name, s.family])).toEqual([
    ['Kick In', 'Percussion'],
    ['Bass DI', 'Bass'],
    ['Lead Vox', 'Lead'],
    ['Room Pair', 'Room'],
    ['Main', ''],
  ]);
  // One step: one undo takes them all away again.
  await page.keyboard.press('Control+z');
  await expect(page.getByText('This session has no stems yet')).toBeVisible();
  await page.keyboard.press('Control+Shift+z');
  await expect(cell(page, 'kick-in', 'cap')).toBeVisible();
});

test('gather three strips: one step, named, placed, undone and redone', async ({ page }) => {
  await openDemo(page);
  await pick(page, 'bass-di');
  await pick(page, 'bass-cab', ['Shift']);
  await expect(page.getByText('3 picked')).toBeVisible();
  await page.keyboard.press('g');
  await expect(cell(page, 'bass-blend', 'cap')).toHaveAttribute('aria-label', /Bass blend, submix, picked/);
  await saved(page);
  const after = await document(page);
  for (const id of ['bass-di', 'bass-mic', 'bass-cab'])
    expect(after.strips.find((s) => s.id === id)!.out.to).toBe('bass-blend');
  expect(after.strips.find((s) => s.id === 'bass-blend')!.out.to).toBe('main');
  expect(after.strips.findIndex((s) => s.id === 'bass-blend')).toBe(
    after.strips.findIndex((s) => s.id === 'bass-cab') + 1,
  );
  await expect(undoLabel(page)).toHaveText('gather Bass blend');
  await page.keyboard.press('Control+z');
  await expect(cell(page, 'bass-blend', 'cap')).toHaveCount(0);
  await page.keyboard.press('Control+Shift+z');
  await expect(cell(page, 'bass-blend', 'cap')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(cell(page, 'bass-blend', 'cap')).toHaveCount(0);
  await saved(page);
});

test('a return: made, painted along its row post- and pre-fader, heard alone with the dry path off', async ({
  page,
}) => {
  await newSession(page, 'Returns');
  await bringIn(
    page,
    ['Fiddle', 'Whistle', 'Harp'].map((n) => ({ name: `${n}.wav`, buffer: tone('32f', 48000, 1, 14) })),
  );
  await expect(cell(page, 'harp', 'cap')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('r');
  await expect(page.getByText('Plate', { exact: true }).first()).toBeVisible();
  // Press on one cell and drag along the row: three post-fader sends in one step.
  const from = (await cell(page, 'fiddle', 'send:plate').boundingBox())!;
  const to = (await cell(page, 'harp', 'send:plate').boundingBox())!;
  await page.mouse.move(from.x + 20, from.y + 12);
  await page.mouse.down();
  await page.mouse.move(to.x + 20, to.y + 12, { steps: 5 });
  await page.mouse.up();
  await saved(page);
  const sends = async () =>
    (await document(page)).strips
      .slice(0, 3)
      .map((s) => s.sends.map((x) => `${x.to} ${x.tap} ${x.levelDb}`).join());
  expect(await sends()).toEqual(['plate post -12', 'plate post -12', 'plate post -12']);
  await expect(undoLabel(page)).toHaveText(/send to Plate, of 3 strips/);
  // By keyboard: the tap of the one in focus.
  await page.keyboard.press('f');
  await expect(cell(page, 'fiddle', 'send:plate')).toHaveAttribute('aria-label', /pre-fader/);
  // Only the return is heard: the dry paths of all three go, the sends live.
  await pick(page, 'fiddle');
  await pick(page, 'harp', ['Shift']);
  await page.keyboard.press('d');
  await expect(cell(page, 'fiddle', 'out')).toHaveAttribute('aria-label', /dry path off/);
  await page.keyboard.press('Space');
  await expect.poll(() => mainLoudness(page)).toBeGreaterThan(-60);
  const wet = await mainLoudness(page);
  await page.keyboard.press('d');
  await expect.poll(() => mainLoudness(page)).toBeGreaterThan(wet + 6);
  await page.keyboard.press('Space');
});

test('a VCA: its rail, the gap between own and effective level, and less level at the output', async ({
  page,
}) => {
  await newSession(page, 'VCAs');
  await bringIn(page, [{ name: 'Fiddle.wav', buffer: tone('32f', 48000, 1, 40) }]);
  await pick(page, 'fiddle');
  await page.keyboard.press('v');
  const fader = page.getByRole('slider', { name: /^VCA / });
  await expect(fader).toBeVisible();
  await page.keyboard.press('Space');
  await expect.poll(() => mainLoudness(page)).toBeGreaterThan(-20);
  const before = await steadyLoudness(page);
  await fader.focus();
  for (let i = 0; i < 24; i++) await page.keyboard.press('ArrowDown');
  await expect(cell(page, 'fiddle', 'level')).toHaveAttribute(
    'aria-label',
    /level 0 decibels, effective minus 12 decibels/,
  );
  await expect(page.locator('[data-strip="fiddle"] .ghost')).toBeVisible();
  expect(Math.abs((await steadyLoudness(page)) - (before - 12))).toBeLessThan(0.5);
  await expect(undoLabel(page)).toHaveText(/level VCA/);
  // Steps that follow each other quickly are one edit; on a slow machine they may be a few.
  for (let i = 0; i < 24 && /level VCA/.test((await undoLabel(page).textContent())!); i++) {
    await page.keyboard.press('Control+z');
    await saved(page);
  }
  await expect(cell(page, 'fiddle', 'level')).toHaveAttribute('aria-label', /effective 0 decibels/);
});

test('a surface: its fader moves the strip, the strip moves its fader, bank right brings the next eight', async ({
  page,
}) => {
  await openDemo(page);
  await page.getByRole('link', { name: 'Surface' }).click();
  await expect(page.getByText('simulated', { exact: true }).first()).toBeVisible();
  const fader = page.getByRole('slider', { name: /^Fader 1:/ });
  const box = (await fader.boundingBox())!;
  const was = Number(await fader.getAttribute('aria-valuenow'));
  await page.mouse.move(box.x + 18, box.y + 80);
  await page.mouse.down();
  await page.mouse.move(box.x + 18, box.y + 45, { steps: 6 });
  await page.mouse.up();
  await expect(undoLabel(page)).toHaveText('level Frame drum skin');
  await saved(page);
  const level = (await document(page)).strips[0]!.faderDb!;
  expect(level).toBeGreaterThan(-3);
  await expect(page.getByRole('list', { name: 'MIDI monitor' })).toContainText(/fader 1 → \d+/);
  // The strip moves: the motor follows.
  await page.keyboard.press('Control+z');
  await expect
    .poll(async () => Math.abs(Number(await fader.getAttribute('aria-valuenow')) - was))
    .toBeLessThan(4);
  const name = (i: number) => page.locator(`[data-position="${i}"][data-part="name"]`);
  await expect(name(0)).toHaveText('FrDrSki');
  await page.getByRole('button', { name: 'Bank right', exact: true }).click();
  await expect(name(0)).toHaveText('BassMic');
  await expect(page.getByText('Strips 9–16 of 38')).toBeVisible();
  await page.keyboard.press('[');
  await expect(name(0)).toHaveText('FrDrSki');
});

test('print the main output from the browser and from the command line: the same samples', async ({
  page,
}) => {
  await openDemo(page);
  await page.getByRole('link', { name: 'Print' }).click();
  await page.getByLabel('Length in seconds').fill('6');
  await page.getByRole('button', { name: 'Print 1 file' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: /Save main\.wav/ }).click(),
  ]);
  const browser = readFileSync(await download.path());
  const folder = mkdtempSync(join(tmpdir(), 'zonula-print-'));
  try {
    const id = /session\/([0-9a-f-]+)/.exec(page.url())![1]!;
    const env = { ...process.env, ZONULA_DATA: app().data };
    execFileSync(zonula, ['export', id, '--out', join(folder, 'p.zonula')], { env });
    execFileSync(zonula, ['print', join(folder, 'p.zonula'), '--out', folder, '--seconds', '6'], { env });
    const command = readFileSync(join(folder, 'main.wav'));
    expect(command.length).toBe(58 + 6 * 48000 * 8);
    expect(browser.equals(command)).toBe(true);
    // They hold sound: a print of nothing would be equal too.
    const [left] = new WaveFile(command).getSamples(false, Float32Array) as unknown as [Float32Array];
    expect(Math.max(...left.slice(0, 100_000))).toBeGreaterThan(0.05);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});

test('close the tab, kill the server with -9, start again: everything is as it was, undo too', async ({
  page,
  context,
}) => {
  await openDemo(page);
  await pick(page, 'whistle');
  await page.keyboard.press('m');
  await saved(page);
  await expect
    .poll(async () => (await document(page)).strips.find((s) => s.id === 'whistle')!.mute)
    .toBe(true);
  const before = await document(page);
  const url = page.url();
  const { data, port } = app();
  const now = running(data)!;
  await page.close();
  process.kill(now.pid, 'SIGKILL');
  process.kill(now.server, 'SIGKILL');
  await Promise.all([gone(now.pid), gone(now.server)]);
  await start(data, port);
  const again = await context.newPage();
  await openLike(again, url);
  expect(await document(again)).toEqual(before);
  await expect(undoLabel(again)).toHaveText('mute Whistle');
  await again.keyboard.press('Control+z');
  await expect
    .poll(async () => (await document(again)).strips.find((s) => s.id === 'whistle')!.mute)
    .toBe(false);
});
