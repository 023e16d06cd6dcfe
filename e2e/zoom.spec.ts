import { randomUUID } from 'node:crypto';
import { expect, test, type Page } from '@playwright/test';
import AxeBuilder from '@axe-core/playwright';
import { largeSession } from '../demo/large';
import { app, cell, document as shown, saved, undoLabel } from './app';

/** A session of 120 sources, nine submixes, ten returns and eight VCAs. @returns its address */
async function openLarge(page: Page): Promise<string> {
  const large = largeSession();
  const { id } = (await (
    await page.request.post(`${app().base}/api/sessions`, { data: { name: large.name } })
  ).json()) as { id: string };
  const of = (kind: string) => large.strips.filter((s) => s.kind === kind);
  const commands = [
    ...of('return').map((strip, at) => ({ type: 'strip.add', strip, at })),
    ...of('submix').map((strip, at) => ({ type: 'strip.add', strip, at })),
    ...of('source').map((strip, at) => ({ type: 'strip.add', strip, at })),
    ...large.vcas.map((vca, at) => ({ type: 'vca.add', vca, at })),
  ];
  const kept = await page.request.post(`${app().base}/api/sessions/${id}/commits`, {
    data: { revision: 0, changeId: randomUUID(), label: 'a large session', commands },
  });
  expect(kept.ok()).toBe(true);
  await page.goto(`${app().base}/session/${id}`);
  await expect(page.getByRole('grid')).toBeVisible();
  return `${app().base}/session/${id}`;
}
const columns = (page: Page) => page.locator('[data-strip]').count();
const middle = async (page: Page, strip: string, row: string) => {
  const box = (await cell(page, strip, row).boundingBox())!;
  return { x: box.x + box.width / 2, y: box.y + box.height / 2, box };
};

test('the whole session at one glance, by one key and back; what is under the pointer is named, picked, painted, dragged', async ({
  page,
}) => {
  await openLarge(page);
  // As near as it opens, little of it is in sight, and the fader has its height.
  expect(await columns(page)).toBeLessThan(40);
  expect((await middle(page, 'frame-drum-1', 'level')).box.height).toBeGreaterThanOrEqual(140);
  await page.keyboard.press('o');
  await expect.poll(() => columns(page)).toBe(140);
  const last = (await page.locator('[data-strip="main"]').boundingBox())!;
  expect(last.x + last.width).toBeLessThanOrEqual(1280);
  expect(last.width).toBeLessThan(9);

  // Named in full, under the pointer.
  const viola = await middle(page, 'tide-viola-5', 'level');
  await page.mouse.move(viola.x, viola.y);
  await expect(page.locator('.named')).toContainText('Tide viola 5');
  // Picked, and painted across twenty of them, in one step.
  const [from, to] = [await middle(page, 'tide-cello-1', 'cap'), await middle(page, 'tide-cello-6', 'cap')];
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(to.x, to.y, { steps: 3 });
  await page.mouse.up();
  await expect(page.locator('.column.picked')).toHaveCount(6);
  await page.keyboard.press('Escape');
  const first = await middle(page, 'low-choir-1', 'buttons');
  const end = await middle(page, 'high-choir-9', 'buttons');
  await page.mouse.move(first.x, first.box.y + 4);
  await page.mouse.down();
  await page.mouse.move(end.x, end.box.y + 4, { steps: 4 });
  await page.mouse.up();
  await expect(undoLabel(page)).toHaveText(/mute/);
  await saved(page);
  const choir = (await shown(page)).strips.filter((s) => s.family === 'Choir' && / choir \d/.test(s.name));
  expect(choir.filter((s) => s.mute)).toHaveLength(18);
  // The lower half of a mark is its solo.
  await page.mouse.click(first.x, first.box.y + first.box.height - 4);
  await expect(cell(page, 'low-choir-1', 'buttons')).toHaveAttribute('aria-label', /soloed/);
  await page.keyboard.press('Control+z');
  // A level is dragged.
  const gull = await middle(page, 'gulls-3', 'level');
  await page.mouse.move(gull.x, gull.y);
  await page.mouse.down();
  await page.mouse.move(gull.x, gull.y - 60, { steps: 4 });
  await page.mouse.up();
  await expect(undoLabel(page)).toHaveText(/level Gulls 3/);
  await expect(page.locator('.named')).toContainText('Gulls 3');
  const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag22aa']).analyze();
  expect(violations.map((v) => v.id)).toEqual([]);

  // Near again, where the pointer is: by the wheel with Ctrl.
  const at = await middle(page, 'tide-viola-5', 'level');
  await page.mouse.move(at.x, at.y);
  await page.keyboard.down('Control');
  for (let i = 0; i < 9; i++) {
    await page.mouse.wheel(0, -100);
    await page.waitForTimeout(60);
  }
  await page.keyboard.up('Control');
  const near = (await page.locator('[data-strip="tide-viola-5"]').boundingBox())!;
  expect(near.width).toBeGreaterThan(40);
  expect(at.x).toBeGreaterThan(near.x - near.width);
  expect(at.x).toBeLessThan(near.x + 2 * near.width);
  // No session was edited by any of it.
  await saved(page);
  await expect(undoLabel(page)).toHaveText(/level Gulls 3/);
});

test('by keyboard alone: the whole session, a strip found and brought near, a rail by the braid, a view kept and looked at', async ({
  page,
}) => {
  await openLarge(page);
  await page.keyboard.press('o');
  await expect.poll(() => columns(page)).toBe(140);
  await page.getByRole('grid').focus();
  await page.keyboard.press('ArrowRight');
  for (let i = 0; i < 9; i++) await page.keyboard.press('ArrowRight');
  await expect(page.locator('.named')).toContainText('Clay pot 4');
  // Up to the braid: Enter tells who holds it, and lets it be held.
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Held by')).toBeVisible();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(undoLabel(page)).toHaveText(/hold by Keys/);
  await saved(page);
  expect((await shown(page)).vcas.find((v) => v.id === 'vca-keys')!.members).toContain('clay-pot-4');
  await page.getByRole('grid').focus();
  for (let i = 0; i < 10; i++) await page.keyboard.press('Control+ArrowRight');
  await expect
    .poll(async () => (await page.locator('[data-strip="clay-pot-4"]').boundingBox())!.width)
    .toBeGreaterThan(34);

  // Views: one that is shipped, by its key; one of one's own, by name.
  await page.keyboard.press('q');
  await expect(page.locator('[data-row^="pre:"]')).toHaveCount(0);
  await page.keyboard.press('a');
  await page.getByLabel('Name of the view').fill('Low end');
  await page.keyboard.press('Enter');
  await expect(page.getByText('The view Low end is kept.')).toBeVisible();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('Shift+A');
  await expect(page.locator('.label.send')).toHaveCount(10);
  await page.keyboard.press('a');
  await page.getByLabel('Look at it as Low end').press('Enter');
  await expect(page.locator('.label.send')).toHaveCount(0);
  await expect(undoLabel(page)).toHaveText(/hold by Keys/);
});

test('two fingers that pinch make columns wider, and leave no edit behind', async ({ browser }) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, hasTouch: true });
  const page = await context.newPage();
  await openLarge(page);
  const width = async () => (await page.locator('[data-strip="frame-drum-3"]').boundingBox())!.width;
  const before = await width();
  const button = await middle(page, 'frame-drum-3', 'buttons');
  const cdp = await context.newCDPSession(page);
  const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', apart: number | null) =>
    cdp.send('Input.dispatchTouchEvent', {
      type,
      touchPoints:
        apart === null
          ? []
          : [
              { x: button.box.x + 8, y: button.y, id: 1 },
              { x: button.box.x + 8 + 2 * apart, y: button.y, id: 2 },
            ],
    });
  // One finger comes first, on a mute: what it began is taken back.
  await cdp.send('Input.dispatchTouchEvent', {
    type: 'touchStart',
    touchPoints: [{ x: button.box.x + 8, y: button.y, id: 1 }],
  });
  await touch('touchStart', 30);
  for (let apart = 32; apart <= 60; apart += 4) await touch('touchMove', apart);
  await touch('touchEnd', null);
  expect(await width()).toBeGreaterThan(before * 1.5);
  await expect(undoLabel(page)).toHaveText(/a large session/);
  await expect(cell(page, 'frame-drum-3', 'buttons')).toHaveAttribute('aria-label', /not muted/);
  await context.close();
});

for (const width of [800, 1280, 2560])
  test(`nothing of the Sheet is cut or overlaps ${width} pixels wide, from far to near`, async ({ page }) => {
    await page.setViewportSize({ width, height: 800 });
    const address = await openLarge(page);
    for (const zoom of [6, 20, 34, 50, 96]) {
      await page.evaluate((z) => localStorage.setItem('zonula.zoom', String(z)), zoom);
      await page.goto(address);
      await expect(page.getByRole('grid')).toBeVisible();
      // Rows follow each other without a gap, and the lowest is on the screen or can be scrolled to.
      const found = await page.evaluate(() => {
        const board = document.querySelector('.board')!;
        const rows = [...document.querySelectorAll('[data-strip="frame-drum-1"] .cell')].map((c) =>
          c.getBoundingClientRect(),
        );
        const gaps = rows.slice(1).map((r, i) => r.top - rows[i]!.bottom);
        return {
          gaps: gaps.filter((g) => Math.abs(g) > 0.5).length,
          wide: document.documentElement.scrollWidth - innerWidth,
          level: rows.length && document.querySelector('[id="cell-frame-drum-1-level"]')!.clientHeight,
          cut: board.scrollHeight - board.clientHeight,
        };
      });
      expect(found.gaps).toBe(0);
      expect(found.wide).toBeLessThanOrEqual(0);
      expect(found.level).toBeGreaterThanOrEqual(140);
    }
  });

test('the landing zone takes what it is given, by hand and by keys; submixes stand beside their sources, folded too, in kept views', async ({
  page,
}) => {
  await openLarge(page);
  const landing = page.locator('#landing');
  const width = async () => (await landing.boundingBox())!.width;
  const divider = page.getByRole('separator', { name: 'Width of the landing zone' });
  const first = await width();
  const box = (await divider.boundingBox())!;
  await page.mouse.move(box.x + 3, box.y + 200);
  await page.mouse.down();
  await page.mouse.move(box.x + 203, box.y + 200, { steps: 4 });
  await page.mouse.up();
  await expect.poll(width).toBeLessThan(first - 150);
  const given = await width();
  await divider.press('ArrowLeft');
  await expect.poll(width).toBeGreaterThan(given + 10);
  await page.reload();
  await expect.poll(width).toBeGreaterThan(given + 10);
  await divider.press('Backspace');
  await expect.poll(width).toBeGreaterThan(first - 2);
  // It takes no more than it needs, whatever it is given.
  for (let i = 0; i < 4; i++) await divider.press('ArrowLeft');
  await page.keyboard.press('o');
  await expect.poll(() => columns(page)).toBe(140);
  expect(await width()).toBeLessThan(20 * 9);
  await page.keyboard.press('o');

  await page.keyboard.press('Control+k');
  await page.getByLabel('Find a strip or an action').fill('Submixes beside');
  await page.keyboard.press('Enter');
  const among = page.locator('#sources [data-strip="percussion-bus"]');
  const last = page.locator('#sources [data-strip="deep-skin-4"]');
  await page.keyboard.press('Shift+B');
  await divider.press('Backspace');
  await page.locator('#sources').evaluate((el) => (el.scrollLeft = 0));
  await expect(among).toBeVisible();
  await expect(last).toHaveCount(0);
  // Folded, each family is one column with its submix beside it, and all of it plays as it did: a level is set there.
  const fader = await middle(page, 'percussion-bus', 'level');
  await page.mouse.move(fader.x, fader.box.y + 60);
  await page.mouse.down();
  await page.mouse.move(fader.x, fader.box.y + 120, { steps: 4 });
  await page.mouse.up();
  await saved(page);
  expect((await shown(page)).strips.find((s) => s.id === 'percussion-bus')!.faderDb).not.toBe(0);
  // Among what a folded band holds the submix is not: picking the band picks its sources.
  await page.locator('.band-label', { hasText: 'Percussion' }).first().click();
  await expect(page.getByText('20 picked')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Shift+B');
  await expect(page.locator('#landing [data-strip="percussion-bus"]')).toHaveCount(0);
  // A view keeps it.
  await page.keyboard.press('a');
  await page.getByRole('textbox', { name: 'Name of the view' }).fill('Beside');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Control+k');
  await page.getByLabel('Find a strip or an action').fill('Submixes in the landing');
  await page.keyboard.press('Enter');
  await expect(page.locator('#landing [data-strip="percussion-bus"]')).toBeVisible();
  await page.keyboard.press('a');
  await page
    .getByRole('button', { name: 'Look: Beside' })
    .or(page.getByLabel(/Beside/))
    .first()
    .click();
  await expect(page.locator('#landing [data-strip="percussion-bus"]')).toHaveCount(0);
});

test('Flow of a large session: sends share a line into each return, changed together by its menu, or drawn each by itself', async ({
  page,
}) => {
  await openLarge(page);
  await page.getByRole('link', { name: 'Flow' }).click();
  const trunks = page.locator('.vue-flow__edge.trunk');
  await expect(trunks).toHaveCount(10);
  const sends = (await shown(page)).strips.flatMap((s) => s.sends.filter((x) => x.to === 'spring'));
  await page.getByRole('button', { name: 'Each send by itself' }).click();
  await expect(trunks).toHaveCount(0);
  await page.getByRole('button', { name: 'Bundle sends' }).click();
  await expect(trunks).toHaveCount(10);
  // By keyboard: from the return to the line that comes in, and its menu, which acts on all.
  await page.locator('.vue-flow__node[data-id="spring"]').focus();
  await page.keyboard.press('Control+ArrowLeft');
  await expect(page.getByRole('button', { name: `${sends.length} sends into Spring` })).toBeFocused();
  await page.keyboard.press('Enter');
  await page.getByRole('menuitem', { name: 'Switch off' }).click();
  await saved(page);
  const after = (await shown(page)).strips.flatMap((s) => s.sends.filter((x) => x.to === 'spring'));
  expect(after.map((x) => (x as { on?: boolean }).on)).toEqual(after.map(() => false));
  await undoLabel(page).click();
  // A knot is clicked where an out runs over it.
  const knot = page.locator('.vue-flow__edge[data-id^="family:Guitars plate"] .knot').first();
  const at = (await knot.boundingBox())!;
  await page.mouse.click(at.x + at.width / 2, at.y + at.height / 2);
  await expect(page.getByRole('menu', { name: /Guitars to Plate/ })).toBeVisible();
  await page.keyboard.press('Escape');
  // And from a source along the lines that leave it: to the next one, and to where it ends.
  await page.locator('.vue-flow__node[data-id="family:Bass"]').focus();
  await page.keyboard.press('Control+ArrowRight');
  const held = () => page.evaluate(() => (document.activeElement as SVGElement).dataset.edge ?? '');
  const one = await held();
  expect(one).toContain('family:Bass');
  await page.keyboard.press('ArrowDown');
  expect(await held()).not.toBe(one);
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowRight');
  await expect(page.locator('.vue-flow__node[data-id="bass-bus"]')).toBeFocused();
  await page.getByRole('button', { name: 'Open all families' }).click();
  await expect(page.locator('.vue-flow__edge .knot')).not.toHaveCount(0);
});
