import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@playwright/test';
import { compilePlan } from '../core/plan/compile';
import { newInsert, newSend, newSession, newStrip } from '../core/session/defaults';
import type { Session } from '../core/session/types';
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
import { app } from './app';

const FRAMES = 24064;
const base = newSession('Hosts');
const session: Session = {
  ...base,
  strips: [
    newStrip({
      id: 'a',
      kind: 'source',
      name: 'A',
      pan: 0.3,
      faderDb: -3,
      out: { to: 'bus', on: true },
      sends: [newSend({ id: 'x', to: 'plate', levelDb: -6 })],
    }),
    newStrip({
      id: 'bus',
      kind: 'submix',
      name: 'Bus',
      width: 0.7,
      faderDb: -1,
      out: { to: 'main', on: true },
    }),
    newStrip({
      id: 'plate',
      kind: 'return',
      name: 'Plate',
      out: { to: 'main', on: true },
      inserts: [newInsert({ id: 'r', type: 'reverb', params: { decay: 0.8 } })],
    }),
    ...base.strips,
  ],
};
/** Noise that begins after the first block, in which live playing fades in. */
function stem(): Float32Array {
  let seed = 5;
  return Float32Array.from({ length: FRAMES }, (_, i) => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    return i < 256 ? 0 : (seed / 2147483648 - 1) * 0.5;
  });
}

test('the audio worklet gives the samples that Node gives', async ({ page }) => {
  const file = (path: string) => fileURLToPath(new URL(path, import.meta.url));
  const module = new WebAssembly.Module(new Uint8Array(readFileSync(file('../build/engine.wasm'))));
  const audio = stem();
  const node: number[][] = [[], []];
  const stems = {
    read: async (_s: unknown, start: number, frames: number) => {
      const f = new Float32Array(frames);
      f.set(audio.subarray(start, start + frames));
      return [f];
    },
  };
  for await (const [piece] of print({ session, strips: ['main'], frames: FRAMES, module, stems }))
    piece!.audio.forEach((v, i) => node[i % 2]!.push(v));

  await page.goto(app().base);
  const worklet = readdirSync(file('../build/web/assets')).find((f) => f.startsWith('worklet-'))!;
  const plan = compilePlan(session);
  const live = await page.evaluate(
    async ({ worklet, plan, audio, frames, layout }) => {
      const context = new OfflineAudioContext(2, frames, 48000);
      const [module] = await Promise.all([
        WebAssembly.compile(await (await fetch('/engine.wasm')).arrayBuffer()),
        context.audioWorklet.addModule(`/assets/${worklet}`),
      ]);
      const control = new SharedArrayBuffer(layout.controlBytes);
      const meters = new SharedArrayBuffer(layout.meterBytes);
      const ring = new SharedArrayBuffer(layout.ringBytes);
      const generation = 1;
      new Float32Array(ring, layout.ringWords * 4 + layout.ringFrames * 4, audio.length).set(audio);
      new Int32Array(ring)[layout.next] = audio.length;
      new Int32Array(control)[layout.ready] = generation;
      const node = new AudioWorkletNode(context, 'zonula-engine', {
        numberOfInputs: 0,
        outputChannelCount: [2],
        processorOptions: { module, control, meters },
      });
      node.connect(context.destination);
      node.port.postMessage({
        type: 'plan',
        plan: { ...plan, words: Int32Array.from(plan.words), targets: Float32Array.from(plan.targets) },
        sources: [{ strip: 'a', channels: 1, ring }],
        slots: { a: 0, bus: 1, plate: 2, main: 3 },
      });
      node.port.postMessage({ type: 'roll', generation });
      // Messages reach the worklet before it is asked for its first block.
      await new Promise((r) => setTimeout(r, 300));
      const out = await context.startRendering();
      return {
        left: [...out.getChannelData(0)],
        right: [...out.getChannelData(1)],
        late: new Int32Array(control)[layout.dropouts],
      };
    },
    {
      worklet,
      plan: { ...plan, words: [...plan.words], targets: [...plan.targets] },
      audio: [...audio],
      frames: FRAMES,
      layout: {
        controlBytes: CONTROL_WORDS * 4,
        meterBytes: METER_SLOTS * METER_SLOT_FLOATS * 4,
        ringBytes: ringBytes(1),
        ringWords: RING_WORDS,
        ringFrames: RING_FRAMES,
        next: ringNext(1),
        ready: CONTROL.ready,
        dropouts: CONTROL.dropouts,
      },
    },
  );
  expect(live.late).toBe(0);
  expect(Math.max(...live.left)).toBeGreaterThan(0.1);
  expect(live.left).toEqual(node[0]);
  expect(live.right).toEqual(node[1]);
});
