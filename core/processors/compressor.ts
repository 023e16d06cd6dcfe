import { gainOf } from '../levels/decibels';
import type { Hertz } from '../base/units';
import { isOn, LANE_HEADER_BYTES, shareOf, valueOf, type Params, type Processor } from './description';
import { EASED, easeNumbers } from './ease';
import { KEY_CUTS, keyCutSections } from './keyCuts';
import { choice, decibels, milliseconds, percent, ratioOf, span, toggle } from './parameters';

const threshold = decibels('threshold', 'Threshold', -60, 0, -18, { group: 'Curve' });
const ratio = ratioOf('ratio', 'Ratio', 1, 20, 3, { group: 'Curve' });
const knee = decibels('knee', 'Knee', 0, 24, 6, { group: 'Curve' });
const makeUp = decibels('makeUp', 'Make-up', -12, 24, 0, { group: 'Make-up' });
const autoMakeUp = toggle('autoMakeUp', 'Automatic make-up', 0, { group: 'Make-up' });
const attack = milliseconds('attack', 'Attack', 0.1, 200, 10, { group: 'Time' });
const release = milliseconds('release', 'Release', 5, 3000, 120, { group: 'Time', step: 1 });
const hold = span('hold', 'Hold', 0, 500, 0, { group: 'Time' });
const detection = choice('detection', 'Detection', ['Peak', 'RMS', 'Smooth'], 0, { group: 'Detector' });
const lookAhead = span('lookAhead', 'Look-ahead', 0, 10, 0, { group: 'Detector', latent: true, step: 0.1 });
const link = percent('link', 'Stereo link', 100, 0, 100, { group: 'Detector' });

/** Time constant of the mean square that RMS detection reads; common practice, no published source. */
const RMS_MS = 10;
/** Hold of the smooth detection at least: a whole wave of 40 Hz, and a little. Our own value. */
const SMOOTH_MS = 26;

const framesOf = (ms: number, sampleRate: Hertz) => Math.round((ms / 1000) * sampleRate);
/** Half of what a steady level of 0 dBFS is turned down by; common practice, no published source. */
const automatic = (params: Params) => (isOn(autoMakeUp, params) ? compressor.reductionAt!(0, params) / 2 : 0);

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
 * decoupled detector of equation 17 of the same paper, which lets go after a hold. The smooth detection holds for a wave of 40 Hz at least, so that it
 * does not follow the waves of a low note one by one. A look-ahead holds the signal back, not its key.
 */
export const compressor: Processor = {
  type: 'compressor',
  name: 'Compressor',
  shortName: 'Comp',
  about:
    'Turns down what is louder than its threshold, by its ratio. A key lets another strip decide when; the dry signal beside it, by the mix, is parallel compression in one insert.',
  parameters: [
    threshold,
    ratio,
    knee,
    makeUp,
    autoMakeUp,
    attack,
    hold,
    release,
    detection,
    link,
    lookAhead,
    ...KEY_CUTS,
  ],
  channels: 'linked',
  takesKey: true,
  mixes: true,
  levelDependent: true,
  nonlinear: false,
  ambient: false,
  computes: [
    "Level: 20 log10 of each frame of the key, after its cuts (12 dB per octave, Butterworth); RMS: 10 log10 of its square, smoothed by a one-pole filter of 10 ms. A stereo strip's lower side is drawn towards the higher by the link, in decibels.",
    'Reduction in decibels: 0 below the threshold less half the knee; (1 − 1/R)(x − T + W/2)²/2W within the knee; (1 − 1/R)(x − T) above it.',
    'A one-pole filter of the release lets it fall, after the hold, which begins anew with each level that comes within 0.005 dB; a one-pole filter of the attack then leads there. Smooth holds for 26 ms at least. Time constants are those after which 63 % of the way is done.',
    'Gain: make-up less the reduction, and automatic make-up: half of what a level of 0 dB is turned down by.',
    EASED,
  ],
  measured: [
    'With the smooth detection, an attack of 0.1 ms and a release of 20 ms, a tone of 40 Hz that is turned down by 12 dB is distorted by less than 0.5 %, at 44.1 to 192 kHz.',
    'It lets go after its hold, within four frames. Its static curve is held against the paper’s.',
  ],
  curves: ['static'],
  reductionAt: (level, params) =>
    level -
    compressedLevel(level, {
      threshold: valueOf(threshold, params),
      ratio: valueOf(ratio, params),
      knee: valueOf(knee, params),
    }),
  packed: true,
  acts: { makeUp: 'end' },
  rows: true,
  looksAhead: true,
  latency: (params, sampleRate) => framesOf(valueOf(lookAhead, params), sampleRate),
  direct: (params) => ({ delay: 0, gain: gainOf(valueOf(makeUp, params) + automatic(params)) }),
  stateBytes: () => LANE_HEADER_BYTES + 48,
  engineParams: (params, { sampleRate }) => ({
    threshold: valueOf(threshold, params),
    slope: 1 / valueOf(ratio, params) - 1,
    knee: valueOf(knee, params),
    attack: shareOf(valueOf(attack, params), sampleRate),
    release: shareOf(valueOf(release, params), sampleRate),
    /** Frames. */
    hold: framesOf(
      Math.max(valueOf(hold, params), Math.round(valueOf(detection, params)) === 2 ? SMOOTH_MS : 0),
      sampleRate,
    ),
    /** Share that the mean square keeps; 0 for peaks. */
    meanShare: Math.round(valueOf(detection, params)) === 1 ? shareOf(RMS_MS, sampleRate) : 0,
    link: valueOf(link, params) / 100,
    ...keyCutSections(params, sampleRate),
    ...easeNumbers(sampleRate),
    makeUp: valueOf(makeUp, params) + automatic(params),
  }),
};
