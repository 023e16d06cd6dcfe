import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { compilePlan } from '@core/plan/compile';
import { BLOCK } from '@core/plan/layout';
import { demoSession } from '../../demo/session';
import { leastGrowth } from '@engine/testing/heap';
import { engineModule } from '@engine/testing/run';
import {
  CONTROL,
  CONTROL_WORDS,
  COST_SLOTS,
  COST_WHOLE,
  METER_SLOT_FLOATS,
  METER_SLOTS,
  PROBE_BYTES,
  PROBE_FRAMES,
  probeViews,
  ringBytes,
  TAP,
  TAPS_BYTES,
  tapViews,
} from './shared';
import type { WorkletMessage } from './worklet';

const RATE = 48000;
interface Hosted {
  readonly port: { onmessage: ((e: { data: WorkletMessage }) => void) | null };
  process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean;
}
let clock = () => 0;
let Processor: new (options: { processorOptions: object }) => Hosted;

beforeAll(async () => {
  vi.stubGlobal('sampleRate', RATE);
  vi.stubGlobal(
    'AudioWorkletProcessor',
    class {
      readonly port = { onmessage: null };
    },
  );
  vi.stubGlobal('registerProcessor', (_: string, given: typeof Processor) => (Processor = given));
  vi.stubGlobal('performance', { now: () => clock() });
  await import('./worklet');
});
afterAll(() => vi.unstubAllGlobals());

/** The demo in the worklet's own class, its rings always full. */
function hosted() {
  const session = demoSession();
  const plan = compilePlan(session, { capture: ['main'] });
  const control = new SharedArrayBuffer(CONTROL_WORDS * 4);
  const costs = new SharedArrayBuffer(COST_SLOTS * 8);
  const taps = new SharedArrayBuffer(TAPS_BYTES);
  const probe = new SharedArrayBuffer(PROBE_BYTES);
  const processor = new Processor({
    processorOptions: {
      module: engineModule,
      control,
      costs,
      taps,
      probe,
      meters: new SharedArrayBuffer(METER_SLOTS * METER_SLOT_FLOATS * 4),
    },
  });
  const tell = (data: WorkletMessage) => processor.port.onmessage!({ data });
  tell({
    type: 'plan',
    plan: { ...plan, serial: 7 },
    sources: plan.sources.map(({ strip, channels }) => {
      const ring = new SharedArrayBuffer(ringBytes(channels));
      new Float32Array(ring).fill(0.05, 8);
      new Int32Array(ring)[1] = new Int32Array(ring)[3] = 2 ** 30;
      return { strip, channels: channels, ring };
    }),
    slots: Object.fromEntries(plan.meters.map((m, i) => [m.strip, i])),
  });
  const words = new Int32Array(control);
  words[CONTROL.ready] = 1;
  const none: Float32Array[][] = [];
  const out = [[new Float32Array(BLOCK), new Float32Array(BLOCK)]];
  return {
    plan,
    tell,
    words,
    taps: tapViews(taps),
    probe: probeViews(probe),
    costs: new Float64Array(costs),
    out: out[0]!,
    run(blocks: number) {
      for (let i = 0; i < blocks; i++) processor.process(none, out);
    },
  };
}

/** The demo's first insert of a kind. */
function firstOf(type: string) {
  const strip = demoSession().strips.find((s) => s.inserts.some((i) => i.type === type && i.on))!;
  return { strip: strip.id, insert: strip.inserts.find((i) => i.type === type && i.on)!.id };
}

describe('the audio worklet', () => {
  it('writes what is metered, to the sample what it plays, and begins anew for another strip', () => {
    const h = hosted();
    h.tell({ type: 'roll', generation: 1 });
    h.tell({ type: 'taps', taps: [null, { strip: 'main', serial: 5 }, { strip: 'not there', serial: 6 }] });
    h.run(20);
    const { head, audio } = h.taps[1]!;
    const at = head[TAP.frames]!;
    h.run(1);
    expect([head[TAP.serial], head[TAP.channels], head[TAP.frames]]).toEqual([5, 2, at + BLOCK]);
    const [left, right] = [0, 1].map((c) => Array.from({ length: BLOCK }, (_, i) => audio[2 * (at + i) + c]));
    expect(left!.some((v) => v !== 0)).toBe(true);
    expect(left).toEqual([...h.out[0]!]);
    expect(right).toEqual([...h.out[1]!]);
    expect(h.taps[2]!.head[TAP.serial]).toBe(0);
    h.tell({ type: 'taps', taps: [null, { strip: 'bass-di', serial: 7 }] });
    h.run(1);
    expect([head[TAP.serial], head[TAP.channels], head[TAP.frames]]).toEqual([7, 1, at + 2 * BLOCK]);
  });

  it('shows what goes into an insert and what comes out of it, and nothing once nothing is looked at', () => {
    const h = hosted();
    const at = firstOf('equalizer');
    const read = () =>
      h.probe.rings.map((ring) => {
        const end = h.probe.count[0]!;
        return Array.from({ length: BLOCK }, (_, i) => ring[(end - BLOCK + i) & (PROBE_FRAMES - 1)]!);
      });
    h.tell({ type: 'roll', generation: 1 });
    h.tell({ type: 'probe', ...at });
    h.run(400);
    const [before, after] = read();
    expect(before!.some((v) => v !== 0)).toBe(true);
    expect(after).not.toEqual(before);
    const count = h.probe.count[0]!;
    expect(count).toBe(400 * BLOCK);
    h.tell({ type: 'probe', strip: '', insert: null });
    h.run(3);
    expect(h.probe.count[0]).toBe(count);
    h.tell({ type: 'probe', strip: at.strip, insert: 'not there' });
    h.run(3);
    expect(h.probe.count[0]).toBe(count);
  });

  it('plays the monitored output in mono within 21 ms, without a step, and as it is again', () => {
    const h = hosted();
    h.tell({ type: 'roll', generation: 1 });
    h.run(400);
    const apart = () => Math.max(...h.out[0]!.map((l, i) => Math.abs(l - h.out[1]![i]!)));
    expect(apart()).toBeGreaterThan(1e-4);
    h.tell({ type: 'monitor', gain: 1, mono: true });
    let last = h.out[0]!.at(-1)!;
    for (let b = 0; b < 8; b++) {
      h.run(1);
      // From one sample to the next no more than the signal itself moves.
      expect(Math.abs(h.out[0]![0]! - last)).toBeLessThan(0.02);
      last = h.out[0]!.at(-1)!;
    }
    h.run(1);
    expect(apart()).toBe(0);
    h.tell({ type: 'monitor', gain: 1, mono: false });
    h.run(9);
    expect(apart()).toBeGreaterThan(1e-4);
  });

  // A clock of the host may give a number that it has to put somewhere: the one here does not.
  it.skipIf(process.env.ZONULA_COVERAGE)('allocates nothing while a plan runs, at rest or rolling', () => {
    clock = () => 0;
    const h = hosted();
    for (const rolling of [false, true]) {
      if (rolling) h.tell({ type: 'roll', generation: 1 });
      h.tell({ type: 'taps', taps: [{ strip: 'main', serial: 1 }, null, { strip: 'skin', serial: 2 }] });
      h.tell({ type: 'probe', ...firstOf('equalizer') });
      // Until the host has compiled what runs often.
      h.run(5000);
      // One object of the smallest size in every block would be 80,000 bytes.
      expect(leastGrowth(() => h.run(5000), 10)).toBeLessThan(5000);
    }
    expect(h.out[0]!.some((v) => v !== 0)).toBe(true);
    expect(h.words[CONTROL.faults]).toBe(0);
  });

  it('measures its processors while it is asked to, and says of which plan', () => {
    const real = process.hrtime;
    clock = () => Number(real.bigint()) / 1e6;
    const h = hosted();
    h.run(300);
    expect(h.words[CONTROL.costPlan]).toBe(0);
    h.tell({ type: 'measure', on: true });
    h.run(4096);
    expect(h.words[CONTROL.costPlan]).toBe(7);
    const blocks = h.words[CONTROL.costBlocks]!;
    expect(blocks).toBeGreaterThan(3500);
    const taken = () => [...h.costs.slice(0, h.plan.costs.length)];
    for (const ms of taken()) expect(ms).toBeGreaterThan(0);
    expect(h.costs[COST_WHOLE]).toBeGreaterThan(taken().reduce((sum, ms) => sum + ms, 0));
    // A reverb that hears nothing sleeps, and costs a fraction of one that sounds, in whatever host.
    const { insert } = firstOf('reverb');
    const ofReverb = () =>
      taken()[h.plan.costs.findIndex((c) => c.inserts.some((i) => i.insert === insert))]!;
    const asleep = ofReverb();
    h.tell({ type: 'roll', generation: 1 });
    h.tell({ type: 'measure', on: true });
    h.run(4096);
    expect(h.words[CONTROL.rolling]).toBe(1);
    expect(asleep).toBeLessThan(ofReverb() / 3);
    h.tell({ type: 'measure', on: false });
    expect(h.words[CONTROL.costPlan]).toBe(0);
  });
});
