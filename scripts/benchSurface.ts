import type { Page } from '@playwright/test';
import type { Sequelize } from 'sequelize';
import { makeFull, openSubject, round, withPages, type BenchWindow } from './benchMoves';

/** Faders moved at once, bursts of them, and milliseconds from one burst to the next. */
const FADERS = 8;
const BURSTS = 240;
const EVERY_MS = 25;
/** Messages a second, and for how long. */
const RATE = 1000;
const SECONDS = 10;

interface Taken {
  /** Milliseconds from the first byte of a burst to the first word that the engine had of it, and from the last byte to the last word. */
  readonly first: number[];
  readonly last: number[];
  /** From the first byte of a burst to the first bytes that went out after it. */
  readonly out: number[];
  /** Of the page's own thread, for a whole burst. */
  readonly page: number[];
}
interface Flood {
  readonly sent: number;
  readonly lateP99: number;
  readonly lateMost: number;
  readonly quietMs: number;
  readonly wrong: number;
  readonly seconds: number;
}

/** Before the page's own code: a MIDI port that keeps to the interface of the Web MIDI API, and notes when bytes go out. */
function plugIn() {
  const port = (type: string) => ({
    id: `bench ${type}`,
    name: 'Bench',
    type,
    state: 'connected',
    onmidimessage: null as ((e: { data: Uint8Array }) => void) | null,
    open: async () => {},
    close: async () => {},
    send: () => void (window as unknown as { outAt: number[] }).outAt.push(performance.now()),
  });
  const input = port('input');
  const access = {
    inputs: new Map([[input.id, input]]),
    outputs: new Map([['bench output', port('output')]]),
    onstatechange: null,
  };
  Object.assign(window, { outAt: [], benchInput: input });
  Object.defineProperty(navigator, 'requestMIDIAccess', { value: async () => access });
}

type Store = Record<string, unknown>;
interface SurfaceWindow extends BenchWindow {
  outAt: number[];
  benchInput: { onmidimessage: ((e: { data: Uint8Array }) => void) | null };
}

/** Has the desk speak by the port. */
async function connect() {
  const app = (document.querySelector('#app') as unknown as { __vue_app__: { config: never } }).__vue_app__;
  const { $pinia } = (
    app as unknown as { config: { globalProperties: { $pinia: { _s: Map<string, Store> } } } }
  ).config.globalProperties;
  while (!$pinia._s.get('surface')?.ready) await new Promise((done) => setTimeout(done, 50));
  const surface = $pinia._s.get('surface')! as unknown as {
    desk: { units: { id: string }[] };
    setUnit(id: string, patch: object): void;
    ports: { look(): Promise<void> };
  };
  surface.setUnit(surface.desk.units[0]!.id, {
    connection: { type: 'midi', input: 'Bench', output: 'Bench', nth: 0 },
  });
  await surface.ports.look();
  await new Promise((done) => setTimeout(done, 800));
}

async function burst(task: {
  readonly faders: number;
  readonly bursts: number;
  readonly everyMs: number;
}): Promise<Taken> {
  const { faders, bursts, everyMs } = task;
  const w = window as unknown as SurfaceWindow;
  const say = (...bytes: number[]) => w.benchInput.onmidimessage!({ data: Uint8Array.from(bytes) });
  for (let k = 0; k < faders; k++) say(0x9f, 20 + k, 127);
  await new Promise((done) => setTimeout(done, 300));
  const { port1, port2 } = new MessageChannel();
  const turn = () =>
    new Promise((done) => {
      port1.onmessage = done;
      port2.postMessage(0);
    });
  const taken: Taken = { first: [], last: [], out: [], page: [] };
  for (let n = 0; n < bursts; n++) {
    const before = Atomics.load(w.probe, 0);
    w.outAt.length = 0;
    const begun = performance.now();
    let own = 0;
    let lastByte = begun;
    // A browser hands each message over by itself: each is a turn of its own.
    for (let k = 0; k < faders * 2; k++) {
      const value = Math.round(16383 * (0.4 + 0.4 * Math.abs(Math.sin(n / 3 + (k >> 1)))));
      lastByte = performance.now();
      if (k % 2 === 0) say(0xbf, 20 + (k >> 1), value >> 7);
      else say(0xbf, 52 + (k >> 1), value & 127);
      own += performance.now() - lastByte;
      await turn();
    }
    taken.page.push(own);
    await new Promise((done) => setTimeout(done, everyMs));
    const after = Atomics.load(w.probe, 1);
    const told = Array.from(
      { length: after - before },
      (_, i) => w.probeTimes[(before + 1 + i) % w.probeTimes.length]! - performance.timeOrigin - begun,
    ).filter((ms) => ms > 0);
    if (told.length) {
      taken.first.push(told[0]!);
      taken.last.push(told.at(-1)! - (lastByte - begun));
    }
    if (w.outAt.length) taken.out.push(w.outAt[0]! - begun);
  }
  for (let k = 0; k < faders; k++) say(0x8f, 20 + k, 0);
  await new Promise((done) => setTimeout(done, 800));
  return taken;
}

async function flood(task: {
  readonly faders: number;
  readonly rate: number;
  readonly seconds: number;
}): Promise<Flood> {
  const { faders, rate, seconds } = task;
  const w = window as unknown as SurfaceWindow;
  const app = (document.querySelector('#app') as unknown as { __vue_app__: { config: never } }).__vue_app__;
  const { $pinia } = (
    app as unknown as { config: { globalProperties: { $pinia: { _s: Map<string, Store> } } } }
  ).config.globalProperties;
  const session = $pinia._s.get('session') as unknown as {
    present(): { strips: { id: string; faderDb: number | null }[] };
  };
  const say = (...bytes: number[]) => w.benchInput.onmidimessage!({ data: Uint8Array.from(bytes) });
  for (let k = 0; k < faders; k++) say(0x9f, 20 + k, 127);
  const begun = performance.now();
  const late: number[] = [];
  const last = new Array<number>(faders).fill(0);
  let sent = 0;
  const total = rate * seconds;
  // A channel's turns come as fast as the page has time for them; a message is sent when it is due.
  const { port1, port2 } = new MessageChannel();
  await new Promise<void>((done) => {
    port1.onmessage = () => {
      const now = performance.now();
      while (sent < total && begun + (sent * 1000) / rate <= now) {
        late.push(now - (begun + (sent * 1000) / rate));
        const k = (sent >> 1) % faders;
        // Upper and lower seven bits by turns: two messages a position.
        if (sent % 2 === 0) last[k] = Math.round(16383 * (0.4 + 0.4 * Math.abs(Math.sin(sent / 97 + k))));
        if (sent % 2 === 0) say(0xbf, 20 + k, last[k]! >> 7);
        else say(0xbf, 52 + k, last[k]! & 127);
        sent++;
      }
      if (sent < total) port2.postMessage(0);
      else done();
    };
    port2.postMessage(0);
  });
  const ended = performance.now();
  // Until the page has nothing to do any more: the next two pictures come at once.
  await new Promise(requestAnimationFrame);
  await new Promise(requestAnimationFrame);
  const quietMs = performance.now() - ended;
  const travel = (db: number | null) => {
    const points = [
      [-80, 0],
      [-40, 0.1],
      [-24, 0.3],
      [-12, 0.5],
      [0, 0.75],
      [12, 1],
    ] as const;
    if (db === null) return 0;
    const i = points.findIndex(([x]) => db <= x);
    const [[x0, y0], [x1, y1]] = [points[i - 1]!, points[i]!];
    return y0 + ((db - x0) / (x1 - x0)) * (y1 - y0);
  };
  const strips = session.present().strips;
  const wrong = last.filter((v, k) => Math.abs(travel(strips[k]!.faderDb) - v / 16383) > 0.0005).length;
  for (let k = 0; k < faders; k++) say(0x8f, 20 + k, 0);
  late.sort((a, b) => a - b);
  return {
    sent,
    lateP99: late[Math.floor(late.length * 0.99)]!,
    lateMost: late.at(-1)!,
    quietMs,
    wrong,
    seconds: (ended - begun) / 1000,
  };
}

const at = (list: readonly number[], share: number) =>
  list.length
    ? round([...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))]!, 2)
    : null;
const figures = (list: readonly number[]) => ({
  medianMs: at(list, 0.5),
  p99Ms: at(list, 0.99),
  of: list.length,
});

/**
 * What a device's bytes take, at 200 strips, eight faders at once: from byte to the engine's parameter, from byte to the bytes that go
 * back, at rest and while it plays; and what becomes of a thousand messages a second.
 */
export async function surface(
  sequelize: Sequelize,
  root: string,
  say: (line: object) => void,
): Promise<void> {
  await withPages(sequelize, [{ name: 'now', root }], async ([server], browser, post) => {
    const id = await makeFull(post, false);
    const { page } = await openSubject(browser, server!.base, id, plugIn);
    await page.evaluate(connect);
    const play = async (name: 'Play' | 'Stop') => {
      await page.getByRole('button', { name, exact: true }).first().click();
      await page.waitForTimeout(name === 'Play' ? 4000 : 500);
    };
    const measure = async (p: Page, rolling: boolean) => {
      const task = { faders: FADERS, bursts: BURSTS, everyMs: EVERY_MS };
      await p.evaluate(burst, { ...task, bursts: 20 });
      const { first, last, out, page: own } = await p.evaluate(burst, task);
      const of = { strips: 200, faders: FADERS, playing: rolling };
      say({ bench: 'byte to the engine', ...of, ...figures(first) });
      say({ bench: 'the last byte of eight to the engine', ...of, ...figures(last) });
      say({ bench: 'the page, for sixteen messages', ...of, ...figures(own) });
      say({ bench: 'byte to bytes out', ...of, ...figures(out) });
    };
    await play('Play');
    await play('Stop');
    await measure(page, false);
    await play('Play');
    await measure(page, true);
    const got = await page.evaluate(flood, { faders: FADERS, rate: RATE, seconds: SECONDS });
    say({
      bench: 'messages in a row',
      aSecond: RATE,
      sent: got.sent,
      seconds: round(got.seconds, 2),
      lateP99Ms: round(got.lateP99, 1),
      lateMostMs: round(got.lateMost, 1),
      quietAfterMs: round(got.quietMs, 1),
      lastValuesWrong: got.wrong,
    });
    await play('Stop');
    await page.context().close();
  });
}
