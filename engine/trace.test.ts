import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isFiltered, responseAt } from '../core/routing/response';
import { trace } from '../core/routing/trace';
import { latencies } from '../core/routing/latency';
import { newInsert, newSend, newSession, newStrip } from '../core/session/defaults';
import type { Session, Strip } from '../core/session/types';
import { sessions } from '../core/testing/arbitraries';
import { demoSession } from '../demo/session';
import { Bench, impulse, play } from './testing/run';
import { sessionWith } from './testing/through';
import { gainAt } from './testing/spectrum';

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

/** Without what no single copy tells: tails that are spread, and repeats after the first. */
const copiesAlone = (s: Strip): Strip => ({
  ...s,
  inserts: s.inserts.map((i) =>
    i.type === 'reverb'
      ? { ...i, on: false }
      : i.type === 'delay'
        ? { ...i, params: { ...i.params, feedback: 0 } }
        : i,
  ),
});

const decibels = (x: number) => 20 * Math.log10(Math.abs(x));

/** Compares a pair over frequency, left and right: the engine's impulse response against the trace's copies and filters. */
function filteredPair(session: Session, from: string, to: string): number {
  const alone = { ...session, strips: session.strips.map(copiesAlone) };
  const probe = probed(alone, from);
  const frames = 128 * 400;
  const x = new Float32Array(frames);
  x[0] = TINY;
  const out = play(probe.session, { [probe.stem]: [x, x] }, 400, { capture: [to] })[to]!;
  const found = trace(alone, from, to);
  (['left', 'right'] as const).forEach((side, k) => {
    const printed = out[k] ?? out[0]!;
    for (const hertz of [60, 200, 1000, 3000, 9000, 15000]) {
      const wanted = decibels(responseAt(found.arrivals, side, hertz, session.sampleRate));
      const level = gainAt(printed, hertz, session.sampleRate) - decibels(TINY);
      expect(Math.abs(level - wanted), `${from} to ${to}, ${hertz} Hz`).toBeLessThan(0.01);
    }
    const heard = found.arrivals.filter((a) => a[side] !== 0);
    const together = heard.filter((a) => a.delay === Math.min(...heard.map((b) => b.delay)));
    const db = side === 'left' ? found.leftDb : found.rightDb;
    expect(decibels(responseAt(together, side, 1000, session.sampleRate))).toBeCloseTo(db!, 6);
  });
  return 2;
}

describe('the trace and the engine’s own print of an impulse', () => {
  it('agree within 0.01 dB on both sides and in polarity, for every strip and every output of the demo', () => {
    const demo = demoSession();
    // A second output, so that there are pairs with and without a path.
    const cue = newStrip({ id: 'cue', kind: 'output', name: 'Cue', pair: 3, out: { to: null, on: true } });
    const session: Session = {
      ...demo,
      strips: [
        ...demo.strips.map((s) =>
          s.id === 'lead-voice' || s.id === 'choir'
            ? {
                ...s,
                sends: [
                  ...s.sends,
                  newSend({ id: `${s.id}-cue`, to: 'cue', tap: 'pre', levelDb: -5, pan: 0.2 }),
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
        if (isFiltered(found.arrivals)) {
          compared += filteredPair(session, from.id, to.id);
          continue;
        }
        const [l, r] = out[to.id]!;
        // What comes first, on each side.
        const at = (side: 'left' | 'right') => {
          const delays = found.arrivals.filter((a) => a[side] !== 0).map((a) => a.delay);
          return lag + (delays.length ? Math.min(...delays) : 0);
        };
        const sides = [l![at('left')]! / TINY, (r ?? l)![at('right')]! / TINY];
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

  it('agree on an equalized copy beside a dry one, at every frequency, within 0.01 dB', () => {
    const base = newSession('Beside');
    const params = { lowCutOn: 1, lowCutFrequency: 300, lowCutSlope: 3, bell2Gain: 9, highShelfGain: -6 };
    const s: Session = {
      ...base,
      strips: [
        newStrip({
          id: 'a',
          kind: 'source',
          name: 'A',
          out: { to: 'main', on: true },
          sends: [newSend({ id: 'x', to: 'bus', tap: 'input', levelDb: -3 })],
        }),
        newStrip({
          id: 'bus',
          kind: 'submix',
          name: 'Bus',
          out: { to: 'main', on: true },
          inserts: [
            newInsert({ id: 'e', type: 'equalizer', params, mix: 0.7 }),
            newInsert({ id: 'd', type: 'delay', params: { time: 3 }, mix: 0.5 }),
          ],
        }),
        ...base.strips,
      ],
    };
    expect(filteredPair(s, 'a', 'main')).toBe(2);
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

describe('what a trace gives by power', () => {
  const power = (x: Float32Array) => 10 * Math.log10(x.reduce((sum, v) => sum + v * v, 0));
  it.each([
    ['reverb', {}],
    ['reverb', { decay: 0.3, preDelay: 60 }],
    ['reverb', { decay: 5, damping: 0, character: 2 }],
    ['reverb', { damping: 80, early: 100, lowCut: 300, highCut: 5000, width: 20, character: 4 }],
    ['delay', { feedback: 60, time: 50, note: 0 }],
    ['delay', { feedback: 85, time: 50, note: 0, lowCut: 500, highCut: 3000 }],
    ['delay', { feedback: 70, time: 60, note: 0, pingPong: 1 }],
    ['chorus', { voices: 4 }],
  ])('is what an impulse leaves of itself behind a %s %o, within 0.6 dB', (type, params) => {
    for (const channels of [1, 2] as const)
      for (const mix of [1, 0.4]) {
        const s = sessionWith([{ type, params, mix }], channels);
        const found = trace(s, 'a', 'a');
        const stem = Array.from({ length: channels }, () => impulse(2400 * 128));
        const out = new Bench(s, { a: stem }, { capture: ['a'] }).run(2400).a!;
        // A mono strip leaves in the middle, 3 dB lower on each side.
        const middle = channels === 1 ? 10 * Math.log10(2) : 0;
        expect(Math.abs(power(out[0]!) + middle - found.powerLeftDb!)).toBeLessThan(0.6);
        if (channels === 2) expect(Math.abs(power(out[1]!) - found.powerRightDb!)).toBeLessThan(0.6);
      }
  });
  it('and as one signal is what comes first, be it late by intent', () => {
    const s = sessionWith([{ type: 'delay', params: { time: 100, note: 0 } }]);
    const quiet = { ...s, strips: s.strips.map((x) => (x.id === 'a' ? { ...x, faderDb: -24 } : x)) };
    const found = trace(quiet, 'a', 'main');
    expect(found.leftDb).toBeCloseTo(-24, 6);
    expect(found.rightDb).toBeCloseTo(-24, 6);
    // Beside a way without delay it is that one.
    const both = {
      ...quiet,
      strips: quiet.strips.map((x) =>
        x.id === 'a' ? { ...x, sends: [newSend({ id: 'd', to: 'main', tap: 'input', levelDb: -10 })] } : x,
      ),
    };
    expect(trace(both, 'a', 'main').leftDb).toBeCloseTo(-10, 6);
    // What is spread alone has no single copy.
    const wet = trace(sessionWith([{ type: 'reverb' }]), 'a', 'main');
    expect(wet.leftDb).toBeNull();
    expect(wet.powerLeftDb!).toBeGreaterThan(-3);
  });
});
