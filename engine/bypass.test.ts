import { describe, expect, it } from 'vitest';
import { LivePlan } from '../core/plan/livePlan';
import { processors } from '../core/processors/registry';
import type { Insert } from '../core/session/types';
import { Bench, noise, peakOf, sine } from './testing/run';
import { above } from './testing/spectrum';
import { both, sessionWith } from './testing/through';

const RATE = 48000;
const blocks = (seconds: number) => Math.ceil((seconds * RATE) / 128);
type Given = Pick<Insert, 'type'> & Partial<Insert>;

/** A source with one insert that is steered as a hand does, its input so many seconds of sound and then silence. */
function steered(insert: Given, audio: Float32Array) {
  const of = (on: boolean) => sessionWith([{ ...insert, on }]);
  const bench = new Bench(of(true), { a: [audio, audio], k: [audio, audio] }, { capture: ['a'] });
  const plan = new LivePlan(of(true), { capture: ['a'] });
  return {
    on: (on: boolean) => bench.engine.steer(plan.steer(of(on), [0, 100])),
    run: (seconds: number) => bench.run(blocks(seconds)).a![0]!,
    bench,
    of,
  };
}
const echo: Given = { type: 'delay', params: { time: 1500, feedback: 90 } };
const burst = (seconds: number) => {
  const x = new Float32Array(blocks(seconds) * 128);
  x.set(sine(500, RATE, 24000, 0.5));
  return x;
};

describe('an insert that is bypassed', () => {
  it('goes on for three seconds, so that dry and wet are held against each other; then what was in it is gone', () => {
    const soon = steered(echo, burst(12));
    soon.run(0.6);
    soon.on(false);
    soon.run(1.5);
    soon.on(true);
    expect(peakOf(soon.run(2))).toBeGreaterThan(0.2);
    const late = steered(echo, burst(12));
    late.run(0.6);
    late.on(false);
    late.run(3.6);
    late.on(true);
    expect(peakOf(late.run(4))).toBe(0);
  });
  it('sleeps through another plan, and is warm before it is heard there', () => {
    const x = sine(100, RATE, blocks(6) * 128, 0.5);
    const s = steered({ type: 'compressor', params: { threshold: -40, ratio: 10, attack: 5 } }, x);
    s.run(0.5);
    s.on(false);
    s.run(3.5);
    s.bench.change({ ...s.of(false), name: 'Another' });
    expect(peakOf(s.run(0.3))).toBeCloseTo(0.5, 3);
    s.bench.change({ ...s.of(true), name: 'A third' });
    const out = s.run(0.5);
    const up = above(out, 4000, RATE).subarray(2000, -2000);
    expect(20 * Math.log10(up.reduce((m, v) => Math.max(m, Math.abs(v)), 0) + 1e-12)).toBeLessThan(-70);
    expect(peakOf(out.subarray(-4800))).toBeLessThan(0.05);
  });
  it.each(processors.filter((p) => p.latency({}, RATE) > 0).map((p) => p.type))(
    'is as late as before, to the sample: %s',
    (type) => {
      const p = processors.find((x) => x.type === type)!;
      const x = noise(blocks(1) * 128, 7);
      const out = both(type, {}, x, x, { on: false })[0]!;
      const late = p.latency({}, RATE);
      expect(out.subarray(late).every((v, i) => v === x[i])).toBe(true);
      // Nor does it change when it goes to sleep.
      const s = steered({ type }, noise(blocks(5) * 128, 7));
      s.run(0.2);
      s.on(false);
      const all = s.run(4.6).subarray(24000);
      const wanted = noise(blocks(5) * 128, 7).subarray(blocks(0.2) * 128 + 24000 - late);
      expect(all.every((v, i) => v === wanted[i])).toBe(true);
    },
  );
  it('is computed all the time where a lane may switch it on', () => {
    const lanes = {
      on: [
        [0, 0],
        [1.7, 0],
        [1.7, 1],
      ],
    } as unknown as Record<string, [number, number][]>;
    const x = burst(3);
    const bench = new Bench(sessionWith([{ ...echo, on: false, lanes }]), { a: [x, x] }, { capture: ['a'] });
    // What it repeats came in before it was switched on.
    expect(peakOf(bench.run(blocks(3)).a![0]!.subarray(1.75 * RATE))).toBeGreaterThan(0.3);
  });
  it('switched off again before it was heard stays as it was', () => {
    const x = sine(100, RATE, blocks(8) * 128, 0.5);
    const s = steered({ type: 'gain', params: { gain: -20 } }, x);
    s.run(0.5);
    s.on(false);
    s.run(3.6);
    s.on(true);
    s.run(0.02);
    s.on(false);
    expect(peakOf(s.run(0.5))).toBeCloseTo(0.5, 4);
    s.on(true);
    expect(peakOf(s.run(0.5).subarray(-4800))).toBeCloseTo(0.05, 3);
  });
});
