import { expect, test, type Page } from '@playwright/test';
import { cell, document, openDemo, pick, played, saved, show, undoLabel, choose } from './app';

test.beforeEach(async ({ page }) => {
  await openDemo(page);
  await expect(cell(page, 'skin', 'cap')).toBeVisible();
});
const order = async (page: Page) => (await document(page)).strips.map((s) => s.id);
const strip = async (page: Page, id: string) => (await document(page)).strips.find((s) => s.id === id)!;

test('sends of three strips to two returns: chosen, previewed, done in one step, by keyboard', async ({
  page,
}) => {
  await pick(page, 'bass-di');
  await pick(page, 'bass-cab', ['Shift']);
  await page.keyboard.press('Shift+X');
  const dialog = page.getByRole('dialog', { name: 'Sends of 3 strips' });
  await dialog.getByLabel('Plate return').check();
  await dialog.getByLabel('Slap return').check();
  await dialog.getByLabel('pre-fader').check();
  await dialog.getByLabel('start from the fader').check();
  await dialog.getByLabel('switch their dry paths off').check();
  await expect(dialog).toContainText('Bass DI send to Plate, new: pre-fader, −9.0 dB');
  await expect(dialog).toContainText('Bass DI dry path off');
  await dialog.getByLabel('Level in decibels').press('Enter');
  await expect(dialog).toHaveCount(0);
  await saved(page);
  const di = await strip(page, 'bass-di');
  expect(di.sends).toMatchObject([
    { to: 'plate', tap: 'pre', levelDb: -9 },
    { to: 'slap', tap: 'pre', levelDb: -9 },
  ]);
  expect(di.out.on).toBe(false);
  // Removing offers what they really feed, and nothing else.
  await page.keyboard.press('Shift+X');
  await dialog.getByLabel('remove').check();
  await expect(dialog.getByRole('group', { name: 'Destinations' }).getByRole('checkbox')).toHaveCount(2);
  await dialog.getByLabel('Slap return').check();
  await dialog.getByLabel('Plate return').uncheck();
  await dialog.getByRole('button', { name: 'Remove the sends' }).click();
  await saved(page);
  expect((await strip(page, 'bass-mic')).sends.map((x) => x.to)).toEqual(['plate']);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await saved(page);
  expect((await strip(page, 'bass-mic')).sends).toEqual([]);
});

test('sends from the other end: many strips to two returns, chosen there, changed and cut, by keyboard', async ({
  page,
}) => {
  await pick(page, 'plate');
  await pick(page, 'slap', ['Shift']);
  await page.keyboard.press('Alt+x');
  const dialog = page.getByRole('dialog', { name: 'What feeds Plate, Slap' });
  await dialog.getByLabel('Name or family').fill('bass');
  await dialog.getByRole('button', { name: 'All 4 of these' }).press('Enter');
  await dialog.getByLabel('Name or family').fill('fiddle close');
  await dialog.getByRole('checkbox', { name: 'Fiddle close' }).press('Space');
  await dialog.getByLabel('Level in decibels').fill('-14');
  await expect(dialog).toContainText('Bass DI send to Plate, new: post-fader, −14.0 dB');
  await dialog.getByLabel('Level in decibels').press('Enter');
  await expect(dialog).toHaveCount(0);
  await saved(page);
  for (const id of ['bass-di', 'bass-mic', 'bass-cab', 'choir-bass', 'fiddle-close'])
    expect((await strip(page, id)).sends.map((x) => [x.to, x.levelDb])).toEqual(
      expect.arrayContaining([
        ['plate', -14],
        ['slap', -14],
      ]),
    );
  // All that feed it now are chosen, and moved by one amount; then some are cut.
  const before = (await document(page)).strips.flatMap((s) => s.sends.filter((x) => x.to === 'plate'));
  await pick(page, 'plate');
  await page.keyboard.press('Alt+x');
  const one = page.getByRole('dialog', { name: 'What feeds Plate' });
  await one.getByRole('radio', { name: 'change' }).check();
  await one.getByRole('radio', { name: 'move by' }).check();
  await one.getByRole('button', { name: 'Change the sends' }).click();
  await saved(page);
  const after = (await document(page)).strips.flatMap((s) => s.sends.filter((x) => x.to === 'plate'));
  expect(after.map((x) => x.levelDb)).toEqual(before.map((x) => x.levelDb! - 3));
  await expect(undoLabel(page)).toHaveText(/other sends/);
  // Sources are fed by nothing: that is said.
  await pick(page, 'bass-di');
  await page.keyboard.press('Alt+x');
  await expect(page.getByText('sources are fed by nothing')).toBeVisible();
});

test('icons for many: found by a word, as names suggest, none, and carried with colour, by keyboard', async ({
  page,
}) => {
  const icons = async (...ids: string[]) => Promise.all(ids.map(async (id) => (await strip(page, id)).icon));
  const shown = (id: string) => page.locator(`[id="cell-${id}-cap"] [data-icon]`);
  await pick(page, 'bass-di');
  await pick(page, 'bass-cab', ['Shift']);
  await page.keyboard.press('j');
  const dialog = page.getByRole('dialog', { name: 'Icon for 3 strips' });
  // A word of any language of names finds it; Enter takes the first.
  await expect(page.getByLabel('Find an icon')).toBeFocused();
  await page.keyboard.type('kontra');
  await expect(dialog.locator('[data-icon-choice]')).toHaveCount(1);
  await page.keyboard.press('Enter');
  await expect(dialog).toHaveCount(0);
  await saved(page);
  expect(await icons('bass-di', 'bass-mic', 'bass-cab')).toEqual(['upright', 'upright', 'upright']);
  await expect(shown('bass-mic')).toHaveAttribute('data-icon', 'upright');
  // From icon to icon by arrows: the second of the second row. Pictures that are slow to come cost no key.
  await page.evaluate(() => {
    const soon = window.requestAnimationFrame.bind(window);
    window.requestAnimationFrame = (f) => window.setTimeout(() => soon(f), 300);
    window.addEventListener('keyup', (e) => e.key === 'Enter' && (window.requestAnimationFrame = soon));
  });
  await page.keyboard.press('j');
  await expect(page.getByLabel('Find an icon')).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Enter');
  await saved(page);
  expect(await icons('bass-di', 'bass-cab')).toEqual(['shaker', 'shaker']);
  await page.keyboard.press('j');
  await expect(page.getByLabel('Find an icon')).toBeFocused();
  await page.getByRole('button', { name: 'As names suggest' }).press('Enter');
  await saved(page);
  expect(await icons('bass-di', 'bass-mic', 'bass-cab')).toEqual(['bass', 'bass', 'amp']);
  await page.keyboard.press('j');
  await expect(page.getByLabel('Find an icon')).toBeFocused();
  await page.getByRole('button', { name: 'No icon' }).press('Enter');
  await saved(page);
  await expect(shown('bass-mic')).toHaveCount(0);
  await undoLabel(page).click();
  await saved(page);
  expect(await icons('bass-di', 'bass-cab')).toEqual(['bass', 'amp']);
  // Copied settings carry it, where it is asked for.
  await pick(page, 'bell');
  await page.keyboard.press('Control+c');
  await pick(page, 'whistle');
  await page.keyboard.press('Control+Shift+v');
  const paste = page.getByRole('dialog', { name: /Paste from Bell/ });
  await paste.getByRole('checkbox', { name: 'Colour, icon and family' }).check();
  await paste.getByRole('button', { name: 'Paste', exact: true }).click();
  await saved(page);
  expect(await icons('whistle')).toEqual(['bell']);
  // What is typed right after the key never acts on what lies behind: a dialog that is asked for has the keyboard.
  const before = await document(page);
  for (const key of ['j', 'm', 'k', 'g']) await page.keyboard.press(key);
  await page.getByRole('dialog').getByRole('button', { name: 'Cancel' }).click();
  await saved(page);
  expect(await document(page)).toEqual(before);
  // What no icon answers to is said.
  await page.keyboard.press('j');
  await expect(page.getByLabel('Find an icon')).toBeFocused();
  await page.keyboard.type('qqq');
  await expect(page.getByText('No icon answers to “qqq”')).toBeVisible();
});

test('a return with its effect, tap and level chosen, from the picked strips in one step', async ({
  page,
}) => {
  await pick(page, 'whistle');
  await page.keyboard.press('Shift+R');
  const dialog = page.getByRole('dialog', { name: /New return/ });
  await choose(dialog, 'Effect', 'Delay');
  await dialog.getByLabel('Name of the return').fill('Echo');
  await dialog.getByLabel('pre-fader').check();
  await dialog.getByLabel('Level in decibels').fill('-7.5');
  await dialog.getByRole('button', { name: 'Add the return' }).click();
  await saved(page);
  const whistle = await strip(page, 'whistle');
  expect(whistle.sends.at(-1)).toMatchObject({ to: 'echo', tap: 'pre', levelDb: -7.5 });
  await expect(cell(page, 'echo', 'pre:0')).toContainText('Delay');
  await expect(undoLabel(page)).toHaveText('new return');
});

test('a submix is dissolved where nothing prevents it, and else says why', async ({ page }) => {
  await pick(page, 'percussion');
  await page.keyboard.press('Shift+G');
  await expect(page.getByText(/cannot be dissolved: its Compressor works on the blend/)).toBeVisible();
  const level = (await strip(page, 'choir')).faderDb!;
  const alto = (await document(page)).strips.find((s) => s.out.to === 'choir')!;
  await pick(page, 'choir');
  await page.keyboard.press('Shift+G');
  await expect(cell(page, 'choir', 'cap')).toHaveCount(0);
  await saved(page);
  const after = await strip(page, alto.id);
  expect(after.out.to).toBe('main');
  expect(after.faderDb).toBeCloseTo(alto.faderDb! + level, 6);
  expect((await document(page)).vcas[0]!.members).toContain(alto.id);
});

test('tidying: parts are offered, one can be refused, all is one step', async ({ page }) => {
  await page.keyboard.press('Shift+O');
  const dialog = page.getByRole('dialog', { name: 'Tidy the session' });
  await expect(dialog).toContainText('Strips in the order of their families');
  await dialog.getByLabel('Strips in the order of their families').uncheck();
  await expect(dialog.getByRole('button', { name: 'Tidy', exact: true })).toBeDisabled();
  await dialog.getByLabel('Strips in the order of their families').check();
  const was = await order(page);
  await dialog.getByRole('button', { name: 'Tidy', exact: true }).click();
  await saved(page);
  const families = (await document(page)).strips.slice(0, 31).map((s) => s.family);
  const runs = families.filter((f, i) => f !== families[i - 1]);
  expect(new Set(runs).size).toBe(runs.length);
  await expect(undoLabel(page)).toHaveText('tidy');
  await page.keyboard.press('Control+z');
  await expect.poll(() => order(page)).toEqual(was);
});

test('strips are renamed by a pattern, and moved in one drag and by keys', async ({ page }) => {
  await pick(page, 'bass-di');
  await pick(page, 'bass-cab', ['Shift']);
  await page.keyboard.press('Shift+N');
  const dialog = page.getByRole('dialog', { name: 'Rename 3 strips' });
  await dialog.getByLabel('Pattern').fill('Low ## (*)');
  await dialog.getByRole('button', { name: 'Rename' }).click();
  await saved(page);
  expect((await strip(page, 'bass-mic')).name).toBe('Low 02 (Bass mic)');
  const drag = async (from: string, to: string, dx: number) => {
    const a = (await cell(page, from, 'cap').boundingBox())!;
    const b = (await cell(page, to, 'cap').boundingBox())!;
    await page.mouse.move(a.x + 20, a.y + 30);
    await page.mouse.down();
    await page.mouse.move(b.x + dx, b.y + 30, { steps: 10 });
    await page.mouse.up();
    await saved(page);
  };
  // Three picked strips before the first.
  await drag('bass-mic', 'skin', 5);
  await expect
    .poll(async () => (await order(page)).slice(0, 4))
    .toEqual(['bass-di', 'bass-mic', 'bass-cab', 'skin']);
  await expect(page.getByText('3 picked')).toBeVisible();
  await page.keyboard.press('Alt+ArrowRight');
  await expect
    .poll(async () => (await order(page)).slice(0, 4))
    .toEqual(['skin', 'bass-di', 'bass-mic', 'bass-cab']);
  await page.keyboard.press('Alt+ArrowLeft');
  await expect.poll(async () => (await order(page))[0]).toBe('bass-di');
});

test('picks by family, kind, colour and by what feeds a strip; bands fold to one column with a meter and a total', async ({
  page,
}) => {
  await pick(page, 'fiddle-close');
  await page.keyboard.press('Shift+F');
  await expect(page.getByText('2 picked')).toBeVisible();
  await pick(page, 'percussion');
  await page.keyboard.press('Shift+E');
  await expect(page.getByText('6 picked')).toBeVisible();
  await pick(page, 'plate');
  await page.keyboard.press('Shift+K');
  await expect(page.getByText('2 picked')).toBeVisible();
  await page.locator('[data-fold="Percussion"]').click();
  const folded = page.getByRole('row', { name: 'Percussion, folded, 6 strips' });
  await expect(folded).toBeVisible();
  await expect(cell(page, 'skin', 'cap')).toHaveCount(0);
  await folded.getByRole('gridcell').click();
  await expect(page.getByText('6 picked')).toBeVisible();
  // Its meter moves: the canvas is not the same while it plays.
  const look = () =>
    page.locator('canvas.meters').evaluate((el: HTMLCanvasElement) => {
      const box = [...el.getContext('2d')!.getImageData(0, 0, 48, el.height).data];
      return box.reduce((a, v, i) => (a * 31 + v * (i % 7)) % 1e9, 7);
    });
  const still = await look();
  await page.keyboard.press('Space');
  await expect.poll(look).not.toBe(still);
  await page.keyboard.press('Space');
  await folded.dblclick();
  await expect(cell(page, 'skin', 'cap')).toBeVisible();
});

test('columns stand by family or by colour without a change of the session', async ({ page }) => {
  const was = await order(page);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('columns by family');
  await page.keyboard.press('Enter');
  await show(page, 'bell');
  const names = await page.locator('#sources .band-label').allTextContents();
  expect(names.filter((n) => n.includes('Keys'))).toHaveLength(1);
  expect(await order(page)).toEqual(was);
});

test('a second output, on its own channels, and the one that is heard', async ({ page }) => {
  await page.keyboard.press('Control+k');
  await page.keyboard.type('new output');
  await page.keyboard.press('Enter');
  await expect(cell(page, 'cue', 'out')).toContainText('3–4');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('hear the picked');
  await page.keyboard.press('Enter');
  await saved(page);
  await page.keyboard.press('Space');
  // Nothing leads to it yet.
  await played(page, 1.2);
  await expect(page.getByTestId('loudness')).toContainText('−∞');
  await pick(page, 'percussion');
  await page.keyboard.press('Shift+X');
  const dialog = page.getByRole('dialog', { name: 'Sends of 1 strip' });
  await dialog.getByLabel('Cue output').check();
  await dialog.getByRole('button', { name: 'Send', exact: true }).click();
  await page.keyboard.press('Shift+Home');
  await expect.poll(async () => (await page.getByTestId('loudness').textContent())!).not.toContain('−∞');
  await page.keyboard.press('Space');
});
