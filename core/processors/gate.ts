import { LANE_HEADER_BYTES, shareOf, valueOf, type Parameter, type Processor } from './description';
import { restableCut, sectionFloats } from './filter';
import { decibels, frequency, milliseconds, percent } from './parameters';

const threshold = decibels('threshold', 'Threshold', -80, 0, -40, { group: 'Curve' });
const ratio: Parameter = {
  id: 'ratio',
  name: 'Ratio',
  unit: 'ratio',
  min: 1,
  max: 100,
  default: 10,
  law: 'log',
  step: 0.1,
  group: 'Curve',
};
const range = decibels('range', 'Range', 0, 90, 40, { group: 'Curve' });
const hysteresis = decibels('hysteresis', 'Hysteresis', 0, 24, 4, { group: 'Curve' });
const attack = milliseconds('attack', 'Attack', 0.05, 100, 0.5, { group: 'Time', step: 0.05 });
const hold: Parameter = {
  id: 'hold',
  name: 'Hold',
  unit: 'ms',
  min: 0,
  max: 1000,
  default: 20,
  law: 'linear',
  step: 1,
  group: 'Time',
};
const release = milliseconds('release', 'Release', 5, 3000, 150, { group: 'Time', step: 1 });
const link = percent('link', 'Stereo link', 100, 0, 100, { group: 'Time' });
const keyLowCut = frequency('keyLowCut', 'Key low cut', 20, 2000, 20, { group: 'Key' });
const keyHighCut = frequency('keyHighCut', 'Key high cut', 200, 20000, 20000, { group: 'Key', step: 10 });

/** How fast the detector forgets a peak, so that it does not close between the half waves of a low note. */
const DETECTOR_MS = 15;

/**
 * An expander below its threshold, x - y = min(range, (T - x)(R - 1)) in decibels: Zölzer (ed.), "DAFX: Digital Audio
 * Effects", 2nd ed., 2011, chapter 4, static curve of an expander (from memory). At its highest ratios it is a gate.
 * Once open it stays open until the key is lower than the threshold by its hysteresis for as long as its hold.
 */
export const gate: Processor = {
  type: 'gate',
  name: 'Gate',
  shortName: 'Gate',
  about:
    'Turns down what is softer than its threshold: spill between hits, noise between phrases. With a low ratio and a small range it expands gently; with a high one it closes.',
  parameters: [threshold, ratio, range, hysteresis, attack, hold, release, link, keyLowCut, keyHighCut],
  channels: 'linked',
  takesKey: true,
  mixes: true,
  levelDependent: true,
  nonlinear: false,
  ambient: false,
  curves: ['static'],
  reductionAt: (level, params) =>
    Math.min(
      valueOf(range, params),
      Math.max(0, valueOf(threshold, params) - level) * (valueOf(ratio, params) - 1),
    ),
  engineCode: 5,
  packed: true,
  latency: () => 0,
  // Its quiet state is the open one: what passes it unchanged.
  direct: () => ({ delay: 0, gain: 1 }),
  stateBytes: () => LANE_HEADER_BYTES + 32,
  engineParams: (params, { sampleRate }) => [
    valueOf(threshold, params),
    valueOf(ratio, params) - 1,
    valueOf(range, params),
    valueOf(hysteresis, params),
    shareOf(valueOf(attack, params), sampleRate),
    Math.max(1, Math.round((valueOf(hold, params) / 1000) * sampleRate)),
    shareOf(valueOf(release, params), sampleRate),
    shareOf(DETECTOR_MS, sampleRate),
    valueOf(link, params) / 100,
    ...sectionFloats(restableCut('low', valueOf(keyLowCut, params), keyLowCut.min, sampleRate)),
    ...sectionFloats(restableCut('high', valueOf(keyHighCut, params), keyHighCut.max, sampleRate)),
  ],
};
