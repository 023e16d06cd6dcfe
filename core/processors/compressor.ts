import { gainOf } from '../levels/decibels';
import { isOn, LANE_HEADER_BYTES, shareOf, valueOf, type Processor } from './description';
import { KEY_CUTS, keyCutSections } from './keyCuts';
import { choice, decibels, milliseconds, percent, ratioOf } from './parameters';

const threshold = decibels('threshold', 'Threshold', -60, 0, -18, { group: 'Curve' });
const ratio = ratioOf('ratio', 'Ratio', 1, 20, 3, { group: 'Curve' });
const knee = decibels('knee', 'Knee', 0, 24, 6, { group: 'Curve' });
const makeUp = decibels('makeUp', 'Make-up', -12, 24, 0, { group: 'Curve' });
const attack = milliseconds('attack', 'Attack', 0.1, 200, 10, { group: 'Time' });
const release = milliseconds('release', 'Release', 5, 3000, 120, { group: 'Time', step: 1 });
const detection = choice('detection', 'Detection', ['Peak', 'RMS'], 0, { group: 'Time' });
const link = percent('link', 'Stereo link', 100, 0, 100, { group: 'Time' });

/** Time constant of the mean square that RMS detection reads; common practice, no published source. */
const RMS_MS = 10;

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
  about:
    'Turns down what is louder than its threshold, by its ratio. A key lets another strip decide when; the dry signal beside it, by the mix, is parallel compression in one insert.',
  parameters: [threshold, ratio, knee, makeUp, attack, release, detection, link, ...KEY_CUTS],
  channels: 'linked',
  takesKey: true,
  mixes: true,
  levelDependent: true,
  nonlinear: false,
  ambient: false,
  curves: ['static'],
  reductionAt: (level, params) =>
    level -
    compressedLevel(level, {
      threshold: valueOf(threshold, params),
      ratio: valueOf(ratio, params),
      knee: valueOf(knee, params),
    }),
  packed: true,
  rows: true,
  latency: () => 0,
  direct: (params) => ({ delay: 0, gain: gainOf(valueOf(makeUp, params)) }),
  stateBytes: () => LANE_HEADER_BYTES + 48,
  engineParams: (params, { sampleRate }) => ({
    threshold: valueOf(threshold, params),
    slope: 1 / valueOf(ratio, params) - 1,
    knee: valueOf(knee, params),
    attack: shareOf(valueOf(attack, params), sampleRate),
    release: shareOf(valueOf(release, params), sampleRate),
    makeUp: valueOf(makeUp, params),
    /** Share that the mean square keeps; 0 for peaks. */
    meanShare: isOn(detection, params) ? shareOf(RMS_MS, sampleRate) : 0,
    link: valueOf(link, params) / 100,
    ...keyCutSections(params, sampleRate),
  }),
};
