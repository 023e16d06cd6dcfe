import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test, type Page } from '@playwright/test';
import fc from 'fast-check';
import { compilePlan } from '../core/plan/compile';
import { newSend, newSession, newStrip } from '../core/session/defaults';
import type { Session, Strip } from '../core/session/types';
import { automatedSessions, sessions } from '../core/testing/arbitraries';
import { print } from '../engine/print';
import {
  CONTROL,
  CONTROL_WORDS,
  METER_SLOT_FLOATS,
  METER_SLOTS,
  ringBytes,
  ringNext,
  RING_FRAMES,
  RING_WORDS,
} from '../web/audio/shared';
import { playedOutputs } from '../web/audio/channels';
import { app } from './app';

const FRAMES = 9600;
const file = (path: string) => fileURLToPath(new URL(path, import.meta.url));

/** Noise that begins after the first blocks, in which live playing fades in. */
function stem(seed: number): number[] {
  let a = seed * 7919 + 1;
  return Array.from({ length: FRAMES }, (_, i) => {
    a = (Math.imul(a, 1664525) + 1013904223) >>> 0;
    return i < 256 ? 0 : Math.fround((a / 2147483648 - 1) * 0.5);
  });
}

async function inNode(
  session: Session,
  stems: ReadonlyMap<string, number[][]>,
  output = 'main',
): Promise<number[][]> {
  const module = new WebAssembly.Module(new Uint8Array(readFileSync(file('../build/engine.wasm'))));
  const out: number[][] = [[], []];
  const reader = {
    read: ({ id, channels }: Strip, start: number, into: Float32Array) => {
      for (let i = 0; i < into.length; i++)
        into[i] = stems.get(id)![i % channels]![start + Math.floor(i / channels)] ?? 0;
    },
  };
  for await (const [piece] of print({ session, strips: [output], frames: FRAMES, module, stems: reader }))
    piece!.audio.forEach((v, i) => out[i % 2]!.push(v));
  return out;
}

/** @param channels of the device; with more than two, every output leaves by its own pair */
function inWorklet(page: Page, session: Session, stems: ReadonlyMap<string, number[][]>, channels = 2) {
  const worklet = readdirSync(file('../build/web/assets')).find((f) => f.startsWith('worklet-'))!;
  const outputs = playedOutputs(session, channels);
  const plan = compilePlan(session, { capture: outputs.map((o) => o.strip) });
  return page.evaluate(
    async ({ worklet, plan, outputs, channels, sources, frames, layout }) => {
      const context = new OfflineAudioContext(channels, frames, 48000);
      context.destination.channelInterpretation = 'discrete';
      const [module] = await Promise.all([
        WebAssembly.compile(await (await fetch('/engine.wasm')).arrayBuffer()),
        context.audioWorklet.addModule(`/assets/${worklet}`),
      ]);
      const control = new SharedArrayBuffer(layout.controlBytes);
      const meters = new SharedArrayBuffer(layout.meterBytes);
      const generation = 1;
      new Int32Array(control)[layout.ready] = generation;
      const fed = sources.map(({ strip, audio }) => {
        const ring = new SharedArrayBuffer(layout.ringBytes[audio.length - 1]);
        // The second set of rings belongs to generations of odd number.
        audio.forEach((c, k) =>
          new Float32Array(
            ring,
            (layout.ringWords + (audio.length + k) * layout.ringFrames) * 4,
            c.length,
          ).set(c),
        );
        new Int32Array(ring)[layout.next] = frames;
        return { strip, channels: audio.length, ring };
      });
      const node = new AudioWorkletNode(context, 'zonula-engine', {
        numberOfInputs: 0,
        outputChannelCount: [channels],
        processorOptions: { module, control, meters },
      });
      node.connect(context.destination);
      node.port.postMessage({
        type: 'plan',
        plan: {
          ...plan,
          words: Int32Array.from(plan.words),
          targets: Float32Array.from(plan.targets),
          curves: plan.curves.map((c) => ({
            ...c,
            frames: Float64Array.from(c.frames),
            values: Float32Array.from(c.values),
          })),
        },
        sources: fed,
        outputs,
        slots: Object.fromEntries(plan.meters.map((m, i) => [m.strip, i])),
      });
      node.port.postMessage({ type: 'roll', generation });
      // Messages reach the worklet before it is asked for its first block.
      await new Promise((r) => setTimeout(r, 300));
      const out = await context.startRendering();
      return {
        audio: Array.from({ length: channels }, (_, c) => [...out.getChannelData(c)]),
        late: new Int32Array(control)[layout.dropouts],
      };
    },
    {
      worklet,
      plan: {
        ...plan,
        words: [...plan.words],
        targets: [...plan.targets],
        curves: plan.curves.map((c) => ({ ...c, frames: [...c.frames], values: [...c.values] })),
      },
      outputs,
      channels,
      sources: [...stems].map(([strip, audio]) => ({ strip, audio })),
      frames: FRAMES,
      layout: {
        controlBytes: CONTROL_WORDS * 4,
        meterBytes: METER_SLOTS * METER_SLOT_FLOATS * 4,
        ringBytes: [ringBytes(1), ringBytes(2)],
        ringWords: RING_WORDS,
        ringFrames: RING_FRAMES,
        next: ringNext(1),
        ready: CONTROL.ready,
        dropouts: CONTROL.dropouts,
      },
    },
  );
}

test('the audio worklet gives the samples that Node gives, for random sessions', async ({ page }) => {
  await page.goto(app().base);
  let heard = 0;
  // Sessions at rest and sessions whose lanes move, by turns.
  const plain = fc.sample(sessions(10), { seed: 42, numRuns: 80 });
  const moving = fc.sample(automatedSessions(10), { seed: 42, numRuns: 80 });
  for (const session of plain.flatMap((s, i) => [s, moving[i]!])) {
    const stems = new Map(
      session.strips
        .filter((s) => s.kind === 'source')
        .map((s, i) => [s.id, Array.from({ length: s.channels }, (_, c) => stem(i * 2 + c + 1))]),
    );
    const node = await inNode(session, stems);
    // Silence would be equal too: it proves nothing.
    if (node[0]!.every((v) => v === 0)) continue;
    const live = await inWorklet(page, session, stems);
    expect(live.late).toBe(0);
    expect(live.audio).toEqual(node);
    if (++heard === 10) return;
  }
  throw new Error(`Only ${heard} of the sessions were heard.`);
});

test('on a device of four channels the monitored output and a cue mix leave by pairs of their own', async ({
  page,
}) => {
  await page.goto(app().base);
  const base = newSession('Pairs');
  const session: Session = {
    ...base,
    strips: [
      newStrip({
        id: 'a',
        kind: 'source',
        name: 'A',
        pan: -0.4,
        out: { to: 'main', on: true },
        sends: [newSend({ id: 'x', to: 'cue', tap: 'pre', levelDb: -7, pan: 0.6 })],
      }),
      ...base.strips,
      newStrip({ id: 'cue', kind: 'output', name: 'Cue', pair: 3, out: { to: null, on: true } }),
    ],
  };
  const stems = new Map([['a', [stem(3)]]]);
  const live = await inWorklet(page, session, stems, 4);
  expect(live.audio).toEqual([...(await inNode(session, stems)), ...(await inNode(session, stems, 'cue'))]);
  expect(live.audio[2]!.some((v) => v !== 0)).toBe(true);
  // Heard by itself, the cue mix takes the first pair.
  const cue = await inWorklet(page, { ...session, monitor: 'cue' }, stems, 4);
  expect(cue.audio.slice(0, 2)).toEqual(await inNode(session, stems, 'cue'));
  expect(cue.audio[2]!.every((v) => v === 0)).toBe(true);
});

test('a gap counts as heard when the audio thread stalls for longer than the buffer reaches, and not otherwise', async ({
  page,
}) => {
  const stall = `registerProcessor('stall', class extends AudioWorkletProcessor {
    blocks = 0;
    process(_, [out]) {
      for (const channel of out) channel.fill(0.01);
      // 90 ms, three times, half a second apart.
      if (++this.blocks % 188 === 0 && this.blocks < 600) for (const from = Date.now(); Date.now() - from < 90; );
      return true;
    }
  });`;
  const server = createServer((request, response) => {
    const script = request.url === '/stall.js';
    response.setHeader('content-type', script ? 'text/javascript' : 'text/html').end(script ? stall : '<p>');
  });
  await new Promise<void>((listening) => server.listen(0, '127.0.0.1', listening));
  await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}`);
  const gaps = (buffer: number) =>
    page.evaluate(async (buffer) => {
      const context = new AudioContext({ sampleRate: 48000, latencyHint: buffer / 1000 });
      await context.audioWorklet.addModule('/stall.js');
      new AudioWorkletNode(context, 'stall').connect(context.destination);
      await context.resume();
      await new Promise((r) => setTimeout(r, 3000));
      const { playbackStats } = context as unknown as {
        playbackStats: { underrunEvents: number; underrunDuration: number };
      };
      const told = { times: playbackStats.underrunEvents, seconds: playbackStats.underrunDuration };
      await context.close();
      return told;
    }, buffer);
  const short = await gaps(10);
  const long = await gaps(200);
  server.close();
  expect(short.times).toBeGreaterThanOrEqual(3);
  // Each stall lasts 90 ms; the device has up to three buffers of 10 ms.
  expect(short.seconds).toBeGreaterThan(3 * (0.09 - 0.03) * 0.8);
  expect(long.times).toBeLessThan(short.times);
  expect(long.seconds).toBeLessThan(short.seconds / 2);
});
