import { BLOCK } from '../base/block';
import type { Hertz } from '../base/units';
import { valueOf, type Parameter, type Params, type Processor } from './description';
import { choice, percent, span } from './parameters';

const character = choice('character', 'Character', ['Plate', 'Room', 'Hall'], 0, { group: 'Space' });
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
const damping = percent('damping', 'Damping', 30, 0, 100, { group: 'Space' });
const size: Parameter = {
  id: 'size',
  name: 'Size',
  unit: '%',
  min: 30,
  max: 200,
  default: 100,
  law: 'log',
  step: 1,
  group: 'Walls',
};
const early = percent('early', 'Early reflections', 50, 0, 100, { group: 'Walls' });

/** Delay lines of the network, in frames at 48 kHz and 100 % size: primes between 30 and 58 ms, so that no two echo together. */
export const REVERB_LINES = [1433, 1601, 1867, 2053, 2251, 2399, 2617, 2797] as const;
/** First reflections, in milliseconds at 100 % size: left, then right; chosen by ear, at distances that share no divisor. */
const EARLY_MS = [7.3, 13.1, 19.9, 29.3, 37.9, 8.9, 11.7, 23.3, 31.1, 41.3] as const;

/** What sets the spaces apart; our own values, chosen by ear. */
interface Character {
  /** Factor of the lines' lengths: how far its walls stand apart. */
  readonly lines: number;
  /** Factor of the diffusers' lengths: how quickly echoes become dense. */
  readonly diffusion: number;
  /** Level and distance of first reflections; a plate has none. */
  readonly early: number;
  readonly distance: number;
}
const CHARACTERS: readonly Character[] = [
  { lines: 1, diffusion: 1, early: 0, distance: 1 },
  { lines: 0.55, diffusion: 0.6, early: 0.7, distance: 0.6 },
  { lines: 1, diffusion: 1, early: 0.35, distance: 1.6 },
];
/** A hall's lines at 100 % size are as long as a plate's at this one. */
const HALL_LINES = 1.45;
const characterOf = (params: Params) => CHARACTERS[Math.round(valueOf(character, params))]!;

const powerOfTwo = (n: number) => 2 ** Math.ceil(Math.log2(n));

/** Frames of the ring that holds all lines; the engine computes the same (`reverb.ts` in engine/assembly). */
export const reverbRing = (sampleRate: Hertz) =>
  powerOfTwo(Math.ceil((2797 * 2 * HALL_LINES * sampleRate) / 48000) + 4);
/** The pre-delay's ring holds the first reflections too: 250 ms and 41.3 ms * 1.6 * 2. */
export const reverbPreDelayRing = (sampleRate: Hertz) => powerOfTwo(Math.ceil(0.4 * sampleRate) + 4);
export const reverbDiffuserRing = (sampleRate: Hertz) =>
  powerOfTwo(Math.max(BLOCK, Math.ceil((353 * sampleRate) / 48000) + 4));

/**
 * A feedback delay network of eight lines with a Hadamard matrix, after four allpass diffusers a channel.
 * Each line of m frames has the gain 10^(-3 m / (T60 fs)) and a one-pole low-pass whose gain at half the sample rate
 * makes the decay there as long as asked by the damping: Jot and Chaigne, "Digital delay networks for designing
 * artificial reverberators", AES 90th convention, 1991, equations for the absorbent filters. A room and a hall have first
 * reflections before the tail; a plate is dense from its first moment.
 */
export const reverb: Processor = {
  type: 'reverb',
  name: 'Reverb',
  shortName: 'Reverb',
  about:
    'Puts a signal into a space: a plate that is dense at once, a small room, or a hall with first reflections and a late, wide tail.',
  parameters: [character, preDelay, decay, damping, size, early],
  channels: 'joined',
  takesKey: false,
  mixes: true,
  levelDependent: false,
  nonlinear: false,
  ambient: true,
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
  // Each ring has its first block once more behind its last.
  stateBytes: (_channels, sampleRate) =>
    112 +
    4 *
      (8 * (reverbRing(sampleRate) + BLOCK) +
        2 * (reverbPreDelayRing(sampleRate) + BLOCK) +
        8 * (reverbDiffuserRing(sampleRate) + BLOCK)),
  engineParams(params, { sampleRate }) {
    const kind = characterOf(params);
    const t60 = valueOf(decay, params);
    const walls = valueOf(size, params) / 100;
    const hall = Math.round(valueOf(character, params)) === 2 ? HALL_LINES : 1;
    const scale = walls * kind.lines * hall * (sampleRate / 48000);
    // At full damping the top decays 20 times as fast as the bottom.
    const topT60 = t60 * (1 - (0.95 * valueOf(damping, params)) / 100);
    const lengths = REVERB_LINES.map((n) => Math.max(8, Math.round(n * scale)));
    const gains = lengths.map((n) => 10 ** ((-3 * n) / (t60 * sampleRate)));
    const poles = lengths.map((n, i) => {
      const ratio = 10 ** ((-3 * n) / (topT60 * sampleRate)) / gains[i]!;
      return (1 - ratio) / (1 + ratio);
    });
    const pre = Math.round((valueOf(preDelay, params) / 1000) * sampleRate);
    const taps = EARLY_MS.map((ms) => Math.round((ms / 1000) * kind.distance * walls * sampleRate));
    return {
      /** Frames, as the lines' lengths and the taps. */
      preDelay: pre,
      lengths,
      gains,
      poles,
      diffusion: kind.diffusion,
      /** Level of the first reflections. */
      early: (kind.early * valueOf(early, params)) / 50,
      taps,
    };
  },
};
