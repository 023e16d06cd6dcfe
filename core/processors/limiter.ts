import { gainOf } from '../levels/decibels';
import type { Hertz } from '../base/units';
import { LANE_HEADER_BYTES, shareOf, valueOf, type Params, type Processor } from './description';
import { decibels, milliseconds, percent } from './parameters';

const gain = decibels('gain', 'Gain', -12, 24, 0);
const ceiling = decibels('ceiling', 'Ceiling, true peak', -24, 0, -1, { step: 0.1 });
const lookAhead = milliseconds('lookAhead', 'Look-ahead', 0.5, 10, 2, { latent: true });
const release = milliseconds('release', 'Release', 5, 1000, 80, { step: 1 });
const link = percent('link', 'Stereo link', 100);

/** Frames by which the true-peak filter of BS.1770 annex 2, 12 taps a phase, lies behind what it measures. */
const DETECTOR_FRAMES = 6;
/** Frames of the rings at most; the engine computes the same (`limiter.ts` in engine/assembly). */
export const limiterRing = (sampleRate: Hertz) => 2 ** Math.ceil(Math.log2(0.01 * sampleRate + 64));

const window = (params: Params, sampleRate: Hertz) =>
  Math.max(4, Math.round((valueOf(lookAhead, params) / 1000) * sampleRate));

/**
 * Keeps the true peak below its ceiling. The peak is measured between the samples by the interpolating filter of
 * ITU-R BS.1770-4, annex 2. The lowest gain in the look-ahead is held, and a moving average as long as the look-ahead
 * leads there without a corner, so that it is reached when the peak arrives.
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
  curves: ['static'],
  reductionAt: (level, params) => Math.max(0, level + valueOf(gain, params) - valueOf(ceiling, params)),
  packed: false,
  latency: (params, sampleRate) => window(params, sampleRate) + DETECTOR_FRAMES,
  direct: (params) => ({ delay: 0, gain: gainOf(valueOf(gain, params)) }),
  // The header, places of the queues, and two channels of 96 bytes and four rings.
  stateBytes: (_channels, sampleRate) => LANE_HEADER_BYTES + 32 + 2 * (96 + 16 * limiterRing(sampleRate)),
  engineParams: (params, { sampleRate }) => ({
    gain: gainOf(valueOf(gain, params)),
    ceiling: gainOf(valueOf(ceiling, params)),
    /** Frames. */
    window: window(params, sampleRate),
    release: shareOf(valueOf(release, params), sampleRate),
    link: valueOf(link, params) / 100,
  }),
};
