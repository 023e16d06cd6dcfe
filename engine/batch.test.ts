import { describe, expect, it } from 'vitest';
import { compilePlan } from '../core/plan/compile';
import { LivePlan } from '../core/plan/livePlan';
import { BLOCK } from '../core/plan/layout';
import { demoSession } from '../demo/session';
import { newInsert, newSession, newStrip } from '../core/session/defaults';
import type { Session } from '../core/session/types';
import { Engine } from './engine';
import { fitFrames, print } from './print';
import { engineModule } from './testing/run';

/** A noise of its own for every source, interleaved. */
function noiseFor(index: number, floats: number): Float32Array {
  let a = index * 7919 + 1;
  return Float32Array.from({ length: floats }, () => {
    a = (Math.imul(a, 1664525) + 1013904223) >>> 0;
    return Math.fround((a / 2147483648 - 1) * 0.4);
  });
}
const stereo = (frames: number): Session => {
  const base = newSession('Stereo');
  return {
    ...base,
    strips: [
      newStrip({
        id: 'pair',
        kind: 'source',
        name: 'Pair',
        channels: 2,
        stem: 'p',
        inserts: [newInsert({ id: 'l', type: 'limiter', params: { ceiling: -3, lookAhead: frames } })],
        out: { to: 'main', on: true },
      }),
      ...base.strips,
    ],
  };
};

/** The same session with every fader and pan elsewhere. */
const moved = (session: Session): Session => ({
  ...session,
  strips: session.strips.map((s, i) => ({
    ...s,
    trimDb: -1 - i / 4,
    faderDb: -3 - i / 2,
    pan: ((i % 5) - 2) / 2,
  })),
});

describe('many blocks at once', () => {
  const demo = demoSession();
  const CAPTURED = { capture: ['main', 'lead-voice', 'plate'] };
  it.each([
    ['the demo', demo, 0],
    ['the demo while faders and pans are on their way', moved(demo), 0],
    ['stems that hold what is no number', demo, 97],
  ])('give to the bit what one block after the other gives, for %s', (_name, heading, spoiled) => {
    const plan = compilePlan(demo, CAPTURED);
    const BLOCKS = 40;
    const one = new Engine(engineModule);
    one.load(plan);
    const many = new Engine(engineModule);
    many.load(plan);
    const batch = many.batch(BLOCKS);
    for (const engine of [one, many]) engine.steer(new LivePlan(demo, CAPTURED).steer(heading, [0, 1]));
    plan.sources.forEach((s, i) => {
      const stem = noiseFor(i, s.channels * BLOCKS * BLOCK);
      if (spoiled)
        for (let k = i; k < stem.length; k += spoiled * BLOCK + i)
          stem[k] = [NaN, Infinity, -Infinity][i % 3]!;
      batch.inputs[i]!.set(stem);
    });
    const expected = plan.captures.map((c) => new Float32Array(c.channels * BLOCKS * BLOCK));
    for (let b = 0; b < BLOCKS; b++) {
      plan.sources.forEach((s, i) => {
        for (let c = 0; c < s.channels; c++)
          for (let k = 0; k < BLOCK; k++)
            one.input(i, c)[k] = batch.inputs[i]![(b * BLOCK + k) * s.channels + c]!;
      });
      one.run();
      plan.captures.forEach((capture, i) => {
        for (let c = 0; c < capture.channels; c++)
          for (let k = 0; k < BLOCK; k++)
            expected[i]![(b * BLOCK + k) * capture.channels + c] = one.output(i, c)[k]!;
      });
    }
    // In two runs, the second from where the first has ended.
    batch.run(0, 13);
    const early = plan.captures.map((_, i) => batch.peak(i));
    batch.run(13, BLOCKS - 13);
    plan.captures.forEach((capture, i) => {
      expect(batch.outputs[i]).toEqual(expected[i]);
      const highest = (from: number, to: number) =>
        expected[i]!.subarray(from * BLOCK * capture.channels, to * BLOCK * capture.channels).reduce(
          (top, v) => Math.max(top, Math.abs(v)),
          0,
        );
      expect(early[i]).toBe(highest(0, 13));
      expect(batch.peak(i)).toBe(highest(13, BLOCKS));
      expect(batch.outputs[i]!.every(Number.isFinite)).toBe(true);
    });
    expect(many.faults).toBe(one.faults);
    expect(many.faults > 0).toBe(spoiled > 0);
  });

  it('keep their plan: another one is refused', () => {
    const engine = new Engine(engineModule);
    const plan = compilePlan(stereo(5));
    engine.load(plan);
    engine.batch(4);
    expect(() => engine.load(plan)).toThrow(/keeps its plan/);
  });

  it('leave room for the longest piece: memory grows, and meters are still read', () => {
    const engine = new Engine(engineModule);
    const plan = compilePlan(stereo(5), { capture: ['pair'] });
    engine.load(plan);
    const batch = engine.batch(4096);
    batch.inputs[0]!.fill(0.25);
    batch.run(0, 4096);
    expect(engine.meter(plan.meters.findIndex((m) => m.strip === 'pair'))[2]).toBeCloseTo(0.25, 4);
    expect(batch.outputs[0]!.at(-1)).toBeCloseTo(0.25, 4);
  });
});

describe('a print', () => {
  const stem = noiseFor(3, 2 * 70000).map((v) => v / 2);
  const stems = {
    read: (strip: { channels: 1 | 2 }, start: number, into: Float32Array) =>
      fitFrames(
        stem.subarray(start * 2, start * 2 + (into.length / strip.channels) * 2),
        2,
        into,
        strip.channels,
      ),
  };
  const printed = async (session: Session, frames: number) => {
    const audio: number[] = [];
    let peak = 0;
    for await (const [piece] of print({ session, strips: ['pair'], frames, stems, module: engineModule })) {
      for (const v of piece!.audio) audio.push(v);
      peak = Math.max(peak, piece!.peak);
    }
    return { audio, peak };
  };
  it.each([1, 127, 128, 65536, 65537, 70000])(
    'of %i frames is as long, begins at time 0 whatever the processors delay, and tells its highest sample',
    async (frames) => {
      const { audio, peak } = await printed(stereo(5), frames);
      expect(audio).toHaveLength(frames * 2);
      expect(peak).toBe(audio.reduce((top, v) => Math.max(top, Math.abs(v)), 0));
      // The noise stays 7 dB under the ceiling: the limiter holds it back by its look-ahead, and the print takes that off again.
      expect(audio[0]).toBeCloseTo(stem[0]!, 5);
      expect(audio.at(-1)).toBeCloseTo(stem[frames * 2 - 1]!, 5);
    },
  );
  it('is the same with meters and without', async () => {
    const session = stereo(2);
    const metered: number[] = [];
    let told: ReadonlyMap<string, number> | null = null;
    const request = { session, strips: ['pair'], frames: 9000, stems, module: engineModule };
    for await (const [piece] of print({ ...request, peaks: (p) => (told = p) }))
      metered.push(...piece!.audio);
    expect((await printed(session, 9000)).audio).toEqual(metered);
    expect(told!.get('pair')).toBeGreaterThan(0.15);
  });
});

describe('frames that are brought to the channels of a strip', () => {
  const into = (n: number) => new Float32Array(n).fill(9);
  it('stay as they are where both have as many, with silence after them', () => {
    const room = into(6);
    fitFrames(Float32Array.of(1, 2, 3, 4), 2, room, 2);
    expect([...room]).toEqual([1, 2, 3, 4, 0, 0]);
  });
  it('stand on both sides of a stereo strip', () => {
    const room = into(6);
    fitFrames(Float32Array.of(1, 2), 1, room, 2);
    expect([...room]).toEqual([1, 1, 2, 2, 0, 0]);
  });
  // The session format: stereo into mono is (L+R)/2.
  it('are folded to half their sum on a mono strip', () => {
    const room = into(3);
    fitFrames(Float32Array.of(1, 3, -1, 1), 2, room, 1);
    expect([...room]).toEqual([2, 0, 0]);
  });
});
