import { existsSync, readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { edgeGains } from '../core/routing/edgeGains';
import { compilePlan } from '../core/plan/compile';
import { engineSource } from '../core/plan/engineSource';
import { HEADER, OP, OP_WORDS } from '../core/plan/layout';
import { LivePlan } from '../core/plan/livePlan';
import { sameShape } from '../core/plan/shape';
import { engineCodeOf, processors } from '../core/processors/registry';
import { apply } from '../core/edits/apply';
import { newInsert, newSend, newSession, newStrip } from '../core/session/defaults';
import { gather } from '../core/operations/gather';
import { newReturn } from '../core/operations/returns';
import type { Session } from '../core/session/types';
import { sessions } from '../core/testing/arbitraries';
import { Engine } from './engine';
import { Bench, constant, engineModule, noise, peakOf, play, sine } from './testing/run';

const base = newSession('Engine');
const two: Session = {
  ...base,
  strips: [
    newStrip({ id: 'a', kind: 'source', name: 'A', out: { to: 'main', on: true } }),
    newStrip({
      id: 'b',
      kind: 'source',
      name: 'B',
      pan: 0.4,
      faderDb: -4,
      out: { to: 'main', on: true },
      sends: [newSend({ id: 'x', to: 'plate', levelDb: -6 })],
    }),
    newStrip({
      id: 'plate',
      kind: 'return',
      name: 'Plate',
      out: { to: 'main', on: true },
      inserts: [newInsert({ id: 'r', type: 'reverb', params: { decay: 1 } })],
    }),
    ...base.strips,
  ],
};

describe('a bus', () => {
  // Four strips are mixed by one operation, what is left by one each: nine strips are two fours and a rest.
  const gains = [0.4, -1, 0, 1, -0.3, 0.9, 0.1, -0.8, 0.6];
  const bus = (strip: (k: number) => object): Session => ({
    ...base,
    strips: [
      ...gains.map((pan, k) =>
        newStrip({
          id: `s${k}`,
          kind: 'source',
          name: `S${k}`,
          pan,
          out: { to: 'main', on: true },
          ...strip(k),
        }),
      ),
      ...base.strips,
    ],
  });
  const stems = Object.fromEntries(gains.map((_, k) => [`s${k}`, [noise(256, k + 1)]]));
  /** One after the other, each step rounded to 32 bits. */
  const summed = (session: Session, side: 0 | 1, level: (k: number) => number) => {
    const sum = new Float32Array(256);
    gains.forEach((pan, k) => {
      const from = { channels: 1, pan } as const;
      const g = Math.fround(edgeGains(session.panLaw, from, 2, null)[side] * level(k));
      if (g !== 0) stems[`s${k}`]![0]!.forEach((x, i) => (sum[i] = sum[i]! + Math.fround(x * g)));
    });
    return sum;
  };
  it('adds its strips one after the other, to the bit, however many are added at once', () => {
    const session = bus(() => ({}));
    const [l, r] = play(session, stems, 2).main!;
    expect(l).toEqual(summed(session, 0, () => 1));
    expect(r).toEqual(summed(session, 1, () => 1));
  });
  it('takes nothing from one that is muted', () => {
    const session = bus((k) => ({ mute: k === 2 || k === 8 }));
    expect(play(session, stems, 2).main![0]).toEqual(summed(session, 0, (k) => (k === 2 || k === 8 ? 0 : 1)));
  });
  it('follows one that moves among others that stand still', () => {
    const before = bus(() => ({}));
    const bench = new Bench(
      before,
      Object.fromEntries(Object.entries(stems).map(([k]) => [k, [constant(1, 128 * 400)]])),
    );
    bench.run(2);
    const after = bus((k) => (k === 1 ? { pan: 1 } : {}));
    bench.change(after);
    const moved = bench.run(300).main!;
    const gain = (pan: number) => edgeGains(base.panLaw, { channels: 1, pan }, 2, null)[0];
    const end = gains.reduce((sum, pan, k) => sum + gain(k === 1 ? 1 : pan), 0);
    expect(moved[0]!.at(-1)).toBeCloseTo(end, 5);
    expect(Math.max(...moved[0]!.map((v, i, all) => (i ? Math.abs(v - all[i - 1]!) : 0)))).toBeLessThan(0.01);
  });
});

describe('the memory layout', () => {
  it('is what the engine was built with', () => {
    const built = (name: string) => readFileSync(new URL(`../build/engine/${name}`, import.meta.url), 'utf8');
    for (const [name, text] of engineSource()) expect(built(name), name).toBe(text);
  });
  it('has a code and a file of the engine for every processor', () => {
    expect(processors.map(engineCodeOf)).toEqual(processors.map((_, i) => i + 1));
    for (const p of processors)
      expect(existsSync(new URL(`./assembly/processors/${p.type}.ts`, import.meta.url)), p.type).toBe(true);
  });
  it('lets every plan be walked from op to op to its end', () => {
    const lengths = new Map(
      Object.entries(OP).map(([name, code]) => [code as number, OP_WORDS[name as keyof typeof OP_WORDS]]),
    );
    fc.assert(
      fc.property(sessions(), (s) => {
        const plan = compilePlan(s);
        let at = plan.words[HEADER.opsOffset]! / 4;
        while (plan.words[at] !== OP.end) at += lengths.get(plan.words[at]!)!;
        expect(at * 4).toBeLessThan(plan.words[HEADER.targetsOffset]!);
      }),
    );
  });
});

describe('the engine', () => {
  it('gives finite numbers alone for 1,000 random sessions over noise', () => {
    const x = [noise(1024, 5), noise(1024, 6)];
    let heard = 0;
    fc.assert(
      fc.property(sessions(), (s) => {
        const out = play(s, Object.fromEntries(s.strips.map((t) => [t.id, x])), 8);
        for (const c of out.main!) {
          let sum = 0;
          for (const v of c) sum += v;
          expect(Number.isFinite(sum)).toBe(true);
          if (sum !== 0) heard++;
        }
      }),
      { numRuns: 1000 },
    );
    expect(heard).toBeGreaterThan(300);
  });

  it('starts a print settled: the first block has the full level', () => {
    const [l] = play(
      { ...two, strips: two.strips.map((s) => ({ ...s, pan: -1 })) },
      { a: [constant(1, 256)] },
      2,
    ).main!;
    expect(l!.every((v) => v === 1)).toBe(true);
  });

  it('gives the same samples on every run, and in however many pieces it is run', () => {
    const x = { a: [noise(128 * 30, 1)], b: [noise(128 * 30, 2)] };
    const whole = play(two, x, 30).main!;
    const bench = new Bench(two, x);
    const parts = [bench.run(7), bench.run(1), bench.run(22)].map((p) => p.main!);
    expect(Float32Array.from(parts.flatMap((p) => [...p[0]!]))).toEqual(whole[0]);
  });

  it('moves a parameter without a step: a jump of a fader by 40 dB changes no sample by more than the tone and the glide do', () => {
    const tone = sine(100, 48000, 128 * 60, 0.5);
    const bench = new Bench(two, { a: [tone] });
    bench.run(20);
    const next = apply(two, [{ type: 'strip.set', id: 'a', patch: { faderDb: -40 } }]).session;
    expect(sameShape(two, next)).toBe(true);
    bench.engine.steer(new LivePlan(two).steer(next, [0, 60]));
    const out = bench.run(40).main![0]!;
    let step = 0;
    for (let i = 1; i < out.length; i++) step = Math.max(step, Math.abs(out[i]! - out[i - 1]!));
    // The tone itself moves by 2 pi 100/48000 x 0.5 x 0.707 = 0.0046 a sample; the glide of 6 ms adds 0.354/(0.006 x 48000) = 0.0012.
    expect(step).toBeLessThan(0.0065);
    expect(peakOf(out.subarray(128 * 30))).toBeCloseTo(0.5 * Math.SQRT1_2 * 0.01, 4);
  });

  it('changes its routing while playing without a click: gathering leaves a steady tone as it was', () => {
    const x = { a: [sine(220, 48000, 128 * 80, 0.4)], b: [sine(330, 48000, 128 * 80, 0.4)] };
    const still = play(two, x, 80).main!;
    const bench = new Bench(two, x);
    const first = bench.run(30).main!;
    bench.change(apply(two, gather(two, ['a', 'b']).commands).session);
    const rest = bench.run(50).main!;
    const all = Float32Array.from([...first[0]!, ...rest[0]!]);
    const worst = all.reduce((d, v, i) => Math.max(d, Math.abs(v - still[0]![i]!)), 0);
    expect(20 * Math.log10(worst + 1e-12)).toBeLessThan(-120);
  });

  it('keeps a tail that lives on: a new return beside it does not cut the reverb', () => {
    const burst = noise(128 * 80, 4).map((v, i) => (i < 1000 ? v : 0));
    const bench = new Bench(two, { b: [burst] });
    bench.run(20);
    bench.change(apply(two, newReturn(two, ['a'], { name: 'Hall' }).commands).session);
    const [l] = bench.run(60).main!;
    const still = play(two, { b: [burst] }, 80).main![0]!.subarray(20 * 128);
    const worst = l!.reduce((d, v, i) => Math.max(d, Math.abs(v - still[i]!)), 0);
    expect(worst).toBeLessThan(1e-4 * peakOf(still));
  });

  it('ends a strip that is taken away without a step, and takes up one plan of many that come at once', () => {
    const tone = sine(100, 48000, 128 * 60, 0.5);
    const bench = new Bench(two, { a: [tone] });
    bench.run(10);
    const without = { ...two, strips: two.strips.filter((s) => s.id !== 'a') };
    for (let i = 0; i < 5; i++) bench.engine.load(compilePlan(i % 2 ? two : without));
    bench.session = without;
    const out = bench.run(50).main![0]!;
    let step = 0;
    for (let i = 1; i < out.length; i++) step = Math.max(step, Math.abs(out[i]! - out[i - 1]!));
    expect(step).toBeLessThan(0.012);
    expect(bench.engine.plan!.sources.map((s) => s.strip)).toEqual(['b']);
    expect(peakOf(out.subarray(128 * 30))).toBe(0);
  });

  it('gathers any strips of any session without changing what reaches the main output by more than -120 dBFS', () => {
    const x = [noise(2048, 8), noise(2048, 9)];
    fc.assert(
      fc.property(sessions(), fc.integer({ min: 1, max: 6 }), (s, n) => {
        const calm = {
          ...s,
          strips: s.strips.map((t) => ({
            ...t,
            trimDb: 0,
            faderDb: t.faderDb === null ? null : Math.min(0, t.faderDb),
            solo: false,
          })),
          // A soloed bus lets its feeders' other ways sound too, and a submix put into one of them is not soloed.
          vcas: s.vcas.map((v) => ({ ...v, solo: false })),
        };
        const goal = calm.strips[0]!.out.to;
        const picked = calm.strips
          .filter((t) => t.kind !== 'output' && t.out.to === goal)
          .slice(0, n)
          .map((t) => t.id);
        fc.pre(picked.length > 0 && goal !== null);
        const stems = Object.fromEntries(calm.strips.map((t) => [t.id, x]));
        const before = play(calm, stems, 16).main!;
        const after = play(apply(calm, gather(calm, picked).commands).session, stems, 16).main!;
        const scale = Math.max(1, peakOf(before[0]!), peakOf(before[1]!));
        for (const c of [0, 1]) {
          const worst = before[c]!.reduce((d, v, i) => Math.max(d, Math.abs(v - after[c]![i]!)), 0);
          expect(20 * Math.log10(worst / scale + 1e-12)).toBeLessThan(-120);
        }
      }),
      { numRuns: 150 },
    );
  });

  it('prints submix stems that add up to the main mix, when everything goes through submixes', () => {
    const s: Session = {
      ...two,
      strips: [
        ...two.strips.map((t) =>
          t.id === 'a' || t.id === 'b'
            ? { ...t, out: { to: `bus-${t.id}`, on: true } }
            : t.id === 'plate'
              ? { ...t, out: { to: 'bus-a', on: true } }
              : t,
        ),
        newStrip({ id: 'bus-a', kind: 'submix', name: 'A', faderDb: -2, out: { to: 'main', on: true } }),
        newStrip({ id: 'bus-b', kind: 'submix', name: 'B', pan: 0.2, out: { to: 'main', on: true } }),
      ],
    };
    const x = { a: [noise(128 * 40, 1)], b: [noise(128 * 40, 2)] };
    const out = play(s, x, 40, { capture: ['main', 'bus-a', 'bus-b'] });
    for (const c of [0, 1]) {
      const worst = out.main![c]!.reduce(
        (d, v, i) => Math.max(d, Math.abs(v - out['bus-a']![c]![i]! - out['bus-b']![c]![i]!)),
        0,
      );
      expect(worst).toBeLessThan(1e-6);
    }
  });
});

describe('meters', () => {
  const meterOf = (bench: Bench, strip: string) =>
    bench.engine.meter(bench.engine.plan!.meters.findIndex((m) => m.strip === strip));
  it('read the sample peak and the RMS of a sine: its peak less 3.01 dB (textbook)', () => {
    const s: Session = {
      ...base,
      strips: [
        newStrip({ id: 'a', kind: 'source', name: 'A', out: { to: 'main', on: true } }),
        ...base.strips,
      ],
    };
    const bench = new Bench(s, { a: [sine(997, 48000, 128 * 1200, 0.5)] });
    bench.run(1100);
    const [peak, square, highest] = meterOf(bench, 'a');
    expect(20 * Math.log10(peak! / 0.5)).toBeCloseTo(0, 1);
    expect(10 * Math.log10(square!) - 20 * Math.log10(0.5)).toBeCloseTo(-3.01, 1);
    expect(highest).toBeCloseTo(0.5, 4);
  });
  it('fall by 20 dB in 1.7 s (IEC 60268-10, Type I, from memory) and keep the highest peak until it is cleared', () => {
    const s: Session = {
      ...base,
      strips: [
        newStrip({ id: 'a', kind: 'source', name: 'A', out: { to: 'main', on: true } }),
        ...base.strips,
      ],
    };
    const bench = new Bench(s, { a: [constant(1, 128)] });
    bench.run(1);
    bench.run(Math.round((1.7 * 48000) / 128));
    expect(20 * Math.log10(meterOf(bench, 'a')[0]!)).toBeCloseTo(-20, 0);
    expect(meterOf(bench, 'a')[2]).toBe(1);
    bench.engine.clearPeaks();
    bench.run(1);
    expect(meterOf(bench, 'a')[2]).toBeLessThan(0.2);
  });
  it('survive a change of the plan', () => {
    const bench = new Bench(two, { a: [constant(1, 128 * 4)] });
    bench.run(4);
    bench.change(apply(two, gather(two, ['b']).commands).session);
    bench.run(1);
    expect(meterOf(bench, 'a')[2]).toBe(1);
  });
});

describe('a value that is not finite', () => {
  it('from a stem never leaves a processor: it is reset and counted, and sound goes on', () => {
    const x = noise(128 * 70, 3);
    x[128 * 10 + 5] = Infinity;
    const s: Session = {
      ...base,
      strips: [
        newStrip({
          id: 'a',
          kind: 'source',
          name: 'A',
          out: { to: 'main', on: true },
          inserts: [newInsert({ id: 'r', type: 'reverb' })],
        }),
        ...base.strips,
      ],
    };
    const bench = new Bench(s, { a: [x] });
    const out = bench.run(70).main![0]!;
    expect(out.every(Number.isFinite)).toBe(true);
    expect(bench.engine.faults).toBeGreaterThan(0);
    expect(peakOf(out.subarray(128 * 60))).toBeGreaterThan(0.01);
  });
});

it('an engine without a plan does nothing', () => {
  const engine = new Engine(engineModule);
  engine.run();
  expect(engine.plan).toBeNull();
  expect(engine.faults).toBe(0);
});
