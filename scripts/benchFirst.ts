import type { Browser } from '@playwright/test';
import type { Sequelize } from 'sequelize';
import { median, rootsOf, round, withPages } from './benchMoves';
import { asking, graph, makePlaying } from './benchSession';

interface First {
  readonly tooLong: number;
  readonly gaps: number;
  readonly late: number;
}
/** Opens a session in a browser that knows nothing of it yet, waits so many milliseconds, plays, and looks at what the audio thread says three seconds later. */
async function firstPlay(browser: Browser, url: string, wait: number): Promise<First> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  try {
    const page = await context.newPage();
    await page.goto(url);
    await page.locator('[data-strip="s0"] .handle').waitFor();
    await page.waitForTimeout(wait);
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await page.waitForTimeout(3000);
    await page.getByRole('button', { name: /^load/ }).click();
    const text = (await page.getByRole('region', { name: 'The audio thread' }).textContent())!;
    const number = (pattern: RegExp) => Number(pattern.exec(text)?.[1] ?? Number.NaN);
    return {
      tooLong: number(/(\d+) blocks? took/),
      gaps: number(/(\d+) gaps? (?:was|were) heard/),
      late: number(/(\d+) times? a stem/),
    };
  } finally {
    await context.close();
  }
}

/**
 * The first three seconds that a fresh browser plays: nothing that computes has run there before.
 * @param against the folder of another clone whose built page is measured by turns with this one
 */
export async function firstPlays(
  sequelize: Sequelize,
  root: string,
  against: string | null,
  say: (line: object) => void,
): Promise<void> {
  await withPages(sequelize, rootsOf(root, against), async (servers, browser) => {
    for (const strips of [64, 128]) {
      const id = await makePlaying(asking(servers[0]!.base), graph(strips), 10);
      for (const wait of [4000, 0]) {
        const seen = new Map<string, First[]>(servers.map(({ name }) => [name, []]));
        for (let k = 0; k < 5; k++)
          for (const { name, base } of servers)
            seen.get(name)!.push(await firstPlay(browser, `${base}/session/${id}`, wait));
        for (const [of, list] of seen)
          say({
            bench: 'the first three seconds of a fresh browser',
            of,
            strips,
            playedAfterMs: wait,
            blocksTooLong: round(median(list.map((f) => f.tooLong)), 0),
            all: list.map((f) => f.tooLong).join(' '),
            gaps: list.map((f) => f.gaps).join(' '),
            stemsLate: list.map((f) => f.late).join(' '),
          });
      }
    }
  });
}
