import { numberJumpFrames } from '../base/jump';
import type { Parameter, Processor } from './description';
import { isOn, LANE_HEADER_BYTES, valueOf } from './description';
import { frequency, toggle } from './parameters';

const bits: Parameter = {
  id: 'bits',
  name: 'Bit depth',
  unit: 'bit',
  min: 1,
  max: 24,
  default: 12,
  law: 'linear',
  step: 1,
};
const rate = frequency('rate', 'Sample rate', 500, 48000, 48000, { step: 10 });
const dither = toggle('dither', 'Dither', 0);

/**
 * Rounds the wave to a step of 2^(1 - bits) and holds each value until the next tick of a lower sample rate. Dither is
 * triangular, of one step each way, so that the rounding becomes noise of its own: Lipshitz, Wannamaker and Vanderkooy,
 * "Quantization and dither: a theoretical survey", J. Audio Eng. Soc. 40(5), 1992.
 */
export const crusher: Processor = {
  type: 'crusher',
  name: 'Bits and rate',
  shortName: 'Bits',
  about: 'Makes a signal as coarse as an early digital recorder, in level and in time.',
  parameters: [bits, rate, dither],
  channels: 'each',
  takesKey: false,
  mixes: true,
  levelDependent: false,
  nonlinear: true,
  ambient: false,
  measured: [
    'Another bit depth runs beside the one before and takes its place in 120 frames, 2.5 ms at least, by t⁵ (126 − 420t + 540t² − 315t³ + 70t⁴): it leaves no more above 4 kHz than either does when it stands, within 1 dB.',
    'At the end of both travels, without dither, it is the signal itself, to the bit, at 44.1 to 192 kHz.',
  ],
  curves: [],
  packed: true,
  latency: () => 0,
  direct: () => ({ delay: 0, gain: 1 }),
  stateBytes: () => LANE_HEADER_BYTES + 32,
  leaps: ['step'],
  engineParams: (params, { sampleRate }) => ({
    step: 2 ** (1 - Math.round(valueOf(bits, params))),
    /** Ticks a frame. */
    rate: valueOf(rate, params) === rate.max ? 1 : Math.min(1, valueOf(rate, params) / sampleRate),
    /** Whether it does nothing: both at their ends. */
    rests:
      valueOf(bits, params) === bits.max && valueOf(rate, params) === rate.max && !isOn(dither, params)
        ? 1
        : 0,
    dither: isOn(dither, params) ? 1 : 0,
    /** Frames in which another step has taken the place of the one before. */
    fade: numberJumpFrames(sampleRate),
  }),
};
