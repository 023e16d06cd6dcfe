import { describe, expect, it } from 'vitest';
import { newInsert, newSession, newStrip } from '../core/session/defaults';
import type { Session } from '../core/session/types';
import { measureLoad } from './load';
import { engineModule } from './testing/run';

const base = newSession('Load');
const session = (reverbs: number): Session => ({
  ...base,
  strips: [
    ...Array.from({ length: 6 }, (_, i) =>
      newStrip({
        id: `s${i}`,
        kind: 'source',
        name: `${i}`,
        channels: i === 0 ? 2 : 1,
        out: { to: 'main', on: true },
        inserts: [
          newInsert({ id: 'g', type: 'gain' }),
          newInsert({ id: 'e', type: 'equalizer', params: { bell1Gain: 3 } }),
          ...(i < reverbs ? [newInsert({ id: 'r', type: 'reverb' })] : []),
        ],
      }),
    ),
    ...base.strips,
  ],
});
const read = (s: Session) =>
  measureLoad({ session: s, module: engineModule, clock: () => performance.now(), seconds: 0.2, runs: 3 });

describe('the measured load', () => {
  it('names every insert once, with a cost', () => {
    const { inserts, share } = read(session(3));
    expect(inserts.map((i) => `${i.strip} ${i.type}`).sort()).toEqual(
      session(3)
        .strips.flatMap((s) => s.inserts.map((i) => `${s.id} ${i.type}`))
        .sort(),
    );
    for (const i of inserts) expect(i.share).toBeGreaterThanOrEqual(0);
    expect(share).toBeGreaterThan(0);
  });
  it('sets the dear apart from the cheap: a reverb costs more than a gain, five of them more than one', () => {
    const { inserts } = read(session(5));
    const cost = (type: string) => inserts.filter((i) => i.type === type).reduce((n, i) => n + i.share, 0);
    expect(cost('reverb') / 5).toBeGreaterThan(3 * (cost('gain') / 6));
    const one = read(session(1)).inserts.filter((i) => i.type === 'reverb');
    expect(cost('reverb')).toBeGreaterThan(2 * one[0]!.share);
  });
  it('shares the cost of an operation by the lanes that an insert fills', () => {
    const { inserts } = read(session(0));
    const eq = inserts.filter((i) => i.type === 'equalizer');
    const stereo = eq.find((i) => i.strip === 's0')!.share;
    const [a, b] = eq.filter((i) => i.strip === 's1' || i.strip === 's2');
    // The stereo one fills the same vector with two lanes as the first two mono ones with one each.
    expect(stereo).toBeCloseTo(a!.share + b!.share, 9);
  });
});
