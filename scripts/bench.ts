import { spawnSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { chmodSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { chromium, type Page } from '@playwright/test';
import { compilePlan } from '../core/plan/compile';
import { BLOCK } from '../core/plan/layout';
import type { Lane, Session } from '../core/session/types';
import { generateDemo } from '../demo/generate';
import { Engine } from '../engine/engine';
import { print } from '../engine/print';
import { serve } from './benchServer';
import { asking, BANDS, graph, makePlaying, type Ask } from './benchSession';
import { firstPlays } from './benchFirst';
import { openPackage } from '../server/package/readPackage';
import { FileStems } from '../server/package/stemFiles';
import { connect, migrate } from '../server/database/database';
import {
  CONTROL,
  CONTROL_WORDS,
  METER_SLOT_FLOATS,
  METER_SLOTS,
  ringBytes,
  ringNext,
} from '../web/audio/shared';
import { moves } from './benchMoves';
import { plans } from './benchPlan';
import { hands } from './benchHands';
import { surface } from './benchSurface';
import { routingOnce } from './benchRouting';
import { sheet } from './benchSheet';
import { stems } from './benchStems';
import { startPostgres } from './postgres.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const missed: string[] = [];
/** Prints a line; where a figure of it misses its goal, that is said again at the end. */
function say(line: object) {
  process.stdout.write(`${JSON.stringify(line)}\n`);
  const { bench, misses } = line as { bench?: string; misses?: readonly string[] };
  for (const miss of misses ?? []) missed.push(`${bench}: ${miss}`);
}
const sorted = (list: readonly number[]) => [...list].sort((a, b) => a - b);
const quantile = (list: readonly number[], q: number) =>
  sorted(list)[Math.min(list.length - 1, Math.floor(q * list.length))]!;
const round = (n: number, digits = 2) => Number(n.toFixed(digits));

const noise = Float32Array.from({ length: BLOCK }, (_, i) => Math.sin(i * 12.9898) * 0.3);

/** Engines of so many strips each, run by turns, so that a slow moment of the machine befalls all of them. */
function inNode(sizes: readonly number[], inserts = true): number[] {
  const module = new WebAssembly.Module(new Uint8Array(readFileSync(join(root, 'build', 'engine.wasm'))));
  const engines = sizes.map((strips) => {
    const session = graph(strips, inserts);
    const engine = new Engine(module);
    engine.load(compilePlan(session));
    return { strips, engine, rate: session.sampleRate, factors: [] as number[] };
  });
  const seconds = 2;
  // The first turn compiles what runs.
  for (let turn = 0; turn < 10; turn++)
    for (const { strips, engine, rate, factors } of engines) {
      const blocks = Math.round((seconds * rate) / BLOCK);
      const begun = performance.now();
      for (let b = 0; b < blocks; b++) {
        for (let s = 0; s < strips; s++) engine.input(s, 0).set(noise);
        engine.run();
      }
      if (turn > 0) factors.push(seconds / ((performance.now() - begun) / 1000));
    }
  for (const { strips, factors } of engines)
    say({
      bench: 'engine in Node',
      strips,
      eachWith: inserts ? 'equalizer of four bands and compressor' : 'nothing',
      submixes: 8,
      reverbs: 2,
      runs: factors.length,
      realTimeFactor: round(quantile(factors, 0.5), 1),
      slowest: round(Math.min(...factors), 1),
    });
  return engines.map(({ factors }) => quantile(factors, 0.5));
}

/** Cost a strip at different sizes: where it is the same, the cost grows linearly. */
function growth() {
  const sizes = [16, 32, 64, 128, 256];
  const cost = inNode(sizes).map((factor, i) => 1e6 / factor / sizes[i]!);
  say({
    bench: 'cost a strip, in microseconds a second of audio',
    sizes,
    cost: cost.map((c) => round(c, 0)),
    dearestToCheapest: round(Math.max(...cost) / Math.min(...cost)),
  });
}

/** What lanes cost: 200 strips whose level, pan and one send move all the time, against the same strips at rest. */
function automation() {
  const still = graph(200);
  const POINTS = 600;
  const lane = (value: (i: number) => number): Lane =>
    Array.from({ length: POINTS }, (_, i) => [i * 0.1, value(i)]);
  const moving: Session = {
    ...still,
    strips: still.strips.map((s, n) =>
      s.kind === 'source'
        ? {
            ...s,
            lanes: {
              fader: lane((i) => -12 + 6 * Math.sin(i + n)),
              pan: lane((i) => Math.sin(i / 3 + n)),
            },
            sends: s.sends.map((x, k) =>
              k === 0 ? { ...x, lanes: { level: lane((i) => -18 + 4 * Math.cos(i + n)) } } : x,
            ),
          }
        : s,
    ),
  };
  const timed = (work: () => void) => {
    const begun = performance.now();
    work();
    return performance.now() - begun;
  };
  const module = new WebAssembly.Module(new Uint8Array(readFileSync(join(root, 'build', 'engine.wasm'))));
  const seconds = 10;
  const blocks = Math.round((seconds * still.sampleRate) / BLOCK);
  const plain = timed(() => compilePlan(still));
  const first = timed(() => compilePlan(moving));
  const engines = [still, moving].map((session) => {
    const engine = new Engine(module);
    engine.load(compilePlan(session));
    return engine;
  });
  const run = (engine: Engine) =>
    timed(() => {
      engine.seek(0);
      for (let b = 0; b < blocks; b++) {
        for (let s = 0; s < 200; s++) engine.input(s, 0).set(noise);
        engine.run();
      }
    });
  const ratios = [1, 2, 3, 4, 5].map(() => {
    const [atRest, moved] = engines.map(run) as [number, number];
    return { ratio: moved / atRest, factor: (seconds * 1000) / moved };
  });
  // A drag of one fader: all other lanes are known.
  const drags = (begun: Session) =>
    quantile(
      Array.from({ length: 20 }, (_, k) => {
        const strips = begun.strips.map((s, i) => (i === 7 ? { ...s, trimDb: -k / 10 } : s));
        return timed(() => compilePlan({ ...begun, strips }));
      }),
      0.5,
    );
  say({
    bench: 'lanes of level, pan and a send on 200 strips, 600 points each',
    movingAgainstRest: round(
      quantile(
        ratios.map((r) => r.ratio),
        0.5,
      ),
    ),
    realTimeFactor: round(
      quantile(
        ratios.map((r) => r.factor),
        0.5,
      ),
      1,
    ),
    firstPlanMs: round(first),
    firstPlanAtRestMs: round(plain),
    planOfADragMs: round(drags(moving)),
    planOfADragAtRestMs: round(drags(still)),
  });
}

/** Memory and names that the page needs to run the engine. */
const layout = {
  controlBytes: CONTROL_WORDS * 4,
  meterBytes: METER_SLOTS * METER_SLOT_FLOATS * 4,
  ringBytes: ringBytes(1),
  next: ringNext(1),
  ...CONTROL,
};
interface InPage {
  readonly plan: object & { readonly words: readonly number[]; readonly targets: readonly number[] };
  readonly worklet: string;
  readonly rehearsal: string;
  readonly strips: number;
  readonly layout: typeof layout;
}
/** A plan of so many mono strips as the page can be given it. */
function inPage(strips: number): InPage & { readonly bands: readonly { hertz: number; gain: number }[] } {
  const plan = compilePlan(graph(strips));
  const asset = (name: string) =>
    readdirSync(join(root, 'build', 'web', 'assets')).find((f) => f.startsWith(name))!;
  return {
    plan: { ...plan, words: [...plan.words], targets: [...plan.targets] },
    worklet: asset('worklet-'),
    rehearsal: asset('rehearse.worker-'),
    strips,
    layout,
    bands: BANDS.map((b) => ({ hertz: b.hertz, gain: b.gain })),
  };
}
type Roll = (context: BaseAudioContext, given: InPage) => Promise<Int32Array>;
/** Made known to the page: sets the engine up in a context, its rings always full, and rolls. Gives the control words. */
function makeRoll() {
  // Compiled and rehearsed once, as the page does it.
  let compiled: Promise<WebAssembly.Module> | null = null;
  const compile = async (rehearsal: string) => {
    const module = await WebAssembly.compile(await (await fetch('/engine.wasm')).arrayBuffer());
    const worker = new Worker(`/assets/${rehearsal}`, { type: 'module' });
    await new Promise((done) => {
      worker.onmessage = done;
      worker.postMessage({ module });
    });
    worker.terminate();
    return module;
  };
  const roll: Roll = async (context, { plan, worklet, rehearsal, strips, layout }) => {
    compiled ??= compile(rehearsal);
    const module = await compiled;
    await context.audioWorklet.addModule(`/assets/${worklet}`);
    const control = new SharedArrayBuffer(layout.controlBytes);
    const meters = new SharedArrayBuffer(layout.meterBytes);
    const words = new Int32Array(control);
    const sources = Array.from({ length: strips }, (_, i) => {
      const ring = new SharedArrayBuffer(layout.ringBytes);
      // Well over the compressors' threshold, so that they have to work.
      const audio = new Float32Array(ring);
      for (let k = 8; k < audio.length; k++) audio[k] = Math.sin(k * 12.9898) * 0.3;
      // The same ring is read over and over: as if it were always full.
      new Int32Array(ring)[layout.next] = 2 ** 30;
      return { strip: `s${i}`, channels: 1, ring };
    });
    words[layout.ready] = 1;
    const node = new AudioWorkletNode(context, 'zonula-engine', {
      numberOfInputs: 0,
      outputChannelCount: [2],
      processorOptions: { module, control, meters },
    });
    node.connect(context.destination);
    const named = (plan as unknown as { meters: { strip: string }[] }).meters;
    node.port.postMessage({
      type: 'plan',
      plan: { ...plan, words: Int32Array.from(plan.words), targets: Float32Array.from(plan.targets) },
      sources,
      slots: Object.fromEntries(named.map((m, i) => [m.strip, i])),
    });
    node.port.postMessage({ type: 'roll', generation: 1 });
    return words;
  };
  (globalThis as unknown as { zonulaRoll: Roll }).zonulaRoll = roll;
}

async function inChromium(page: Page, strips: number) {
  const result = await page.evaluate(async (given) => {
    const roll = (globalThis as unknown as { zonulaRoll: Roll }).zonulaRoll;
    const seconds = 5;
    const rate = 48000;
    const { bands } = given;
    const ours = async () => {
      const context = new OfflineAudioContext(2, seconds * rate, rate);
      await roll(context, given);
      await new Promise((r) => setTimeout(r, 200));
      const begun = performance.now();
      const out = await context.startRendering();
      const time = performance.now() - begun;
      if (!out.getChannelData(0).some((v) => v !== 0)) throw new Error('The engine was silent.');
      return time;
    };
    const theirs = async () => {
      const context = new OfflineAudioContext(2, seconds * rate, rate);
      const buses = Array.from({ length: 8 }, () => {
        const gain = context.createGain();
        gain.gain.value = 0.7;
        gain.connect(context.destination);
        return gain;
      });
      const reverbs = [0, 1].map(() => {
        const convolver = context.createConvolver();
        const length = Math.round(1.8 * rate);
        const impulse = context.createBuffer(2, length, rate);
        for (const c of [0, 1]) {
          const data = impulse.getChannelData(c);
          for (let i = 0; i < length; i++) data[i] = (Math.random() * 2 - 1) * 10 ** ((-3 * i) / length);
        }
        convolver.buffer = impulse;
        convolver.connect(context.destination);
        return convolver;
      });
      const buffer = context.createBuffer(1, 32768, rate);
      buffer
        .getChannelData(0)
        .set(Float32Array.from({ length: 32768 }, (_, k) => Math.sin(k * 12.9898) * 0.3));
      for (let i = 0; i < given.strips; i++) {
        const source = context.createBufferSource();
        source.buffer = buffer;
        source.loop = true;
        const fader = context.createGain();
        fader.gain.value = 0.25;
        const pan = context.createStereoPanner();
        pan.pan.value = ((i % 9) - 4) / 4;
        let last: AudioNode = source;
        for (const band of bands) {
          const filter = context.createBiquadFilter();
          filter.type = 'peaking';
          filter.frequency.value = band.hertz;
          filter.gain.value = band.gain;
          last = last.connect(filter);
        }
        const dynamics = context.createDynamicsCompressor();
        dynamics.threshold.value = -30;
        dynamics.ratio.value = 3;
        last
          .connect(dynamics)
          .connect(fader)
          .connect(pan)
          .connect(buses[i % 8]!);
        for (const reverb of reverbs) {
          const send = context.createGain();
          send.gain.value = 0.125;
          pan.connect(send).connect(reverb);
        }
        source.start();
      }
      const begun = performance.now();
      await context.startRendering();
      return performance.now() - begun;
    };
    const engine: number[] = [];
    const nodes: number[] = [];
    for (let i = 0; i < 5; i++) {
      engine.push(await ours());
      nodes.push(await theirs());
    }
    return { seconds, engine, nodes };
  }, inPage(strips));
  const ours = quantile(result.engine, 0.5);
  const theirs = quantile(result.nodes, 0.5);
  say({
    bench: "engine in Chromium against the browser's own audio nodes (their reverb: a convolution of 1.8 s)",
    strips,
    eachWith: 'four bands of equalizer and a compressor',
    submixes: 8,
    reverbs: 2,
    runs: result.engine.length,
    engineRealTimeFactor: round((result.seconds * 1000) / ours, 1),
    nodesRealTimeFactor: round((result.seconds * 1000) / theirs, 1),
    timesFaster: round(
      quantile(
        result.nodes.map((ms, turn) => ms / result.engine[turn]!),
        0.5,
      ),
      2,
    ),
  });
}

/**
 * 200 strips with equalizer and compressor in the audio thread, in real time, for a minute.
 * @param buffer milliseconds that the device is given ahead: one that the application offers
 */
async function live(page: Page, buffer: number) {
  const before = stolen();
  const given = { ...inPage(189), buffer };
  const result = await page.evaluate(async (given) => {
    const roll = (globalThis as unknown as { zonulaRoll: Roll }).zonulaRoll;
    const { layout } = given;
    const seconds = 60;
    const context = new AudioContext({ sampleRate: 48000, latencyHint: given.buffer / 1000 });
    // What the browser itself tells of gaps in what the device played (Web Audio API 1.1, AudioPlaybackStats).
    const { playbackStats: gaps } = context as unknown as {
      playbackStats: { underrunEvents: number; underrunDuration: number };
    };
    const words = await roll(context, given);
    await context.resume();
    // The first seconds compile what runs.
    await new Promise((r) => setTimeout(r, 4000));
    const [over, late, played] = [words[layout.overruns]!, words[layout.dropouts]!, words[layout.clock]!];
    const [times, silent] = [gaps.underrunEvents, gaps.underrunDuration];
    const begun = performance.now();
    let load = 0;
    let worst = 0;
    let looks = 0;
    while (performance.now() - begun < seconds * 1000) {
      await new Promise((r) => setTimeout(r, 500));
      load += words[layout.load]!;
      worst = Math.max(worst, words[layout.worst]!);
      looks++;
    }
    const wall = (performance.now() - begun) / 1000;
    const done = {
      seconds: wall,
      played: (words[layout.clock]! - played) / 48000,
      overruns: words[layout.overruns]! - over,
      dropouts: words[layout.dropouts]! - late,
      load: load / looks / 1000,
      worst: worst / 1000,
      gaps: gaps.underrunEvents - times,
      silent: gaps.underrunDuration - silent,
    };
    await context.close();
    return done;
  }, given);
  say({
    bench: '200 strips live in Chromium for a minute',
    eachWith: 'four bands of equalizer and a compressor',
    bufferMs: buffer,
    gapsHeard: result.gaps,
    gapsSeconds: round(result.silent, 3),
    seconds: round(result.seconds),
    // Where the audio thread falls behind, less is played than time goes by.
    secondsPlayed: round(result.played),
    // Blocks that took longer than they last; the buffer bridges them as far as it reaches.
    blocksTooLong: result.overruns,
    stemsLate: result.dropouts,
    load: round(result.load),
    worstBlock: round(result.worst),
    stolenSeconds: round(stolen() - before),
  });
}

/** The demo by the command line's own code, on one core, from files to a file's samples. */
async function demoPrint() {
  const folder = mkdtempSync(join(tmpdir(), 'zonula-demo-'));
  try {
    await generateDemo(join(folder, 'demo'));
    // Stems that the disk has not got yet would be written to it meanwhile.
    spawnSync('sync', ['-f', folder]);
    // Each into a folder of its own: to let go of an earlier print's file is the file system's work.
    const run = (k: number) => {
      const begun = performance.now();
      const done = spawnSync(
        'taskset',
        [
          '-c',
          '0',
          join(root, 'bin', 'zonula'),
          'print',
          join(folder, 'demo'),
          '--out',
          join(folder, `${k}`),
        ],
        { encoding: 'utf8' },
      );
      if (done.status !== 0) throw new Error(done.stderr);
      return (performance.now() - begun) / 1000;
    };
    // What starting Node takes by itself, in the same run: it is no printing. As the command starts it: without certificates.
    const start = () => {
      const begun = performance.now();
      const env = { ...process.env, NODE_EXTRA_CA_CERTS: undefined };
      spawnSync('taskset', ['-c', '0', process.execPath, '-e', ''], { env });
      return (performance.now() - begun) / 1000;
    };
    run(0);
    const whole = [1, 2, 3, 4, 5, 6, 7].map(run);
    const starts = [1, 2, 3, 4, 5, 6, 7].map(start);
    const module = new WebAssembly.Module(new Uint8Array(readFileSync(join(root, 'build', 'engine.wasm'))));
    const pack = await openPackage(join(folder, 'demo'));
    const stems = FileStems.open(pack);
    const prints: number[] = [];
    for (let k = 0; k < 6; k++) {
      const begun = performance.now();
      for await (const pieces of print({
        session: pack.session,
        strips: ['main'],
        frames: stems.longest,
        stems,
        module,
      }))
        if (!pieces.length) throw new Error('Nothing was printed.');
      prints.push((performance.now() - begun) / 1000);
    }
    const length = stems.longest / pack.session.sampleRate;
    stems.close();
    await pack.close();
    say({
      bench: 'the demo printed, times real time on one core',
      seconds: round(length),
      runs: whole.length,
      // The whole command; the same without what starting Node takes by itself; the print alone, from stems on disk to samples.
      nodeStartSeconds: round(quantile(starts, 0.5), 3),
      commandTimesRealTime: round(length / quantile(whole, 0.5), 1),
      commandFastest: round(length / Math.min(...whole), 1),
      commandWithoutNodeStart: round(length / (quantile(whole, 0.5) - quantile(starts, 0.5)), 1),
      printTimesRealTime: round(length / quantile(prints.slice(1), 0.5), 1),
      printFastest: round(length / Math.min(...prints.slice(1)), 1),
    });
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Order, levels, audible set, findings and one trace of 1,000 strips with 5,000 sends, nothing remembered from before. */
function routing() {
  const runs = Array.from({ length: 40 }, () => routingOnce()).slice(20);
  const part = (name: string) =>
    round(
      quantile(
        runs.map((r) => r.parts[name]!),
        0.5,
      ),
    );
  say({
    bench: 'order, levels, audible set, findings and one trace: 1,000 strips, 5,000 sends, in Node',
    sends: runs[0]!.sends,
    runs: runs.length,
    medianMs: round(
      quantile(
        runs.map((r) => r.total),
        0.5,
      ),
    ),
    fastestMs: round(Math.min(...runs.map((r) => r.total))),
    order: part('order'),
    levels: part('levels'),
    audible: part('audible'),
    findings: part('findings'),
    trace: part('trace'),
  });
}

/** Seconds of processor time that the machine's host has kept for others, on all cores: proc(5), `steal`. */
const stolen = () => Number(readFileSync('/proc/stat', 'utf8').split('\n')[0]!.split(/\s+/)[8]) / 100;

/**
 * The same strips in the application itself, with stems that come from the database: what is heard of them in a minute,
 * while meters are painted and everything runs on this one machine.
 * @param buffer milliseconds that the device is given ahead
 */
async function inApplication(page: Page, base: string, ask: Ask, buffer: number) {
  const id = await makePlaying(ask, graph(189), 75);
  await page.addInitScript((ms) => localStorage.setItem('zonula.buffer', `${ms}`), buffer);
  await page.goto(`${base}/session/${id}`);
  await page.locator('[data-strip="s0"] .handle').waitFor();
  await page.getByRole('button', { name: /^load/ }).click();
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await page.waitForTimeout(6000);
  const look = async () => {
    const text = (await page.getByRole('region', { name: 'The audio thread' }).textContent())!;
    const number = (pattern: RegExp) => Number(pattern.exec(text)?.[1] ?? Number.NaN);
    const [minutes, seconds] = (await page.locator('.transport .clock').textContent())!
      .split(':')
      .map(Number);
    return {
      wall: performance.now() / 1000,
      song: minutes! * 60 + seconds!,
      gaps: number(/(\d+) gaps? (?:was|were) heard/),
      tooLong: number(/(\d+) blocks? took/),
      late: number(/(\d+) times? a stem/),
      busy: number(/busy for ([\d.]+) %/),
    };
  };
  const [before, stolenBefore] = [await look(), stolen()];
  await page.waitForTimeout(60_000);
  const [after, stolenAfter] = [await look(), stolen()];
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  say({
    bench: '200 strips play in the application for a minute, stems from the database',
    eachWith: 'four bands of equalizer and a compressor',
    bufferMs: buffer,
    gapsHeard: after.gaps - before.gaps,
    seconds: round(after.wall - before.wall),
    secondsPlayed: round(after.song - before.song),
    blocksTooLong: after.tooLong - before.tooLong,
    stemsLate: after.late - before.late,
    busyPercent: after.busy,
    stolenSeconds: round(stolenAfter - stolenBefore),
  });
}

/** `--against <folder>` measures another clone's built page by turns with this one; moves and plan. */
const { values, positionals: chosen } = parseArgs({
  options: { against: { type: 'string' } },
  allowPositionals: true,
});
/** Words on the command line choose: routing, engine, automation, print, commit, nodes, live, app, page, moves, plan, first, surface, hands, stems, and large and many beside stems; all of them where there is none. */
const wanted = (name: string) => chosen.length === 0 || chosen.includes(name);

async function main() {
  if (wanted('routing')) routing();
  say({ bench: 'machine', cores: cpus().length, model: cpus()[0]?.model, node: process.version });
  if (wanted('engine')) {
    inNode([64, 256], false);
    growth();
  }
  if (wanted('automation')) automation();
  if (wanted('print')) await demoPrint();
  if (
    ![
      'commit',
      'nodes',
      'live',
      'app',
      'page',
      'moves',
      'plan',
      'first',
      'surface',
      'hands',
      'stems',
      'sheet',
    ].some(wanted)
  )
    return;

  const data = mkdtempSync(join(tmpdir(), 'zonula-bench-'));
  chmodSync(data, 0o755);
  const database = await startPostgres(data, { quiet: true });
  const sequelize = connect(database.url);
  await migrate(sequelize);
  if (wanted('moves')) {
    await moves(sequelize, root, values.against ?? null, say);
  }
  if (wanted('first')) await firstPlays(sequelize, root, values.against ?? null, say);
  if (wanted('plan')) await plans(sequelize, root, values.against ?? null, say);
  if (wanted('surface')) await surface(sequelize, root, say);
  if (wanted('hands')) await hands(sequelize, root, say);
  if (wanted('sheet')) await sheet(sequelize, say);
  const large = chosen.includes('large');
  if (wanted('stems'))
    await stems(sequelize, join(data, 'stems'), say, {
      strips: chosen.includes('many') ? 128 : 48,
      length: large ? 600 : 60,
    });
  if (
    chosen.length > 0 &&
    chosen.every((c) =>
      ['moves', 'plan', 'first', 'surface', 'hands', 'stems', 'large', 'many', 'sheet'].includes(c),
    )
  ) {
    await sequelize.close();
    await database.stop();
    rmSync(data, { recursive: true, force: true });
    return;
  }
  const { base, close } = await serve(sequelize);
  const browser = await chromium.launch({
    executablePath: ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync),
    args: [
      '--no-sandbox',
      '--autoplay-policy=no-user-gesture-required',
      '--disable-background-networking',
      '--no-first-run',
    ],
  });
  try {
    const ask = asking(base);
    const id = (await ask('/sessions', { name: '200 strips' })).id as string;
    const session = graph(189);
    const commands = session.strips
      .filter((s) => s.id !== 'main')
      .reverse()
      .map((strip) => ({ type: 'strip.add', at: 0, strip }));
    let revision = 0;
    const commit = (list: unknown) =>
      ask(`/sessions/${id}/commits`, {
        revision: revision++,
        changeId: randomUUID(),
        label: 'bench',
        commands: list,
      });
    await commit(commands);
    const times: number[] = [];
    for (let i = 0; i < (wanted('commit') ? 100 : 1); i++) {
      const begun = performance.now();
      await commit([{ type: 'strip.set', id: `s${i}`, patch: { faderDb: -i / 10 } }]);
      times.push(performance.now() - begun);
    }
    say({
      bench: 'a commit at 200 strips, kept in PostgreSQL',
      runs: times.length,
      medianMs: round(quantile(times, 0.5)),
      p95Ms: round(quantile(times, 0.95)),
    });

    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    // The compiler that runs this file marks functions with a helper, which the page has to have as well.
    await page.addInitScript('globalThis.__name = (f) => f');
    await page.addInitScript(makeRoll);
    await page.goto(base);
    if (wanted('nodes')) for (const strips of [64, 256]) await inChromium(page, strips);
    if (wanted('live')) for (const buffer of [20, 100]) await live(page, buffer);
    if (wanted('app')) await inApplication(page, base, ask, 100);
    if (!wanted('page')) return;

    await page.goto(`${base}/session/${id}`);
    await page.locator('[data-strip="s0"] .handle').waitFor();
    await page.waitForTimeout(1000);
    const record = (ms: number) =>
      page.evaluate((ms) => {
        const w = window as unknown as { frames: number[]; recording: boolean };
        w.frames = [];
        w.recording = true;
        let last = performance.now();
        const look = (now: number) => {
          w.frames.push(now - last);
          last = now;
          if (w.recording) requestAnimationFrame(look);
        };
        requestAnimationFrame(look);
        setTimeout(() => (w.recording = false), ms);
      }, ms);
    const frames = () => page.evaluate(() => (window as unknown as { frames: number[] }).frames.slice(1));
    await record(2000);
    await page.waitForTimeout(2200);
    const still = await frames();
    const handle = (await page.locator('[data-strip="s0"] .handle').boundingBox())!;
    await page.mouse.move(handle.x + 9, handle.y + 4);
    await page.mouse.down();
    await record(3000);
    const begun = Date.now();
    for (let i = 0; Date.now() - begun < 3000; i++)
      await page.mouse.move(handle.x + 9, handle.y + 4 - 60 * Math.abs(Math.sin(i / 20)));
    const drag = await frames();
    await page.mouse.up();
    say({
      bench: 'frames of a fader drag at 200 strips',
      frames: drag.length,
      medianMs: round(quantile(drag, 0.5)),
      p95Ms: round(quantile(drag, 0.95)),
      worstMs: round(Math.max(...drag)),
      stillMedianMs: round(quantile(still, 0.5)),
      stillP95Ms: round(quantile(still, 0.95)),
      dragAgainstStill: round(quantile(drag, 0.5) / quantile(still, 0.5)),
    });

    // Flow: the layout runs in a worker; the page's frames go on meanwhile.
    await page.keyboard.press('2');
    await page.locator('.vue-flow__node').first().waitFor();
    await page.waitForTimeout(1500);
    await record(60_000);
    const opened = Date.now();
    await page.getByRole('button', { name: 'Open all families' }).click();
    await page.getByText('Laying out…').waitFor();
    const layingFrom = (await frames()).length;
    await page.getByText('Laying out…').waitFor({ state: 'detached', timeout: 60_000 });
    const laying = (await frames()).slice(layingFrom, -2);
    say({
      bench: 'Flow lays out 200 strips in a worker',
      seconds: round((Date.now() - opened) / 1000),
      framesMeanwhile: laying.length,
      medianMs: round(laying.length ? quantile(laying, 0.5) : 0),
      p95Ms: round(laying.length ? quantile(laying, 0.95) : 0),
      stillMedianMs: round(quantile(still, 0.5)),
    });
  } finally {
    await browser.close();
    await close();
    await sequelize.close();
    await database.stop();
    rmSync(data, { recursive: true, force: true });
  }
}

await main();
for (const miss of missed) process.stdout.write(`Missed: ${miss}\n`);
process.exit(0);
