import type { Parameter, Processor } from './description';
import { valueOf } from './description';

const preDelay: Parameter = {
  id: 'preDelay',
  name: 'Pre-delay',
  unit: 'ms',
  min: 0,
  max: 250,
  default: 12,
  law: 'linear',
  step: 1,
};
const decay: Parameter = {
  id: 'decay',
  name: 'Decay',
  unit: 's',
  min: 0.1,
  max: 20,
  default: 1.8,
  law: 'log',
  step: 0.1,
};
const damping: Parameter = {
  id: 'damping',
  name: 'Damping',
  unit: '%',
  min: 0,
  max: 100,
  default: 30,
  law: 'linear',
  step: 1,
};
const size: Parameter = {
  id: 'size',
  name: 'Size',
  unit: '%',
  min: 30,
  max: 200,
  default: 100,
  law: 'log',
  step: 1,
};

/** Delay lines of the network, in frames at 48 kHz and 100 % size: primes between 30 and 58 ms, so that no two echo together. */
export const REVERB_LINES = [1433, 1601, 1867, 2053, 2251, 2399, 2617, 2797] as const;

const powerOfTwo = (n: number) => 2 ** Math.ceil(Math.log2(n));

/** Frames of the ring that holds all lines; the engine computes the same (`reverb.ts` in engine/assembly). */
export const reverbRing = (sampleRate: number) => powerOfTwo(Math.ceil((2797 * 2 * sampleRate) / 48000) + 4);
export const reverbPreDelayRing = (sampleRate: number) => powerOfTwo(Math.ceil(0.25 * sampleRate) + 4);
export const reverbDiffuserRing = (sampleRate: number) =>
  powerOfTwo(Math.ceil((353 * sampleRate) / 48000) + 4);

/**
 * A feedback delay network of eight lines with a Hadamard matrix, after four allpass diffusers a channel.
 * Each line of m frames has the gain 10^(-3 m / (T60 fs)) and a one-pole low-pass whose gain at half the sample rate
 * makes the decay there as long as asked by the damping: Jot and Chaigne, "Digital delay networks for designing
 * artificial reverberators", AES 90th convention, 1991, equations for the absorbent filters.
 */
export const reverb: Processor = {
  type: 'reverb',
  name: 'Reverb',
  shortName: 'Reverb',
  parameters: [preDelay, decay, damping, size],
  takesKey: false,
  levelDependent: false,
  ambient: true,
  engineCode: 1,
  latency: () => 0,
  direct: () => null,
  stateBytes: (_channels, sampleRate) =>
    64 +
    reverbRing(sampleRate) * 8 * 4 +
    reverbPreDelayRing(sampleRate) * 2 * 4 +
    reverbDiffuserRing(sampleRate) * 8 * 4 +
    64,
  engineParams(params, sampleRate) {
    const t60 = valueOf(decay, params);
    const scale = (valueOf(size, params) / 100) * (sampleRate / 48000);
    // At full damping the top decays 20 times as fast as the bottom.
    const topT60 = t60 * (1 - (0.95 * valueOf(damping, params)) / 100);
    const lengths = REVERB_LINES.map((n) => Math.max(8, Math.round(n * scale)));
    const gains = lengths.map((n) => 10 ** ((-3 * n) / (t60 * sampleRate)));
    const poles = lengths.map((n, i) => {
      const ratio = 10 ** ((-3 * n) / (topT60 * sampleRate)) / gains[i]!;
      return (1 - ratio) / (1 + ratio);
    });
    return [Math.round((valueOf(preDelay, params) / 1000) * sampleRate), ...lengths, ...gains, ...poles];
  },
};
