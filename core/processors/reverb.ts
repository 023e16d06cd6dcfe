import { BLOCK } from '../base/block';
import type { Hertz, Seconds } from '../base/units';
import { shareOf, valueOf, type Parameter, type Params, type Processor } from './description';
import { choice, decibels, frequency, percent, span } from './parameters';
import {
  DIFFUSERS,
  geometryOf,
  LARGEST,
  LINES,
  LONGEST_DIFFUSER,
  LONGEST_LINE,
  LONGEST_REFLECTION,
  REFLECTIONS,
  SPACES,
  type Geometry,
} from './spaces';

const character = choice(
  'character',
  'Character',
  SPACES.map((s) => s.name),
  0,
  { group: 'Space' },
);
const preDelay = span('preDelay', 'Pre-delay', 0, 250, 12, { group: 'Space' });
const decay: Parameter = {
  id: 'decay',
  name: 'Decay',
  unit: 's',
  min: 0.1,
  max: 20,
  default: 1.8,
  law: 'log',
  step: 0.1,
  group: 'Space',
};
const size: Parameter = {
  id: 'size',
  name: 'Size',
  unit: '%',
  min: 30,
  max: 100 * LARGEST,
  default: 100,
  law: 'log',
  step: 1,
  group: 'Space',
};
const damping = percent('damping', 'Damping', 30, 0, 100, { group: 'Tail' });
const lows: Parameter = {
  id: 'lows',
  name: 'Low decay',
  unit: '%',
  min: 50,
  max: 200,
  default: 100,
  law: 'log',
  step: 1,
  group: 'Tail',
};
const modulation = percent('modulation', 'Modulation', 50, 0, 100, { group: 'Tail' });
const duck = decibels('duck', 'Ducking', 0, 24, 0, { group: 'Tail' });
const early = percent('early', 'Early reflections', 50, 0, 100, { group: 'Sound' });
const width = percent('width', 'Width', 100, 0, 100, { group: 'Sound' });
const LOWEST = 20;
const HIGHEST = 20000;
const lowCut = frequency('lowCut', 'Low cut', LOWEST, 1000, LOWEST, { group: 'Sound' });
const highCut = frequency('highCut', 'High cut', 1000, HIGHEST, HIGHEST, { group: 'Sound', step: 10 });

/** Where the bands of the decay meet. */
export const BAND_HERTZ = [300, 4000] as const;
/** At full damping the top decays so many times as fast. */
const MOST_DAMPING = 20;
/** How fast ducking follows what comes in, as the delay's; common practice, no published source. */
const RISES_MS = 5;
const FALLS_MS = 250;
/** In which the walls of another space or size take the place of those before. */
const MOVES_SECONDS = 0.15;
/** In which the cuts, an octave as another, and the level that keeps the energy follow. */
const FOLLOWS_MS = 30;
/** What both sides share keeps their sum from falling by more than 3 dB. */
const WIDEST = 0.95;
/** Level of what a full-scale impulse leaves, all its energy together: +1.8 dB. */
const LEVEL = 1.23;

/** Seconds to -60 dB of lows, mids and highs. */
export function decaysOf(params: Params): readonly [Seconds, Seconds, Seconds] {
  const middle = valueOf(decay, params);
  return [
    (middle * valueOf(lows, params)) / 100,
    middle,
    middle / MOST_DAMPING ** (valueOf(damping, params) / 100),
  ];
}

/** Seconds to -60 dB of a frequency: what is lost a second goes from band to band as filters of first order do. */
export function decayAt(hertz: Hertz, params: Params): Seconds {
  const [low, middle, high] = decaysOf(params);
  const share = (corner: Hertz) => hertz ** 2 / (hertz ** 2 + corner ** 2);
  const lows = share(BAND_HERTZ[0]);
  return 1 / ((1 - lows) / low + lows / middle + share(BAND_HERTZ[1]) * (1 / high - 1 / middle));
}

const powerOfTwo = (n: number) => 2 ** Math.ceil(Math.log2(n));
const ringOf = (seconds: Seconds, sampleRate: Hertz) =>
  powerOfTwo(Math.max(BLOCK, Math.ceil(seconds * sampleRate) + 4));
/** Frames of its rings; the engine computes the same (`reverb.ts` in engine/assembly). */
export const reverbRings = (sampleRate: Hertz) => ({
  line: ringOf(LONGEST_LINE, sampleRate),
  preDelay: ringOf(preDelay.max / 1000, sampleRate),
  diffuser: ringOf(LONGEST_DIFFUSER, sampleRate),
  reflections: ringOf(LONGEST_REFLECTION, sampleRate),
});
/** Numbers of a geometry: the pre-delay, lines, diffusers, reflections with their gains, and three that fill up. */
const GEOMETRY = 1 + LINES + DIFFUSERS + 4 * REFLECTIONS + 3;
/** Bytes of state beside rings and two geometries. */
const HEAD = 320;

/**
 * What makes a filter of first order go from a gain of 1 to another above a corner: chosen so that what it takes away below the
 * corner is the share r^2 / (1 + r^2) of what it does at the top, whatever that is, and so, over lines of different length, every
 * frequency decays alike: half of (w / w_c)^2 (1 - g^2) is -ln g (w / w_0)^2.
 */
const bend = (gain: number) => (gain === 1 ? 1 : Math.sqrt((1 - gain * gain) / (-2 * Math.log(gain))));
function cornerAt(hertz: Hertz, sampleRate: Hertz): number {
  const w = Math.tan((Math.PI * Math.min(0.49 * sampleRate, hertz)) / sampleRate);
  return w / (1 + w);
}

const energyOfReflections = ({ gains }: Geometry) => gains.reduce((s, g) => s + g * g, 0) / 2;
/** Energy that an impulse leaves by the first reflections and by the lines, of one side. */
function energyOf(geometry: Geometry, t60: Seconds, sampleRate: Hertz): number {
  const { lines } = geometry;
  const once = lines.reduce((s, n) => s + 10 ** ((-6 * n) / (t60 * sampleRate)), 0) / LINES;
  return once / (1 - once) + energyOfReflections(geometry);
}
const spaceOf = (params: Params, sampleRate: Hertz) =>
  geometryOf(
    Math.round(valueOf(character, params)),
    valueOf(size, params) / 100,
    valueOf(decay, params),
    sampleRate,
  );
/** What both cuts leave of a frequency's power: Butterworth filters of second order. */
function cutAt(hertz: Hertz, params: Params): number {
  const [low, high] = [valueOf(lowCut, params), valueOf(highCut, params)];
  return (
    (low <= LOWEST ? 1 : 1 / (1 + (low / hertz) ** 4)) * (high >= HIGHEST ? 1 : 1 / (1 + (hertz / high) ** 4))
  );
}

export const reverb: Processor = {
  type: 'reverb',
  name: 'Reverb',
  shortName: 'Reverb',
  about:
    'Puts a signal into a space: a plate that is dense at once, a small room with near walls, a hall, a chamber, or a cathedral that comes late and stays long.',
  parameters: [
    character,
    preDelay,
    decay,
    size,
    damping,
    lows,
    modulation,
    duck,
    early,
    width,
    lowCut,
    highCut,
  ],
  channels: 'joined',
  takesKey: false,
  mixes: true,
  levelDependent: false,
  nonlinear: false,
  ambient: true,
  computes: [
    'A feedback delay network of sixteen lines with a Hadamard matrix, after four allpass diffusers a side (J.-M. Jot and A. Chaigne, “Digital delay networks for designing artificial reverberators”, AES 90th convention, 1991). Twenty first reflections a side are read behind the diffusers.',
    'Eight pairs of lines turn about each other, from 0.3 to 1.5 times a second at a modulation of 50 % and in proportion: the matrix stays unitary, so that nothing of the decay depends on it (S. J. Schlecht and E. A. P. Habets, “Time-varying feedback matrices in feedback delay networks”, JASA 138, 2015).',
    'A line of m frames has the gain 10^(−3m / (T rate)) at every frequency’s T: the decay below 300 Hz is “low decay” times as long, that above 4 kHz shorter by 20^(damping), by two filters of first order whose middles lie there.',
    'The longest line is at most a quarter of the decay; a size that asks for more stops there. Level is kept: the energy that an impulse leaves does not depend on decay or size.',
    'Another space, size or pre-delay takes the place of the one before in 150 ms; the cuts, 12 dB an octave, follow with a time constant of 30 ms, the level that keeps the energy through three of 10 ms. Ducking turns down what is heard as the delay’s does.',
  ],
  measured: [
    'T30 by ISO 3382-1 lies within 10 % of what is asked, in octave bands, at every size, in every space.',
    'Echo density (J. S. Abel and P. Huang, AES 121st convention, 2006) of the plate is above 0.9 from 20 ms on, on both sides; the first sound comes within 5 ms of the pre-delay; at 44.1 to 192 kHz.',
    'Levels of the tail’s spectrum deviate by 5.6 dB within 0.6 dB, as a diffuse field’s do; left and right correlate by less than 0.15, and their sum loses 3 dB at most.',
  ],
  curves: ['decay'],
  decayOf(params) {
    const start = valueOf(preDelay, params) / 1000;
    return [
      [start, 0],
      [start + valueOf(decay, params), -60],
    ];
  },
  packed: false,
  latency: () => 0,
  direct: () => null,
  tail(params, { sampleRate }, channels) {
    const t60 = valueOf(decay, params);
    const geometry = spaceOf(params, sampleRate);
    const { lines } = geometry;
    const reflected = (energyOfReflections(geometry) * valueOf(early, params) ** 2) / 2500;
    let power = 0;
    const count = 64;
    for (let k = 0; k < count; k++) {
      const hertz = ((k + 0.5) * sampleRate) / 2 / count;
      const seconds = decayAt(hertz, params);
      const once = lines.reduce((s, n) => s + 10 ** ((-6 * n) / (seconds * sampleRate)), 0) / LINES;
      const cut = cutAt(hertz, params);
      power += (cut * (once / (1 - once) + reflected)) / count;
    }
    power *= LEVEL ** 2 / energyOf(geometry, t60, sampleRate);
    const w = (WIDEST * valueOf(width, params)) / 100;
    // Of one channel both sides are added.
    if (channels === 1) return { matrix: [(power * 2) / (1 + w * w), 0, 0, 0] };
    return { matrix: [power / 2, power / 2, power / 2, power / 2] };
  },
  // Each ring has its first block once more behind its last.
  stateBytes(_channels, sampleRate) {
    const rings = reverbRings(sampleRate);
    return (
      HEAD +
      8 * GEOMETRY +
      4 *
        (LINES * (rings.line + BLOCK) +
          2 * (rings.preDelay + BLOCK) +
          DIFFUSERS * (rings.diffuser + BLOCK) +
          2 * (rings.reflections + BLOCK))
    );
  },
  leaps: ['preDelay', 'lines', 'diffusers', 'reflections', 'reflectionGains', 'lowCut', 'highCut', 'level'],
  engineParams(params, { sampleRate }) {
    const t60 = valueOf(decay, params);
    const [low, middle, high] = decaysOf(params);
    const geometry = spaceOf(params, sampleRate);
    const { lines } = geometry;
    const mean = lines.reduce((sum, n) => sum + n, 0) / LINES / sampleRate;
    const gainOf = (frames: number, seconds: Seconds) => 10 ** ((-3 * frames) / (seconds * sampleRate));
    const middles = lines.map((n) => gainOf(n, middle));
    const highs = lines.map((n) => gainOf(n, high));
    const bass = lines.map((n, i) => gainOf(n, low) / middles[i]!);
    const level = LEVEL / Math.sqrt(energyOf(geometry, t60, sampleRate));
    // Both sides keep their power when they come together.
    const w = (WIDEST * valueOf(width, params)) / 100;
    const sides = Math.sqrt((1 + w * w) / 2);
    const cut = (hertz: Hertz) => Math.tan((Math.PI * Math.min(hertz, 0.45 * sampleRate)) / sampleRate);
    const top = valueOf(highCut, params);
    return {
      /** Frames. */
      preDelay: Math.round((valueOf(preDelay, params) / 1000) * sampleRate),
      lines,
      diffusers: geometry.diffusers,
      reflections: geometry.reflections,
      reflectionGains: geometry.gains,
      /** tan(pi f / fs); 0 where nothing is cut. */
      lowCut: valueOf(lowCut, params) <= LOWEST ? 0 : cut(valueOf(lowCut, params)),
      highCut: top >= HIGHEST ? 0 : cut(top),
      /** Of each line: gain of the mids, of the highs, and what the lows have more; corners between them. */
      middles,
      highs,
      bass,
      corners: middles.map((m, i) => cornerAt(BAND_HERTZ[1] * bend(highs[i]! / m), sampleRate)),
      bassCorners: bass.map((b) => cornerAt(BAND_HERTZ[0] / bend(b), sampleRate)),
      level,
      early: valueOf(early, params) / 50,
      own: (1 + w) / 2 / sides,
      other: (1 - w) / 2 / sides,
      /** Turns of the pairs, in radians a frame, for the slowest. */
      turns:
        (2 * Math.PI * 0.3 * valueOf(modulation, params) * Math.max(1, (0.035 / mean) ** 0.9)) /
        50 /
        sampleRate,
      duck: valueOf(duck, params),
      rises: shareOf(RISES_MS, sampleRate),
      falls: shareOf(FALLS_MS, sampleRate),
      /** Frames in which walls move; what a block keeps of the way of cuts and level. */
      moves: Math.round(MOVES_SECONDS * sampleRate),
      follows: Math.exp((-BLOCK / sampleRate / FOLLOWS_MS) * 1000),
    };
  },
};
