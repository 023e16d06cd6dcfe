import { describe, expect, it } from 'vitest';
import { processors } from '../core/processors/registry';
import { LivePlan } from '../core/plan/livePlan';
import { SHIPPED_PRESETS } from '../core/settings/shipped';
import type { Parameter } from '../core/processors/description';
import { clicks, clicksBetween, clicksUnder, db, put, still, tone } from './testing/clicks';
import { Bench } from './testing/run';
import { sessionWith } from './testing/through';

const stems = tone();

/** Processors whose every control is held to it. */
const HELD = [
  'equalizer',
  'compressor',
  'gate',
  'deEsser',
  'limiter',
  'gain',
  'stereo',
  'delay',
  'chorus',
  'reverb',
  'saturation',
  'pitch',
];
/** A gate opens within its attack, half a millisecond: that is a little more than what its controls leave. */
const mostOf = (type: string) => (type === 'gate' ? -70 : -74);

describe.each(processors.filter((p) => HELD.includes(p.type)).map((p) => [p.type, p] as const))(
  '%s',
  (type, p) => {
    it('does not click, whatever control goes from one end to the other, by a lane or by hand', () => {
      const moves: [string, number, number][] = [
        ['on', 1, 0],
        ['on', 0, 1],
        ...(p.mixes ? ([['mix', 1, 0]] as [string, number, number][]) : []),
      ];
      for (const q of p.parameters) {
        if (q.latent) continue;
        if (q.choices && q.choices.length > 2)
          for (let i = 0; i < q.choices.length; i++) moves.push([q.id, i, (i + 1) % q.choices.length]);
        else moves.push([q.id, q.min, q.max], [q.id, q.max, q.min]);
      }
      for (const [control, from, to] of moves) {
        // Bands that are off by themselves are switched on, so that there is something to be heard.
        const group = p.parameters.find((q) => q.id === control)?.group;
        const on = p.parameters.filter((q) => q.id.endsWith('On') && q.group === group && q.id !== control);
        const params = Object.fromEntries(on.map((q) => [q.id, 1]));
        for (const level of clicks({ type, params }, control, from, to))
          expect(level, `${control}: ${from} to ${to}`).toBeLessThan(mostOf(type));
      }
    });
  },
);

const expectQuiet = (levels: readonly number[], most: number, what: string) => {
  for (const level of levels) expect(level, what).toBeLessThan(most);
};

// At 0 dB a band that leaps is not heard at all: here it has something to say.
describe('a band of the equalizer that lifts or lowers', () => {
  const leaps = [
    [20, 20000],
    [20000, 20],
    [100, 10000],
    [200, 2000],
    [1000, 1180],
  ] as const;
  it.each([
    [12, 0.7],
    [12, 4],
    [-12, 0.7],
    [-12, 40],
    [24, 4],
  ])('a bell of %d dB, Q %d: does not click where its frequency leaps, or it is switched', (gain, q) => {
    const params = { bell1On: 1, bell1Gain: gain, bell1Q: q };
    for (const [from, to] of leaps)
      expectQuiet(clicks({ type: 'equalizer', params }, 'bell1Frequency', from, to), -70, `${from} to ${to}`);
    for (const [from, to] of [
      [0, 1],
      [1, 0],
    ] as const)
      expectQuiet(
        clicks({ type: 'equalizer', params: { ...params, bell1Frequency: 100 } }, 'bell1On', from, to),
        -70,
        `${from} to ${to}`,
      );
  });
  it.each(['lowShelf', 'highShelf'])('a %s likewise', (band) => {
    for (const gain of [12, -12])
      for (const [from, to] of leaps)
        expectQuiet(
          clicks(
            { type: 'equalizer', params: { [`${band}On`]: 1, [`${band}Gain`]: gain } },
            `${band}Frequency`,
            from,
            to,
          ),
          -70,
          `${gain} dB: ${from} to ${to}`,
        );
  });
  it('is what it was asked to be once it has leapt, and follows a hand that does not let go', () => {
    const of = (hertz: number, gain = 12) => {
      const params = { bell1On: 1, bell1Gain: gain, bell1Q: 2, bell1Frequency: hertz };
      return sessionWith([{ type: 'equalizer', params }]);
    };
    const bench = new Bench(of(100), stems, { capture: ['a'] });
    bench.run(100);
    const plan = new LivePlan(of(100), { capture: ['a'] });
    const steer = (hertz: number, gain = 12) => bench.engine.steer(plan.steer(of(hertz, gain), [0, 10]));
    // Leaps, then smaller and smaller steps, each before the one before it has arrived.
    let blocks = 100;
    for (const hertz of [8000, 5000, 300, 330, 350, 360, 365]) {
      steer(hertz);
      bench.run(3);
      blocks += 3;
    }
    steer(365, -9);
    bench.run(120);
    const moved = bench.run(40).a![0]!;
    const still = new Bench(of(365, -9), stems, { capture: ['a'] });
    still.run(blocks + 120);
    const wanted = still.run(40).a![0]!;
    expect(db(moved.reduce((most, v, i) => Math.max(most, Math.abs(v - wanted[i]!)), 0))).toBeLessThan(-100);
  });
});

// Settings at which these once left up to -65 dBFS: loud ones, a short look-ahead, numbers of many lines that leap together.
it.each([
  ['compressor', 'makeUp', 24, -6, { threshold: -24, ratio: 9, release: 3000, lookAhead: 3 }],
  ['limiter', 'gain', -7.5, 14.3, { gain: 14, ceiling: 0, lookAhead: 0.86, link: 55 }],
  ['limiter', 'ceiling', 0, -24, { gain: 19, lookAhead: 3 }],
  ['limiter', 'ceiling', -24, 0, { gain: 24, lookAhead: 0.5, release: 5 }],
  ['reverb', 'character', 4, 0, { decay: 0.26, lows: 200, early: 84, width: 3, highCut: 9230 }],
  ['reverb', 'decay', 0.1, 20, { lows: 50, damping: 0 }],
  ['reverb', 'size', 30, 200, { decay: 0.2 }],
  ['delay', 'time', 1, 2000, { feedback: 95 }],
  ['delay', 'time', 2000, 1, { feedback: 95, drive: 100 }],
  ['gain', 'gain', -60, 24, {}],
  ['deEsser', 'mode', 2, 0, { frequency: 2000 }],
  ['dynamicEqualizer', 'bell1Frequency', 100, 20000, { listen: 2, bell1Q: 12 }],
  ['dynamicEqualizer', 'lowShelfFrequency', 100, 20000, { listen: 1 }],
  ['dynamicEqualizer', 'highShelfFrequency', 20, 20000, { listen: 4 }],
  ['dynamicEqualizer', 'bell1Q', 12, 0.1, { listen: 2, bell1Frequency: 100 }],
  ['deEsser', 'frequency', 1500, 10946, { mode: 2, release: 6.7 }],
  ['deEsser', 'frequency', 14000, 1500, { mode: 2 }],
  [
    'compressor',
    'ratio',
    1,
    13.3,
    { threshold: -60, knee: 0, attack: 0.1, hold: 187, detection: 2, keyHighCut: 203 },
  ],
  [
    'compressor',
    'keyLowCut',
    1017,
    20,
    { threshold: -52.6, attack: 0.4, hold: 500, detection: 2, lookAhead: 9.7 },
  ],
  ['compressor', 'knee', 24, 0, { threshold: -20, ratio: 20, attack: 0.1, hold: 100 }],
  ['gate', 'threshold', 0, -70, { range: 79, hysteresis: 0, attack: 0.05 }],
  ['gate', 'keyLowCut', 709, 41, { threshold: -26, ratio: 100, range: 90, attack: 0.05, hold: 500 }],
  ['gate', 'keyLowCut', 20, 1401, { threshold: -17, ratio: 2.5, range: 87, release: 5, keyHighCut: 621 }],
  ['equalizer', 'highCutSlope', 0, 5, { highCutOn: 1, highCutFrequency: 4191 }],
  ['equalizer', 'highShelfOn', 0, 1, { highShelfGain: 24, highShelfQ: 40, highShelfFrequency: 8000 }],
  ['equalizer', 'bell1Frequency', 103, 5010, { bell1On: 1, bell1Gain: 24, bell1Q: 12 }],
] as const)('%s: %s from %d to %d leaves next to nothing behind', (type, control, from, to, params) => {
  expectQuiet(clicks({ type, params }, control, from, to), -80, control);
});

// At wide rates what goes over in as many frames is over sooner.
it.each([
  ['gain', 'gain', 24, -60, {}],
  ['compressor', 'makeUp', 24, -12, {}],
  ['saturation', 'drive', 24, 0, {}],
  ['saturation', 'drive', 0, 24, {}],
  ['equalizer', 'bell4Gain', -24, 24, { bell4On: 1 }],
  ['equalizer', 'bell1Frequency', 100, 10000, { bell1On: 1, bell1Gain: 12 }],
  ['equalizer', 'highCutSlope', 4, 5, { highCutOn: 1 }],
  ['limiter', 'gain', -12, 24, {}],
  ['limiter', 'ceiling', 0, -24, {}],
  ['delay', 'time', 1, 2000, {}],
  ['reverb', 'character', 3, 4, {}],
  ['chorus', 'time', 2, 40, {}],
  ['deEsser', 'frequency', 1500, 10946, { mode: 2, release: 6.7 }],
  ['compressor', 'keyLowCut', 1017, 20, { threshold: -52.6, attack: 0.4, hold: 500, detection: 2 }],
  ['gate', 'threshold', 0, -70, { range: 79, hysteresis: 0, attack: 0.05 }],
  ['gate', 'keyLowCut', 20, 1401, { threshold: -17, ratio: 2.5, range: 87, release: 5, keyHighCut: 621 }],
] as const)('%s: %s from %d to %d likewise at 44.1, 96 and 192 kHz', (type, control, from, to, params) => {
  for (const rate of [44100, 96000, 192000])
    expectQuiet(clicks({ type, params }, control, from, to, rate), -74, `${rate}`);
});

describe('a level that is kept', () => {
  it('does not leap behind a drive that does', () => {
    for (const character of [0, 1, 2, 3])
      for (const [from, to] of [
        [24, 0],
        [0, 24],
        [6, 12],
      ] as const) {
        const params = { character, keep: 1, bias: 60 };
        const at = (drive: number) => still({ type: 'saturation', params: { ...params, drive } });
        // What the curve itself makes of the tone lies above that for the dirtier end.
        const most = Math.max(-70, at(from), at(to)) + 3;
        expectQuiet(
          clicks({ type: 'saturation', params }, 'drive', from, to),
          most,
          `${character}: ${from} to ${to}`,
        );
      }
  });
  it('is kept at once: no burst comes where the drive goes from full to none', () => {
    const of = (drive: number) => sessionWith([{ type: 'saturation', params: { drive, keep: 1 } }]);
    const bench = new Bench(of(24), stems, { capture: ['a'] });
    bench.run(188);
    const plan = new LivePlan(of(24), { capture: ['a'] });
    bench.engine.steer(plan.steer(of(0), [0, 10]));
    const highestSample = bench.run(60).a![0]!.reduce((most, v) => Math.max(most, Math.abs(v)), 0);
    // Without drive the tone is 0.5.
    expect(highestSample).toBeLessThan(0.56);
  });
});

it.each([
  ['lowCut', 291, 20],
  ['lowCut', 20, 291],
  ['highCut', 500, 20000],
  ['highCut', 20000, 500],
] as const)('short repeats do not click where %s of their loop goes from %d to %d', (id, from, to) => {
  for (const [feedback, drive] of [
    [40, 0],
    [85, 0],
    [85, 49],
  ] as const)
    expectQuiet(
      clicks({ type: 'delay', params: { time: 2, feedback, drive, duck: 0 } }, id, from, to),
      -70,
      `${feedback} ${drive}`,
    );
});

// Rounding and holding make what lies above 4 kHz by themselves: a leap may leave no more than the noisier of its two ends does.
describe('bits and rate', () => {
  const all = { bits: 12, rate: 48000, dither: 0 };
  it.each([
    ['bits', 24, 1],
    ['bits', 1, 24],
    ['bits', 16, 12],
    ['bits', 8, 9],
    ['rate', 48000, 500],
    ['rate', 500, 48000],
    ['rate', 8000, 11025],
    ['dither', 0, 1],
    ['dither', 1, 0],
  ] as const)('%s from %d to %d leaves no more above 4 kHz than it does when it stands', (id, from, to) => {
    const params = { ...all, ...(id === 'rate' ? { bits: 24 } : {}) };
    const ends = [from, to].map((v) => still({ type: 'crusher', params: { ...params, [id]: v } }));
    for (const level of clicks({ type: 'crusher', params }, id, from, to))
      expect(level).toBeLessThan(Math.max(-70, ...ends) + 1);
  });
  it.each([
    ['on', 1, 0],
    ['on', 0, 1],
    ['mix', 1, 0],
    ['mix', 0, 1],
  ] as const)('%s from %d to %d likewise', (id, from, to) => {
    const most = Math.max(-70, still({ type: 'crusher', params: all }));
    for (const level of clicks({ type: 'crusher', params: all }, id, from, to))
      expect(level).toBeLessThan(most + 1);
  });
});

describe('presets that are flicked through', () => {
  const kept = SHIPPED_PRESETS.flatMap((q) => (q.kind === 'processor' ? [q.insert] : []));
  it.each([...new Set(kept.map(({ type }) => type))])('of the %s do not click', (type) => {
    const all = [...kept.filter((q) => q.type === type), { type }];
    expect(all.length).toBeGreaterThan(1);
    for (const from of all)
      for (const to of all) if (from !== to) expect(clicksBetween(from, to)).toBeLessThan(-75);
  });
});

/** Numbers that are the same each time. */
function chosen(seed: number) {
  let state = seed;
  const share = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  return {
    share,
    /** A value of a control: at one of its ends now and then, else anywhere, of wide ones by their ratio. */
    of(q: Parameter, least = q.min, most = q.max): number {
      if (q.choices) return Math.floor(share() * q.choices.length);
      if (share() < 0.2) return share() < 0.5 ? least : most;
      const at = share();
      return least > 0 && most / least > 50 ? least * (most / least) ** at : least + (most - least) * at;
    },
  };
}

// The settings that a processor comes with are kind ones: an attack of a tenth of a millisecond, a release of five and a key's cut that
// leaps are not, and once left up to -31 dBFS.
describe.each(processors.map((p) => [p.type, p] as const))('%s, set at random', (type, p) => {
  it('leaves no more than its settings do by themselves, or -70 dB, whatever control goes wherever', () => {
    const pick = chosen(type.length * 77 + 5);
    const bands = [...new Set(p.parameters.map((q) => q.group))];
    for (let k = 0; k < 40; k++) {
      const rate = [48000, 44100, 96000, 192000][Math.floor(k / bands.length) % 4]!;
      // Of an equalizer one band at a time: those behind it would lift what a band leaves by 24 dB each.
      const group = type === 'equalizer' ? bands[k % bands.length] : null;
      const mine = p.parameters.filter((q) => group === null || q.group === group);
      // A resonance of a Q over 12 with 24 dB of lift rings at whatever comes.
      const valueOf = (q: Parameter) => (q.id.endsWith('Q') ? pick.of(q, q.min, 12) : pick.of(q));
      const params = Object.fromEntries(
        mine
          .filter((q) => q.id.endsWith('On') || pick.share() < 0.7)
          .map((q) => [q.id, q.id.endsWith('On') ? 1 : valueOf(q)]),
      );
      const movable = mine.filter((q) => !q.latent);
      const q = movable[Math.floor(pick.share() * movable.length)]!;
      const [from, to] = [valueOf(q), valueOf(q)];
      const insert = { type, params };
      const worst = Math.max(...clicksUnder(insert, q.id, from, to, rate));
      if (worst < -70) continue;
      const ends = [from, to].map((v) => still(put(insert, q.id, v), rate));
      expect(worst, `${rate}, ${q.id}: ${from} to ${to}, ${JSON.stringify(params)}`).toBeLessThan(
        // What turns rounding into whole steps leaves more than others from one of its steps to the next.
        Math.max(-70, ...ends) + 6,
      );
    }
  });
});
