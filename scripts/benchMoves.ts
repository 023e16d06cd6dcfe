import { randomUUID } from 'node:crypto';
import { cpSync, existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Browser, type CDPSession, type Page } from '@playwright/test';
import type { Sequelize } from 'sequelize';
import { newInsert, newSend, newSession, newStrip } from '../core/session/defaults';
import type { Lane, Session } from '../core/session/types';
import { createApp } from '../server/app';

const POINTS = 240;
/** Pictures in which controls are moved, for each figure. */
const PICTURES = 60;
/** 200 strips with full chains and two sends each; 500 lanes of 240 points, or none. */
export function fullSession(lanes: boolean): Session {
  const base = newSession('200 full strips');
  const lane = (value: (i: number) => number): Lane =>
    Array.from({ length: POINTS }, (_, i) => [i * 0.75, Math.round(value(i) * 100) / 100]);
  const lanesOf = (has: boolean, made: Record<string, (i: number) => number>) =>
    lanes && has ? Object.fromEntries(Object.entries(made).map(([id, value]) => [id, lane(value)])) : {};
  const buses = Array.from({ length: 8 }, (_, i) =>
    newStrip({ id: `bus${i}`, kind: 'submix', name: `Bus ${i}`, out: { to: 'main', on: true } }),
  );
  const returns = [0, 1].map((i) =>
    newStrip({
      id: `rev${i}`,
      kind: 'return',
      name: `Reverb ${i}`,
      out: { to: 'main', on: true },
      inserts: [newInsert({ id: `r${i}`, type: 'reverb' })],
    }),
  );
  const sources = Array.from({ length: 189 }, (_, i) =>
    newStrip({
      id: `s${i}`,
      kind: 'source',
      name: `Strip ${i}`,
      faderDb: -12,
      out: { to: `bus${i % 8}`, on: true },
      // The first sixteen are moved by hand.
      automation: i < 16 ? 'off' : 'read',
      lanes: {
        ...lanesOf(true, { fader: (k) => -12 + 6 * Math.sin(k + i) }),
        ...lanesOf(i % 2 === 1, { pan: (k) => Math.sin(k / 3 + i) }),
      },
      sends: returns.map((r, k) =>
        newSend({
          id: `x${i}-${k}`,
          to: r.id,
          tap: k ? 'pre' : 'post',
          levelDb: -18,
          lanes: lanesOf(k === 0 && i < 160, { level: (j) => -18 + 4 * Math.cos(j + i) }),
        }),
      ),
      inserts: [
        newInsert({ id: `g${i}`, type: 'gain' }),
        newInsert({
          id: `e${i}`,
          type: 'equalizer',
          params: { bell1Frequency: 250, bell1Gain: 3 },
          lanes: lanesOf(i >= 40 && i < 97, { bell1Gain: (k) => 3 * Math.sin(k / 5 + i) }),
        }),
        newInsert({ id: `n${i}`, type: 'gate' }),
        newInsert({ id: `c${i}`, type: 'compressor', params: { threshold: -30, ratio: 3 } }),
      ],
    }),
  );
  return { ...base, strips: [...sources, ...buses, ...returns, ...base.strips] };
}

/** In the audio thread: counts what the engine was told, once it has taken it up. */
const PROBE = `
const register = globalThis.registerProcessor;
globalThis.registerProcessor = (name, Base) => register(name, class extends Base {
  constructor(options) {
    super(options);
    const probe = options.processorOptions.probe;
    const watch = (port) => {
      const take = port.onmessage;
      port.onmessage = (e) => {
        take.call(port, e);
        if (e.data.type === 'listen') watch(e.data.port);
        if (e.data.type !== 'steer' && e.data.type !== 'plan') return;
        Atomics.add(probe, 0, 1);
        Atomics.notify(probe, 0);
      };
    };
    watch(this.port);
  }
});`;
/** In a worker: notes when. */
const CLOCK = `
onmessage = ({ data: [count, times] }) => {
  const at = new Float64Array(times);
  for (let n = 0; ;) {
    Atomics.wait(count, 0, n);
    const now = performance.timeOrigin + performance.now();
    n = Atomics.load(count, 0);
    at[n % at.length] = now;
    Atomics.store(count, 1, n);
  }
};`;

export interface BenchWindow {
  probe: Int32Array;
  probeTimes: Float64Array;
}
/** Before the page's own code: has the probe and the clock set up with the engine. */
function prepare() {
  const w = window as unknown as BenchWindow;
  const count = new Int32Array(new SharedArrayBuffer(8));
  const times = new SharedArrayBuffer(8 * 4096);
  w.probe = count;
  w.probeTimes = new Float64Array(times);
  // Events that a script makes have no pointer that could be captured.
  Element.prototype.setPointerCapture = () => {};
  const add = AudioWorklet.prototype.addModule;
  AudioWorklet.prototype.addModule = async function (url: string | URL, options?: WorkletOptions) {
    await add.call(this, '/bench-probe.js');
    return add.call(this, url, options);
  };
  const Node = AudioWorkletNode;
  window.AudioWorkletNode = class extends Node {
    constructor(context: BaseAudioContext, name: string, options: AudioWorkletNodeOptions = {}) {
      const given = options.processorOptions as object;
      super(context, name, { ...options, processorOptions: { ...given, probe: count } });
      new Worker('/bench-clock.js').postMessage([count, times]);
    }
  };
}

type How = 'mouse' | 'slider' | 'lane' | 'MIDI';
const HOWS: readonly How[] = ['mouse', 'slider', 'lane', 'MIDI'];

/** Makes so many moves in each of so many pictures. @returns milliseconds, a burst each */
async function moveInPage(task: {
  readonly how: How;
  readonly atOnce: number;
  readonly bursts: number;
  readonly every: number;
}): Promise<{ handler: number[]; first: number[]; last: number[] }> {
  const { how, atOnce, bursts, every } = task;
  const w = window as unknown as BenchWindow;
  const app = (document.querySelector('#app') as unknown as { __vue_app__: { config: never } }).__vue_app__;
  type Store = Record<string, (...args: unknown[]) => unknown> & { document: Session };
  const { $pinia } = (
    app as unknown as { config: { globalProperties: { $pinia: { _s: Map<string, Store> } } } }
  ).config.globalProperties;
  const session = $pinia._s.get('session')!;
  const frame = () => new Promise((done) => requestAnimationFrame(done));
  const started = session.document;
  let input: { onmidimessage: ((e: { data: Uint8Array }) => void) | null } | null = null;
  if (how === 'MIDI') {
    const surface = $pinia._s.get('surface')!;
    input = { onmidimessage: null };
    const port = { id: `bench ${Math.random()}`, name: 'Bench', open: async () => {}, close: async () => {} };
    // A page of before had its devices connected one by one.
    if (surface.connect) await surface.connect(Object.assign(input, port), null);
    else input.onmidimessage = (e) => surface.hear!('unit-1', [...e.data]);
  }
  const handle = document.querySelector('[data-strip="s0"] .handle')!;
  const box = handle.getBoundingClientRect();
  const pointer = (type: string, y: number) =>
    handle.dispatchEvent(
      new PointerEvent(type, {
        bubbles: true,
        cancelable: true,
        pointerId: 1,
        isPrimary: true,
        button: 0,
        buttons: 1,
        clientX: box.x + 9,
        clientY: y,
      }),
    );
  const move = (n: number, k: number) => {
    const to = Math.abs(Math.sin(n / 3 + k));
    switch (how) {
      case 'mouse':
        return pointer('pointermove', box.y + 14 + 30 * to);
      case 'slider':
        return session.live!(`bench ${k}`, [
          {
            type: 'insert.set',
            strip: `s${k}`,
            id: `c${k}`,
            patch: { params: { threshold: -20 - 20 * to, ratio: 3 } },
          },
        ]);
      case 'lane': {
        const lanes = started.strips[16 + k]!.lanes;
        const points = lanes.fader ?? [[0, -12] as const];
        const lane = points.map((p, i) => (i === 3 ? [p[0], -12 + 10 * to] : p));
        return session.live!(`bench ${k}`, [
          { type: 'strip.set', id: `s${16 + k}`, patch: { lanes: { ...lanes, fader: lane } } },
        ]);
      }
      case 'MIDI': {
        const value = Math.round(16383 * (0.4 + 0.4 * to));
        return input!.onmidimessage!({
          data: Uint8Array.of(0xbf, 20 + k, value >> 7, 0xbf, 52 + k, value & 127),
        });
      }
    }
  };
  if (how === 'mouse') pointer('pointerdown', box.y + 4);
  if (how === 'MIDI')
    for (let k = 0; k < atOnce; k++) input!.onmidimessage!({ data: Uint8Array.of(0x9f, 20 + k, 127) });
  const handler: number[] = [];
  const first: number[] = [];
  const last: number[] = [];
  await frame();
  for (let n = 0; n < bursts; n++) {
    const before = Atomics.load(w.probe, 0);
    const begun = performance.now();
    for (let k = 0; k < atOnce; k++) move(n, k);
    handler.push(performance.now() - begun);
    for (let f = 0; f < every; f++) await frame();
    const after = Atomics.load(w.probe, 1);
    const told = Array.from(
      { length: after - before },
      (_, i) => w.probeTimes[(before + 1 + i) % w.probeTimes.length]! - performance.timeOrigin - begun,
    ).filter((ms) => ms > 0);
    // Where several were told at once, all were there when the first was.
    if (told.length) first.push(told[0]!);
    if (told.length) last.push(told.at(-1)!);
  }
  if (how === 'mouse') {
    pointer('pointermove', box.y + 4);
    pointer('pointerup', box.y + 4);
  }
  if (how === 'MIDI')
    for (let k = 0; k < atOnce; k++) input!.onmidimessage!({ data: Uint8Array.of(0x8f, 20 + k, 0) });
  if (how === 'lane' || how === 'slider') for (let k = 0; k < atOnce; k++) session.live!(`bench ${k}`, null);
  await new Promise((done) => setTimeout(done, 500));
  return { handler, first, last };
}

export const median = (list: readonly number[]) =>
  list.length ? [...list].sort((a, b) => a - b)[list.length >> 1]! : Number.NaN;
export const round = (n: number, digits = 3) => Number(n.toFixed(digits));
const executablePath = ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync);

/** One page that is measured. */
export interface Subject {
  readonly page: Page;
  readonly cdp: CDPSession;
  readonly openMs: number;
}

/** @param also what is set up before the page's own code, beside the probe */
export async function openSubject(
  browser: Browser,
  base: string,
  id: string,
  also?: () => void,
): Promise<Subject> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  await page.addInitScript('globalThis.__name = (f) => f');
  await page.addInitScript(prepare);
  if (also) await page.addInitScript(also);
  // Once for the page's code, which a browser keeps; then as it is opened every day.
  const times: number[] = [];
  for (let k = 0; k < 4; k++) {
    const begun = performance.now();
    await page.goto(`${base}/session/${id}`);
    await page.locator('[data-strip="s0"] .handle').waitFor();
    if (k > 0) times.push(performance.now() - begun);
    await page.waitForTimeout(1000);
  }
  const cdp = await context.newCDPSession(page);
  await cdp.send('Performance.enable');
  return { page, cdp, openMs: median(times) };
}
export async function playOnce({ page }: Subject) {
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await page.waitForTimeout(4000);
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await page.waitForTimeout(500);
}

/** Milliseconds of the page's main thread so far. */
async function taskTime(cdp: CDPSession): Promise<number> {
  const { metrics } = await cdp.send('Performance.getMetrics');
  return metrics.find((m) => m.name === 'TaskDuration')!.value * 1000;
}

/** A server of a built page with the probe beside it. */
interface Served {
  readonly name: string;
  readonly base: string;
}
/** What is measured: another clone's built page before this one's, where there is one. */
export const rootsOf = (root: string, against: string | null) => [
  ...(against ? [{ name: 'before', root: against }] : []),
  { name: 'now', root },
];

/** Serves built pages with the probe beside them, and opens a browser, for as long as something is measured. */
export async function withPages(
  sequelize: Sequelize,
  roots: readonly { readonly name: string; readonly root: string }[],
  measure: (
    servers: readonly Served[],
    browser: Browser,
    post: (path: string, body: object) => Promise<{ id: string }>,
  ) => Promise<void>,
): Promise<void> {
  const browser = await chromium.launch({
    executablePath,
    args: ['--no-sandbox', '--autoplay-policy=no-user-gesture-required', '--no-first-run'],
  });
  const folder = mkdtempSync(join(tmpdir(), 'zonula-moves-'));
  const servers: (Served & { readonly app: ReturnType<typeof createApp> })[] = [];
  try {
    for (const { name, root: from } of roots) {
      const served = join(folder, name);
      cpSync(join(from, 'build', 'web'), served, { recursive: true });
      writeFileSync(join(served, 'bench-probe.js'), PROBE);
      writeFileSync(join(served, 'bench-clock.js'), CLOCK);
      const app = createApp({
        sequelize,
        page: served,
        engine: join(from, 'build', 'engine.wasm'),
      });
      await new Promise<void>((done) => app.http.listen(0, '127.0.0.1', done));
      servers.push({ name, app, base: `http://127.0.0.1:${(app.http.address() as AddressInfo).port}` });
    }
    await measure(servers, browser, async (path, body) => {
      const answer = await fetch(`${servers[0]!.base}/api${path}`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify(body),
      });
      if (!answer.ok) throw new Error(await answer.text());
      return (await answer.json()) as { id: string };
    });
  } finally {
    await browser.close();
    for (const { app } of servers) {
      await app.live.close();
      app.http.closeAllConnections();
      app.http.close();
    }
    rmSync(folder, { recursive: true, force: true });
  }
}
/** Makes a session of 200 strips on a server. @returns its id */
export async function makeFull(
  post: (path: string, body: object) => Promise<{ id: string }>,
  lanes: boolean,
): Promise<string> {
  const { id } = await post('/sessions', { name: lanes ? 'With lanes' : 'Without lanes' });
  const strips = fullSession(lanes).strips.filter((s) => s.kind !== 'output');
  await post(`/sessions/${id}/commits`, {
    revision: 0,
    changeId: randomUUID(),
    label: 'bench',
    commands: strips.reverse().map((strip) => ({ type: 'strip.add', at: 0, strip })),
  });
  return id;
}

/**
 * What a moved control costs, by mouse, by slider, by lane and by MIDI: main-thread time a move, eight of them in each picture, and time
 * until the engine has the last of the eight.
 * @param against the folder of another clone whose built page is measured by turns with this one
 */
export async function moves(
  sequelize: Sequelize,
  root: string,
  against: string | null,
  say: (line: object) => void,
): Promise<void> {
  await withPages(sequelize, rootsOf(root, against), async (servers, browser, post) => {
    for (const lanes of [true, false]) {
      const id = await makeFull(post, lanes);
      const commits: number[] = [];
      for (let i = 0; i < 60; i++) {
        const begun = performance.now();
        await post(`/sessions/${id}/commits`, {
          revision: i + 1,
          changeId: randomUUID(),
          label: 'bench',
          commands: [{ type: 'strip.set', id: `s${100 + i}`, patch: { trimDb: -i / 10 } }],
        });
        commits.push(performance.now() - begun);
      }
      say({ bench: 'a commit', lanes: lanes ? 500 : 0, strips: 200, medianMs: round(median(commits), 1) });
      // One after the other: an engine computes as long as its page is open.
      for (const { name, base } of servers) {
        const subject = await openSubject(browser, base, id);
        const of = { of: name, lanes: lanes ? 500 : 0 };
        say({ bench: 'opening', ...of, ms: round(subject.openMs, 0) });
        await playOnce(subject);
        const { page, cdp } = subject;
        for (const how of HOWS) {
          const run = async (atOnce: number, bursts: number, every: number) => {
            const before = await taskTime(cdp);
            const got = await page.evaluate(moveInPage, { how, atOnce, bursts, every });
            return { ...got, task: ((await taskTime(cdp)) - before) / bursts };
          };
          await run(8, 4, 1);
          // Pictures cost what they cost: what seven more moves in each add is what a move costs.
          const pairs = [];
          for (let k = 0; k < 3; k++)
            pairs.push([await run(1, PICTURES, 1), await run(8, PICTURES, 1)] as const);
          const apart = await run(8, PICTURES, 3);
          say({
            bench: 'a move',
            how,
            ...of,
            mainThreadMs: round(median(pairs.map(([one, eight]) => (eight.task - one.task) / 7))),
            handlerMs: round(median(pairs.map(([, eight]) => median(eight.handler) / 8))),
            pictureMs: round(median(pairs.map(([one]) => one.task)), 1),
            // Of the first word that the engine got, and of the last; where a curve is drawn on, that is its end.
            toTheEngineMs: round(median(apart.first), 2),
            lastWordMs: round(median(apart.last), 2),
          });
        }
        await page.context().close();
      }
    }
  });
}
