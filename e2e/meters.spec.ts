import { expect, test, type Page } from '@playwright/test';
import { cell, choose, openDemo, pick, saved, show } from './app';

const tray = (page: Page) => page.getByRole('list', { name: 'Meters kept in view' });
const tile = (page: Page, name: string) => tray(page).getByRole('listitem', { name, exact: true });
/** The first number that a tile writes. */
const told = async (page: Page, name: string) => {
  const text = (await tile(page, name).locator('.mono').first().innerText()).split('\n')[0]!;
  return Number(/[\d.]+/.exec(text)?.[0] ?? NaN) * (text.startsWith('−') ? -1 : 1);
};

test('meters stay in view: what a bus compressor does is seen while the faders of its sources go down, by keyboard alone', async ({
  page,
}) => {
  await openDemo(page);
  await pick(page, 'percussion');
  await page.keyboard.press('y');
  await expect(tile(page, 'Percussion')).toBeVisible();
  await cell(page, 'percussion', 'pre:0').click();
  await page.keyboard.press('Shift+I');
  const glue = 'Compressor, Percussion';
  await expect(tile(page, glue)).toBeVisible();
  await page.keyboard.press('Space');
  await expect.poll(() => told(page, glue), { timeout: 20_000, intervals: [50] }).toBeLessThan(-0.5);
  await expect.poll(() => told(page, 'Percussion')).toBeGreaterThan(-40);
  // Kept in every view, and in the next window.
  await page.getByRole('link', { name: 'Print' }).click();
  await expect(tile(page, glue)).toBeVisible();
  await page.getByRole('link', { name: 'Sheet' }).click();
  // All of the submix's sources down.
  await show(page, 'skin');
  await pick(page, 'skin');
  for (const id of ['rim', 'stomp', 'shaker', 'claps-l', 'claps-r']) await pick(page, id, ['Control']);
  await page.getByRole('grid').focus();
  await cell(page, 'skin', 'level').click({ position: { x: 40, y: 5 } });
  await page.keyboard.press('Enter');
  await page.keyboard.type('-40');
  await page.keyboard.press('Enter');
  await saved(page);
  await expect.poll(() => told(page, glue), { timeout: 20_000 }).toBeGreaterThan(-0.3);
  await page.keyboard.press('Space');
  // Out of view by keys, and what is undone elsewhere leaves the tray as it is.
  await tile(page, 'Percussion').focus();
  await page.keyboard.press('ArrowRight');
  await expect(tile(page, glue)).toBeFocused();
  await page.keyboard.press('Delete');
  await expect(tile(page, glue)).toHaveCount(0);
  await expect(tile(page, 'Percussion')).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(cell(page, 'percussion', 'cap')).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('Delete');
  await expect(tray(page)).toHaveCount(0);
});

test('loudness, true peak, correlation and mono of the output while it plays, on the scale that is chosen', async ({
  page,
}) => {
  await openDemo(page);
  await page.keyboard.press('e');
  const panel = page.getByRole('region', { name: 'Meters of Main' });
  await expect(panel).toContainText('Play, and its loudness');
  await page.keyboard.press('Space');
  const figure = async (name: string, column = 1) => {
    const text = await panel.getByRole('row', { name }).getByRole('cell').nth(column).innerText();
    return Number(text.replace('−', '-'));
  };
  await expect.poll(() => figure('Short-term'), { timeout: 20_000 }).toBeGreaterThan(-30);
  await expect.poll(() => figure('Integrated')).toBeGreaterThan(-30);
  expect(await figure('True peak')).toBeLessThan(0);
  expect(await figure('Momentary', 2)).toBeGreaterThanOrEqual(await figure('Short-term', 2));
  await expect(panel).toContainText(/Correlation\s*[+−]?0\.\d\d/);
  await expect(panel).toContainText(/In mono\s*−\d+\.\d dB\s*holds/);
  const peak = () => page.getByTestId('loudness').innerText();
  expect(await peak()).toMatch(/LUFS −\d/);
  await choose(page, 'Scale', 'Programme, type IIa (IEC 60268-10)');
  // From 1 to 7: the demo stands around the alignment level.
  await expect.poll(peak).toMatch(/LUFS [2-7]\.\d/);
  await choose(page, 'Scale', 'Digital peak (IEC 60268-18)');
  await page.keyboard.press('Escape');
  await panel.getByRole('button', { name: 'Hear in mono' }).click();
  await expect(page.getByRole('button', { name: 'In mono', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'In mono', exact: true }).click();
  await expect(page.getByRole('button', { name: 'In mono', exact: true })).toHaveCount(0);
  await panel.getByRole('button', { name: 'Measure anew' }).click();
  await expect(panel).toContainText(/over 0:0[0-2]/);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
});
