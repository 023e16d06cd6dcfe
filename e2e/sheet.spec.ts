import { expect, test, type Page } from '@playwright/test';
import { cell, document, openDemo, pick, saved, show, undoLabel } from './app';

const at = async (page: Page, strip: string, row: string) => (await cell(page, strip, row).boundingBox())!;
const levels = async (page: Page, ids: readonly string[]) => {
  const { strips } = await document(page);
  return ids.map((id) => strips.find((s) => s.id === id)!.faderDb);
};
async function drag(page: Page, from: { x: number; y: number }, to: { x: number; y: number }) {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(to.x, to.y, { steps: 8 });
  await page.mouse.up();
}
test.beforeEach(async ({ page }) => {
  await openDemo(page);
  await expect(cell(page, 'skin', 'cap')).toBeVisible();
});

test('a fader drag on one of three picked strips moves all by the same decibels; with Alt that one alone', async ({
  page,
}) => {
  const ids = ['bass-di', 'bass-mic', 'bass-cab'];
  await pick(page, 'bass-di');
  await pick(page, 'bass-cab', ['Shift']);
  const handle = (await page.locator('[data-strip="bass-di"] .handle').boundingBox())!;
  const hand = { x: handle.x + 9, y: handle.y + 4 };
  await drag(page, hand, { x: hand.x, y: hand.y - 30 });
  await expect(undoLabel(page)).toHaveText('level of 3 strips');
  await saved(page);
  const [a, b, c] = (await levels(page, ids)) as [number, number, number];
  expect(a).toBeGreaterThan(-9);
  expect(b - a).toBeCloseTo(-2, 1);
  expect(c - a).toBeCloseTo(-3, 1);
  await page.keyboard.down('Alt');
  await drag(page, { x: hand.x, y: hand.y - 30 }, { x: hand.x, y: hand.y - 10 });
  await page.keyboard.up('Alt');
  await expect(undoLabel(page)).toHaveText('level Bass DI');
  await saved(page);
  expect((await levels(page, ids)).slice(1)).toEqual([b, c]);
  // Double-click returns all of them to 0 dB.
  const now = (await page.locator('[data-strip="bass-di"] .handle').boundingBox())!;
  await page.mouse.dblclick(now.x + 9, now.y + 4);
  await expect.poll(() => levels(page, ids)).toEqual([0, 0, 0]);
});

test('painting along a row: mutes, a pan, a VCA rail; each one undo step', async ({ page }) => {
  const row = async (key: string, from: string, to: string, dx = 12) => {
    const [a, b] = [await at(page, from, key), await at(page, to, key)];
    await drag(page, { x: a.x + dx, y: a.y + a.height / 2 }, { x: b.x + dx, y: b.y + b.height / 2 });
    await saved(page);
  };
  await row('buttons', 'skin', 'stomp');
  await expect(undoLabel(page)).toHaveText('mute of 3 strips');
  const { strips } = await document(page);
  expect(strips.slice(0, 4).map((s) => s.mute)).toEqual([true, true, true, false]);
  await page.keyboard.press('Control+z');
  await row('pan', 'shaker', 'claps-l', 25);
  await expect(undoLabel(page)).toHaveText(/paint pan/);
  await expect(cell(page, 'claps-l', 'pan')).toHaveAttribute('aria-label', /pan R45/);
  await row('rail:vca-choir', 'skin', 'rim', 25);
  await expect(undoLabel(page)).toHaveText(/hold by Choir/);
  expect((await document(page)).vcas[0]!.members).toEqual(['choir', 'plate', 'skin', 'rim']);
  await expect(cell(page, 'rim', 'rail:vca-choir')).toHaveAttribute('aria-label', /held by Choir/);
});

test('a send is drawn by its level and its tap, changed by dragging, and has a menu', async ({ page }) => {
  const box = await at(page, 'stomp', 'send:plate');
  await drag(page, { x: box.x + 25, y: box.y + 13 }, { x: box.x + 26, y: box.y - 20 });
  await saved(page);
  const send = async () => (await document(page)).strips.find((s) => s.id === 'stomp')!.sends[0];
  const made = (await send())!;
  expect(made.tap).toBe('post');
  expect(made.levelDb!).toBeGreaterThan(-12);
  await cell(page, 'stomp', 'send:plate').click({ button: 'right' });
  await page.getByRole('menuitemradio', { name: /Input/ }).click();
  await expect(page.locator('[data-strip="stomp"] .send-bar.input')).toBeVisible();
  await cell(page, 'stomp', 'send:plate').click({ button: 'right' });
  await page.getByRole('menuitem', { name: /Switch off/ }).click();
  await expect(page.locator('[data-strip="stomp"] .send-bar.off')).toBeVisible();
  await cell(page, 'stomp', 'send:plate').click({ button: 'right' });
  await page.getByRole('menuitem', { name: /Remove/ }).click();
  await expect(page.locator('[data-strip="stomp"] .send-bar')).toHaveCount(0);
});

test('an insert is added, edited in the inspector, bypassed, moved after the fader, and removed', async ({
  page,
}) => {
  await cell(page, 'bass-di', 'pre:0').click();
  await page.getByRole('menuitem', { name: 'Reverb' }).click();
  await expect(cell(page, 'bass-di', 'pre:0')).toHaveAttribute('aria-label', 'Bass DI: Reverb');
  const decay = page.getByRole('slider', { name: 'Decay', exact: true });
  await expect(decay).toHaveAttribute('aria-valuetext', '1.8 s');
  await decay.focus();
  await page.keyboard.press('Enter');
  await page.keyboard.type('4.5');
  await page.keyboard.press('Enter');
  await expect(decay).toHaveAttribute('aria-valuetext', '4.5 s');
  await decay.focus();
  await page.keyboard.press('Backspace');
  await expect(decay).toHaveAttribute('aria-valuetext', '1.8 s');
  await page.getByRole('button', { name: 'On', exact: true }).first().click();
  await expect(cell(page, 'bass-di', 'pre:0')).toHaveAttribute('aria-label', /bypassed/);
  const more = page.getByRole('region', { name: /Reverb of/ }).getByRole('button', { name: 'More…' });
  await more.click();
  await page.getByRole('menuitem', { name: 'Move after the fader' }).click();
  await expect(cell(page, 'bass-di', 'post:0')).toHaveAttribute('aria-label', /Reverb/);
  await more.click();
  await page.getByRole('menuitem', { name: 'Remove this insert' }).click();
  await expect(cell(page, 'bass-di', 'post:0')).toHaveAttribute('aria-label', /no insert/);
});

test('strips are renamed, hidden, shown, removed with what leads to them, and brought back', async ({
  page,
}) => {
  await pick(page, 'shaker');
  await page.keyboard.press('n');
  await page.keyboard.type('Egg');
  await page.keyboard.press('Enter');
  await expect(cell(page, 'shaker', 'cap')).toHaveAttribute('aria-label', /Egg/);
  await page.keyboard.press('h');
  await expect(cell(page, 'shaker', 'cap')).toHaveCount(0);
  await page.getByRole('button', { name: '1 hidden' }).click();
  await expect(cell(page, 'shaker', 'cap')).toBeVisible();
  await pick(page, 'percussion');
  await page.keyboard.press('Shift+Delete');
  await expect(cell(page, 'percussion', 'cap')).toHaveCount(0);
  await expect(cell(page, 'skin', 'out')).toHaveAttribute('aria-label', /out to Main/);
  await page.keyboard.press('Control+z');
  await expect(cell(page, 'skin', 'out')).toHaveAttribute('aria-label', /out to Percussion/);
});

test('out of many strips at once, by the bar of what is picked', async ({ page }) => {
  await pick(page, 'bass-di');
  await pick(page, 'bass-cab', ['Shift']);
  await page.getByRole('toolbar').getByRole('button', { name: 'Out…' }).click();
  await page.getByRole('menuitemradio', { name: 'Percussion' }).click();
  await saved(page);
  const outs = async () =>
    (await document(page)).strips.filter((s) => s.id.startsWith('bass')).map((s) => s.out.to);
  expect(await outs()).toEqual(['percussion', 'percussion', 'percussion']);
  await page.getByRole('toolbar').getByRole('button', { name: 'Sends…' }).click();
  await page.getByLabel('Slap return').check();
  await page.getByLabel('pre-fader').check();
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  await saved(page);
  for (const s of (await document(page)).strips.filter((x) => x.id.startsWith('bass')))
    expect(s.sends.map((x) => `${x.to} ${x.tap}`)).toEqual(['slap pre']);
});

test('solo leaves what it needs audible, and the rest is shown as silenced', async ({ page }) => {
  await pick(page, 'skin');
  await page.keyboard.press('s');
  await expect(cell(page, 'skin', 'buttons')).toHaveAttribute('aria-label', /, soloed/);
  await expect(cell(page, 'rim', 'cap')).toHaveAttribute('aria-label', /silenced by a solo/);
  for (const id of ['percussion', 'plate', 'main'])
    await expect(cell(page, id, 'cap')).not.toHaveAttribute('aria-label', /silenced/);
});

test('the session: its name, its tempo, a section made of the loop; and shortcuts that are changed', async ({
  page,
}) => {
  await page.getByRole('tab', { name: 'Session' }).click();
  await page.getByLabel('Quarters a minute').fill('100');
  await page.keyboard.press('Tab');
  await expect(undoLabel(page)).toHaveText('tempo');
  const ribbon = (await page.getByRole('slider', { name: 'Position' }).boundingBox())!;
  await drag(
    page,
    { x: ribbon.x + ribbon.width * 0.5, y: ribbon.y + 30 },
    { x: ribbon.x + ribbon.width * 0.6, y: ribbon.y + 30 },
  );
  await page.getByRole('button', { name: 'Add the loop as a section' }).click();
  await expect(page.locator('.ribbon .section', { hasText: 'Section 5' })).toBeVisible();
  await page.getByRole('button', { name: 'Shortcuts' }).click();
  await page.getByRole('button', { name: /Mute the picked strips/ }).click();
  await page.keyboard.press('q');
  await expect(page.getByRole('button', { name: /Mute the picked strips Q/ })).toBeVisible();
  await page
    .getByRole('dialog', { name: 'Shortcuts' })
    .getByRole('button', { name: 'Close', exact: true })
    .click();
  await pick(page, 'skin');
  await page.keyboard.press('q');
  await expect(cell(page, 'skin', 'buttons')).toHaveAttribute('aria-label', /: muted/);
  // A key of the Sheet itself is found by its words and changed like all others.
  await page.keyboard.press('?');
  const shortcuts = page.getByRole('dialog', { name: 'Shortcuts' });
  await shortcuts.getByLabel('Find a shortcut').fill('bypass an insert');
  await shortcuts.getByRole('button', { name: /Bypass an insert, switch a send/ }).click();
  await page.keyboard.press('j');
  await expect(shortcuts.getByRole('button', { name: /switch a send J/ })).toBeVisible();
  await shortcuts.getByRole('button', { name: 'Close', exact: true }).click();
  await cell(page, 'percussion', 'cap').click();
  await page.getByRole('grid').focus();
  for (let i = 0; i < 2; i++) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('b');
  await expect(cell(page, 'percussion', 'pre:0')).not.toHaveAttribute('aria-label', /bypassed/);
  await page.keyboard.press('j');
  await expect(cell(page, 'percussion', 'pre:0')).toHaveAttribute('aria-label', /bypassed/);
  await page.keyboard.press('?');
  await shortcuts.getByRole('button', { name: 'Reset all' }).click();
  await expect(shortcuts.getByRole('button', { name: /switch a send B/ })).toBeVisible();
});

test('the wheel goes along the session, the map jumps, and the palette finds what is out of view', async ({
  page,
}) => {
  await show(page, 'pulse');
  await expect(cell(page, 'skin', 'cap')).toHaveCount(0);
  const map = page.getByRole('scrollbar', { name: /Where the view stands/ });
  await map.click({ position: { x: 4, y: 7 } });
  await expect(cell(page, 'skin', 'cap')).toBeVisible();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('choir bass');
  await page.keyboard.press('Enter');
  await expect(cell(page, 'choir-bass', 'cap')).toBeInViewport();
  await expect(page.getByText('1 picked')).toBeVisible();
});
