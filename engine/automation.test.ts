import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { standingAt, type When } from '../core/automation/at';
import { gainOf } from '../core/levels/decibels';
import { compilePlan } from '../core/plan/compile';
import { LivePlan } from '../core/plan/livePlan';
import { CurveDrawing, readCurve, type Curve } from '../core/plan/curve';
import { BLOCK } from '../core/plan/layout';
import { newInsert, newSend, newSession, newStrip, newVca } from '../core/session/defaults';
import type { Lane, Session, Strip } from '../core/session/types';
import { automatedSessions, hundredths } from '../core/testing/arbitraries';
import { Engine } from './engine';
import { print } from './print';
import { Bench, constant, engineModule, noise } from './testing/run';

const RATE = 48000;
const base = newSession('Lanes');
const source = (fields: Partial<Strip>): Strip =>
  newStrip({ id: 'a', kind: 'source', name: 'A', stem: 'a', out: { to: 'main', on: true }, ...fields });
const withStrips = (...strips: readonly Strip[]): Session => ({
  ...base,
  strips: [...strips, ...base.strips],
});

/** Prints an output from time 0. */
async function printed(
  session: Session,
  seconds: number,
  stem: (strip: string) => Float32Array,
  strip = 'main',
): Promise<[Float32Array, Float32Array]> {
  const frames = Math.round(seconds * RATE);
  const out = [new Float32Array(frames), new Float32Array(frames)] as [Float32Array, Float32Array];
  const stems = {
    read({ id, channels }: Strip, start: number, into: Float32Array) {
      const audio = stem(id);
      for (let i = 0; i < into.length; i++) into[i] = audio[start + Math.floor(i / channels)] ?? 0;
    },
  };
  let at = 0;
  for await (const [piece] of print({ session, strips: [strip], frames, stems, module: engineModule })) {
    for (let i = 0; i < piece!.audio.length; i++) out[i % 2]![at + (i >> 1)] = piece!.audio[i]!;
    at += piece!.audio.length >> 1;
  }
  return out;
}
const one = constant(1, 4 * RATE);
const ones = () => one;
const dbOf = (gain: number) => 20 * Math.log10(gain);
/** Law -3 at the centre. */
const CENTRE = Math.SQRT1_2;

/**
 * Web Audio API (W3C Recommendation, 2021), AudioParam.exponentialRampToValueAtTime: V(t) = V0 (V1/V0)^((t-T0)/(T1-T0)),
 * which is a straight line in decibels.
 */
const exponentialRamp = (v0: number, v1: number, t0: number, t1: number, t: number) =>
  t <= t0 ? v0 : t >= t1 ? v1 : v0 * (v1 / v0) ** ((t - t0) / (t1 - t0));

describe('a level lane', () => {
  const lane: Lane = [
    [0.5, -12],
    [1.5, 0],
  ];
  it('is heard as an exponential ramp, within 0.02 dB', async () => {
    const [left] = await printed(withStrips(source({ lanes: { fader: lane } })), 2, ones);
    for (let i = 0; i < left.length; i += 97) {
      const t = i / RATE;
      const wanted = exponentialRamp(gainOf(-12), 1, 0.5, 1.5, t) * CENTRE;
      expect(Math.abs(dbOf(left[i]! / wanted))).toBeLessThan(0.02);
    }
  });
  it('is left alone in mode off, and followed in all others', async () => {
    const off = await printed(withStrips(source({ lanes: { fader: lane }, automation: 'off' })), 0.2, ones);
    expect(off[0][9000]).toBeCloseTo(CENTRE, 5);
    for (const automation of ['read', 'touch', 'latch', 'trim', 'write'] as const) {
      const on = await printed(withStrips(source({ lanes: { fader: lane }, automation })), 0.2, ones);
      expect(on[0][9000]).toBeCloseTo(CENTRE * gainOf(-12), 5);
    }
  });
  it('is scaled by VCAs, whose own lanes add to it', async () => {
    const session: Session = {
      ...withStrips(source({ lanes: { fader: lane } })),
      vcas: [
        newVca({ id: 'v', name: 'V', faderDb: -6, members: ['a'] }),
        newVca({
          id: 'w',
          name: 'W',
          members: ['v'],
          lanes: {
            fader: [
              [0, 0],
              [1, 0],
              [1, -12],
              [3, -12],
            ],
          },
        }),
      ],
    };
    const [left] = await printed(session, 2, ones);
    expect(dbOf(left[0.25 * RATE]! / CENTRE)).toBeCloseTo(-12 - 6, 2);
    expect(dbOf(left[0.9 * RATE]! / CENTRE)).toBeCloseTo(-12 + 12 * 0.4 - 6, 1);
    expect(dbOf(left[1.8 * RATE]! / CENTRE)).toBeCloseTo(-6 - 12, 2);
  });
});

describe('lanes of all that a strip has', () => {
  it('a mute lane is silence, and takes the sends along', async () => {
    const session = withStrips(
      source({
        out: { to: 'main', on: false },
        lanes: {
          mute: [
            [0, 0],
            [0.5, 1],
            [1, 0],
          ],
        },
        sends: [newSend({ id: 'x', to: 'r', tap: 'input' })],
      }),
      newStrip({ id: 'r', kind: 'return', name: 'R', out: { to: 'main', on: true } }),
    );
    const [left] = await printed(session, 1.5, ones);
    expect(left[0.3 * RATE]).toBeCloseTo(CENTRE, 4);
    expect(left[0.7 * RATE]).toBe(0);
    expect(left[1.3 * RATE]).toBeCloseTo(CENTRE, 4);
  });
  it('a pan lane goes through the equal-power law', async () => {
    const [left, right] = await printed(
      withStrips(
        source({
          lanes: {
            pan: [
              [0.5, -1],
              [1.5, 1],
            ],
          },
        }),
      ),
      2,
      ones,
    );
    for (const t of [0.2, 0.75, 1, 1.25, 1.8]) {
      const p = Math.max(-1, Math.min(1, 2 * (t - 1)));
      // Web Audio API, StereoPannerNode, mono: x = (pan + 1)/2, gains cos(x pi/2) and sin(x pi/2).
      const x = (p + 1) / 2;
      // A thousandth of it, 0.01 dB: as near as curves are drawn.
      expect(Math.abs(left[t * RATE]! - Math.cos((x * Math.PI) / 2))).toBeLessThan(0.001);
      expect(Math.abs(right[t * RATE]! - Math.sin((x * Math.PI) / 2))).toBeLessThan(0.001);
    }
  });
  it('a send lane moves the send alone, an insert’s lane its parameter', async () => {
    const send = newSend({
      id: 'x',
      to: 'r',
      lanes: {
        level: [
          [0, -12],
          [1, 0],
        ],
      },
    });
    const gain = newInsert({
      id: 'g',
      type: 'gain',
      lanes: {
        gain: [
          [0, -6],
          [1, -6],
          [1, 6],
        ],
      },
    });
    const session = withStrips(
      source({ sends: [send] }),
      newStrip({ id: 'r', kind: 'return', name: 'R', out: { to: 'main', on: false }, inserts: [gain] }),
    );
    const [dry] = await printed(session, 2, ones);
    const [wet] = await printed(session, 2, ones, 'r');
    expect(dbOf(dry[RATE / 2]! / CENTRE)).toBeCloseTo(0, 3);
    expect(dbOf(wet[RATE / 2]! / CENTRE)).toBeCloseTo(-6 - 6, 2);
    expect(dbOf(wet[1.5 * RATE]! / CENTRE)).toBeCloseTo(6, 2);
  });
  it('come with the signal: behind a processor with latency they stand at the same moment of the music', async () => {
    const mute: Lane = [
      [0, 0],
      [1, 1],
    ];
    const crossing = async (inserts: Strip['inserts']) => {
      const [left] = await printed(withStrips(source({ inserts, lanes: { mute } })), 1.5, ones);
      return left.findIndex((v, i) => i > 0.5 * RATE && v < left[0.5 * RATE]! / 2) / RATE;
    };
    const plain = await crossing([]);
    const late = await crossing([
      newInsert({ id: 'l', type: 'limiter', params: { lookAhead: 10, ceiling: 0 } }),
    ]);
    expect(Math.abs(plain - 1)).toBeLessThan(0.005);
    expect(Math.abs(late - plain)).toBeLessThan(BLOCK / RATE);
  });
});

describe('hosts', () => {
  const stemsOf = (session: Session) =>
    Object.fromEntries(
      session.strips
        .filter((s) => s.kind === 'source')
        .map((s, i) => [s.id, Array.from({ length: s.channels }, (_, c) => noise(12000, i * 2 + c + 1))]),
    );

  it('that run one block after the other and those that run many give the same, to the bit', async () => {
    for (const session of fc.sample(automatedSessions(), { seed: 7, numRuns: 25 })) {
      const stems = stemsOf(session);
      const bench = new Bench(session, stems, { capture: ['main'] }).run(60).main!;
      const plan = compilePlan(session, { capture: ['main'] });
      const many = new Engine(engineModule);
      many.load(plan);
      const batch = many.batch(60);
      plan.sources.forEach((s, i) =>
        batch.inputs[i]!.forEach(
          (_, k) => (batch.inputs[i]![k] = stems[s.strip]![k % s.channels]![Math.floor(k / s.channels)]!),
        ),
      );
      batch.run(0, 17);
      const first = batch.outputs[0]!.slice(0, 17 * BLOCK * 2);
      batch.run(17, 43);
      const both = Float32Array.from(batch.outputs[0]!);
      both.set(first);
      expect(both.filter((_, i) => i % 2 === 0)).toEqual(bench[0]);
      expect(both.filter((_, i) => i % 2 === 1)).toEqual(bench[1]);
    }
  });

  it('that are told where they stand play from there as a print has it', () => {
    const lane: Lane = [
      [0, -12],
      [1, 0],
    ];
    const session = withStrips(source({ lanes: { fader: lane } }));
    const engine = new Engine(engineModule);
    engine.load(compilePlan(session));
    engine.seek(0.5 * RATE, true);
    const levels: number[] = [];
    for (let b = 0; b < 40; b++) {
      engine.input(0, 0).fill(1);
      engine.run();
      levels.push(dbOf(engine.output(0, 0)[BLOCK - 1]! / CENTRE));
    }
    levels.forEach((db, b) => {
      const t = 0.5 + ((b + 1) * BLOCK) / RATE;
      expect(db).toBeCloseTo(-12 + 12 * t, 1);
    });
    // Back, as a loop goes back: it glides there and follows.
    engine.seek(0.25 * RATE);
    for (let b = 0; b < 20; b++) {
      engine.input(0, 0).fill(1);
      engine.run();
    }
    expect(dbOf(engine.output(0, 0)[BLOCK - 1]! / CENTRE)).toBeCloseTo(
      -12 + 12 * (0.25 + (20 * BLOCK) / RATE),
      1,
    );
  });

  it('leap with the song to the frame, in the middle of a block, and later where the signal is late', () => {
    const lane: Lane = [
      [0, -12],
      [1, 0],
    ];
    // The law on the fader's travel: -12 dB stands at 0.5, 0 dB at 0.75, and between them it is straight.
    const law = (frame: number) => -12 + (12 * frame) / RATE;
    for (const late of [0, 1]) {
      const insert = newInsert({ id: 'l', type: 'limiter', params: { lookAhead: 10, ceiling: 0 } });
      const session = withStrips(source({ lanes: { fader: lane }, inserts: late ? [insert] : [] }));
      const plan = compilePlan(session);
      const behind = plan.captures[0]!.latency;
      expect(behind > 0).toBe(late === 1);
      const engine = new Engine(engineModule);
      engine.load(plan);
      engine.seek(24000, true);
      const heard: number[] = [];
      const run = () => {
        engine.input(0, 0).fill(0.5);
        engine.run();
        for (let i = 0; i < BLOCK; i++) heard.push(dbOf(engine.output(0, 0)[i]! / 0.5 / CENTRE));
      };
      for (let b = 0; b < 20; b++) run();
      // 37 frames into the next block the loop ends, and begins again at 6000.
      engine.seek(6000, false, 37);
      const leap = 20 * BLOCK + 37 + behind;
      for (let b = 0; b < 20; b++) run();
      engine.rest(9000);
      for (let b = 0; b < 20; b++) run();
      const at = (clock: number) =>
        clock < leap
          ? law(24000 + clock - behind)
          : clock < 40 * BLOCK + behind
            ? law(6000 + clock - leap)
            : law(9000);
      for (let n = behind + 700; n < heard.length; n++) {
        const since = [leap, 40 * BLOCK + behind].map((t) => n - t).filter((d) => d >= 0 && d < 128);
        if (since.length === 0) expect(Math.abs(heard[n]! - at(n)), `${late}, ${n}`).toBeLessThan(0.02);
      }
      // Nothing before it leaps, and no step where it does.
      for (let n = behind + 701; n < heard.length; n++)
        expect(Math.abs(heard[n]! - heard[n - 1]!)).toBeLessThan(0.2);
    }
  });

  it('are steered to other lanes while they run', () => {
    const session = (db: number) =>
      withStrips(
        source({
          lanes: {
            fader: [[0, db]],
            pan: [
              [0, 0],
              [9, 1],
            ],
          },
        }),
      );
    const engine = new Engine(engineModule);
    engine.load(compilePlan(session(-6)));
    const run = () => {
      for (let b = 0; b < 40; b++) {
        engine.input(0, 0).fill(1);
        engine.run();
      }
      return dbOf(Math.hypot(engine.output(0, 0)[BLOCK - 1]!, engine.output(0, 1)[BLOCK - 1]!));
    };
    expect(run()).toBeCloseTo(-6, 2);
    engine.steer(new LivePlan(session(-6)).steer(session(-20), [0, 60]));
    expect(run()).toBeCloseTo(-20, 2);
  });
});

describe('curves', () => {
  const at = (times: readonly number[]): Lane => times.map((time) => [time, 0]);
  const drawn = (times: readonly number[], make: (when: When) => readonly number[]) =>
    new CurveDrawing([at(times)], make, RATE, 0).drawWhole();
  it('keep within 0.02 dB of what is wanted, at any time, and are read forward, backward and at leaps alike', () => {
    const wanted = (t: number) => [gainOf(-60 + 60 * Math.sin(t) ** 2), Math.cos(t)];
    const curve: Curve = {
      at: 1,
      ...drawn([0, 0.5, 2, 6], ({ time }) => wanted(Math.max(0, Math.min(6, time))))!,
    };
    const into = new Float32Array(4);
    let cursor = 0;
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 6 * RATE }), (frame) => {
        cursor = readCurve(curve, frame, into, cursor);
        const [gain, pan] = wanted(frame / RATE);
        // 0.02 dB, and what lies under -94 dBFS.
        expect(Math.abs(into[1]! - gain!)).toBeLessThan(2e-5 + gain! * 0.002);
        expect(into[2]).toBeCloseTo(pan!, 3);
        expect([into[0], into[3]]).toEqual([0, 0]);
      }),
      { numRuns: 500 },
    );
  });
  it('are none where nothing moves', () => {
    expect(drawn([0, 1, 2], () => [0.5])).toBeNull();
  });
  it('are the same to the bit whichever of their stretches are drawn first', () => {
    const make = ({ time, side }: When) => [Math.sin(time) + (side === 'after' && time >= 3 ? 1 : 0), time];
    const knots = [0, 1, 2, 3, 4, 7, 9];
    const whole = drawn(knots, make);
    fc.assert(
      fc.property(fc.array(fc.tuple(hundredths(-1, 10), hundredths(0, 4)), { maxLength: 6 }), (spans) => {
        const drawing = new CurveDrawing([at(knots), at([3, 4])], make, RATE, 0);
        for (const [from, length] of spans) {
          // Now and then it is told to stop on the way, and asked again.
          let pieces = 0;
          while (!drawing.draw(from, from + length, () => pieces++ % 2 === 0));
          for (let t = Math.max(0, from); t <= Math.min(9, from + length); t += 0.05) {
            const [part, all] = [new Float32Array(2), new Float32Array(2)];
            readCurve({ at: 0, ...drawing.curve! }, t * RATE, part, 0);
            readCurve({ at: 0, ...whole! }, t * RATE, all, 0);
            expect(part).toEqual(all);
          }
        }
        expect(drawing.drawWhole()).toEqual(whole);
      }),
      { numRuns: 60 },
    );
  });
  it('of a session end where the session at that time stands', () => {
    for (const random of fc.sample(automatedSessions(), { seed: 3, numRuns: 40 })) {
      // What a solo leaves audible is no matter of time.
      const session: Session = {
        ...random,
        strips: random.strips.map((s) => ({ ...s, solo: false })),
        vcas: random.vcas.map((v) => ({ ...v, solo: false })),
      };
      // After the last point of a lane nothing moves: the plan of the session as it then is has the same targets.
      const engine = compilePlan(session);
      const there = compilePlan(standingAt(session, 60));
      const targets = engine.targets.slice();
      for (const c of engine.curves) readCurve(c, 60 * RATE, targets, 0);
      const fixed = new Set(
        engine.curves.flatMap((c) => Array.from({ length: c.count }, (_, i) => c.at + i)),
      );
      targets.forEach((v, i) => {
        if (fixed.has(i) || v !== there.targets[i]) expect(v).toBeCloseTo(there.targets[i]!, 5);
      });
    }
  });
});
