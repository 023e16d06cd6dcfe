import type { Sequelize } from 'sequelize';
import { makeFull, median, openSubject, round, withPages } from './benchMoves';

/** Moves that are measured each way, and milliseconds from one to the next. */
const MOVES = 120;
const EVERY_MS = 40;

interface Store {
  present(): { strips: { id: string; faderDb: number | null }[] };
  live(drag: string, commands: readonly object[] | null): void;
}
/** Of a page: moves a level now and then, and says by the clock of the day when it did. */
async function moveAway(task: { moves: number; everyMs: number }): Promise<number[]> {
  const app = (document.querySelector('#app') as unknown as { __vue_app__: { config: never } }).__vue_app__;
  const { $pinia } = (
    app as unknown as { config: { globalProperties: { $pinia: { _s: Map<string, Store> } } } }
  ).config.globalProperties;
  const session = $pinia._s.get('session')!;
  const at: number[] = [];
  for (let n = 0; n < task.moves; n++) {
    at.push(performance.timeOrigin + performance.now());
    session.live('bench', [{ type: 'strip.set', id: 's0', patch: { faderDb: -1 - n / 10 } }]);
    await new Promise((done) => setTimeout(done, task.everyMs));
  }
  session.live('bench', null);
  return at;
}
/** Of the other page: when each of the levels was there. */
async function look(task: { moves: number; forMs: number }): Promise<number[]> {
  const app = (document.querySelector('#app') as unknown as { __vue_app__: { config: never } }).__vue_app__;
  const { $pinia } = (
    app as unknown as { config: { globalProperties: { $pinia: { _s: Map<string, Store> } } } }
  ).config.globalProperties;
  const session = $pinia._s.get('session')!;
  const seen = new Array<number>(task.moves).fill(0);
  const until = performance.now() + task.forMs;
  const { port1, port2 } = new MessageChannel();
  await new Promise<void>((done) => {
    port1.onmessage = () => {
      const level = session.present().strips.find((s) => s.id === 's0')!.faderDb;
      const n = level === null ? -1 : Math.round((-1 - level) * 10);
      if (n >= 0 && n < seen.length && !seen[n]) seen[n] = performance.timeOrigin + performance.now();
      if (performance.now() > until || seen[task.moves - 1]) done();
      // Now and then, so that the page has time for everything else.
      else setTimeout(() => port2.postMessage(0), 1);
    };
    port2.postMessage(0);
  });
  return seen;
}

/** What a tablet's move takes until the other window has it, and the other way round, on one machine, 200 strips. */
export async function hands(sequelize: Sequelize, root: string, say: (line: object) => void): Promise<void> {
  await withPages(sequelize, [{ name: 'now', root }], async ([server], browser, post) => {
    const id = await makeFull(post, false);
    const { page } = await openSubject(browser, server!.base, id);
    const tablet = await (
      await browser.newContext({ viewport: { width: 768, height: 1024 }, hasTouch: true })
    ).newPage();
    await tablet.addInitScript('globalThis.__name = (f) => f');
    await tablet.goto(`${server!.base}/session/${id}/hands`);
    await tablet.locator('[data-place="0"]').waitFor();
    await tablet.waitForTimeout(1500);
    const task = { moves: MOVES, everyMs: EVERY_MS };
    for (const [way, from, to] of [
      ['tablet to the window', tablet, page],
      ['window to the tablet', page, tablet],
    ] as const) {
      const seen = to.evaluate(look, { moves: MOVES, forMs: MOVES * EVERY_MS * 3 });
      const at = await from.evaluate(moveAway, task);
      const took = (await seen).flatMap((t, n) => (t ? [t - at[n]!] : [])).sort((a, b) => a - b);
      say({
        bench: 'hands',
        way,
        strips: 200,
        medianMs: round(median(took), 1),
        p99Ms: round(took[Math.floor(took.length * 0.99)] ?? Number.NaN, 1),
        seen: took.length,
        of: MOVES,
      });
      await to.waitForTimeout(500);
    }
    await tablet.context().close();
    await page.context().close();
  });
}
