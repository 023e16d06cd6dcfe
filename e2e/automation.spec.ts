import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test, type Page } from '@playwright/test';
import { newSession, newStrip } from '../core/session/defaults';
import type { Lane, Lanes, Session, Strip } from '../core/session/types';
import { print } from '../engine/print';
import { cell, clock, document, openDemo, pick, pictures, played, saved, undoLabel } from './app';

let begun = '';
test.beforeEach(async ({ page }) => {
  await openDemo(page);
  await saved(page);
  begun = JSON.stringify(await document(page));
});
/** Takes the edits of a test back: then everything is as it was. */
async function undoAll(page: Page) {
  for (let i = 0; i < 30 && JSON.stringify(await document(page)) !== begun; i++) {
    await page.locator('.history').first().click();
    await saved(page);
  }
  expect(JSON.stringify(await document(page))).toBe(begun);
}
const strip = async (page: Page, id: string) =>
  (await document(page)).strips.find((s) => s.id === id) as unknown as Strip;
const lanes = async (page: Page, id: string): Promise<Lanes> => (await strip(page, id)).lanes;
const play = async (page: Page) => {
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();
  // The clock has moved: what a hand does now is written.
  const was = await clock(page);
  await expect.poll(() => clock(page)).toBeGreaterThan(was + 0.1);
};
const stop = async (page: Page) => {
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await saved(page);
};
const mode = (page: Page, id: string) => cell(page, id, 'auto');
/** Takes hold of a cell and moves it, and lets go after a while. */
async function drag(page: Page, id: string, row: string, dy: number, hold = 200) {
  const box = (await cell(page, id, row).boundingBox())!;
  const x = box.x + box.width / 2;
  const y = box.y + box.height / 2;
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= 6; i++) {
    await page.mouse.move(x, y + (dy * i) / 6);
    await pictures(page, 2);
  }
  await played(page, hold / 1000);
  await page.mouse.up();
}

test('touch: what a hand does to a fader while it plays is written, glides back, is heard, and undone in one step', async ({
  page,
}) => {
  await pick(page, 'bass-di');
  await page.keyboard.press('u');
  await expect(mode(page, 'bass-di')).toHaveAttribute('aria-label', /automation touch, no lanes/);
  const put = (await strip(page, 'bass-di')).faderDb!;
  await play(page);
  const box = (await cell(page, 'bass-di', 'level').boundingBox())!;
  await page.mouse.move(box.x + 10, box.y + 80);
  await page.mouse.down();
  await page.mouse.move(box.x + 10, box.y + 130, { steps: 8 });
  await expect(mode(page, 'bass-di')).toHaveAttribute('aria-label', /writing now/);
  await expect(cell(page, 'bass-di', 'level')).toHaveAttribute('aria-label', /being written/);
  await page.mouse.up();
  await expect(undoLabel(page)).toHaveText('write level of Bass DI');
  await expect(mode(page, 'bass-di')).not.toHaveAttribute('aria-label', /writing now/);
  await stop(page);
  const { fader } = await lanes(page, 'bass-di');
  const low = Math.min(...fader!.map(([, v]) => v!));
  expect(low).toBeLessThan(put - 6);
  // Before the hand took hold, and half a second after it let go, the lane stands where the fader was put.
  expect(fader![0]![1]).toBe(put);
  expect(fader!.at(-1)![1]).toBe(put);
  const [held, back] = fader!.slice(-2) as [Lane[number], Lane[number]];
  expect(held[1]).toBe(low);
  expect(back[0] - held[0]).toBeCloseTo(0.5, 3);
  expect((await strip(page, 'bass-di')).faderDb).toBe(put);
  // The fader rides its lane when the playhead goes there.
  await page.getByRole('slider', { name: 'Position' }).focus();
  const middle = fader!.find(([, v]) => v === low)![0];
  await page.evaluate(() => window.scrollTo(0, 0));
  const ribbon = (await page.getByRole('slider', { name: 'Position' }).boundingBox())!;
  await page.mouse.click(ribbon.x + (ribbon.width * (middle + (held[0] - middle) / 2)) / 32, ribbon.y + 30);
  await expect(cell(page, 'bass-di', 'level')).toHaveAttribute('aria-label', /automated, armed to touch/);
  await page.keyboard.press('Control+z');
  await saved(page);
  expect(await lanes(page, 'bass-di')).toEqual({});
  await undoAll(page);
});

test('latch: pan, mute and a send of one strip are written until it stops, in one step', async ({ page }) => {
  await pick(page, 'shaker');
  await page.keyboard.press('u');
  await page.keyboard.press('u');
  await expect(mode(page, 'shaker')).toHaveAttribute('aria-label', /automation latch/);
  await play(page);
  await drag(page, 'shaker', 'pan', -24);
  await page.keyboard.press('m');
  await played(page, 0.3);
  await page.keyboard.press('m');
  await drag(page, 'shaker', 'send:plate', 14);
  await expect(cell(page, 'shaker', 'pan')).toHaveAttribute('aria-label', /being written/);
  await stop(page);
  await expect(undoLabel(page)).toHaveText('write 3 controls');
  const s = await strip(page, 'shaker');
  expect(Object.keys(s.lanes).sort()).toEqual(['mute', 'pan']);
  expect(s.lanes.mute!.map(([, v]) => v)).toEqual([0, 0, 1, 0]);
  expect(Object.keys(s.sends[0]!.lanes)).toEqual(['level']);
  // Latched: the pan stays until the stop, which comes after the mute and the send.
  const last = s.lanes.pan!.at(-2)![0];
  expect(last).toBeGreaterThan(s.lanes.mute!.at(-1)![0]);
  await page.keyboard.press('Control+z');
  await saved(page);
  expect(await lanes(page, 'shaker')).toEqual({});
  await undoAll(page);
});

test('write is passed by when modes are stepped while it plays, is reached by its name, and gives way to touch', async ({
  page,
}) => {
  await pick(page, 'bass-mic');
  await play(page);
  const seen = new Set<string>();
  for (let i = 0; i < 7; i++) {
    await page.keyboard.press('u');
    seen.add(/automation (\w+)/.exec((await mode(page, 'bass-mic').getAttribute('aria-label'))!)![1]!);
  }
  expect([...seen].sort()).toEqual(['latch', 'off', 'read', 'touch', 'trim']);
  await mode(page, 'bass-mic').click({ button: 'right' });
  await page.getByRole('menuitemradio', { name: /^Write/ }).click();
  await expect(mode(page, 'bass-mic')).toHaveAttribute('aria-label', /automation write.*writing now/);
  await played(page, 0.4);
  await stop(page);
  await expect(mode(page, 'bass-mic')).toHaveAttribute('aria-label', /automation touch/);
  expect(Object.keys(await lanes(page, 'bass-mic'))).toEqual(['fader']);
  await undoAll(page);
});

test('a control that follows its lane says so when a hand moves it; trim at rest moves the whole lane', async ({
  page,
}) => {
  await pick(page, 'fiddle-close');
  await cell(page, 'fiddle-close', 'level').click({ button: 'right', position: { x: 10, y: 60 } });
  await page.getByRole('menuitem', { name: 'Automate it…' }).click();
  await page.getByRole('application', { name: /Fiddle close: Level/ }).press('Enter');
  await saved(page);
  await page.keyboard.press('1');
  const put = (await strip(page, 'fiddle-close')).faderDb!;
  await drag(page, 'fiddle-close', 'level', 30, 0);
  await expect(page.getByText(/follows its automation/)).toBeVisible();
  await saved(page);
  await expect(cell(page, 'fiddle-close', 'level')).toHaveAttribute(
    'aria-label',
    new RegExp(`minus ${-put} decibels`),
  );
  await page.keyboard.press('Control+z');
  await page.getByRole('grid').focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('u');
  await expect(mode(page, 'fiddle-close')).toHaveAttribute('aria-label', /automation trim/);
  await cell(page, 'fiddle-close', 'level').click({ position: { x: 10, y: 60 } });
  await page.keyboard.press('+');
  await page.keyboard.press('+');
  await expect(undoLabel(page)).toHaveText('trim level of Fiddle close');
  await saved(page);
  expect((await lanes(page, 'fiddle-close')).fader).toEqual([[0, put + 1]]);
  await undoAll(page);
});

test('lanes by hand: a point a click, dragged, typed, taken out; by keyboard alone too', async ({ page }) => {
  await pick(page, 'bell');
  await page.keyboard.press('3');
  await expect(page.getByText('No lanes yet.')).toBeVisible();
  await page.getByRole('button', { name: 'Add a lane to Bell' }).click();
  await page.getByRole('menuitem', { name: 'Pan', exact: true }).click();
  const lane = page.getByRole('application', { name: /Bell: Pan/ });
  await saved(page);
  const box = (await lane.boundingBox())!;
  // Three quarters of the song, full right; dragged a quarter of the song back and to the centre.
  await page.mouse.move(box.x + box.width * 0.75, box.y + 8);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height / 2, { steps: 5 });
  await page.mouse.up();
  await saved(page);
  let pan = (await lanes(page, 'bell')).pan!;
  expect(pan).toHaveLength(2);
  expect(pan[1]![0]).toBeCloseTo(16, 0);
  expect(Math.abs(pan[1]![1]!)).toBeLessThan(0.05);
  // The last point has the keyboard: typed, moved later, and a new one at the playhead before it.
  await lane.focus();
  await page.keyboard.press('Enter');
  await page.keyboard.type('L40');
  await page.keyboard.press('Enter');
  await expect(lane).toHaveAttribute('aria-label', /point 2 of 2.*L40/);
  await page.keyboard.press('Alt+ArrowRight');
  await page.keyboard.press('ArrowUp');
  await expect(lane).toHaveAttribute('aria-label', /L36/);
  await page.keyboard.press('ArrowLeft');
  await expect(lane).toHaveAttribute('aria-label', /point 1 of 2/);
  await page.keyboard.press('Delete');
  await saved(page);
  pan = (await lanes(page, 'bell')).pan!;
  expect(pan).toHaveLength(1);
  expect(pan[0]![1]).toBeCloseTo(-0.36, 5);
  await page.keyboard.press('Delete');
  await saved(page);
  expect(await lanes(page, 'bell')).toEqual({});
  await undoAll(page);
});

test('a link of automation: the mode of one is the mode of all, and what is written on one is written on all', async ({
  page,
}) => {
  await pick(page, 'bass-di');
  await pick(page, 'bass-mic', ['Control']);
  await page.keyboard.press('k');
  for (const part of ['level and trim', 'mute', 'solo'])
    await page.getByLabel(part, { exact: true }).uncheck();
  await page.getByLabel('automation', { exact: true }).check();
  await page.getByRole('button', { name: 'Link', exact: true }).click();
  await saved(page);
  await page.keyboard.press('Escape');
  await pick(page, 'bass-di');
  await page.keyboard.press('u');
  await expect(mode(page, 'bass-mic')).toHaveAttribute('aria-label', /automation touch/);
  const [di, mic] = [(await strip(page, 'bass-di')).faderDb!, (await strip(page, 'bass-mic')).faderDb!];
  await play(page);
  await drag(page, 'bass-di', 'level', 30);
  await stop(page);
  const [a, b] = [(await lanes(page, 'bass-di')).fader!, (await lanes(page, 'bass-mic')).fader!];
  expect(b).toHaveLength(a.length);
  a.forEach(([t, v], i) => {
    expect(b[i]![0]).toBe(t);
    expect(b[i]![1]! - v!).toBeCloseTo(mic - di, 3);
  });
  await undoAll(page);
});

test('a surface: its motor fader follows the lane, and its hand writes it', async ({ page }) => {
  await mode(page, 'skin').click();
  await page.getByRole('link', { name: 'Surface' }).click();
  const fader = page.getByRole('slider', { name: /^Fader 1:/ });
  const was = Number(await fader.getAttribute('aria-valuenow'));
  await page.getByRole('button', { name: 'Play', exact: true }).first().click();
  await expect(page.getByRole('button', { name: 'Stop', exact: true }).first()).toBeVisible();
  await played(page, 0.7);
  const box = (await fader.boundingBox())!;
  await page.mouse.move(box.x + 18, box.y + 90);
  await page.mouse.down();
  await page.mouse.move(box.x + 18, box.y + 130, { steps: 8 });
  const held = async () => Number(await fader.getAttribute('aria-valuenow'));
  await expect.poll(async () => Math.abs((await held()) - was)).toBeGreaterThan(20);
  await page.mouse.up();
  // Let go, it glides back to where it stood, and the motor with it.
  await expect
    .poll(async () => Math.abs(Number(await fader.getAttribute('aria-valuenow')) - was), { timeout: 8000 })
    .toBeLessThan(4);
  await page.getByRole('button', { name: 'Stop', exact: true }).first().click();
  await saved(page);
  expect((await lanes(page, 'skin')).fader!.length).toBeGreaterThan(3);
  await undoAll(page);
});

// The browser's own automation is another implementation of the same ramps (Web Audio API, W3C Recommendation 2021):
// exponentialRampToValueAtTime of a gain is a straight line in decibels, linearRampToValueAtTime one of a pan.
test('lanes of level and pan agree with the browser’s own ramps', async ({ page }) => {
  const RATE = 48000;
  const FRAMES = RATE;
  const wanted = await page.evaluate(
    async ({ rate, frames }) => {
      const context = new OfflineAudioContext(2, frames, rate);
      const source = new ConstantSourceNode(context, { offset: 0.5 });
      const gain = new GainNode(context);
      gain.gain.setValueAtTime(10 ** (-12 / 20), 0.2);
      gain.gain.exponentialRampToValueAtTime(1, 0.8);
      const panner = new StereoPannerNode(context);
      panner.pan.setValueAtTime(-0.8, 0.1);
      panner.pan.linearRampToValueAtTime(0.6, 0.9);
      gain.gain.setValueAtTime(10 ** (-12 / 20), 0);
      panner.pan.setValueAtTime(-0.8, 0);
      source.connect(gain).connect(panner).connect(context.destination);
      source.start();
      const out = await context.startRendering();
      return [0, 1].map((c) => [...out.getChannelData(c)]);
    },
    { rate: RATE, frames: FRAMES },
  );
  const base = newSession('Ramps');
  const session: Session = {
    ...base,
    strips: [
      newStrip({
        id: 'a',
        kind: 'source',
        name: 'A',
        stem: 'a',
        out: { to: 'main', on: true },
        lanes: {
          fader: [
            [0.2, -12],
            [0.8, 0],
          ],
          pan: [
            [0.1, -0.8],
            [0.9, 0.6],
          ],
        },
      }),
      ...base.strips,
    ],
  };
  const engine = fileURLToPath(new URL('../build/engine.wasm', import.meta.url));
  const module = new WebAssembly.Module(new Uint8Array(readFileSync(engine)));
  const heard: number[][] = [[], []];
  const stems = { read: (_: unknown, __: number, into: Float32Array) => void into.fill(0.5) };
  for await (const [piece] of print({ session, strips: ['main'], frames: FRAMES, module, stems }))
    piece!.audio.forEach((v, i) => heard[i % 2]!.push(v));
  let worst = 0;
  for (let i = 0; i < FRAMES; i += 48)
    for (const c of [0, 1]) {
      const corner = [0.1, 0.2, 0.8, 0.9].some((t) => Math.abs(i / RATE - t) < 0.03);
      if (!corner) worst = Math.max(worst, Math.abs(20 * Math.log10(heard[c]![i]! / wanted[c]![i]!)));
    }
  expect(worst).toBeLessThan(0.03);
});
