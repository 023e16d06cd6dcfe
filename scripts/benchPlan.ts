import type { Browser } from '@playwright/test';
import type { Sequelize } from 'sequelize';
import { makeFull, median, rootsOf, round, withPages } from './benchMoves';

interface PlanWindow {
  plans: number[];
}
/** Before the page's own code: notes how long its worker takes for each new plan, from the page's word to the worker's. */
function watchPlans() {
  const w = window as unknown as PlanWindow;
  w.plans = [];
  const post = Worker.prototype.postMessage as (...args: unknown[]) => void;
  Worker.prototype.postMessage = function (this: Worker, ...args: unknown[]) {
    const { type, wiring } = (args[0] ?? {}) as { type?: string; wiring?: { serial: number } };
    if (type === 'session' && wiring) {
      const begun = performance.now();
      const answered = (e: MessageEvent<{ serial?: number }>) => {
        if (e.data.serial !== wiring.serial) return;
        w.plans.push(performance.now() - begun);
        this.removeEventListener('message', answered);
      };
      this.addEventListener('message', answered);
    }
    post.apply(this, args);
  };
}

/** Opens a session in a browser that knows nothing of it yet, waits so many milliseconds, and plays. @returns milliseconds until its first plan was there */
async function firstPlan(browser: Browser, url: string, wait: number): Promise<number> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  try {
    const page = await context.newPage();
    await page.addInitScript('globalThis.__name = (f) => f');
    await page.addInitScript(watchPlans);
    await page.goto(url);
    await page.locator('[data-strip="s0"] .handle').waitFor();
    await page.waitForTimeout(wait);
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await page.waitForFunction(() => (window as unknown as PlanWindow).plans.length > 0);
    return await page.evaluate(() => (window as unknown as PlanWindow).plans[0]!);
  } finally {
    await context.close();
  }
}

/**
 * The first plan of a session of 200 strips with full chains, with 120,000 points in 500 lanes and without, as the page's own worker
 * makes it: nothing of it has run before.
 * @param against the folder of another clone whose built page is measured by turns with this one
 */
export async function plans(
  sequelize: Sequelize,
  root: string,
  against: string | null,
  say: (line: object) => void,
): Promise<void> {
  await withPages(sequelize, rootsOf(root, against), async (servers, browser, post) => {
    for (const lanes of [true, false]) {
      const id = await makeFull(post, lanes);
      for (const wait of [1500, 0]) {
        const times = new Map<string, number[]>(servers.map(({ name }) => [name, []]));
        for (let k = 0; k < 7; k++)
          for (const { name, base } of servers)
            times.get(name)!.push(await firstPlan(browser, `${base}/session/${id}`, wait));
        for (const [of, list] of times)
          say({
            bench: 'the first plan',
            of,
            lanes: lanes ? 500 : 0,
            playedAfterMs: wait,
            medianMs: round(median(list), 0),
            all: list.map((ms) => round(ms, 0)).join(' '),
          });
      }
    }
  });
}
