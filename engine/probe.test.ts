import { describe, expect, it } from 'vitest';
import { BLOCK } from '../core/plan/layout';
import { equalizer } from '../core/processors/equalizer';
import { newInsert, newSession, newStrip } from '../core/session/defaults';
import type { Insert, Session } from '../core/session/types';
import { Bench, sine } from './testing/run';

const RATE = 48000;
const HERTZ = 1500;
const tone = sine(HERTZ, RATE, RATE * 2, 0.1);
/** Strips that each have an equalizer of another gain, some of one channel and some of two, and one with a delay. */
function session(more: Partial<Insert> = {}): Session {
  const base = newSession('Probe');
  const gains = [3, -6, 9, -12, 6];
  return {
    ...base,
    strips: [
      ...gains.map((gain, i) =>
        newStrip({
          id: `s${i}`,
          name: `S${i}`,
          kind: 'source',
          channels: i % 2 ? 2 : 1,
          stem: `${i}.wav`,
          out: { to: 'main', on: true },
          inserts: [
            newInsert({
              id: `eq${i}`,
              type: 'equalizer',
              params: { bell1On: 1, bell1Frequency: HERTZ, bell1Gain: gain, bell1Q: 1 },
              ...more,
            }),
          ],
        }),
      ),
      newStrip({
        id: 'late',
        name: 'Late',
        kind: 'source',
        channels: 2,
        stem: 'late.wav',
        out: { to: 'main', on: true },
        inserts: [newInsert({ id: 'echo', type: 'delay', params: {}, mix: 0.5 })],
      }),
      ...base.strips,
    ],
  };
}
const stems = Object.fromEntries(['s0', 's1', 's2', 's3', 's4', 'late'].map((id) => [id, [tone]]));
/** RMS of what goes in and of what comes out, over 40 blocks. */
function levels(bench: Bench): readonly [number, number] {
  const sums: [number, number] = [0, 0];
  for (let b = 0; b < 40; b++) {
    bench.run(1);
    const heard = bench.engine.probed!;
    for (let i = 0; i < BLOCK; i++) {
      sums[0] += heard[i]! ** 2;
      sums[1] += heard[BLOCK + i]! ** 2;
    }
  }
  return sums.map((s) => Math.sqrt(s / 40 / BLOCK)) as [number, number];
}
const gainOf = ([before, after]: readonly [number, number]) => 20 * Math.log10(after / before);

describe('looking at an insert', () => {
  it.each([0, 1, 2, 3, 4])('finds equalizer %s among those that share its operation', (i) => {
    const s = session();
    const bench = new Bench(s, stems);
    bench.engine.probe([`s${i}`, `eq${i}`]);
    bench.run(100);
    const heard = levels(bench);
    expect(heard[0]).toBeCloseTo(0.1 / Math.SQRT2, 4);
    const { params } = s.strips[i]!.inserts[0]!;
    expect(gainOf(heard)).toBeCloseTo(equalizer.responseAt!(HERTZ, params, RATE), 2);
  });
  it('shows a bypassed one as it lets the signal through', () => {
    const bench = new Bench(session({ on: false }), stems);
    bench.engine.probe(['s2', 'eq2']);
    bench.run(100);
    expect(gainOf(levels(bench))).toBeCloseTo(0, 4);
  });
  it('shows one that runs by itself', () => {
    const bench = new Bench(session(), stems);
    bench.engine.probe(['late', 'echo']);
    // Before its first repeat, half of what goes in comes out.
    bench.run(2);
    expect(gainOf(levels(bench))).toBeCloseTo(-6.02, 1);
  });
  it('goes on through another plan, and ends with the insert', () => {
    const s = session();
    const bench = new Bench(s, stems);
    bench.engine.probe(['s1', 'eq1']);
    bench.run(50);
    const other = { ...s, strips: s.strips.filter((x) => x.id !== 's0') };
    bench.change(other);
    bench.run(50);
    const { params } = s.strips[1]!.inserts[0]!;
    expect(gainOf(levels(bench))).toBeCloseTo(equalizer.responseAt!(HERTZ, params, RATE), 2);
    bench.change({ ...other, strips: other.strips.filter((x) => x.id !== 's1') });
    bench.run(20);
    expect(bench.engine.probed).toBeNull();
    bench.engine.probe(null);
    expect(bench.engine.probed).toBeNull();
  });
  it('changes nothing of what is heard', () => {
    const [one, two] = [new Bench(session(), stems), new Bench(session(), stems)];
    two.engine.probe(['s3', 'eq3']);
    expect(two.run(60)).toEqual(one.run(60));
  });
});
