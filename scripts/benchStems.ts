import { randomFillSync } from 'node:crypto';
import { createReadStream, createWriteStream, existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Worker } from 'node:worker_threads';
import type { Sequelize } from 'sequelize';
import { chromium } from '@playwright/test';
import yazl from 'yazl';
import { writeSessionDocument } from '../core/formats/sessionDocument';
import { wavHeader } from '../core/formats/audio/wav';
import { newSession, newStrip } from '../core/session/defaults';
import type { Session } from '../core/session/types';
import { pageMemory } from './benchMemory';
import { serve } from './benchServer';
import { keepNear } from '../server/audio/stemCache';
import { importPackage } from '../server/sessions/packages';
import { Readable } from 'node:stream';

const RATE = 48000;
const round = (n: number, digits = 1) => Number(n.toFixed(digits));
const seconds = (since: number) => (performance.now() - since) / 1000;

/** Mono noise of 16 bits that no two stems share. */
function* noise(bytes: number, stem: number): Generator<Buffer> {
  const block = randomFillSync(Buffer.alloc(1 << 20));
  for (let at = 0; at < bytes; at += block.length) {
    block.writeInt32LE(at, 0);
    block.writeInt32LE(stem, 4);
    yield Buffer.from(block.subarray(0, Math.min(block.length, bytes - at)));
  }
}

/** A session of so many strips, each with a stem of its own of so many seconds, as a package. @returns bytes of audio in it */
async function makePackage(file: string, strips: number, length: number): Promise<number> {
  const base = newSession(`${strips} stems`);
  const sources = Array.from({ length: strips }, (_, i) =>
    newStrip({
      id: `s${i}`,
      kind: 'source',
      name: `Stem ${i + 1}`,
      stem: `stems/s${i}.wav`,
      faderDb: -30,
      out: { to: 'main', on: true },
    }),
  );
  const session: Session = { ...base, strips: [...sources, ...base.strips] };
  const zip = new yazl.ZipFile();
  zip.addBuffer(Buffer.from(writeSessionDocument(session)), 'session.json');
  const bytes = length * RATE * 2;
  for (let i = 0; i < strips; i++)
    zip.addReadStreamLazy(`stems/s${i}.wav`, { compress: false, size: 44 + bytes }, (give) =>
      give(
        null,
        Readable.from(
          (function* () {
            yield Buffer.from(wavHeader('s16', 1, RATE, length * RATE));
            yield* noise(bytes, i);
          })(),
        ),
      ),
    );
  zip.end();
  await pipeline(zip.outputStream, createWriteStream(file));
  return strips * bytes;
}

/** What a user waits for: from play, or a click elsewhere, to the clock that moves; and stems that came late meanwhile. */
async function firstSound(
  url: string,
  bench: string,
  strips: number,
  length: number,
  say: (line: object) => void,
) {
  const browser = await chromium.launch({
    executablePath: ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync),
    args: ['--no-sandbox', '--autoplay-policy=no-user-gesture-required', '--no-first-run'],
  });
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    // The compiler that runs this file marks functions with a helper, which the page has to have as well.
    await page.addInitScript('globalThis.__name = (f) => f');
    await page.goto(url);
    await page.locator('[data-strip="s0"] .handle').waitFor();
    await page.getByRole('button', { name: /^load/ }).click();
    /** Milliseconds from a click until the clock goes on, by a twentieth of a second. */
    const rolls = (x: number, y: number) =>
      page.evaluate(
        ([x, y]) =>
          new Promise<number>((done) => {
            const slider = document.querySelector('.transport [role="slider"]')!;
            const at = () => Number(slider.getAttribute('aria-valuenow'));
            const begun = performance.now();
            let from: number | null = null;
            document.addEventListener('click', () => setTimeout(() => (from = at())), { once: true });
            (document.elementFromPoint(x, y) as HTMLElement).dispatchEvent(
              new PointerEvent('pointerdown', {
                bubbles: true,
                clientX: x,
                clientY: y,
                pointerId: 1,
                button: 0,
              }),
            );
            (document.elementFromPoint(x, y) as HTMLElement).dispatchEvent(
              new PointerEvent('pointerup', {
                bubbles: true,
                clientX: x,
                clientY: y,
                pointerId: 1,
                button: 0,
              }),
            );
            (document.elementFromPoint(x, y) as HTMLElement).dispatchEvent(
              new MouseEvent('click', { bubbles: true, clientX: x, clientY: y }),
            );
            const look = () => {
              if (from !== null && at() > from + 0.05) done(performance.now() - begun);
              else requestAnimationFrame(look);
            };
            look();
          }),
        [x, y] as const,
      );
    const text = async () => (await page.getByRole('region', { name: 'The audio thread' }).textContent())!;
    const late = async () => Number(/(\d+) times? a stem/.exec(await text())?.[1] ?? Number.NaN);
    const waits: number[] = [];
    /** Of one core, in percent: this process serves, and does nothing else meanwhile. */
    const loads: number[] = [];
    const lates: number[] = [];
    const play = (await page.getByRole('button', { name: 'Play', exact: true }).boundingBox())!;
    const place = (await page.getByRole('slider', { name: 'Position' }).boundingBox())!;
    for (const [x, y] of [
      [play.x + play.width / 2, play.y + play.height / 2],
      [place.x + place.width / 3, place.y + place.height / 2],
      [place.x + (place.width * 5) / 6, place.y + place.height / 2],
    ] as const) {
      waits.push(await rolls(x, y));
      const [spent, begun] = [process.cpuUsage(), performance.now()];
      await page.waitForTimeout(5000);
      const { user, system } = process.cpuUsage(spent);
      loads.push((user + system) / 10 / (performance.now() - begun));
      lates.push(await late());
    }
    say({
      bench,
      stems: strips,
      secondsEach: length,
      playMs: round(waits[0]!, 0),
      jumpMs: waits.slice(1).map((w) => round(w, 0)),
      misses: [
        ...(waits[0]! > 1000 ? [`first sound after ${round(waits[0]!, 0)} ms where 1,000 are wanted`] : []),
        ...(Math.max(...waits.slice(1)) > 300 ? ['a jump took longer than 300 ms'] : []),
        ...(lates.at(-1)! > 0 ? [`stems were late in ${lates.at(-1)} blocks`] : []),
      ],
      stemsLateAfterEach: lates,
      serverCpuPercent: loads.map((l) => round(l, 0)),
    });
  } finally {
    await browser.close();
  }
}

/** Plays from three places, and fails where the clock does not go on. */
const PLAYS = `async () => {
  const wait = (ms) => new Promise((r) => setTimeout(r, ms));
  const slider = document.querySelector('.transport [role="slider"]');
  const at = () => Number(slider.getAttribute('aria-valuenow'));
  document.querySelector('button[aria-label="Play"]').click();
  await wait(7000);
  for (const share of [0.33, 0.8]) {
    const { left, top, width, height } = slider.getBoundingClientRect();
    const place = { bubbles: true, clientX: left + width * share, clientY: top + height / 2, pointerId: 1, button: 0 };
    slider.dispatchEvent(new PointerEvent('pointerdown', place));
    slider.dispatchEvent(new PointerEvent('pointerup', place));
    const before = at();
    await wait(7000);
    if (at() < before + 3) throw new Error('It does not play: ' + before + ', ' + at());
  }
}`;

/** In a thread of its own, as who asks is no work of the server's. */
const ASKS = `
const { parentPort, workerData } = require('node:worker_threads');
const { get, Agent } = require('node:http');
const agent = new Agent({ keepAlive: true, maxSockets: 6 });
const begun = performance.now();
let bytes = 0;
const ask = (url) => new Promise((done, fail) => {
  get(url, { agent }, (answer) => {
    answer.on('data', (piece) => (bytes += piece.length));
    answer.on('end', () => (answer.statusCode === 200 ? done() : fail(new Error(String(answer.statusCode)))));
  }).on('error', fail);
});
Promise.all(workerData.map(ask)).then(() => parentPort.postMessage(bytes / 1000 / (performance.now() - begun)));
`;
/** Asks for all of these, six at once. @returns megabytes a second */
const fetchedElsewhere = (urls: readonly string[]) =>
  new Promise<number>((done, fail) => {
    const asks = new Worker(ASKS, { eval: true, workerData: urls });
    asks.on('message', done).on('error', fail);
  });

/** How fast stems come in, and how fast they are served; with `strips` stems of `length` seconds. */
export async function stems(
  sequelize: Sequelize,
  folder: string,
  say: (line: object) => void,
  { strips, length }: { readonly strips: number; readonly length: number },
): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const file = join(folder, 'large.zonula');
  const bytes = await makePackage(file, strips, length);
  let begun = performance.now();
  await pipeline(createReadStream(file), createWriteStream(join(folder, 'copy'), { flush: true } as object));
  const copy = bytes / 1e6 / seconds(begun);
  rmSync(join(folder, 'copy'));
  begun = performance.now();
  const { id } = await importPackage(sequelize, file);
  const comes = bytes / 1e6 / seconds(begun);
  const [[{ n }]] = (await sequelize.query(
    `SELECT pg_total_relation_size('stem_chunks')::float8 AS n`,
  )) as unknown as [[{ n: number }]];
  say({
    bench: 'a package comes in',
    stems: strips,
    secondsEach: length,
    megabytes: round(bytes / 1e6),
    megabytesASecond: round(comes),
    misses: comes < 100 ? [`${round(comes)} MB/s where 100 are wanted`] : [],
    plainCopyMegabytesASecond: round(copy),
    bytesStoredPerByte: round(n / bytes, 3),
  });

  const { base, close } = await serve(sequelize);
  const document = (await (await fetch(`${base}/api/sessions/${id}`)).json()) as {
    session: { document: Session };
  } & { document?: Session };
  const session = document.document ?? document.session.document;
  const names = session.strips.map((s) => s.stem).filter((s): s is string => s !== null);
  const PIECE = 65536;
  const pieces = Math.min(20, Math.floor((length * RATE) / PIECE));
  const asked = Array.from({ length: pieces }, (_, p) =>
    names.map((stem) => ({ stem, start: p * PIECE })),
  ).flat();
  const serveAll = async (from: string) => {
    const served = await fetchedElsewhere(
      asked.map(({ stem, start }) => `${base}/api/stems/${stem}/pcm?start=${start}&frames=${PIECE}`),
    );
    say({
      bench: 'pieces of stems are served, six at once',
      from,
      megabytesASecondOfFloats: round(served),
      misses: served < 250 && from === 'disk' ? [`${round(served)} MB/s where 250 are wanted`] : [],
    });
    let got = 0;
    begun = performance.now();
    for (let p = 0; p < pieces * 4; p++) {
      const answer = await fetch(`${base}/api/stems/slices`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ slices: names.map((stem) => ({ stem, start: p * 16384, frames: 16384 })) }),
      });
      got += (await answer.arrayBuffer()).byteLength;
    }
    const took = seconds(begun) * 1000;
    const slices = got / 1e3 / took;
    say({
      bench: 'slices of all stems are served, one question after the other',
      from,
      megabytesASecondOf16Bits: round(slices),
      asFloats: round(slices * 2),
      msAQuestion: round(took / pieces / 4),
      misses:
        slices < 125 && from === 'disk' ? [`${round(slices)} MB/s of 16 bits where 125 are wanted`] : [],
    });
  };
  await serveAll('database');
  const firstTime = 'first sound of a session that was never open, and two jumps, in Chromium';
  await firstSound(`${base}/session/${id}`, firstTime, names.length, length, say);
  const memory = await pageMemory(`${base}/session/${id}`, PLAYS);
  say({
    bench: 'memory of the page, nobody looking into it, played from three places for twenty seconds',
    stems: strips,
    openMegabytes: round(memory.opened, 0),
    megabytes: round(memory.played, 0),
    misses: memory.played > 400 ? [`${round(memory.played, 0)} MB where 400 are wanted`] : [],
  });
  begun = performance.now();
  const near = keepNear(sequelize, join(folder, 'near'), 64e9, { after: 0, rest: 0 })!;
  for (const stem of names) await fetch(`${base}/api/stems/${stem}/pcm?start=0&frames=64`);
  while (near.state.waiting) await new Promise((done) => setTimeout(done, 50));
  const copied = near.state.bytes / 1e6 / seconds(begun);
  say({ bench: 'stems are copied to the disk, without rest', megabytesASecond: round(copied) });
  await serveAll('disk');
  await firstSound(
    `${base}/session/${id}`,
    'the same, with the stems on the disk',
    names.length,
    length,
    say,
  );
  await near.close();
  await close();
  for (const name of readdirSync(folder)) rmSync(join(folder, name), { recursive: true });
}
