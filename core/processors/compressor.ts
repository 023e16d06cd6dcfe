import { gainOf } from '../levels/decibels';
import { cut } from './cut';
import { valueOf, type Parameter, type Processor } from './description';

const threshold: Parameter = {
  id: 'threshold',
  name: 'Threshold',
  unit: 'dB',
  min: -60,
  max: 0,
  default: -18,
  law: 'linear',
  step: 0.5,
};
const ratio: Parameter = {
  id: 'ratio',
  name: 'Ratio',
  unit: 'ratio',
  min: 1,
  max: 20,
  default: 3,
  law: 'log',
  step: 0.1,
};
const knee: Parameter = {
  id: 'knee',
  name: 'Knee',
  unit: 'dB',
  min: 0,
  max: 24,
  default: 6,
  law: 'linear',
  step: 0.5,
};
const attack: Parameter = {
  id: 'attack',
  name: 'Attack',
  unit: 'ms',
  min: 0.1,
  max: 200,
  default: 10,
  law: 'log',
  step: 0.1,
};
const release: Parameter = {
  id: 'release',
  name: 'Release',
  unit: 'ms',
  min: 5,
  max: 3000,
  default: 120,
  law: 'log',
  step: 1,
};
const makeUp: Parameter = {
  id: 'makeUp',
  name: 'Make-up',
  unit: 'dB',
  min: -12,
  max: 24,
  default: 0,
  law: 'linear',
  step: 0.5,
};
const detection: Parameter = {
  id: 'detection',
  name: 'Detection',
  unit: 'choice',
  choices: ['Peak', 'RMS'],
  min: 0,
  max: 1,
  default: 0,
  law: 'linear',
  step: 1,
};
const link: Parameter = {
  id: 'link',
  name: 'Stereo link',
  unit: '%',
  min: 0,
  max: 100,
  default: 100,
  law: 'linear',
  step: 1,
};
const keyLowCut: Parameter = {
  id: 'keyLowCut',
  name: 'Key low cut',
  unit: 'Hz',
  min: 20,
  max: 2000,
  default: 20,
  law: 'log',
  step: 1,
};
const keyHighCut: Parameter = {
  id: 'keyHighCut',
  name: 'Key high cut',
  unit: 'Hz',
  min: 200,
  max: 20000,
  default: 20000,
  law: 'log',
  step: 10,
};

/** Time constant of the mean square that RMS detection reads; common practice, no published source. */
const RMS_SECONDS = 0.01;

/**
 * Level that the gain computer asks for, in decibels: Giannoulis, Massberg and Reiss, "Digital dynamic range compressor
 * design: a tutorial and analysis", J. Audio Eng. Soc. 60(6), 2012, equation 4.
 */
export function compressedLevel(
  level: number,
  p: { readonly threshold: number; readonly ratio: number; readonly knee: number },
): number {
  const over = level - p.threshold;
  if (2 * over < -p.knee) return level;
  if (2 * Math.abs(over) <= p.knee && p.knee > 0)
    return level + ((1 / p.ratio - 1) * (over + p.knee / 2) ** 2) / (2 * p.knee);
  return p.threshold + over / p.ratio;
}

/**
 * A feed-forward compressor with its detector in the log domain: the gain computer of equation 4 and the smooth
 * decoupled detector of equation 17 of the same paper.
 */
export const compressor: Processor = {
  type: 'compressor',
  name: 'Compressor',
  shortName: 'Comp',
  parameters: [threshold, ratio, knee, attack, release, makeUp, detection, link, keyLowCut, keyHighCut],
  takesKey: true,
  levelDependent: true,
  reductionAt: (level, params) =>
    level -
    compressedLevel(level, {
      threshold: valueOf(threshold, params),
      ratio: valueOf(ratio, params),
      knee: valueOf(knee, params),
    }),
  ambient: false,
  engineCode: 2,
  latency: () => 0,
  direct: (params) => ({ delay: 0, gain: gainOf(valueOf(makeUp, params)) }),
  stateBytes: () => 128,
  engineParams(params, sampleRate) {
    const share = (ms: number) => Math.exp(-1 / ((ms / 1000) * sampleRate));
    return [
      valueOf(threshold, params),
      1 / valueOf(ratio, params) - 1,
      valueOf(knee, params),
      share(valueOf(attack, params)),
      share(valueOf(release, params)),
      valueOf(makeUp, params),
      valueOf(detection, params) >= 0.5 ? Math.exp(-1 / (RMS_SECONDS * sampleRate)) : 0,
      valueOf(link, params) / 100,
      ...cut('low', valueOf(keyLowCut, params), keyLowCut.min, sampleRate),
      ...cut('high', valueOf(keyHighCut, params), keyHighCut.max, sampleRate),
    ];
  },
};
