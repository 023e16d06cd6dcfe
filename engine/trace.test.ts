import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { trace } from '../core/routing/trace';
import { latencies } from '../core/routing/latency';
import { newSession, newStrip } from '../core/session/defaults';
import type { Session, Strip } from '../core/session/types';
import { sessions } from '../core/testing/arbitraries';
import { demoSession } from '../demo/session';
import { peakOf, play, sine } from './testing/run';

/** Small enough to stand below every threshold of the demo. */
const TINY = 1e-3;

/** The session with an impulse at the input of one strip and silence at all others. */
function probed(session: Session, from: string): { session: Session; stem: string } {
  const strip = session.strips.find((s) => s.id === from)!;
  if (strip.kind === 'source') return { session, stem: from };
  const probe = newStrip({
    id: 'probe',
    kind: 'source',
    name: 'Probe',
    channels: strip.channels,
    soloSafe: true,
    out: { to: from, on: true },
  });
  return { session: { ...session, strips: [probe, ...session.strips] }, stem: 'probe' };
}

/** A filter has no single gain: its first frame is not its gain at 1 kHz, which the trace tells. It is looked at by itself. */
const withoutFilters = (s: Strip): Strip => ({
  ...s,
  inserts: s.inserts.map((i) => (i.type === 'equalizer' ? { ...i, on: false } : i)),
});

const decibels = (x: number) => 20 * Math.log10(Math.abs(x));

describe('the trace and the engine’s own print of an impulse', () => {
  it('agree within 0.01 dB on both sides and in polarity, for every strip and every output of the demo', () => {
    const demo = demoSession();
    // A second output, so that there are pairs with and without a path.
    const cue = newStrip({ id: 'cue', kind: 'output', name: 'Cue', pair: 3, out: { to: null, on: true } });
    const session: Session = {
      ...demo,
      strips: [
        ...demo.strips.map(withoutFilters).map((s) =>
          s.id === 'lead-voice' || s.id === 'choir'
            ? {
                ...s,
                sends: [
                  ...s.sends,
                  { id: `${s.id}-cue`, to: 'cue', tap: 'pre' as const, levelDb: -5, pan: 0.2, on: true },
                ],
              }
            : s,
        ),
        cue,
      ],
    };
    const blocks = 48;
    let compared = 0;
    for (const from of session.strips) {
      const probe = probed(session, from.id);
      const x = new Float32Array(blocks * 128);
      x[0] = TINY;
      const out = play(probe.session, { [probe.stem]: [x, x] }, blocks);
      for (const to of session.strips.filter((s) => s.kind === 'output')) {
        const found = trace(session, from.id, to.id);
        const lag = latencies(session).get(to.id)!.post;
        const [l, r] = out[to.id]!;
        const sides = [l![lag]! / TINY, (r ?? l)![lag]! / TINY];
        const wanted = [found.leftDb, found.rightDb];
        sides.forEach((value, side) => {
          const want = wanted[side]!;
          if (want === null) expect(Math.abs(value)).toBeLessThan(1e-6);
          else expect(Math.abs(decibels(value) - want)).toBeLessThan(0.01);
          compared++;
        });
        // Copies that come later by intent, where no tail overlays them.
        for (const a of found.arrivals)
          if (a.delay > 0 && a.delay < 5400 && !found.paths.some((p) => p.spread))
            expect(Math.abs(decibels(l![lag + a.delay]! / TINY) - decibels(a.left))).toBeLessThan(0.01);
      }
    }
    expect(compared).toBe(session.strips.length * 4);
  });

  it('agree on a strip with an equalizer at 1 kHz, within 0.02 dB', () => {
    const demo = demoSession();
    const dry: Session = {
      ...demo,
      strips: demo.strips.map((s) => ({
        ...s,
        sends: [],
        inserts: s.inserts.map((i) => ({
          ...i,
          params: i.type === 'equalizer' ? { ...i.params, bell2Frequency: 1000, bell2Gain: 6 } : i.params,
        })),
      })),
    };
    // Not a divisor of the rate, so that peaks fall on samples sooner or later.
    const x = sine(1000.3, 48000, 128 * 400, TINY);
    const [l] = play(dry, { 'lead-voice': [x] }, 400).main!;
    const found = trace(dry, 'lead-voice', 'main');
    expect(Math.abs(decibels(peakOf(l!.subarray(-9600)) / TINY) - found.leftDb!)).toBeLessThan(0.02);
  });

  it('agree on random sessions, with mutes, solos, VCAs, taps and widths', () => {
    fc.assert(
      fc.property(sessions(10), fc.nat(), (s, pick) => {
        const from = s.strips[pick % s.strips.length]!;
        // A probe before a bus would be silenced by a solo elsewhere: a source stands for itself.
        fc.pre(from.kind === 'source');
        const x = new Float32Array(128 * 3);
        x[0] = 1;
        const out = play(s, { [from.id]: [x, x] }, 3).main!;
        const { arrivals } = trace(s, from.id, 'main');
        const at = arrivals.find((a) => a.delay === 0);
        expect(out[0]![0]).toBeCloseTo(at?.left ?? 0, 5);
        expect(out[1]![0]).toBeCloseTo(at?.right ?? 0, 5);
      }),
      { numRuns: 150 },
    );
  });

  it('agree that nothing of an empty session arrives', () => {
    const s = newSession('Empty');
    expect(trace(s, 'main', 'main')).toMatchObject({ count: 1, leftDb: 0, rightDb: 0 });
  });
});
