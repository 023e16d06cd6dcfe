import { expect, test } from '@playwright/test';
import { Client } from 'pg';
import { app, cell, document, openDemo, openLike, pick, running, saved, undoLabel } from './app';

test('two windows: a drag and a commit in one are seen in the other', async ({ page, context }) => {
  await openDemo(page);
  const other = await context.newPage();
  await openLike(other, page.url());
  const handle = (await page.locator('[data-strip="skin"] .handle').boundingBox())!;
  await page.mouse.move(handle.x + 8, handle.y + 4);
  await page.mouse.down();
  await page.mouse.move(handle.x + 8, handle.y - 40, { steps: 6 });
  // Still held: nothing is kept, and yet it is seen.
  await expect(cell(other, 'skin', 'level')).not.toHaveAttribute('aria-label', /minus 6 decibels/);
  expect((await document(page)).strips[0]!.faderDb).toBe(-6);
  await page.mouse.up();
  await saved(page);
  await expect(undoLabel(other)).toHaveText('level Frame drum skin');
  // Undone in the other window, it is undone here.
  await other.bringToFront();
  await other.keyboard.press('Control+z');
  await expect(cell(page, 'skin', 'level')).toHaveAttribute('aria-label', /minus 6 decibels/);
});

test('the database stops in the middle: the page says so, keeps the edits, and sends them when it is back', async ({
  page,
}) => {
  await openDemo(page);
  await saved(page);
  const client = new Client(running(app().data)!.url.replace(/\/zonula$/, '/postgres'));
  await client.connect();
  try {
    // No new connections, and the ones there are cut: the database is away for everybody but this test.
    await client.query(`ALTER DATABASE zonula WITH ALLOW_CONNECTIONS false`);
    await client.query(`SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = 'zonula'`);
    await pick(page, 'bell');
    await page.keyboard.press('m');
    await expect(page.getByText(/Not saved: 1 edit is kept here/)).toBeVisible();
    await page.keyboard.press('s');
    await expect(page.getByText(/Not saved: 2 edits are kept here/)).toBeVisible();
    await expect(cell(page, 'bell', 'buttons')).toHaveAttribute('aria-label', /muted, soloed/);
    // Also a closed tab loses nothing.
    expect(
      await page.evaluate(
        () => Object.keys(localStorage).filter((k) => k.startsWith('zonula.pending')).length,
      ),
    ).toBe(1);
  } finally {
    await client.query(`ALTER DATABASE zonula WITH ALLOW_CONNECTIONS true`);
    await client.end();
  }
  await saved(page);
  const bell = (await document(page)).strips.find((s) => s.id === 'bell')!;
  expect(bell.mute).toBe(true);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await saved(page);
});

test('by keyboard alone: pick, gather, type a level, send, pan, undo', async ({ page }) => {
  await openDemo(page);
  await page.keyboard.press('Control+k');
  await page.getByLabel('Find a strip or an action').fill('cittern di');
  await page.keyboard.press('Enter');
  await expect(cell(page, 'cittern-di', 'cap')).toHaveAttribute('aria-label', /picked/);
  await page.getByRole('grid').focus();
  await page.keyboard.press('Shift+ArrowRight');
  await expect(page.getByText('2 picked')).toBeVisible();
  // Down to the level; Enter types, and the difference between the two is kept.
  for (
    let i = 0;
    i < 6 && !(await page.getByRole('grid').getAttribute('aria-activedescendant'))!.endsWith('-level');
    i++
  )
    await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.keyboard.type('-10');
  await page.keyboard.press('Enter');
  await saved(page);
  const levels = async () =>
    (await document(page)).strips.filter((s) => s.id.startsWith('cittern')).map((s) => s.faderDb);
  expect(await levels()).toEqual([-8, -10]);
  await page.keyboard.press('+');
  await page.keyboard.press('+');
  await expect(undoLabel(page)).toHaveText('level 2 strips');
  await expect.poll(levels).toEqual([-7, -9]);
  await page.keyboard.press('Backspace');
  await expect.poll(levels).toEqual([0, 0]);
  await page.keyboard.press('g');
  await expect(page.getByText('1 picked')).toBeVisible();
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z');
  await expect.poll(levels).toEqual([-14, -16]);
});

test('what is refused is said in words where it happened', async ({ page }) => {
  await openDemo(page);
  await pick(page, 'bass-di');
  await pick(page, 'shaker', ['Control']);
  await page.keyboard.press('g');
  await expect(page.getByRole('alert')).toContainText('lead to different places');
  await page.keyboard.press('Escape');
  await cell(page, 'bass-di', 'level').locator('.value').click();
  await page.keyboard.type('loud');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert').last()).toContainText('“loud” is no level');
  await page.keyboard.press('Escape');
});

test('a session is deleted after a question, and can be brought in again from its export', async ({
  page,
}) => {
  await page.goto(app().base);
  await page.getByRole('button', { name: 'New session' }).click();
  await page.getByLabel('Name').fill('To be deleted');
  await page.getByRole('button', { name: 'Create' }).click();
  await expect(page.getByText('This session has no stems yet')).toBeVisible();
  await page.getByRole('link', { name: 'All sessions' }).click();
  // Last opened comes first.
  await expect(page.locator('tbody tr').first()).toContainText('To be deleted');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.locator('tbody tr').first().getByRole('link', { name: 'Export' }).click(),
  ]);
  const path = await download.path();
  await page.getByRole('button', { name: 'Delete To be deleted' }).click();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByRole('link', { name: 'To be deleted' })).toBeVisible();
  await page.getByRole('button', { name: 'Delete To be deleted' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByRole('link', { name: 'To be deleted' })).toHaveCount(0);
  const { readFileSync } = await import('node:fs');
  await page
    .getByLabel('Files')
    .setInputFiles({ name: 'back.zonula', mimeType: 'application/zip', buffer: readFileSync(path) });
  await expect(page.getByRole('link', { name: 'To be deleted' })).toBeVisible();
});

test('the three things to do first are shown once', async ({ page }) => {
  await page.goto(app().base);
  const steps = page.getByRole('alert').filter({ hasText: 'Three things to do first' });
  await expect(steps).toContainText('Pick and gather');
  await steps.getByRole('button', { name: 'Close' }).click();
  await expect(steps).toHaveCount(0);
  await page.reload();
  await expect(page.getByRole('link', { name: 'Lantern Tide' }).first()).toBeVisible();
  await expect(steps).toHaveCount(0);
});
