import { describe, expect, it } from 'vitest';
import { decayAt, decaysOf, reverb } from '../core/processors/reverb';
import { SPACES } from '../core/processors/spaces';
import { LivePlan } from '../core/plan/livePlan';
import { Bench, engineModule, impulse, noise, peakOf, sine } from './testing/run';
import {
  band,
  centreTime,
  correlation,
  echoDensity,
  energy,
  octave,
  spectralDeviation,
  t30,
} from './testing/rooms';
import { both, sessionWith } from './testing/through';
import { Engine } from './engine';

const db = (power: number) => 10 * Math.log10(power);
const spaces = SPACES.map((s, i) => [s.name, i] as const);
/** What both sides give for an impulse on both. */
const response = (params: Record<string, number>, seconds: number, rate = 48000) => {
  const n = Math.ceil((seconds * rate) / 128) * 128;
  return both('reverb', { preDelay: 0, ...params }, impulse(n), impulse(n), {}, rate) as [
    Float32Array,
    Float32Array,
  ];
};
const within = (x: number, wanted: number, share: number) =>
  expect(Math.abs(x / wanted - 1)).toBeLessThan(share);

describe('the decay of the reverb', () => {
  it.each(spaces)(
    'of a %s is as long as asked, in every octave, at every size (T30 of ISO 3382-1)',
    (_, character) => {
      for (const [decay, size, bands] of [
        // Of a short decay there is too little in the low octaves to tell its length by.
        [0.3, 200, [1000, 4000]],
        [1, 30, [250, 8000]],
        [2, 200, [500, 2000]],
      ] as const) {
        const sides = response({ character, decay, size, damping: 0 }, decay * 1.1);
        for (const middle of bands) {
          const mean = sides.reduce((s, x) => s + t30(octave(x, middle, 48000), 48000) / 2, 0);
          expect(Math.abs(mean / decay - 1), `${decay} s, ${size} %, ${middle} Hz`).toBeLessThan(0.1);
        }
      }
    },
  );
  it.each([
    [0, 200, 0],
    [0, 50, 60],
    [0, 100, 10],
    [2, 200, 0],
    [2, 140, 30],
  ])(
    'of space %i with low decay %i and damping %i is in every band as the page says',
    (character, lows, damping) => {
      const params = { character, decay: 2, lows, damping };
      const sides = response(params, 1.1 * Math.max(...decaysOf(params)));
      for (const middle of [150, 1000, 4000, 8000]) {
        const mean = sides.reduce(
          (s, x) => s + t30(band(x, middle * 2 ** (-1 / 6), middle * 2 ** (1 / 6), 48000), 48000) / 2,
          0,
        );
        expect(Math.abs(mean / decayAt(middle, params) - 1), `${middle} Hz`).toBeLessThan(0.12);
      }
    },
  );
  it('is shortened at the top by the first tenth of damping already', () => {
    const at8k = [0, 10].map((damping) => {
      const [l] = response({ decay: 2, damping }, 2.4);
      return t30(octave(l, 8000, 48000), 48000);
    });
    expect(at8k[1]! / at8k[0]!).toBeLessThan(0.85);
  });
  it.each([44100, 96000, 192000])('is as long at %s Hz, and as loud', (rate) => {
    const [l] = response({ decay: 1, damping: 0 }, 1.3, rate);
    const [plain] = response({ decay: 1, damping: 0 }, 1.3);
    within(t30(octave(l, 1000, rate), rate), 1, 0.1);
    expect(Math.abs(db(energy(l) / energy(plain)))).toBeLessThan(0.5);
  });
});

describe('the sound of the reverb', () => {
  it.each(spaces)(
    'of a %s is as diffuse as a field can be, without a ring, and its sides have nothing in common',
    (_, character) => {
      for (const [decay, size] of [
        [1.4, 100],
        [3, 100],
        [1.4, 30],
      ] as const) {
        const [l, r] = response({ character, decay, size, damping: 0 }, decay);
        const tail = l.subarray(Math.round(0.1 * 48000));
        expect(
          Math.abs(spectralDeviation(tail, 200, 10000, 48000) - 5.6),
          `${decay} s, ${size} %`,
        ).toBeLessThan(0.6);
        expect(Math.abs(correlation(l, r))).toBeLessThan(0.15);
        const mono = energy(l.map((v, i) => (v + r[i]!) / 2));
        expect(db(mono / ((energy(l) + energy(r)) / 2))).toBeGreaterThan(-3);
      }
    },
  );
  it('of a plate is dense within 20 ms and stays so; of a cathedral it grows dense', () => {
    const [l, r] = response({ decay: 1.8 }, 0.3);
    for (const x of [l, r])
      for (const ms of [20, 30, 40, 60, 100, 200])
        expect(echoDensity(x, ms / 1000, 48000)).toBeGreaterThan(0.9);
    const [late] = response({ character: 4, decay: 1.8 }, 0.3);
    expect(echoDensity(late, 0.03, 48000)).toBeLessThan(0.75);
    // The measure itself: of noise it is 1.
    const even = noise(9600 * 8);
    const gaussian = Float32Array.from({ length: 9600 }, (_, i) =>
      even.subarray(8 * i, 8 * i + 8).reduce((s, v) => s + v),
    );
    expect(Math.abs(echoDensity(gaussian, 0.1, 48000) - 1)).toBeLessThan(0.12);
  });
  it.each(spaces)(
    'of a %s begins within 5 ms of its pre-delay, and to the frame where that says',
    (_, character) => {
      const first = (ms: number) => {
        const [l] = response({ character, preDelay: ms }, 0.4);
        const least = 1e-3 * peakOf(l);
        return l.findIndex((v) => Math.abs(v) > least);
      };
      expect(first(0)).toBeLessThan(240);
      expect(first(100) - first(0)).toBe(4800);
    },
  );
  it.each(spaces)('of a %s keeps its level within 1 dB, whatever its decay and size', (_, character) => {
    const levels = [
      [0.1, 100],
      [0.5, 200],
      [2, 100],
      [8, 30],
      [8, 200],
    ].map(([decay, size]) =>
      db(energy(response({ character, decay: decay!, size: size! }, decay! + 0.3)[0])),
    );
    // Damping takes some of it.
    expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(3);
    const plain = [0.1, 2, 8].map((decay) =>
      db(energy(response({ character, decay, damping: 0 }, decay + 0.3)[0])),
    );
    expect(Math.max(...plain) - Math.min(...plain)).toBeLessThan(1);
  });
  it('tells every space from every other by when its energy comes', () => {
    const times = spaces.map(([, character]) => centreTime(response({ character, decay: 1.5 }, 2)[0], 48000));
    const rising = [...times].sort((a, b) => a - b);
    rising.slice(1).forEach((t, i) => expect(t / rising[i]!).toBeGreaterThan(1.04));
  });
  it('has first reflections as strong as asked', () => {
    const early = [0, 50, 100].map((x) => energy(response({ character: 1, early: x }, 0.02)[0]));
    expect(db(early[2]! / early[1]!)).toBeGreaterThan(5);
    expect(early[0]!).toBeLessThan(early[1]! / 4);
  });
  it('becomes mono at a width of 0, as loud as before', () => {
    const [l, r] = response({ width: 0 }, 0.5);
    const [wide] = response({}, 0.5);
    l.forEach((v, i) => expect(Math.abs(v - r[i]!)).toBeLessThan(1e-6));
    expect(Math.abs(db(energy(l) / energy(wide)))).toBeLessThan(0.7);
  });
  it('is cut by 12 dB an octave', () => {
    const level = (params: Record<string, number>, middle: number) => {
      const [l] = response({ damping: 0, decay: 1, ...params }, 1.2);
      return db(energy(octave(l, middle, 48000)));
    };
    expect(level({ lowCut: 1000 }, 250) - level({}, 250)).toBeLessThan(-21);
    expect(level({ highCut: 2000 }, 8000) - level({}, 8000)).toBeLessThan(-21);
    expect(Math.abs(level({ lowCut: 200, highCut: 8000 }, 1000) - level({}, 1000))).toBeLessThan(0.5);
  });
  it('ducks under what comes in, and comes up behind it', () => {
    const x = sine(300, 48000, 96000, 0.5).map((v, i) => (i < 48000 ? v : 0));
    const [plain, ducked] = [0, 18].map((duck) => both('reverb', { duck, decay: 4 }, x, x)[0]!);
    const over = (a: Float32Array, from: number) => db(energy(a.subarray(from, from + 4800)));
    expect(over(ducked!, 40000) - over(plain!, 40000)).toBeCloseTo(-18, 0);
    expect(over(ducked!, 91000) - over(plain!, 91000)).toBeGreaterThan(-1);
  });
  it('goes from one space to another without a hole', () => {
    const x = noise(48000 * 3, 5).map((v) => v * 0.2);
    const bench = new Bench(
      sessionWith([{ type: 'reverb', params: { decay: 1 } }]),
      { a: [x, x] },
      { capture: ['a'] },
    );
    const plan = new LivePlan(bench.session, { capture: ['a'] });
    bench.run(375);
    bench.engine.steer(
      plan.steer(sessionWith([{ type: 'reverb', params: { decay: 1, character: 2, size: 150 } }]), [0, 10]),
    );
    const out = bench.run(700).a![0]!;
    const levels = Array.from({ length: 90 }, (_, i) => db(energy(out.subarray(i * 960, i * 960 + 960))));
    const mean = levels.slice(60).reduce((a, b) => a + b) / 30;
    for (const l of levels) expect(Math.abs(l - mean)).toBeLessThan(1.5);
  });
});

describe('the reverb as a machine', () => {
  it('gives the same wherever in its rings a sound comes', () => {
    const sound = noise(640);
    const params = { character: 1, preDelay: 33, decay: 2, modulation: 0 };
    const of = (block: number) => {
      const x = new Float32Array((block + 60) * 128);
      // Something before it keeps it awake.
      x[0] = 1e-4;
      const before = both('reverb', params, x, x);
      x.set(sound, block * 128);
      return both('reverb', params, x, x).map((side, c) =>
        side.map((v, i) => v - before[c]![i]!).slice(block * 128, (block + 60) * 128),
      );
    };
    const first = of(1);
    expect(peakOf(first[0]!)).toBeGreaterThan(0.01);
    // Rings of 16, 64, 128 and 256 blocks lie about.
    for (const block of [15, 16, 63, 64, 65, 127, 128, 256])
      of(block).forEach((side, c) => {
        for (let i = 0; i < side.length; i++) expect(Math.abs(side[i]! - first[c]![i]!)).toBeLessThan(1e-5);
      });
  });
  it('is nothing but the dry signal at a mix of 0, and holds no dry signal at 1', () => {
    const x = noise(128 * 40);
    expect(both('reverb', {}, x, x, { mix: 0 })[0]!.every((v, i) => v === x[i])).toBe(true);
    const wet = both('reverb', { preDelay: 20 }, impulse(1280), impulse(1280))[0]!;
    expect(peakOf(wet.subarray(0, 900))).toBe(0);
  });
  it('of one side sounds on both, and not the same', () => {
    const [l, r] = both('reverb', {}, impulse(48000), new Float32Array(48000)) as [
      Float32Array,
      Float32Array,
    ];
    expect(Math.abs(db(energy(l) / energy(r)))).toBeLessThan(3);
    expect(Math.abs(correlation(l, r))).toBeLessThan(0.3);
  });
  it('asks for as many bytes as the engine needs', () => {
    const engine = new Engine(engineModule);
    for (const rate of [8000, 22050, 44100, 48000, 96000, 192000])
      expect(reverb.stateBytes(2, rate)).toBe(engine.stateBytes(reverb, rate));
  });
  it('falls asleep once its tail is over, and wakes as it was when new', () => {
    const n = 128 * 1400;
    const x = new Float32Array(n);
    x[0] = 1;
    x[n - 12800] = 1;
    const [l] = both('reverb', { decay: 0.2 }, x, x) as [Float32Array];
    expect(l.subarray(n - 25600, n - 12800).every((v) => v === 0)).toBe(true);
    expect([...l.subarray(n - 12800)]).toEqual([...l.subarray(0, 12800)]);
  });
  it('stays finite and dies away after noise, silence, full-scale square, denormals, and jumps of every parameter', () => {
    const frames = 128 * 200;
    const x = noise(frames, 3);
    for (let i = 0; i < frames; i++)
      if (i % 3000 > 1500) x[i] = i % 2000 > 1000 ? 1 : i % 500 > 250 ? -1 : 1e-39;
    const of = (params: Record<string, number>) => sessionWith([{ type: 'reverb', params }]);
    const bench = new Bench(of({}), { a: [x, x] }, { capture: ['a'] });
    const settings: Record<string, number>[] = [
      { decay: 20, size: 200, character: 4 },
      { decay: 0.1, size: 30, lowCut: 1000 },
      { damping: 100, highCut: 1000, lows: 200 },
      { preDelay: 250, decay: 20, character: 2 },
      { preDelay: 0, decay: 0.1, damping: 0, duck: 24 },
    ];
    for (const params of settings) {
      bench.change(of(params));
      const [l, r] = bench.run(40).a!;
      expect(l!.every(Number.isFinite) && r!.every(Number.isFinite)).toBe(true);
      expect(peakOf(l!)).toBeLessThan(20);
    }
    bench.change(of({ decay: 0.1 }));
    bench.run(1500);
    expect(peakOf(bench.run(10).a![0]!)).toBe(0);
    expect(bench.engine.faults).toBe(0);
  });
});
