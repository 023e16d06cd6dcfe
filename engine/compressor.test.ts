import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compressedLevel } from '../core/processors/compressor';
import { newInsert, newSend, newSession, newStrip } from '../core/session/defaults';
import type { Session, Strip } from '../core/session/types';
import { Bench, constant, noise, peakOf, play, sine } from './testing/run';

const base = newSession('Compressor');
const source = (id: string, more: Partial<Strip> = {}) =>
  newStrip({ id, kind: 'source', name: id, channels: 2, out: { to: 'main', on: true }, ...more });
const withCompressor = (params: Record<string, number>, key: string | null = null): Session => ({
  ...base,
  strips: [
    source('a', { inserts: [newInsert({ id: 'c', type: 'compressor', params, key })] }),
    source('k', { out: { to: 'main', on: false } }),
    ...base.strips,
  ],
});
const db = (x: number) => 20 * Math.log10(Math.abs(x));

/**
 * The static curve, written out anew: Giannoulis, Massberg and Reiss, "Digital dynamic range compressor design: a
 * tutorial and analysis", JAES 60(6), 2012, equation 4: y = x below the knee, x + (1/R - 1)(x - T + W/2)^2 / (2W) in it,
 * T + (x - T)/R above.
 */
function published(x: number, T: number, R: number, W: number): number {
  if (2 * (x - T) < -W) return x;
  if (W > 0 && 2 * Math.abs(x - T) <= W) return x + ((1 / R - 1) * (x - T + W / 2) ** 2) / (2 * W);
  return T + (x - T) / R;
}

describe('the compressor', () => {
  it('follows the published static curve for every threshold, ratio and knee, within 0.01 dB', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -60, max: 0 }),
        fc.integer({ min: -50, max: -5 }),
        fc.integer({ min: 10, max: 200 }),
        fc.constantFrom(0, 3, 6, 12, 24),
        fc.integer({ min: -12, max: 24 }),
        (x, threshold, tenths, knee, makeUp) => {
          const ratio = tenths / 10;
          const wanted = published(x, threshold, ratio, knee) + makeUp;
          expect(compressedLevel(x, { threshold, ratio, knee }) + makeUp).toBeCloseTo(wanted, 9);
          const held = constant(10 ** (x / 20), 128 * 60);
          const out = play(
            withCompressor({ threshold, ratio, knee, makeUp, attack: 0.1, release: 5 }),
            { a: [held, held] },
            60,
          ).main!;
          for (const side of out) expect(Math.abs(db(side.at(-1)!) - wanted)).toBeLessThan(0.01);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('reaches 1 - 1/e of its gain reduction in the attack time (the paper’s section 2.2: time constant of a step)', () => {
    const attack = 20;
    const step = new Float32Array(48000);
    step.fill(1, 12000);
    const out = play(
      withCompressor({ threshold: -20, ratio: 4, knee: 0, attack, release: 1000 }),
      { a: [step, step] },
      375,
    ).main![0]!;
    const last = -db(out.at(-1)!);
    expect(last).toBeCloseTo(15, 1);
    const reached = -db(out[12000 + Math.round((attack / 1000) * 48000)]!);
    expect(Math.abs(reached / last - (1 - 1 / Math.E))).toBeLessThan(0.01);
  });

  it('lets go to 1/e of its gain reduction in about the release time', () => {
    const release = 100;
    const fall = constant(0.01, 48000);
    fall.fill(1, 0, 12000);
    const out = play(
      withCompressor({ threshold: -20, ratio: 4, knee: 0, attack: 0.1, release }),
      { a: [fall, fall] },
      375,
    ).main![0]!;
    const at = out.findIndex((v, i) => i >= 12010 && -db(v / 0.01) < 15 / Math.E);
    expect(Math.abs((at - 12000) / 48000 / (release / 1000) - 1)).toBeLessThan(0.05);
  });

  it('in RMS detection turns a sine down less than in peak detection, by its crest factor', () => {
    const tone = sine(1000, 48000, 48000);
    const level = (detection: number) => {
      const out = play(
        withCompressor({ threshold: -20, ratio: 20, knee: 0, attack: 100, release: 3000, detection }),
        { a: [tone, tone] },
        375,
      ).main![0]!;
      return db(peakOf(out.subarray(44000)));
    };
    // A sine's RMS level is 10 log10(2) dB below its peak; at 20:1 the gain reduction differs by 19/20 of that.
    expect(level(1) - level(0)).toBeCloseTo((19 / 20) * 10 * Math.log10(2), 1);
  });

  // Common practice, no published source: a ratio of 3:1 keyed by a rhythm that is not heard ducks a tail in that rhythm.
  it('is keyed by a strip that is not heard, and not by what it turns down', () => {
    const params = { threshold: -30, ratio: 3, knee: 0, attack: 0.1, release: 5 };
    const tail = constant(0.5, 128 * 80);
    const pulse = new Float32Array(128 * 80);
    pulse.fill(0.5, 128 * 20, 128 * 40);
    const out = play(withCompressor(params, 'k'), { a: [tail, tail], k: [pulse, pulse] }, 80).main![0]!;
    expect(out[128 * 19]).toBeCloseTo(0.5, 5);
    const ducked = db(0.5) - published(db(0.5), -30, 3, 0);
    expect(db(out[128 * 39]!)).toBeCloseTo(db(0.5) - ducked, 2);
    expect(out[128 * 79]).toBeCloseTo(0.5, 4);
  });

  // Common practice, no published source: taking two beats out of the key lets the tail swell there, in that rhythm.
  it('lets a tail swell where two beats are taken out of its key', () => {
    const beat = 6000;
    const beats = 16;
    const removed = [6, 7];
    const tail = constant(0.5, beat * beats);
    const pulse = new Float32Array(beat * beats);
    for (let b = 0; b < beats; b++) if (!removed.includes(b)) pulse.fill(0.5, b * beat, b * beat + 1200);
    const out = play(
      withCompressor({ threshold: -30, ratio: 3, knee: 0, attack: 5, release: 60 }, 'k'),
      { a: [tail, tail], k: [pulse, pulse] },
      (beat * beats) / 128,
    ).main![0]!;
    const level = (b: number, at: number) => db(out[b * beat + at]!);
    // Ducked in the middle of every beat that is there, by the same amount.
    for (const b of [4, 5, 8, 9]) expect(level(b, 1100)).toBeCloseTo(level(2, 1100), 1);
    // It recovers between beats, and swells to its full level where two are missing.
    expect(level(5, 5900)).toBeGreaterThan(level(5, 1100) + 6);
    expect(level(7, 5900)).toBeGreaterThan(db(0.5) - 0.1);
    expect(level(6, 1100)).toBeGreaterThan(level(5, 1100) + 6);
  });

  it('goes on being keyed when something else is soloed, and stops when the key is muted', () => {
    const params = { threshold: -30, ratio: 3, knee: 0, attack: 0.1, release: 5 };
    const held = constant(0.5, 128 * 40);
    const last = (change: (s: Strip) => Strip) => {
      const session = withCompressor(params, 'k');
      return play(
        { ...session, strips: session.strips.map(change) },
        { a: [held, held], k: [held, held] },
        40,
      ).main![0]!.at(-1)!;
    };
    const ducked = last((s) => s);
    expect(ducked).toBeLessThan(0.2);
    expect(last((s) => (s.id === 'a' ? { ...s, solo: true } : s))).toBe(ducked);
    expect(last((s) => (s.id === 'k' ? { ...s, mute: true } : s))).toBeCloseTo(0.5, 5);
  });

  it('hears its key at the moment at which its own signal stands, also when that has come late', () => {
    // The reverb at a mix of 0 passes the signal and is said to be 300 frames late.
    const session: Session = {
      ...base,
      strips: [
        source('a', {
          inserts: [
            newInsert({ id: 'late', type: 'reverb', mix: 0 }),
            newInsert({
              id: 'c',
              type: 'compressor',
              params: { threshold: -40, knee: 0, attack: 0.1 },
              key: 'k',
            }),
          ],
        }),
        source('k', { out: { to: 'main', on: false } }),
        ...base.strips,
      ],
    };
    const held = constant(0.5, 128 * 20);
    const key = new Float32Array(128 * 20);
    key.fill(0.5, 1000);
    const latencyOf = (i: { type: string }) => (i.type === 'reverb' ? 300 : 0);
    const out = play(session, { a: [held, held], k: [key, key] }, 20, { latencyOf }).main![0]!;
    // The dry reverb's strip is held back by 300 frames, and what keys the compressor after it too.
    expect(out.findIndex((v) => v !== 0)).toBe(300);
    const ducked = out.findIndex((v, i) => i > 310 && v < 0.4999);
    expect(ducked).toBeGreaterThanOrEqual(1300);
    expect(ducked).toBeLessThan(1310);
  });

  // IEC 60268-3: total harmonic distortion is what is left without the fundamental, over all there is.
  it('with its smooth detection does not bend a low tone; with its peaks it does', () => {
    const distortion = (detection: number) => {
      const params = { threshold: -24, ratio: 4, knee: 0, attack: 0.1, release: 20, detection };
      const x = sine(40, 48000, 128 * 1200, 0.5);
      const out = play(withCompressor(params), { a: [x, x] }, 1200).main![0]!.subarray(-48000);
      let [s, c, all] = [0, 0, 0];
      out.forEach((v, i) => {
        s += v * Math.sin((2 * Math.PI * 40 * i) / 48000);
        c += v * Math.cos((2 * Math.PI * 40 * i) / 48000);
        all += v * v;
      });
      return 100 * Math.sqrt(Math.max(0, all - (2 * (s * s + c * c)) / 48000) / all);
    };
    expect(distortion(0)).toBeGreaterThan(3);
    expect(distortion(2)).toBeLessThan(0.5);
  });

  it('lets go after its hold, to the frame', () => {
    for (const hold of [0, 10, 100]) {
      const x = constant(0.001, 128 * 200);
      x.fill(0.5, 0, 6400);
      const params = { threshold: -30, ratio: 4, knee: 0, attack: 0.1, release: 5, hold };
      const out = play(withCompressor(params), { a: [x, x] }, 200).main![0]!;
      const low = out[6410]!;
      const lets = out.findIndex((v, i) => i > 6410 && v > low * 1.0005);
      if (hold > 0) expect(Math.abs(lets - 6400 - hold * 48)).toBeLessThan(4);
      else expect(out[6400 + 480]).toBeGreaterThan(0.0006);
    }
  });

  it('looks ahead: by so much later, and turned down before the peak comes', () => {
    const x = constant(0.01, 128 * 100);
    x.fill(0.5, 6000);
    const params = { threshold: -30, ratio: 20, knee: 0, attack: 1, release: 100, lookAhead: 5 };
    const { main } = play(withCompressor(params), { a: [x, x] }, 100);
    const out = main![0]!;
    expect(out.findIndex((v) => v !== 0)).toBe(240);
    expect(out[6000 + 239]! / 0.01).toBeLessThan(0.2);
    expect(out[6000 + 240]! / 0.5).toBeLessThan(0.2);
  });

  it('makes up for half of what full scale loses, when asked', () => {
    const params = { threshold: -20, ratio: 4, knee: 0, autoMakeUp: 1 };
    const quiet = play(withCompressor(params), { a: [constant(0.001, 12800)] }, 100).main![0]!.at(-1)!;
    // 20 dB over at 4 : 1 loses 15 dB.
    expect(db(quiet / 0.001)).toBeCloseTo(7.5, 2);
  });

  it('keyed through its low cut ignores what lies below it', () => {
    const low = sine(60, 48000, 48000, 0.5);
    const reduction = (keyLowCut: number) => {
      const bench = new Bench(withCompressor({ threshold: -40, keyLowCut }), { a: [low, low] });
      bench.run(375);
      return bench.engine.reduction(0);
    };
    expect(reduction(20)).toBeGreaterThan(15);
    // 12 dB per octave: five octaves below 2 kHz the key stands about 60 dB lower.
    expect(reduction(2000)).toBe(0);
  });

  it('turns both sides down alike when linked, and each by itself when not', () => {
    const loud = constant(1, 12800);
    const soft = constant(0.02, 12800);
    const run = (link: number) =>
      play(
        withCompressor({ threshold: -20, ratio: 4, knee: 0, attack: 0.1, link }),
        { a: [loud, soft] },
        100,
      ).main!.map((c) => c.at(-1)!);
    const [l, r] = run(100) as [number, number];
    expect(db(r / 0.02)).toBeCloseTo(db(l), 3);
    const [, free] = run(0) as [number, number];
    expect(free).toBeCloseTo(0.02, 5);
  });

  it('stays finite and rests at the signal itself after noise, full-scale square, denormals and jumps of every parameter', () => {
    const frames = 128 * 240;
    const x = noise(frames, 5);
    for (let i = 0; i < frames; i++)
      if (i % 3000 > 1500) x[i] = i % 2000 > 1000 ? 1 : i % 500 > 250 ? -1 : 1e-39;
    const bench = new Bench(withCompressor({}), { a: [x, x] });
    const settings: Record<string, number>[] = [
      { threshold: -60, ratio: 20, attack: 0.1, release: 5, knee: 0 },
      { threshold: 0, makeUp: 24 },
      { detection: 1, keyLowCut: 2000, keyHighCut: 200 },
      { attack: 200, release: 3000, link: 0 },
      { ratio: 1, knee: 24 },
    ];
    for (const params of settings) {
      bench.change(withCompressor(params));
      for (const side of bench.run(40).main!) expect(side.every(Number.isFinite)).toBe(true);
    }
    bench.run(4000);
    expect(bench.engine.reduction(0)).toBeLessThan(0.001);
    expect(bench.engine.faults).toBe(0);
  });

  it('passes a send before it untouched', () => {
    const held = constant(0.5, 12800);
    const session = withCompressor({ threshold: -40, attack: 0.1 });
    const out = play(
      {
        ...session,
        strips: session.strips.map((s) =>
          s.id === 'a'
            ? {
                ...s,
                out: { to: 'main', on: false },
                sends: [newSend({ id: 'x', to: 'main', tap: 'input' })],
              }
            : s,
        ),
      },
      { a: [held, held] },
      100,
    ).main![0]!;
    expect(out.at(-1)).toBeCloseTo(0.5, 6);
  });
});
