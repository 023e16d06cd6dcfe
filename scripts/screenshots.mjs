// Makes docs/screenshots/ anew: the real page, from the demo, at 1280x800. Needs a running application: PORT=… npm run screenshots
import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium } from '@playwright/test';
import { largeSession } from '../demo/large.ts';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const running = join(process.env.ZONULA_DATA ?? join(root, '.data'), 'running.json');
const port =
  process.env.PORT ?? (existsSync(running) ? JSON.parse(readFileSync(running, 'utf8')).port : null);
if (!port) {
  console.error('Zonula is not running: start it with `npm start`, then run this again in another terminal.');
  process.exit(1);
}
const base = `http://127.0.0.1:${port}`;
const browser = await chromium.launch({
  executablePath: ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync),
  args: [
    '--no-sandbox',
    '--autoplay-policy=no-user-gesture-required',
    '--disable-background-networking',
    '--no-first-run',
  ],
});
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
const shot = (name) => page.screenshot({ path: join(root, 'docs', 'screenshots', `${name}.png`) });
const cap = (id) => page.locator(`[id="cell-${id}-cap"]`);

/** The Surface view: three units joined; a controller that is learned; the touch desk. */
async function surface() {
  const key = (unit, name) =>
    page.locator(`[data-unit="unit-${unit}"]`).getByRole('button', { name, exact: true });
  await page.getByRole('button', { name: 'Desk', exact: true }).click();
  const kept = page.waitForRequest((r) => r.method() === 'PUT' && r.url().includes('/api/desks/'));
  await page.getByRole('button', { name: 'Three simulated units' }).click();
  const { id } = (await kept).postDataJSON();
  await page.getByRole('button', { name: 'Desk', exact: true }).click();
  await page.waitForTimeout(3000);
  await shot('surface-joined');
  await key(1, 'Pan').click();
  await fetch(`${base}/api/desks/${id}`, { method: 'DELETE' });
  await learning();
  await touchDesk();
}

/** A keyboard controller that nobody planned for, learned as far as its knobs. */
async function learning() {
  const desk = {
    format: 'zonula-desk',
    version: 1,
    id: 'pictures',
    name: 'Keyboard',
    joined: true,
    bankBy: 'width',
    reach: 'all',
    follows: true,
    equalizer: 'first',
    compressor: 'first',
    userKeys: [],
    units: [
      {
        id: 'unit-1',
        name: 'Keyboard controller',
        profile: '',
        connection: { type: 'simulated', device: 'simulated-keyboard-8' },
        pickup: 'profile',
      },
    ],
  };
  await fetch(`${base}/api/desks/pictures`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(desk),
  });
  await page.evaluate(() => localStorage.setItem('zonula.desk', 'pictures'));
  await page.reload();
  await page.waitForTimeout(2500);
  const move = async (name, up) => {
    const box = await page.getByRole('slider', { name }).boundingBox();
    await page.mouse.move(box.x + box.width / 2, box.y + box.height - 4);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2, box.y - up, { steps: 40 });
    await page.mouse.up();
  };
  await page.getByRole('button', { name: 'Learn', exact: true }).click();
  await page.waitForTimeout(500);
  for (let k = 1; k <= 4; k++) await move(new RegExp(`^Fader ${k}:`), 20);
  await page.getByRole('button', { name: 'Next: knobs' }).click();
  for (let k = 1; k <= 3; k++) await move(new RegExp(`^Encoder ${k}:`), 200);
  await page.waitForTimeout(700);
  await shot('learning');
  await page.getByRole('button', { name: 'Cancel' }).click();
  await page.evaluate(() => localStorage.removeItem('zonula.desk'));
  await fetch(`${base}/api/desks/pictures`, { method: 'DELETE' });
}

/** The touch desk in portrait, beside the window that plays. */
async function touchDesk() {
  const context = await browser.newContext({ viewport: { width: 768, height: 1024 }, hasTouch: true });
  const tablet = await context.newPage();
  await tablet.goto(page.url().replace(/\/surface$/, '/hands'));
  await tablet.getByRole('option', { name: 'Lead voice', exact: true }).tap();
  await tablet.waitForTimeout(1500);
  await tablet.screenshot({ path: join(root, 'docs', 'screenshots', 'touch-desk.png') });
  await context.close();
}

/** The Sheet from afar, from the middle and near, with a session of 140 strips that play the demo's stems. */
async function farAndNear() {
  const ask = async (method, path, body) =>
    (
      await fetch(`${base}/api${path}`, {
        method,
        headers: { 'Content-Type': 'application/json' },
        body: body && JSON.stringify(body),
      })
    ).json();
  const { sessions } = await ask('GET', '/sessions');
  const demo = (await ask('GET', `/sessions/${sessions.find((s) => s.name === 'Lantern Tide').id}`)).document;
  const stems = demo.strips.filter((s) => s.stem);
  const large = largeSession();
  const of = (kind) => large.strips.filter((s) => s.kind === kind);
  const sources = of('source').map((s, k) => {
    const { stem, channels } = stems[k % stems.length];
    return { ...s, stem, channels };
  });
  const commands = [
    ...of('return').map((strip, at) => ({ type: 'strip.add', strip, at })),
    ...of('submix').map((strip, at) => ({ type: 'strip.add', strip, at })),
    ...sources.map((strip, at) => ({ type: 'strip.add', strip, at })),
    ...large.vcas.map((vca, at) => ({ type: 'vca.add', vca, at })),
    { type: 'strip.set', id: 'main', patch: { faderDb: -20 } },
  ];
  const { id } = await ask('POST', '/sessions', { name: large.name });
  await ask('POST', `/sessions/${id}/commits`, {
    ...{ revision: 0, changeId: crypto.randomUUID(), label: 'bring in 120 stems', commands },
  });
  await page.goto(`${base}/session/${id}`);
  await page.getByRole('grid').waitFor();
  const ribbon = await page.getByRole('slider', { name: 'Position' }).boundingBox();
  await page.mouse.click(ribbon.x + ribbon.width * 0.4, ribbon.y + 30);
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await page.waitForTimeout(4000);
  await shot('sheet-near');
  await page.keyboard.press('o');
  await page.waitForTimeout(500);
  const viola = await page.locator('[id="cell-tide-viola-5-level"]').boundingBox();
  await page.mouse.move(viola.x + 3, viola.y + 200);
  await page.waitForTimeout(2500);
  await shot('sheet-far');
  for (let i = 0; i < 6; i++) await page.keyboard.press('Control+ArrowRight');
  await page.waitForTimeout(1500);
  await shot('sheet-middle');
  await page.getByRole('button', { name: 'Stop', exact: true }).last().click();
  await page.evaluate(() => localStorage.removeItem('zonula.zoom'));
  await fetch(`${base}/api/sessions/${id}`, { method: 'DELETE' });
}

await page.goto(base);
await page.getByRole('link', { name: 'Lantern Tide' }).first().waitFor();
if (process.argv[2] === 'sheet') {
  await farAndNear();
  await browser.close();
  process.exit(0);
}
if (process.argv[2] === 'surface') {
  await page.getByRole('link', { name: 'Lantern Tide' }).first().click();
  await cap('bass-di').waitFor();
  await page.getByRole('link', { name: 'Surface' }).click();
  await surface();
  await browser.close();
  process.exit(0);
}
await shot('sessions');
await page.getByRole('link', { name: 'Lantern Tide' }).first().click();
await cap('bass-di').waitFor();
const done = page.locator('.history .what');
const before = await done.textContent();
await cap('bass-di').click();
await cap('bass-cab').click({ modifiers: ['Shift'] });
await page.keyboard.press('g');
const from = await page.locator('[id="cell-bass-di-send:plate"]').boundingBox();
await page.mouse.move(from.x + 20, from.y + 12);
await page.mouse.down();
await page.mouse.move(from.x + 120, from.y + 12, { steps: 6 });
await page.mouse.up();
await page.locator('[id="cell-bass-mic-send:slap"]').click({ modifiers: ['Shift'] });
await cap('bass-di').click();
await cap('bass-cab').click({ modifiers: ['Shift'] });
await page.keyboard.press('v');
await page.getByRole('slider', { name: 'VCA Bass' }).focus();
for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowUp');
// Long enough for the overview of the main output to be printed.
await page.waitForTimeout(25_000);
const ribbon = await page.getByRole('slider', { name: 'Position' }).boundingBox();
await page.mouse.click(ribbon.x + ribbon.width * 0.27, ribbon.y + 30);
await page.getByRole('button', { name: 'Play', exact: true }).click();
await page.waitForTimeout(3500);
await shot('sheet-night');
await page.getByLabel('Day theme').click();
await page.locator('[id="cell-plate-pre:0"]').click();
await page.waitForTimeout(1200);
await shot('sheet-day');
await page.getByLabel('Night theme').click();
// The chain of the lead voice, its compressor at work; its equalizer, large; presets; the load.
await page.keyboard.press('Control+k');
await page.keyboard.type('lead voice');
await page.keyboard.press('Enter');
await page.locator('[id="cell-lead-voice-pre:1"]').click();
await page.waitForTimeout(6000);
await shot('chain');
await page.locator('[id="cell-lead-voice-pre:0"]').click();
await page.getByLabel('Open the large editor').click();
await page.waitForTimeout(1500);
await shot('equalizer');
await page.keyboard.press('Escape');
await page.locator('[id="cell-plate-cap"]').click();
await page.keyboard.press('p');
await page.getByLabel('Find a preset').fill('return');
await page.keyboard.press('ArrowDown');
await page.waitForTimeout(500);
await shot('presets');
await page.keyboard.press('Escape');
await page.getByRole('tab', { name: 'Strip' }).click();
await page.getByRole('link', { name: 'Surface' }).click();
await page.getByRole('button', { name: 'Stop', exact: true }).last().click();
await surface();
await page.getByRole('link', { name: 'Print' }).click();
await page.getByText('Submixes').click();
await page.getByLabel('Length in seconds').fill('6');
await page.getByRole('button', { name: /^Print/ }).click();
await page.getByRole('link', { name: /^Save/ }).first().waitFor({ timeout: 120_000 });
await shot('print');
await page.getByRole('link', { name: 'Sheet' }).click();
await cap('skin').waitFor();
await page.mouse.move(600, 300);
await page.mouse.wheel(0, -4000);
await cap('skin').click();
await page.keyboard.press('t');
await page.getByText('2 paths').waitFor();
await shot('trace');
await page.keyboard.press('w');
await page.getByRole('combobox', { name: 'What moves' }).click({ force: true });
await page.getByRole('option', { name: 'VCA Rhythm', exact: true }).click();
await page.getByLabel('Decibels', { exact: true }).fill('-6');
await page.getByRole('button', { name: 'Measure it' }).click();
await page.getByRole('button', { name: 'Measure again' }).waitFor({ timeout: 120_000 });
await page.locator('.inspector').evaluate((el) => (el.scrollTop = el.scrollHeight));
await page.mouse.move(640, 20);
await shot('ripple');
await page.keyboard.press('w');
await page.getByRole('link', { name: /Findings/ }).click();
await page.locator('article').first().waitFor();
await page.getByRole('button', { name: 'What would it change?' }).first().click();
await shot('findings');
await page.getByRole('link', { name: 'Flow' }).click();
await page.locator('.vue-flow__node').first().waitFor();
await page.waitForTimeout(1500);
await page.locator('.vue-flow__node[data-id="family:Lead"]').click();
await page.keyboard.press('t');
await page.waitForTimeout(800);
await shot('flow');
// Automation: a fader that is being written on the Sheet, beside meters that stay in view, and lanes in their view.
await page.getByRole('link', { name: 'Sheet' }).click();
await cap('percussion').waitFor();
await cap('percussion').click();
await page.keyboard.press('u');
// What its compressor does, and its level, stay in view meanwhile; its meters in the inspector.
await page.keyboard.press('y');
await page.locator('[id="cell-percussion-pre:0"]').click();
await page.keyboard.press('Shift+I');
await page.getByRole('tab', { name: 'Meters' }).click();
await page.getByRole('button', { name: 'Play', exact: true }).click();
await page.waitForTimeout(5000);
const held = await page.locator('[data-strip="percussion"] .handle').boundingBox();
const path = Array.from({ length: 40 }, (_, i) => [held.x + 8, held.y + 4 + 30 * Math.sin(i / 9)]);
await page.mouse.move(held.x + 8, held.y + 4);
await page.mouse.down();
for (const [x, y] of path) {
  await page.mouse.move(x, y);
  await page.waitForTimeout(60);
}
await shot('meters');
await page.mouse.up();
await page.waitForTimeout(800);
await page.getByRole('button', { name: 'Stop', exact: true }).click();
await page.getByRole('link', { name: 'Automation' }).click();
await page.getByRole('button', { name: 'Add a lane to Percussion' }).click();
await page.getByRole('menuitem', { name: 'Compressor: threshold' }).click();
const lane = await page.getByRole('application', { name: /threshold/ }).boundingBox();
for (const [x, y] of [
  [0.27, 0.35],
  [0.5, 0.35],
  [0.55, 0.6],
  [0.75, 0.6],
  [0.8, 0.3],
])
  await page.mouse.click(lane.x + lane.width * x, lane.y + lane.height * y);
await page.mouse.move(640, 700);
await page.waitForTimeout(500);
await shot('automation');
// The demo is left as it was.
for (let i = 0; i < 40 && (await done.textContent()) !== before; i++) {
  await page.keyboard.press('Control+z');
  await page.waitForTimeout(250);
}
await farAndNear();
await browser.close();
