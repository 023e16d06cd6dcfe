import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { app, cell, openDemo, pick, show } from './app';

for (const [width, height] of [
  [800, 1180],
  [2560, 1440],
] as const)
  test(`every view works ${width} pixels wide`, async ({ page }) => {
    await page.setViewportSize({ width, height });
    await openDemo(page);
    await pick(page, 'bass-di');
    /** Parts of the top line, the transport and the view that reach beyond the window, or lie over each other. */
    const wrong = () =>
      page.evaluate(() => {
        const boxes = (selector: string) =>
          [...window.document.querySelectorAll(selector)]
            .map((e) => ({ name: e.className, box: e.getBoundingClientRect() }))
            .filter(({ box }) => box.width > 0);
        const over = boxes('.top > *, .transport > *, [data-position], .foot *, .inspector').filter(
          ({ box }) => box.right > innerWidth + 1 || box.left < -1,
        );
        const top = boxes('.top > *');
        const covered = top.filter(({ box }, i) => i > 0 && box.left < top[i - 1]!.box.right - 1);
        return [...over, ...covered].map(({ name }) => String(name));
      });
    for (const key of ['1', '2', '3', '4', '5', '6']) {
      await page.keyboard.press(key);
      await expect(page.locator('nav [aria-current="page"]')).toHaveCount(1);
      expect(await wrong()).toEqual([]);
    }
  });

/**
 * WCAG 2.2 level A and AA by axe-core, an independent checker.
 * @param part what has changed since the whole page was looked at last; to look at it all takes many seconds
 */
async function wcag(page: Page, theme: 'night' | 'day', part?: string) {
  const axe = new AxeBuilder({ page });
  // The page is the same by day but for its colours: there the rules of colours are all that can differ.
  if (theme === 'day') axe.withRules(['color-contrast', 'link-in-text-block']);
  else axe.withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']);
  const { violations } = await (part ? axe.include(part) : axe).analyze();
  return violations.map(
    (v) =>
      `${v.id}: ${v.nodes
        .slice(0, 4)
        .map((n) => `${n.target.join(' ')} ${n.any[0]?.message ?? ''}`)
        .join(' | ')}`,
  );
}
for (const theme of ['night', 'day'] as const)
  test(`every view keeps WCAG 2.2 AA, ${theme}`, async ({ page }) => {
    test.setTimeout(700_000);
    await page.addInitScript((t) => localStorage.setItem('zonula.theme', t), theme);
    await page.goto(app().base);
    await expect(page.getByRole('link', { name: 'Lantern Tide' }).first()).toBeVisible();
    expect(await wcag(page, theme)).toEqual([]);
    await openDemo(page);
    await pick(page, 'bass-di');
    await cell(page, 'plate', 'pre:0').click();
    expect(await wcag(page, theme)).toEqual([]);
    // The chain: the equalizer, small and large, dynamics, presets, settings, links and the load.
    await show(page, 'lead-voice');
    await cell(page, 'lead-voice', 'pre:1').click();
    expect(await wcag(page, theme, '.inspector')).toEqual([]);
    await cell(page, 'lead-voice', 'pre:0').click();
    expect(await wcag(page, theme, '.inspector')).toEqual([]);
    await page.getByLabel('Open the large editor').click();
    await expect(page.getByRole('dialog', { name: /Large editor/ })).toBeVisible();
    expect(await wcag(page, theme, '[role="dialog"]')).toEqual([]);
    await page.keyboard.press('Escape');
    await page.getByRole('grid').focus();
    await page.keyboard.press('p');
    await expect(page.getByLabel('Find a preset')).toBeVisible();
    expect(await wcag(page, theme, '[role="dialog"]')).toEqual([]);
    await page.keyboard.press('Escape');
    await page.getByRole('tab', { name: 'Load' }).click();
    expect(await wcag(page, theme, '.inspector')).toEqual([]);
    await page.getByRole('tab', { name: 'Strip' }).click();
    await pick(page, 'bass-di');
    await page.keyboard.press('t');
    await expect(page.getByText('Nothing stops it')).toBeVisible();
    expect(await wcag(page, theme)).toEqual([]);
    await page.keyboard.press('w');
    await expect(page.getByRole('heading', { name: 'Driven differently' })).toBeVisible();
    expect(await wcag(page, theme)).toEqual([]);
    await page.keyboard.press('Shift+X');
    await expect(page.getByRole('dialog', { name: /Sends of/ })).toBeVisible();
    expect(await wcag(page, theme, '[role="dialog"]')).toEqual([]);
    await page.keyboard.press('Escape');
    await page.keyboard.press('2');
    await expect(page.locator('.vue-flow__node').first()).toBeVisible();
    expect(await wcag(page, theme)).toEqual([]);
    await page.keyboard.press('3');
    await expect(page.getByRole('heading', { name: 'Automation', exact: true })).toBeVisible();
    expect(await wcag(page, theme)).toEqual([]);
    await page.keyboard.press('5');
    await expect(page.getByRole('heading', { name: 'Findings' })).toBeVisible();
    await expect(page.locator('article').first()).toBeVisible();
    expect(await wcag(page, theme)).toEqual([]);
    await page.keyboard.press('4');
    await expect(page.getByRole('slider', { name: 'Fader 1' })).toBeVisible();
    expect(await wcag(page, theme)).toEqual([]);
    await page.keyboard.press('6');
    await expect(page.getByRole('heading', { name: 'Print' })).toBeVisible();
    expect(await wcag(page, theme)).toEqual([]);
  });
