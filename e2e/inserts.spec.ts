import { expect, test, type Page } from '@playwright/test';
import { passSection, sectionsResponse } from '../core/processors/filter';
import { bell, highShelf, lowShelf } from '../core/processors/matched';
import { app, cell, document, openDemo, pick, saved, show, undoLabel, choose } from './app';

let begun = '';
test.beforeEach(async ({ page }) => {
  await openDemo(page);
  await saved(page);
  begun = JSON.stringify(await document(page));
});

interface InsertOf {
  id: string;
  type: string;
  place: string;
  on: boolean;
  mix: number;
  params: Record<string, number>;
  key: string | null;
}
const inserts = async (page: Page, strip: string) =>
  ((await document(page)).strips.find((s) => s.id === strip) as unknown as { inserts: InsertOf[] }).inserts;
const chain = async (page: Page, strip: string) =>
  (await inserts(page, strip)).map((i) => `${i.place} ${i.type}`).join(', ');
/** Takes the edits of a test back: then everything is as it was. */
async function undoAll(page: Page) {
  for (let i = 0; i < 30 && JSON.stringify(await document(page)) !== begun; i++) {
    await page.locator('.history').first().click();
    await saved(page);
  }
  expect(JSON.stringify(await document(page))).toBe(begun);
}
const drag = async (page: Page, from: [string, string], to: [string, string], modifier?: 'Control') => {
  const a = (await cell(page, ...from).boundingBox())!;
  const b = (await cell(page, ...to).boundingBox())!;
  await page.mouse.move(a.x + 20, a.y + 12);
  if (modifier) await page.keyboard.down(modifier);
  await page.mouse.down();
  await page.mouse.move(b.x + 20, b.y + 12, { steps: 6 });
  await page.mouse.up();
  if (modifier) await page.keyboard.up(modifier);
};

test('an insert is dragged to another place, after the fader, to another strip, and copied', async ({
  page,
}) => {
  const before = await chain(page, 'plate');
  await drag(page, ['plate', 'pre:1'], ['plate', 'pre:0']);
  await expect(undoLabel(page)).toHaveText(/move Compressor/);
  await saved(page);
  expect(await chain(page, 'plate')).toBe('pre compressor, pre reverb');
  await drag(page, ['plate', 'pre:0'], ['plate', 'post:0']);
  await saved(page);
  expect(await chain(page, 'plate')).toBe('pre reverb, post compressor');
  await drag(page, ['plate', 'post:0'], ['choir', 'pre:0'], 'Control');
  await saved(page);
  expect(await chain(page, 'choir')).toBe('pre compressor');
  expect((await inserts(page, 'choir'))[0]!.key).toBe('pulse');
  expect(await chain(page, 'plate')).toBe('pre reverb, post compressor');
  await undoAll(page);
  expect(await chain(page, 'plate')).toBe(before);
});

test('by keyboard alone: an insert goes along its chain and to the next strip, and back to its defaults', async ({
  page,
}) => {
  await cell(page, 'plate', 'pre:1').click();
  await page.getByRole('grid').focus();
  await page.keyboard.press('Alt+ArrowUp');
  await saved(page);
  expect(await chain(page, 'plate')).toBe('pre compressor, pre reverb');
  await page.keyboard.press('Alt+ArrowRight');
  await saved(page);
  expect(await chain(page, 'slap')).toBe('pre compressor, pre delay');
  await page.keyboard.press('Backspace');
  await saved(page);
  expect((await inserts(page, 'slap'))[0]).toMatchObject({ params: {}, key: null });
  await page.keyboard.press('b');
  await saved(page);
  expect((await inserts(page, 'slap'))[0]!.on).toBe(false);
  await undoAll(page);
});

test('the equalizer is changed by its points: by pointer, by keys, and in the large editor', async ({
  page,
}) => {
  await show(page, 'lead-voice');
  await cell(page, 'lead-voice', 'pre:0').click();
  const point = page.getByRole('slider', { name: 'Bell 2', exact: true });
  await point.focus();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  await expect(point).toHaveAttribute('aria-valuetext', /\+1\.0 dB/);
  await expect.poll(async () => (await inserts(page, 'lead-voice'))[0]!.params.bell2Gain).toBe(1);
  await saved(page);
  const box = (await point.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 30, box.y + box.height / 2 - 20, { steps: 5 });
  await page.mouse.up();
  await saved(page);
  const { params } = (await inserts(page, 'lead-voice'))[0]!;
  expect(params.bell2Gain).toBeGreaterThan(4);
  expect(params.bell2Frequency).toBeGreaterThan(1200);
  await page.getByLabel('Open the large editor').click();
  const large = page.getByRole('dialog', { name: /Large editor/ });
  await large.getByRole('switch', { name: 'High cut on' }).click();
  await saved(page);
  expect((await inserts(page, 'lead-voice'))[0]!.params.highCutOn).toBe(1);
  // One that was not chosen before moves too; with Shift its band is heard alone meanwhile, and nothing of that is kept.
  const other = (await large.getByRole('slider', { name: 'Bell 4', exact: true }).boundingBox())!;
  await page.keyboard.down('Shift');
  await page.mouse.move(other.x + other.width / 2, other.y + other.height / 2);
  await page.mouse.down();
  await page.mouse.move(other.x + other.width / 2, other.y + other.height / 2 - 30, { steps: 3 });
  await page.mouse.up();
  await page.keyboard.up('Shift');
  await saved(page);
  const kept = (await inserts(page, 'lead-voice'))[0]!.params;
  expect(kept.bell4Gain).toBeGreaterThan(2);
  expect([kept.lowCutFrequency, kept.bell2Gain]).toEqual([90, params.bell2Gain]);
  await page.keyboard.press('Escape');
  await undoAll(page);
});

test('bands that move by themselves: their range by a ring and by keys, where they are now as it plays, and what they hear', async ({
  page,
}) => {
  await cell(page, 'bass-di', 'pre:0').click();
  await page.getByRole('menuitem', { name: 'Dynamic equalizer' }).click();
  const own = async () => (await inserts(page, 'bass-di')).find((i) => i.type === 'dynamicEqualizer')!;
  const point = page.getByRole('slider', { name: 'Low shelf', exact: true });
  const ring = (await point.locator('.range circle').first().boundingBox())!;
  await page.mouse.move(ring.x + ring.width / 2, ring.y + ring.height / 2);
  await page.mouse.down();
  await page.mouse.move(ring.x + ring.width / 2, ring.y + ring.height / 2 + 20, { steps: 4 });
  await page.mouse.up();
  await saved(page);
  const { lowShelfRange, lowShelfGain, lowShelfFrequency } = (await own()).params;
  expect(lowShelfRange).toBeLessThan(-4);
  expect([lowShelfGain ?? 0, lowShelfFrequency ?? 120]).toEqual([0, 120]);
  await point.focus();
  await page.keyboard.press('PageUp');
  await page.keyboard.press('Shift+PageDown');
  const steps = async () => Math.round(((await own()).params.lowShelfRange! - lowShelfRange!) * 10);
  await expect.poll(steps).toBe(4);
  await saved(page);
  await expect(point).toHaveAttribute('aria-valuetext', /goes by −/);
  const threshold = page.getByRole('slider', { name: 'Threshold', exact: true });
  await threshold.focus();
  await page.keyboard.press('Enter');
  await page.keyboard.type('-60');
  await page.keyboard.press('Enter');
  await saved(page);
  expect((await own()).params.lowShelfThreshold).toBe(-60);
  // The line of where it is now stands below the curve while the bass sounds.
  const lit = () =>
    page.locator('.eq canvas').evaluate((el: HTMLCanvasElement) => {
      const caution = getComputedStyle(el).getPropertyValue('--caution').trim();
      const probe = el.ownerDocument.createElement('canvas').getContext('2d')!;
      probe.fillStyle = caution;
      probe.fillRect(0, 0, 1, 1);
      const [r, g, b] = probe.getImageData(0, 0, 1, 1).data;
      const { data } = el.getContext('2d')!.getImageData(0, 0, el.width, el.height);
      for (let i = 0; i < data.length; i += 4)
        if (data[i] === r && data[i + 1] === g && data[i + 2] === b && data[i + 3] === 255) return true;
      return false;
    });
  expect(await lit()).toBe(false);
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect.poll(lit, { timeout: 20_000 }).toBe(true);
  // What it hears is heard while the key is held, and nothing of that is kept.
  await point.focus();
  await page.keyboard.down('a');
  await expect(point.locator('rect').nth(1)).toHaveAttribute('fill', 'var(--caution)');
  await page.keyboard.up('a');
  await expect(point.locator('rect').nth(1)).not.toHaveAttribute('fill', 'var(--caution)');
  expect((await own()).params.listen ?? 0).toBe(0);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await undoAll(page);
});

test('gain reduction moves while it plays: on the Sheet, and as a history in the editor', async ({
  page,
}) => {
  await show(page, 'lead-voice');
  await cell(page, 'lead-voice', 'pre:1').click();
  await page.keyboard.press('Space');
  const now = page.locator('.dynamics .now');
  await expect
    .poll(async () => Number((await now.textContent())!.replace(/[^\d.]/g, '')), { timeout: 20_000 })
    .toBeGreaterThan(0.5);
  const painted = () =>
    page.locator('canvas.hairlines').evaluate((el: HTMLCanvasElement) => {
      const { data } = el.getContext('2d')!.getImageData(0, 0, el.width, el.height);
      return data.some((v, i) => i % 4 === 3 && v > 0);
    });
  await expect.poll(painted).toBe(true);
  await page.keyboard.press('Space');
});

test('settings are copied from one strip and pasted on three, whole and in parts', async ({ page }) => {
  await pick(page, 'lead-voice');
  await page.keyboard.press('Control+c');
  await pick(page, 'crew-1');
  await pick(page, 'crew-2', ['Control']);
  await pick(page, 'crew-3', ['Control']);
  const levels = async () =>
    (await document(page)).strips.filter((s) => s.id.startsWith('crew')).map((s) => s.faderDb);
  const before = await levels();
  const lead = (await document(page)).strips.find((s) => s.id === 'lead-voice')!.faderDb;
  await page.keyboard.press('Control+Shift+v');
  const dialog = page.getByRole('dialog', { name: /Paste from Lead voice/ });
  await expect(dialog.getByText('Equalizer, new').first()).toBeVisible();
  await dialog.getByRole('button', { name: 'Paste' }).click();
  await saved(page);
  for (const id of ['crew-1', 'crew-2', 'crew-3'])
    expect(await chain(page, id)).toBe('pre equalizer, pre compressor');
  expect(await levels()).toEqual(before);
  await page.keyboard.press('Control+v');
  await expect.poll(levels).toEqual([lead, lead, lead]);
  // Edited together: the same step for all three, each from where it stands.
  await cell(page, 'crew-2', 'pre:1').click();
  const ratio = page.getByRole('slider', { name: 'Ratio' });
  await expect(page.getByText('3 picked:')).toBeVisible();
  await page.getByLabel('all alike').check();
  await ratio.focus();
  await page.keyboard.press('Enter');
  await page.keyboard.type('5');
  await page.keyboard.press('Enter');
  await saved(page);
  for (const id of ['crew-1', 'crew-2', 'crew-3']) expect((await inserts(page, id))[1]!.params.ratio).toBe(5);
  await page.getByLabel('by the same amount').check();
  await undoAll(page);
});

test('a preset is found, says what it would change, is applied; one’s own is kept, saved, removed and brought back', async ({
  page,
}) => {
  await pick(page, 'slap');
  await page.keyboard.press('p');
  await page.getByLabel('Find a preset').fill('tail ducked');
  await expect(page.getByText('This would change')).toBeVisible();
  await expect(page.getByText('Delay removed')).toBeVisible();
  await page.getByLabel('Find a preset').press('Enter');
  await saved(page);
  // One dialog is gone before the next is asked for.
  await expect(page.getByLabel('Find a preset')).toHaveCount(0);
  expect(await chain(page, 'slap')).toBe('pre equalizer, pre reverb, pre compressor');
  expect((await inserts(page, 'slap'))[2]!.key).toBe('pulse');
  await page.keyboard.press('p');
  await page.getByLabel('Name of a new preset').fill('Boathouse tail');
  await page.getByRole('button', { name: 'Save as preset' }).click();
  await expect(page.getByRole('option', { name: /Boathouse tail/ })).toBeVisible();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save as file' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('Boathouse tail.zonula-preset.json');
  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await expect(page.getByRole('option', { name: /Boathouse tail/ })).toHaveCount(0);
  await page.getByRole('button', { name: /Bring “Boathouse tail” back/ }).click();
  await expect(page.getByRole('option', { name: /Boathouse tail/ })).toBeVisible();
  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await expect(page.getByRole('option', { name: /Boathouse tail/ })).toHaveCount(0);
  await page.keyboard.press('Escape');
  await undoAll(page);
});

test('linked strips move together, one alone with Alt, and the link is dissolved', async ({ page }) => {
  await pick(page, 'choir');
  await pick(page, 'plate', ['Control']);
  await page.keyboard.press('k');
  await page.getByRole('button', { name: 'Link', exact: true }).click();
  await saved(page);
  await page.keyboard.press('Escape');
  const level = async (id: string) => (await document(page)).strips.find((s) => s.id === id)!.faderDb!;
  const [choir, plate] = [await level('choir'), await level('plate')];
  await cell(page, 'choir', 'level').click({ position: { x: 4, y: 100 } });
  await page.getByRole('grid').focus();
  await page.keyboard.press('-');
  await page.keyboard.press('-');
  await expect.poll(() => level('choir')).toBeCloseTo(choir - 1, 5);
  await saved(page);
  expect(await level('plate')).toBeCloseTo(plate - 1, 5);
  const handle = (await page.locator('[data-strip="plate"] .handle').boundingBox())!;
  await page.keyboard.down('Alt');
  await page.mouse.move(handle.x + 8, handle.y + 4);
  await page.mouse.down();
  await page.mouse.move(handle.x + 8, handle.y + 40, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.up('Alt');
  await saved(page);
  expect(await level('choir')).toBeCloseTo(choir - 1, 5);
  expect(await level('plate')).toBeLessThan(plate - 2);
  await page.getByRole('button', { name: /Dissolve the link/ }).click();
  await saved(page);
  await undoAll(page);
});

test('an effect moves from a strip to a return in one step, with the sum as it was', async ({ page }) => {
  await cell(page, 'choir', 'pre:0').click();
  await page.getByRole('menuitem', { name: 'Reverb' }).click();
  await cell(page, 'choir', 'pre:0').click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Move it to a return…' }).click();
  await expect(page.getByText('The sum stays as it was')).toBeVisible();
  await page.getByRole('button', { name: 'Move', exact: true }).click();
  await saved(page);
  const doc = await document(page);
  const made = doc.strips.find((s) => s.name === 'Reverb of Choir')!;
  expect(doc.strips.find((s) => s.id === 'choir')!.sends).toContainEqual(
    expect.objectContaining({ to: made.id, tap: 'post' }),
  );
  expect(await chain(page, 'choir')).toBe('');
  await undoAll(page);
});

test('all inserts of a strip are bypassed and come back, and all of one kind', async ({ page }) => {
  await pick(page, 'plate');
  await page.keyboard.press('Shift+p');
  await saved(page);
  expect((await inserts(page, 'plate')).map((i) => i.on)).toEqual([false, false]);
  await page.keyboard.press('Shift+p');
  await saved(page);
  expect((await inserts(page, 'plate')).map((i) => i.on)).toEqual([true, true]);
  await cell(page, 'percussion', 'pre:0').click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Bypass every Compressor of the session' }).click();
  await saved(page);
  expect((await inserts(page, 'plate'))[1]!.on).toBe(false);
  expect((await inserts(page, 'percussion'))[0]!.on).toBe(false);
  await undoAll(page);
});

test('dry is compared with wet at one loudness, and nothing is edited', async ({ page }) => {
  test.setTimeout(120_000);
  await show(page, 'lead-voice');
  await cell(page, 'lead-voice', 'pre:1').click();
  await page.getByRole('button', { name: 'Dry', exact: true }).click();
  const bar = page.getByRole('toolbar', { name: 'Dry and wet' });
  await expect(bar.getByText(/wet is [−+]?\d/)).toBeVisible({ timeout: 90_000 });
  await expect(cell(page, 'lead-voice', 'pre:1')).toHaveAttribute('aria-label', /heard dry/);
  await bar.getByRole('radio', { name: 'Wet' }).click();
  await expect(cell(page, 'lead-voice', 'pre:1')).not.toHaveAttribute('aria-label', /heard dry/);
  await bar.getByRole('button', { name: 'End', exact: true }).click();
  await expect(bar).toHaveCount(0);
  expect(JSON.stringify(await document(page))).toBe(begun);
});

test('the load of every processor is measured, and what one return instead of two would save', async ({
  page,
}) => {
  test.setTimeout(120_000);
  await pick(page, 'choir');
  await pick(page, 'percussion', ['Control']);
  await cell(page, 'choir', 'pre:0').click();
  await page.getByRole('menuitem', { name: 'Reverb' }).click();
  await saved(page);
  await page.getByRole('tab', { name: 'Load' }).click();
  // The audio thread tells of its processors while it plays, without being asked to measure them.
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(page.getByText(/In the audio thread: over \d+ s so far/)).toBeVisible();
  await expect(page.locator('.load .v-table tbody tr').filter({ hasText: 'Equalizer' })).toContainText(
    /\d %/,
  );
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await page.getByRole('button', { name: 'Measure', exact: true }).click();
  await expect(page.getByText(/times real time/)).toBeVisible({ timeout: 60_000 });
  await expect(page.locator('.load .v-table tbody tr')).toHaveCount(
    (await document(page)).strips.reduce(
      (n, s) => n + (s as unknown as { inserts: unknown[] }).inserts.length,
      1,
    ),
  );
  await page.getByRole('button', { name: 'Measure what one return would save' }).click();
  await expect(page.getByText(/2 × Reverb as one return/)).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Move…' }).click();
  await page.getByRole('button', { name: 'Move', exact: true }).click();
  await saved(page);
  expect((await document(page)).strips.some((s) => s.name === 'Reverb of 2 strips')).toBe(true);
  await undoAll(page);
});

test('the buffer of the device is chosen while it plays, by keyboard, and gaps that were heard are told', async ({
  page,
}) => {
  await page.getByRole('button', { name: /^load/ }).click();
  const thread = page.getByRole('region', { name: 'The audio thread' });
  const heardAfter = async () =>
    Number(/heard after (\d+) ms/.exec((await thread.textContent()) ?? '')?.[1] ?? Number.NaN);
  const time = async () => {
    const text = await page.locator('.transport .clock').textContent();
    const [minutes, seconds] = text!.split(':').map(Number);
    return minutes! * 60 + seconds!;
  };
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(thread).toContainText(/\d+ gaps? (was|were) heard/);
  await expect.poll(heardAfter).toBeGreaterThan(15);
  const short = await heardAfter();
  const at = await time();
  await thread.getByLabel('Buffer').focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('listbox')).toBeVisible();
  await page.keyboard.press('End');
  await page.keyboard.press('Enter');
  await expect(thread.getByLabel('Buffer')).toHaveValue('200 ms');
  // It plays on from where it stood, and what is computed is heard later than before.
  await expect.poll(heardAfter).toBeGreaterThan(short + 100);
  await expect.poll(time).toBeGreaterThan(at + 0.5);
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
});

test('where gaps were heard, the next longer buffer is offered: by keyboard, until the gaps end', async ({
  page,
}) => {
  // The browser's own count, in the place of gaps that nobody can order.
  await page.addInitScript(() => {
    const counts = new WeakMap<object, object>();
    Object.defineProperty(AudioContext.prototype, 'playbackStats', {
      get(this: object) {
        const told = counts.get(this) ?? { underrunEvents: 0, underrunDuration: 0 };
        counts.set(this, told);
        return Object.assign(window, { told }).told;
      },
    });
  });
  await page.reload();
  const hear = (times: number) =>
    page.evaluate((n) => {
      const { told } = window as unknown as { told: { underrunEvents: number; underrunDuration: number } };
      Object.assign(told, { underrunEvents: n, underrunDuration: n * 0.02 });
    }, times);
  await page.getByRole('button', { name: /^load/ }).click();
  const thread = page.getByRole('region', { name: 'The audio thread' });
  const offer = thread.getByRole('button', { name: /^Take/ });
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(thread).toContainText('0 gaps were heard');
  await expect(offer).toHaveCount(0);
  await hear(2);
  await expect(thread).toContainText('2 gaps were heard, 40 ms in all');
  await thread.getByLabel('Buffer').focus();
  await page.keyboard.press('Tab');
  await expect(offer).toBeFocused();
  await expect(offer).toHaveText('Take 50 ms');
  await page.keyboard.press('Enter');
  await expect(thread.getByLabel('Buffer')).toHaveValue('50 ms');
  await expect(thread.getByLabel('Buffer')).toBeFocused();
  await expect(offer).toHaveCount(0);
  await expect(thread).toContainText('2 gaps were heard');
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();
  await hear(1);
  await expect(thread).toContainText('3 gaps were heard, 60 ms in all');
  await expect(offer).toHaveText('Take 100 ms');
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
});

test('the input stage: a source by a simulated remote preamplifier, asked, confirmed, and undone', async ({
  page,
}) => {
  await pick(page, 'skin');
  const stage = page.getByRole('region', { name: 'Input stage' });
  await expect(stage.getByText('simulated device')).toBeVisible();
  await choose(stage, 'Input of the preamplifier', '4');
  await expect(stage.getByText('Confirmed by the device.')).toBeVisible({ timeout: 20_000 });
  await stage.getByRole('button', { name: /Phantom power/ }).click();
  await stage.getByRole('slider', { name: 'Gain' }).focus();
  await page.keyboard.press('Enter');
  await page.keyboard.type('42');
  await page.keyboard.press('Enter');
  const confirmed = async () => {
    const { states } = await (await page.request.get(`${app().base}/api/preamps`)).json();
    return states.find((s: { input: number }) => s.input === 4)?.confirmed;
  };
  await expect.poll(confirmed, { timeout: 60_000 }).toMatchObject({ gainDb: 42, phantom: true });
  await expect(stage.getByText('Confirmed by the device.')).toBeVisible({ timeout: 20_000 });
  await expect(cell(page, 'skin', 'input')).toHaveAttribute('aria-label', /Preamplifier: confirmed/);
  // The same input cannot be taken twice.
  await pick(page, 'rim');
  await stage.getByRole('combobox', { name: 'Input of the preamplifier' }).click({ force: true });
  await expect(page.getByRole('option', { name: '4, Frame drum skin' })).toHaveClass(/disabled/);
  await page.keyboard.press('Escape');
  await undoAll(page);
});

test('a curve that is looked at tells a screen reader its values, as a table', async ({ page }) => {
  await show(page, 'lead-voice');
  await cell(page, 'lead-voice', 'pre:1').click();
  const table = page.getByRole('table', { name: 'Output over input level of the Compressor' });
  const row = (input: string) =>
    table
      .getByRole('row', { name: new RegExp(`^${input} `) })
      .getByRole('cell')
      .first();
  // The demo's compressor there: threshold -17 dB, ratio 3, knee 8 dB. Far below the threshold nothing changes; at 0 dB, beyond the
  // knee, the 17 dB over the threshold become 17 / 3: -17 + 17 / 3 = -11.3 dB.
  await expect(row('-60.0 dB')).toHaveText('-60.0 dB');
  await expect(row('0.0 dB')).toHaveText('-11.3 dB');
});

// The browser's own filters are another implementation of the same cookbook (Web Audio API, W3C Recommendation 2021):
// BiquadFilterNode.getFrequencyResponse. Its cuts read Q in decibels; its shelves have a fixed slope of Q = 1/sqrt(2). At eight
// times the rate its bilinear transform has hardly left the analogue prototype that our bells and shelves follow.
test('equalizer curves agree with the browser’s BiquadFilterNode', async ({ page }) => {
  await page.goto(app().base);
  const frequencies = [25, 60, 150, 400, 1000, 2500, 6000, 12000, 18000];
  const wanted = await page.evaluate((list) => {
    const plain = new OfflineAudioContext(1, 128, 48000);
    const fast = new OfflineAudioContext(1, 128, 384000);
    const response = (type: BiquadFilterType, f: number, gain: number, q: number) => {
      const node = (type.endsWith('pass') ? plain : fast).createBiquadFilter();
      node.type = type;
      node.frequency.value = f;
      node.gain.value = gain;
      node.Q.value = q;
      const magnitude = new Float32Array(list.length);
      node.getFrequencyResponse(Float32Array.from(list), magnitude, new Float32Array(list.length));
      return [...magnitude].map((m) => 20 * Math.log10(m));
    };
    const butterworth = 20 * Math.log10(Math.SQRT1_2);
    return {
      bell: response('peaking', 1200, 7, 2.5),
      dip: response('peaking', 300, -11, 0.6),
      lowShelf: response('lowshelf', 200, 6, 1),
      highShelf: response('highshelf', 5000, -8, 1),
      lowCut: response('highpass', 120, 0, butterworth),
      highCut: response('lowpass', 7000, 0, butterworth),
    };
  }, frequencies);
  const ours = {
    bell: bell(1200, 7, 2.5, 48000),
    dip: bell(300, -11, 0.6, 48000),
    lowShelf: lowShelf(200, 6, Math.SQRT1_2, 48000),
    highShelf: highShelf(5000, -8, Math.SQRT1_2, 48000),
    lowCut: passSection('low', 120, Math.SQRT1_2, 48000),
    highCut: passSection('high', 7000, Math.SQRT1_2, 48000),
  };
  for (const [name, section] of Object.entries(ours))
    frequencies.forEach((f, i) => {
      const theirs = wanted[name as keyof typeof wanted][i]!;
      if (theirs > -80)
        expect(Math.abs(sectionsResponse([section], f, 48000) - theirs), `${name} at ${f} Hz`).toBeLessThan(
          name.endsWith('Cut') ? 0.02 : 0.05,
        );
    });
});
