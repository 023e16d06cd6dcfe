import { gainOf } from '../levels/decibels';
import type { Hertz } from '../base/units';
import { LANE_HEADER_BYTES, shareOf, valueOf, type Params, type Processor } from './description';
import { decibels, milliseconds, percent } from './parameters';

const gain = decibels('gain', 'Gain', -12, 24, 0);
const ceiling = decibels('ceiling', 'Ceiling, true peak', -24, 0, -1, { step: 0.1 });
const lookAhead = milliseconds('lookAhead', 'Look-ahead', 0.5, 10, 2, { latent: true });
const release = milliseconds('release', 'Release', 5, 1000, 80, { step: 1 });
const link = percent('link', 'Stereo link', 100);

/** Frames by which the true-peak filter lies behind what it measures, and around a peak in which its gain is kept. */
const FILTER_FRAMES = 36;
const GUARD_FRAMES = 4;
/** Frames by which what lies too near half the sample rate is taken off. */
const SETTLING_FRAMES = 68;
/** Room for meters whose filters are shorter than its own. */
const MARGIN_DB = 0.03;
/** Window of the second stage. */
const SECOND_SECONDS = 0.0005;
/** Frames of the rings at most; the engine computes the same (`limiter.ts` in engine/assembly). */
export const limiterRing = (sampleRate: Hertz) => 2 ** Math.ceil(Math.log2(0.01 * sampleRate + 192));

const window = (params: Params, sampleRate: Hertz) =>
  Math.max(4, Math.round((valueOf(lookAhead, params) / 1000) * sampleRate));

/**
 * The slow release: what was turned down in both of the last two stretches of 26 ms, each longer than a wave of 40 Hz, is followed
 * with 120 ms upwards and 600 ms downwards. Our own values.
 */
const STRETCH_MS = 26;
const RISES_MS = 120;
const FALLS_MS = 600;

/**
 * Keeps the true peak below its ceiling. The peak is measured between the samples, by the interpolating filter of ITU-R
 * BS.1770-5, annex 2, and at sixteen times the sample rate. What has to be taken away most in the look-ahead is kept, and a moving
 * average as long as the look-ahead leads there without a step, so that it is reached when the peak arrives. A second stage of half a
 * millisecond measures what comes out, and takes what the first one's moves have left over.
 *
 * Above 0.48 of the sample rate what stands between two samples depends on all others, and no two meters agree: while the signal is
 * within 7 dB of the ceiling, what lies there is taken off; below 0.4535, 20 kHz at 44.1 kHz, nothing is.
 *
 * Its release follows the material: a single peak is let go of by the release; what is turned down for long, by a slow one
 * that lies beneath it, so that the waves of a low note are not bent one by one.
 */
export const limiter: Processor = {
  type: 'limiter',
  name: 'Limiter',
  shortName: 'Limit',
  about:
    'Lets nothing above its ceiling, measured between the samples too. It looks ahead, and so delays; what is parallel to it is held back by as much.',
  parameters: [gain, ceiling, lookAhead, release, link],
  channels: 'linked',
  takesKey: false,
  mixes: false,
  levelDependent: true,
  nonlinear: false,
  ambient: false,
  computes: [
    'Gain, then the highest value around each frame: by annex 2 and at sixteen times the rate. What is above the ceiling asks for 1 − ceiling/peak.',
    'The most that is asked for in the look-ahead and four frames to either side; a one-pole filter of the release lets it fall; the slow release lies beneath it; a mean over half of the look-ahead, and of that one over the other half, is what is taken away. A second stage does the same over 0.5 ms.',
  ],
  measured: [
    'Noise, signs at random, bursts, noise up to 18 kHz and clipped chords at 44.1 to 192 kHz stay below the ceiling within 0.1 dB, by BS.1770-5, annex 2, and at sixteen times the sample rate.',
    'A tone of 40 Hz, turned down by 6 dB, is distorted by less than 0.1 % at every release.',
  ],
  curves: ['static'],
  reductionAt: (level, params) => Math.max(0, level + valueOf(gain, params) - valueOf(ceiling, params)),
  packed: false,
  latency: (params, sampleRate) =>
    window(params, sampleRate) +
    Math.round(SECOND_SECONDS * sampleRate) +
    2 * (FILTER_FRAMES + GUARD_FRAMES) +
    SETTLING_FRAMES,
  direct: (params) => ({ delay: 0, gain: gainOf(valueOf(gain, params)) }),
  // The header; of two channels their numbers and ten rings, of three a little more than once; a ring of ceilings.
  stateBytes: (_channels, sampleRate) =>
    LANE_HEADER_BYTES + 16 + 2 * (80 + 40 * limiterRing(sampleRate) + 3 * 576) + 4 * limiterRing(sampleRate),
  engineParams: (params, { sampleRate }) => ({
    gain: gainOf(valueOf(gain, params)),
    ceiling: gainOf(valueOf(ceiling, params) - MARGIN_DB),
    /** Frames. */
    window: window(params, sampleRate),
    release: shareOf(valueOf(release, params), sampleRate),
    link: valueOf(link, params) / 100,
    /** Shares that the slow release keeps in a frame, and frames of a stretch. */
    rises: shareOf(RISES_MS, sampleRate),
    falls: shareOf(FALLS_MS, sampleRate),
    stretch: Math.round((STRETCH_MS / 1000) * sampleRate),
  }),
};
