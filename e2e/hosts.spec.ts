import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test, type Page } from '@playwright/test';
import fc from 'fast-check';
import { compilePlan } from '../core/plan/compile';
import type { Session } from '../core/session/types';
import { sessions } from '../core/testing/arbitraries';
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

async function inNode(session: Session, stems: ReadonlyMap<string, number[][]>): Promise<number[][]> {
  const module = new WebAssembly.Module(new Uint8Array(readFileSync(file('../build/engine.wasm'))));
  const out: number[][] = [[], []];
  const reader = {
    read: async (strip: { id: string }, start: number, frames: number) =>
      stems.get(strip.id)!.map((c) => {
        const block = new Float32Array(frames);
        block.set(c.slice(start, start + frames));
        return block;
      }),
  };
  for await (const [piece] of print({ session, strips: ['main'], frames: FRAMES, module, stems: reader }))
    piece!.audio.forEach((v, i) => out[i % 2]!.push(v));
  return out;
}

function inWorklet(page: Page, session: Session, stems: ReadonlyMap<string, number[][]>) {
  const worklet = readdirSync(file('../build/web/assets')).find((f) => f.startsWith('worklet-'))!;
  const plan = compilePlan(session);
  return page.evaluate(
    async ({ worklet, plan, sources, frames, layout }) => {
      const context = new OfflineAudioContext(2, frames, 48000);
      const [module] = await Promise.all([
        WebAssembly.compile(await (await fetch('/engine.wasm')).arrayBuffer()),
        context.audioWorklet.addModule(`/assets/${worklet}`),
      ]);
      const control = new SharedArrayBuffer(layout.controlBytes);
      const meters = new SharedArrayBuffer(layout.meterBytes);
      const generation = 1;
      new Int32Array(control)[layout.ready] = generation;
      const fed = sources.map(({ strip, audio }) => {
        const ring = new SharedArrayBuffer(layout.ringBytes[audio.length - 1]!);
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
        outputChannelCount: [2],
        processorOptions: { module, control, meters },
      });
      node.connect(context.destination);
      node.port.postMessage({
        type: 'plan',
        plan: { ...plan, words: Int32Array.from(plan.words), targets: Float32Array.from(plan.targets) },
        sources: fed,
        slots: Object.fromEntries(plan.meters.map((m, i) => [m.strip, i])),
      });
      node.port.postMessage({ type: 'roll', generation });
      // Messages reach the worklet before it is asked for its first block.
      await new Promise((r) => setTimeout(r, 300));
      const out = await context.startRendering();
      return {
        audio: [[...out.getChannelData(0)], [...out.getChannelData(1)]],
        late: new Int32Array(control)[layout.dropouts],
      };
    },
    {
      worklet,
      plan: { ...plan, words: [...plan.words], targets: [...plan.targets] },
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
  for (const session of fc.sample(sessions(10), { seed: 42, numRuns: 80 })) {
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
    if (++heard === 6) return;
  }
  throw new Error(`Only ${heard} of the sessions were heard.`);
});
