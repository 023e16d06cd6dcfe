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
  ringBytes,
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
  const processor = new Processor({
    processorOptions: {
      module: engineModule,
      control,
      costs,
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
    costs: new Float64Array(costs),
    out: out[0]!,
    run(blocks: number) {
      for (let i = 0; i < blocks; i++) processor.process(none, out);
    },
  };
}

describe('the audio worklet', () => {
  // A clock of the host may give a number that it has to put somewhere: the one here does not.
  it.skipIf(process.env.ZONULA_COVERAGE)('allocates nothing while a plan runs, at rest or rolling', () => {
    clock = () => 0;
    const h = hosted();
    for (const rolling of [false, true]) {
      if (rolling) h.tell({ type: 'roll', generation: 1 });
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
    const taken = [...h.costs.slice(0, h.plan.costs.length)];
    for (const ms of taken) expect(ms).toBeGreaterThan(0);
    expect(h.costs[COST_WHOLE]).toBeGreaterThan(taken.reduce((sum, ms) => sum + ms, 0));
    // A reverb that hears nothing sleeps, and costs less than a delay, in whatever host.
    const of = (type: string) => {
      const insert = demoSession()
        .strips.flatMap((s) => s.inserts)
        .find((i) => i.type === type)!.id;
      return taken[h.plan.costs.findIndex((c) => c.inserts.some((i) => i.insert === insert))]!;
    };
    expect(of('reverb')).toBeLessThan(of('delay'));
    h.tell({ type: 'measure', on: false });
    expect(h.words[CONTROL.costPlan]).toBe(0);
  });
});
