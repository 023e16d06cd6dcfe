import { randomUUID } from 'node:crypto';
import { expect, test, type Page } from '@playwright/test';
import { newInsert } from '../core/session/defaults';
import { app, document, openDemo, pick } from './app';
import { heard, LISTEN, open, playTo, tones } from './tones';

/**
 * Decibels of the three tones, once they stand. @param clicks given what lies above 3 kHz meanwhile, below the loudest: a level that
 * goes from one value to another has sidebands around its tone, and a click lies everywhere
 */
async function settled(page: Page, clicks: number[]): Promise<number[]> {
  let last: number[] = [];
  await expect
    .poll(async () => {
      const { tones: now, high } = await heard(page);
      clicks.push(high - Math.max(...now));
      const still = now.every((level, i) => Math.abs(level - (last[i] ?? 0)) < 0.5);
      last = now;
      return still && now.every(Number.isFinite);
    })
    .toBe(true);
  return last;
}

test('a preset is heard while it plays, before it is applied, by keyboard alone: nothing is edited, nothing clicks, and it is gone with its dialog', async ({
  page,
}) => {
  await page.addInitScript(LISTEN);
  const id = await tones(page, 'Heard before');
  const quiet = newInsert({ id: 'quiet', type: 'gain', params: { gain: -18 } });
  await page.request.post(`${app().base}/api/sessions/${id}/commits`, {
    data: {
      revision: 1,
      changeId: randomUUID(),
      label: 'quiet',
      commands: [{ type: 'insert.add', strip: 't400', at: 0, insert: quiet }],
    },
  });
  await open(page, id);
  await pick(page, 't400');
  await page.keyboard.press('p');
  const find = page.getByLabel('Find a preset');
  // A dialog gives the keyboard to its first field when it is there: what is filled in before may go astray.
  await expect(find).toBeFocused();
  await page.getByLabel('Name of a new preset').fill('Far away');
  await page.getByRole('button', { name: 'Save as preset' }).click();
  await expect(page.getByRole('option', { name: /Far away/ })).toBeVisible();
  await page.keyboard.press('Escape');
  await playTo(page, 1);
  const clicks: number[] = [];
  const before = await settled(page, clicks);
  const session = JSON.stringify(await document(page));

  await pick(page, 't700');
  await page.keyboard.press('p');
  await expect(find).toBeFocused();
  await find.fill('far away');
  await expect(page.getByRole('option', { name: /Far away/, selected: true })).toBeVisible();
  await find.press('Alt+l');
  // As loud as now: the preset takes 18 dB from one of the tones, so that all of it is raised until the sum is what it was.
  await expect(page.getByRole('dialog').getByText(/^\S+\d dB$/)).toBeVisible();
  const matched = await settled(page, clicks);
  expect(matched[1]! - matched[2]!).toBeCloseTo(before[1]! - before[2]! - 18, 0);
  const power = (levels: readonly number[]) =>
    10 * Math.log10(levels.reduce((sum, l) => sum + 10 ** (l / 10), 0));
  expect(Math.abs(power(matched) - power(before))).toBeLessThan(1);

  await page.getByLabel('As loud as now').click();
  await expect.poll(async () => (await settled(page, clicks))[1]! - before[1]!).toBeCloseTo(-18, 0);
  const alone = await settled(page, clicks);
  expect(alone[0]!).toBeCloseTo(before[0]!, 0);
  expect(alone[2]!).toBeCloseTo(before[2]!, 0);
  expect(JSON.stringify(await document(page))).toBe(session);

  await page.keyboard.press('Escape');
  await expect.poll(async () => (await settled(page, clicks))[1]! - before[1]!).toBeCloseTo(0, 0);
  expect(JSON.stringify(await document(page))).toBe(session);
  expect(Math.max(...clicks)).toBeLessThan(-80);
});

test('what is typed while a dialog is still on its way stands in its field when it is there; Escape calls it off', async ({
  page,
}) => {
  let slow = 1500;
  await page.route(/PresetsDialog.*\.js$/, async (route) => {
    await new Promise((done) => setTimeout(done, slow));
    await route.continue();
  });
  await openDemo(page);
  await pick(page, 'slap');
  const before = JSON.stringify(await document(page));
  await page.keyboard.press('p');
  // Keys that would mute, solo and bypass, were they taken for what lies behind.
  await page.keyboard.type('mmsab ', { delay: 20 });
  await page.keyboard.press('Backspace');
  const find = page.getByLabel('Find a preset');
  await expect(find).toHaveValue('mmsab');
  await expect(page.getByText('No preset answers')).toBeVisible();
  await page.keyboard.type('c');
  await expect(find).toHaveValue('mmsabc');
  expect(JSON.stringify(await document(page))).toBe(before);

  await page.reload();
  slow = 4000;
  await openDemo(page);
  await pick(page, 'slap');
  await page.keyboard.press('p');
  await page.keyboard.type('x');
  await page.keyboard.press('Escape');
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toHaveCount(1);
  await expect(find).toHaveCount(0);
  await page.waitForTimeout(3500);
  await expect(find).toHaveCount(0);
});
