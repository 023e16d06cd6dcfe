import { expect, test, type Page } from '@playwright/test';
import { trace } from '../core/routing/trace';
import { levelText } from '../core/levels/decibels';
import type { Session } from '../core/session/types';
import { app, cell, document, openDemo, pick, saved, undoLabel, choose } from './app';

const session = async (page: Page) => (await document(page)) as unknown as Session;
const panel = (page: Page) => page.getByRole('complementary', { name: 'Inspector' });
test.beforeEach(async ({ page }) => {
  await openDemo(page);
  await expect(cell(page, 'skin', 'cap')).toBeVisible();
});

test('Trace: every path with its stages and the sum, lit on the Sheet; the numbers are those of the command line', async ({
  page,
}) => {
  await pick(page, 'skin');
  await page.keyboard.press('t');
  const found = trace(await session(page), 'skin', 'main');
  await expect(panel(page).getByText('2 paths')).toBeVisible();
  await expect(panel(page).locator('.sum dd').first()).toHaveText(`${levelText(found.leftDb)} dB`);
  // Both ways are lit: its out and its send, and the strips that they pass.
  for (const [strip, row] of [
    ['skin', 'out'],
    ['skin', 'send:plate'],
    ['percussion', 'out'],
    ['plate', 'cap'],
    ['main', 'cap'],
  ] as const)
    await expect(cell(page, strip, row)).toHaveClass(/lit/);
  await expect(cell(page, 'choir', 'cap')).not.toHaveClass(/lit/);
  await panel(page).getByRole('button', { name: 'Light this path alone' }).click();
  await expect(cell(page, 'plate', 'cap')).not.toHaveClass(/lit/);
  await expect(cell(page, 'percussion', 'out')).toHaveClass(/lit/);
  // Its fader moves, and the sum with it.
  await cell(page, 'skin', 'level').click();
  await page.keyboard.press('Shift+-');
  await expect(panel(page).locator('.sum dd').first()).toHaveText(`${levelText(found.leftDb! - 0.1)} dB`);
});

test('Why silent: the first thing that stops a strip, and the step that makes it heard', async ({ page }) => {
  await pick(page, 'skin');
  await page.keyboard.press('t');
  await expect(panel(page).getByText(/Nothing stops it: Main gets it at/)).toBeVisible();
  await page.keyboard.press('m');
  await expect(panel(page).getByText('Frame drum skin is muted.').first()).toBeVisible();
  await cell(page, 'bass-di', 'buttons').click({ position: { x: 38, y: 14 } });
  await pick(page, 'skin');
  await expect(panel(page).getByText(/Then one more thing stops it: Bass DI is soloed/)).toBeVisible();
  await panel(page).getByRole('button', { name: 'Unmute Frame drum skin' }).click();
  await expect(panel(page).getByText('Bass DI is soloed, and Frame drum skin is not.').first()).toBeVisible();
  await panel(page).getByRole('button', { name: 'Clear every solo' }).click();
  await expect(panel(page).getByText(/Nothing stops it/)).toBeVisible();
});

test('Ripple: a VCA over sources drives the compressor after them, from the gains and as the engine hears it', async ({
  page,
}) => {
  await pick(page, 'skin');
  await page.keyboard.press('w');
  await choose(panel(page), 'What moves', 'VCA Rhythm');
  await panel(page).getByLabel('Decibels').fill('-6');
  await expect(
    panel(page).getByText(/Rhythm changes more than level: it drives the compressor on Percussion/),
  ).toBeVisible();
  const driven = panel(page).getByRole('region', { name: 'Processors that are driven differently' });
  await expect(driven).toContainText('Compressor on Percussion');
  await expect(driven).toContainText('−6.0 dB');
  await panel(page).getByRole('button', { name: 'Measure it' }).click();
  const table = panel(page).locator('.v-table table');
  await expect(table).toBeVisible({ timeout: 120_000 });
  const row = (name: string) => table.getByRole('row', { name: new RegExp(`^${name}`) });
  await expect(row('Frame drum skin')).toContainText('−6.0');
  // Driven by less, the compressor turns down less, and the bus falls by less than the VCA.
  const number = async (name: string, column: number) =>
    Number((await row(name).getByRole('cell').nth(column).textContent())!.replace('−', '-').replace('+', ''));
  expect(await number('Compressor on Percussion', 3)).toBeLessThan(-0.1);
  const bus = await number('Percussion', 1);
  expect(bus).toBeGreaterThan(-6);
  expect(bus).toBeLessThan(-2);
  // A VCA over submix and return changes level alone, but for what else feeds the return.
  await choose(panel(page), 'What moves', 'VCA Choir');
  await expect(panel(page).getByText('No compressor or gate gets another level.')).toBeVisible();
});

test('Findings: what, why, a preview, a repair in one step, a dismissal that is kept', async ({ page }) => {
  const tab = page.getByRole('link', { name: /Findings/ });
  await expect(tab).toContainText('2');
  await tab.click();
  const slap = page.locator('article', { hasText: 'Slap is not solo-safe.' });
  await expect(slap).toBeVisible();
  await slap.getByRole('button', { name: 'What would it change?' }).click();
  await expect(slap).toContainText('Slap solo-safe');
  await slap.getByRole('button', { name: 'Make it solo-safe' }).click();
  await expect(slap).toHaveCount(0);
  await expect(undoLabel(page)).toHaveText('Make it solo-safe');
  await page.keyboard.press('Control+z');
  await expect(slap).toBeVisible();
  await slap.getByRole('button', { name: 'Let it stand' }).click();
  await expect(slap).toHaveCount(0);
  await saved(page);
  await page.reload();
  await expect(page.getByRole('heading', { name: 'Findings' })).toBeVisible();
  await page.getByRole('button', { name: /1 let stand/ }).click();
  await page.getByRole('button', { name: 'Look at it again' }).click();
  await expect(slap).toBeVisible();
  // A new fault is found as the session changes: a solo that is left on.
  await page.getByRole('link', { name: 'Sheet' }).click();
  await pick(page, 'bass-di');
  await page.keyboard.press('s');
  await expect(tab).toContainText('3');
  await tab.click();
  const solo = page.locator('article', { hasText: 'Bass DI is soloed.' });
  await solo.getByRole('button', { name: 'Bass DI' }).click();
  await expect(cell(page, 'bass-di', 'cap')).toHaveAttribute('aria-label', /picked/);
});

test('a clipping output is measured in the background, and named with the strip that first exceeds', async ({
  page,
}) => {
  await pick(page, 'percussion');
  await cell(page, 'percussion', 'level').click();
  await page.keyboard.press('Enter');
  await page.keyboard.type('12');
  await page.keyboard.press('Enter');
  await pick(page, 'main');
  await cell(page, 'main', 'level').click();
  await page.keyboard.press('Enter');
  await page.keyboard.type('12');
  await page.keyboard.press('Enter');
  await page.getByRole('link', { name: /Findings/ }).click();
  const clip = page.locator('article', { hasText: 'above full scale' });
  await expect(clip).toBeVisible({ timeout: 180_000 });
  await expect(clip).toContainText('measured');
  await clip.getByRole('button', { name: /Lower Main by/ }).click();
  await expect(clip).toHaveCount(0, { timeout: 180_000 });
});

test.describe('Flow', () => {
  const node = (page: Page, id: string) => page.locator(`.vue-flow__node[data-id="${id}"]`);
  const open = async (page: Page) => {
    await page.keyboard.press('2');
    await expect(node(page, 'plate')).toBeVisible({ timeout: 60_000 });
    await still(page);
  };
  /** Waits until the diagram is laid out and stands still. */
  const still = async (page: Page) => {
    await expect(page.locator('.flow')).toHaveAttribute('aria-busy', 'false');
    await node(page, 'plate').hover({ trial: true });
  };
  const connect = async (page: Page, from: string, to: string, drop = true) => {
    const a = (await node(page, from).locator('.vue-flow__handle.source').boundingBox())!;
    const b = (await node(page, to).locator('.vue-flow__handle.target').boundingBox())!;
    await page.mouse.move(a.x + a.width / 2, a.y + a.height / 2);
    await page.mouse.down();
    await page.mouse.move(b.x + b.width / 2 - 6, b.y + b.height / 2, { steps: 12 });
    await page.mouse.move(b.x + b.width / 2, b.y + b.height / 2, { steps: 3 });
    if (drop) await page.mouse.up();
  };

  test('folds families, shares the pick and the trace, and connects by drag', async ({ page }) => {
    await open(page);
    await expect(node(page, 'family:Bass')).toContainText('3 strips');
    await node(page, 'family:Bass').click();
    await expect(page.getByText('3 picked')).toBeVisible();
    await connect(page, 'family:Bass', 'slap');
    await page.getByRole('menuitem', { name: 'By a post-fader send' }).click();
    await expect(undoLabel(page)).toHaveText('send to Slap, 3 strips');
    await saved(page);
    const { strips } = await document(page);
    for (const id of ['bass-di', 'bass-mic', 'bass-cab'])
      expect(strips.find((s) => s.id === id)!.sends).toMatchObject([{ to: 'slap', tap: 'post' }]);
    await page.keyboard.press('t');
    await expect(node(page, 'slap').locator('.traced')).toBeVisible();
    await expect(node(page, 'choir').locator('.traced')).toHaveCount(0);
    await page.getByRole('button', { name: 'Open all families' }).click();
    await expect(node(page, 'bass-di')).toBeVisible({ timeout: 60_000 });
    await expect(node(page, 'family:Bass')).toHaveCount(0);
  });

  test('bars a loop before it is dropped, and says why', async ({ page }) => {
    await open(page);
    await connect(page, 'percussion', 'plate');
    await page.getByRole('menuitem', { name: 'By a pre-fader send' }).click();
    await saved(page);
    await expect(
      page.locator('.vue-flow__edge[data-id*="percussion"][data-id*="plate"]').first(),
    ).toBeAttached();
    await still(page);
    await connect(page, 'plate', 'percussion', false);
    await expect(node(page, 'percussion').locator('.barred')).toBeVisible();
    await page.mouse.up();
    await expect(page.getByText(/it would feed itself/)).toBeVisible();
    await expect(node(page, 'percussion').locator('.barred')).toHaveCount(0);
    const plate = (await document(page)).strips.find((s) => s.id === 'plate')!;
    expect(plate.sends).toEqual([]);
  });

  test('by keyboard: arrows go from node to node, Enter picks, F folds', async ({ page }) => {
    await open(page);
    await node(page, 'family:Bass').focus();
    await page.keyboard.press('Enter');
    await expect(page.getByText('3 picked')).toBeVisible();
    await page.keyboard.press('f');
    await expect(node(page, 'bass-mic')).toBeVisible({ timeout: 60_000 });
    await node(page, 'plate').focus();
    await page.keyboard.press('ArrowRight');
    await expect(node(page, 'main')).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(page.getByText('1 picked')).toBeVisible();
  });

  test('saves SVG, DOT, GraphML and a patch list, and reads a patch list back by name', async ({ page }) => {
    await open(page);
    const save = async (what: string) => {
      await page.getByRole('button', { name: 'Save as…' }).click();
      const [file] = await Promise.all([
        page.waitForEvent('download'),
        page.getByRole('menuitem', { name: what }).click(),
      ]);
      const chunks: Buffer[] = [];
      for await (const c of await file.createReadStream()) chunks.push(c as Buffer);
      return Buffer.concat(chunks).toString();
    };
    expect(await save('Diagram, SVG')).toMatch(/^<svg [^]*Lantern Tide[^]*<\/svg>\s*$/);
    expect(await save('Graph, DOT')).toContain('digraph');
    expect(await save('Graph, GraphML')).toContain('<graphml');
    const csv = await save('Patch list, CSV');
    expect(csv.split('\r\n')[0]).toBe('strip,kind,family,inserts,sends,out,dry path');
    await page.getByLabel('Patch list').setInputFiles({
      name: 'patch.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from('strip,out,sends\r\nBell,Choir,Plate | pre | -9.00 dB\r\nGhost,Main,\r\n'),
    });
    const dialog = page.getByRole('dialog', { name: 'Patch list' });
    await expect(dialog).toContainText('there is no strip “Ghost”');
    await expect(dialog).toContainText('Bell out to Choir, was Main');
    await dialog.getByRole('button', { name: 'Apply', exact: true }).click();
    await expect(undoLabel(page)).toHaveText('patch list patch.csv');
    await saved(page);
    const bell = (await document(page)).strips.find((s) => s.id === 'bell')!;
    expect(bell.out.to).toBe('choir');
    expect(bell.sends).toMatchObject([{ to: 'plate', tap: 'pre', levelDb: -9 }]);
  });
});

test('a session of 200 strips: Sheet, trace, findings and Flow', async ({ page }) => {
  const ask = async (path: string, data: object) => {
    const answer = await page.request.post(`${app().base}/api${path}`, { data });
    expect(answer.ok()).toBe(true);
    return answer.json();
  };
  const { id } = (await ask('/sessions', { name: 'Two hundred', sampleRate: 48000 })) as { id: string };
  const send = (strip: string, to: string) => ({
    id: `${strip}-${to}`,
    to,
    tap: 'post',
    levelDb: -18,
    pan: 0,
    on: true,
  });
  const strip = (stripId: string, kind: string, name: string, to: string, more: object = {}) => ({
    type: 'strip.add',
    at: 0,
    strip: { id: stripId, kind, name, out: { to, on: true }, ...more },
  });
  const families = ['Percussion', 'Bass', 'Guitars', 'Keys', 'Strings', 'Choir'];
  await ask(`/sessions/${id}/commits`, {
    revision: 0,
    changeId: crypto.randomUUID(),
    kind: 'edit',
    label: 'two hundred',
    commands: [
      strip('hall', 'return', 'Hall', 'main', { inserts: [{ id: 'r', type: 'reverb' }] }),
      ...Array.from({ length: 8 }, (_, i) => strip(`bus${i}`, 'submix', `Bus ${i}`, 'main')),
      ...Array.from({ length: 190 }, (_, i) =>
        strip(`s${i}`, 'source', `Strip ${i}`, `bus${i % 8}`, {
          family: families[Math.floor(i / 32)],
          sends: [send(`s${i}`, 'hall')],
        }),
      ),
    ],
  });
  await page.goto(`${app().base}/session/${id}`);
  await expect(cell(page, 's189', 'cap')).toBeVisible();
  await pick(page, 's189');
  await page.keyboard.press('t');
  await expect(panel(page).getByText('2 paths')).toBeVisible();
  await expect(cell(page, 'bus5', 'out')).toHaveClass(/lit/);
  await page.keyboard.press('Shift+F');
  await expect(page.getByText('30 picked')).toBeVisible();
  await page.keyboard.press('Shift+B');
  await expect(page.locator('.folded')).toHaveCount(6);
  await page.keyboard.press('Shift+B');
  await page.keyboard.press('2');
  await expect(page.locator('.vue-flow__node')).toHaveCount(16, { timeout: 60_000 });
  await page.getByRole('button', { name: 'Open all families' }).click();
  await expect(page.getByText('Laying out…')).toHaveCount(0, { timeout: 120_000 });
  await expect(page.locator('.vue-flow__node').first()).toBeVisible();
  await page.goto(`${app().base}/session/${id}/findings`);
  // All that is wrong with it is that it has no audio yet.
  await expect(page.getByText('Strip 189, Strip 188 and 188 more have no stem.')).toBeVisible();
  await expect(page.getByRole('link', { name: 'Findings 1' })).toBeVisible();
  await page.request.delete(`${app().base}/api/sessions/${id}`);
  await openDemo(page);
});
