import { existsSync } from 'node:fs';
import { randomUUID } from 'node:crypto';
import { chromium, type Page } from '@playwright/test';
import type { Sequelize } from 'sequelize';
import type { Session } from '../core/session/types';
import { largeSession } from '../demo/large';
import { serve } from './benchServer';

const round = (n: number, digits = 1) => Number(n.toFixed(digits));
const quantile = (list: readonly number[], q: number) =>
  [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(q * list.length))]!;
/** Widths of columns, from afar to near. */
const ZOOMS = [6, 20, 34, 50, 96];
/** Milliseconds that each is looked at. */
const EACH = 2000;

/** The page's frames while something is done with it, in milliseconds. */
async function framesOf(page: Page, work: (begun: number) => Promise<void>): Promise<readonly number[]> {
  await page.evaluate((ms) => {
    const w = window as unknown as { frames: number[]; until: number };
    w.frames = [];
    w.until = performance.now() + ms;
    let last = performance.now();
    const look = (now: number) => {
      w.frames.push(now - last);
      last = now;
      if (now < w.until) requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
  }, EACH);
  const begun = Date.now();
  while (Date.now() - begun < EACH) await work(Date.now() - begun);
  return page.evaluate(() => (window as unknown as { frames: number[] }).frames.slice(1));
}

/** Strips that it has. */
const STRIPS = 200;
/** The large session, with some of its sources once more. */
function session(): Session {
  const large = largeSession();
  const again = (id: string) => `${id}-again`;
  const more = large.strips
    .filter((s) => s.kind === 'source')
    .slice(0, STRIPS - large.strips.length)
    .map((s) => ({
      ...s,
      id: again(s.id),
      name: `${s.name} again`,
      inserts: s.inserts.map((i) => ({ ...i, id: again(i.id) })),
      sends: s.sends.map((x) => ({ ...x, id: again(x.id) })),
    }));
  return { ...large, strips: [...large.strips, ...more] };
}

/** Frames of the Sheet with 200 strips at every zoom: at rest, while it is scrolled and zoomed, while a fader is dragged. */
export async function sheet(sequelize: Sequelize, say: (line: object) => void): Promise<void> {
  const { base, close } = await serve(sequelize);
  const browser = await chromium.launch({
    executablePath: ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync),
    args: ['--no-sandbox', '--no-first-run'],
  });
  try {
    const large = session();
    const of = (kind: string) => large.strips.filter((s) => s.kind === kind);
    const ask = async (path: string, body: object) =>
      (await (
        await fetch(`${base}/api${path}`, {
          method: 'POST',
          headers: { 'Content-Type': 'application/json' },
          body: JSON.stringify(body),
        })
      ).json()) as { id: string };
    const { id } = await ask('/sessions', { name: large.name });
    await ask(`/sessions/${id}/commits`, {
      revision: 0,
      changeId: randomUUID(),
      label: 'large',
      commands: [
        ...['return', 'submix', 'source'].flatMap((kind) =>
          of(kind).map((strip, at) => ({ type: 'strip.add', strip, at })),
        ),
        ...large.vcas.map((vca, at) => ({ type: 'vca.add', vca, at })),
      ],
    });
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    await page.addInitScript('globalThis.__name = (f) => f');
    for (const zoom of ZOOMS) {
      await page.goto(base);
      await page.evaluate((z) => localStorage.setItem('zonula.zoom', String(z)), zoom);
      const begun = Date.now();
      await page.goto(`${base}/session/${id}`);
      const fader = page.locator('[id="cell-frame-drum-2-level"]');
      await fader.waitFor();
      const openMs = Date.now() - begun;
      await page.waitForTimeout(1000);
      const still = await framesOf(page, () => page.waitForTimeout(50));
      const box = (await fader.boundingBox())!;
      const [x, y] = [box.x + box.width / 3, box.y + box.height / 2];
      await page.mouse.move(x, y);
      await page.mouse.down();
      const dragged = await framesOf(page, (ms) => page.mouse.move(x, y - 60 * Math.abs(Math.sin(ms / 300))));
      await page.mouse.up();
      await page.mouse.move(x, y + 20);
      const scrolled = await framesOf(page, async (ms) => {
        await page.mouse.wheel(ms < EACH / 2 ? 90 : -90, 0);
        await page.waitForTimeout(16);
      });
      await page.keyboard.down('Control');
      const zoomed = await framesOf(page, async (ms) => {
        await page.mouse.wheel(0, ms % 800 < 400 ? -30 : 30);
        await page.waitForTimeout(16);
      });
      await page.keyboard.up('Control');
      const medianAnd95 = (list: readonly number[]) => [
        round(quantile(list, 0.5)),
        round(quantile(list, 0.95)),
      ];
      say({
        bench: 'frames of the Sheet with 200 strips, median and 95th of a hundred, in milliseconds',
        columnPixels: zoom,
        openMs,
        still: medianAnd95(still),
        dragged: medianAnd95(dragged),
        scrolled: medianAnd95(scrolled),
        zoomed: medianAnd95(zoomed),
      });
    }
  } finally {
    await browser.close();
    await close();
  }
}
