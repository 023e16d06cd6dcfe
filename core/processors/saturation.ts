import { gainOf } from '../levels/decibels';
import { LANE_HEADER_BYTES, valueOf, type Processor } from './description';
import { choice, decibels, percent } from './parameters';

const drive = decibels('drive', 'Drive', 0, 24, 6, { group: 'Shape' });
const character = choice('character', 'Character', ['Even-handed', 'One-sided'], 0, { group: 'Shape' });
const bias = percent('bias', 'One-sidedness', 40, 0, 100, { group: 'Shape' });
const output = decibels('output', 'Output', -24, 12, 0, { group: 'Shape' });

/** Frames by which eight-fold oversampling delays, whatever the sample rate; engine/assembly/oversample.ts counts the same. */
export const OVERSAMPLING_LATENCY = 85;
/** Floats of filter memory a channel; engine/assembly/oversample.ts counts the same. */
const OVERSAMPLING_FLOATS = 296;
/** Corner of what takes away the mean that a one-sided shape leaves: below hearing; our own choice. */
const MEAN_HERTZ = 5;

/** The offset of the one-sided curve. */
const offset = (params: Parameters<typeof valueOf>[1]) =>
  Math.round(valueOf(character, params)) === 1 ? valueOf(bias, params) / 100 : 0;

/**
 * Bends the wave by a hyperbolic tangent, y = (tanh(d x + b) - tanh b) / (d (1 - tanh^2 b)): soft signals pass at their own
 * level, loud ones are rounded off at 1/d. It runs at eight times the sample rate, so that what the bending adds above
 * half the sample rate is filtered away and does not fold back.
 */
export const saturation: Processor = {
  type: 'saturation',
  name: 'Saturation',
  shortName: 'Sat',
  about:
    'Rounds loud waves off and adds harmonics: odd ones when it treats both sides of the wave alike, even ones too when it leans to one side.',
  parameters: [drive, character, bias, output],
  channels: 'each',
  takesKey: false,
  mixes: true,
  levelDependent: true,
  nonlinear: true,
  ambient: false,
  curves: ['static'],
  reductionAt(level, params) {
    const d = gainOf(valueOf(drive, params));
    const b = offset(params);
    const x = gainOf(level);
    const y = (Math.tanh(d * x + b) - Math.tanh(b)) / (d * (1 - Math.tanh(b) ** 2));
    return Math.max(0, level - 20 * Math.log10(Math.max(1e-9, y)));
  },
  packed: true,
  latency: () => OVERSAMPLING_LATENCY,
  direct: (params) => ({ delay: 0, gain: gainOf(valueOf(output, params)) }),
  stateBytes: () => LANE_HEADER_BYTES + 4 + OVERSAMPLING_FLOATS * 4,
  engineParams: (params, { sampleRate }) => ({
    drive: gainOf(valueOf(drive, params)),
    offset: offset(params),
    output: gainOf(valueOf(output, params)),
    /** Share by which the mean follows. */
    follow: offset(params) === 0 ? 0 : 1 - Math.exp((-2 * Math.PI * MEAN_HERTZ) / sampleRate),
  }),
};
