import { gainOf } from '../levels/decibels';
import { isOn, LANE_HEADER_BYTES, valueOf, type Params, type Processor } from './description';
import { choice, decibels, percent, toggle } from './parameters';

const drive = decibels('drive', 'Drive', 0, 24, 6, { group: 'Shape' });
/** New ones are added behind. */
export const SATURATION_CURVES = ['Even-handed', 'One-sided', 'Gentle', 'Folded'] as const;
const character = choice('character', 'Character', SATURATION_CURVES, 0, { group: 'Shape' });
const bias = percent('bias', 'One-sidedness', 40, 0, 100, { group: 'Shape' });
const output = decibels('output', 'Output', -24, 12, 0, { group: 'Level' });
const keep = toggle('keep', 'Keep level', 0, { group: 'Level' });

/** Frames by which sixteen-fold oversampling delays, whatever the sample rate; engine/assembly/oversample.ts counts the same. */
export const OVERSAMPLING_LATENCY = 86;
/** Floats of filter memory a channel; engine/assembly/oversample.ts counts the same. */
const OVERSAMPLING_FLOATS = 322;
/** Corner of what takes away the mean that a one-sided shape leaves: below hearing; our own choice. */
const MEAN_HERTZ = 5;
/** Time constant over which levels before and behind are held against each other, in seconds; our own choice. */
const KEEP_SECONDS = 0.4;

const curveOf = (params: Params) => Math.round(valueOf(character, params));
/** The offset of the one-sided curve. */
const offset = (params: Params) => (curveOf(params) === 1 ? valueOf(bias, params) / 100 : 0);

/** What a curve makes of a value that drive has multiplied; soft values stay as they are. */
function bent(x: number, params: Params): number {
  const b = offset(params);
  switch (curveOf(params)) {
    case 2:
      return x / Math.sqrt(1 + x * x);
    case 3:
      return Math.sin(x);
    default:
      return (Math.tanh(x + b) - Math.tanh(b)) / (1 - Math.tanh(b) ** 2);
  }
}

/** Bends the wave at sixteen times the sample rate, so that what the bending adds above half of it does not fold back. */
export const saturation: Processor = {
  type: 'saturation',
  name: 'Saturation',
  shortName: 'Sat',
  about:
    'Rounds loud waves off and adds harmonics: odd ones when it treats both sides of the wave alike, even ones too when it leans to one side, few when it is gentle, many and strange ones when it folds.',
  parameters: [drive, character, bias, output, keep],
  channels: 'each',
  takesKey: false,
  mixes: true,
  levelDependent: true,
  nonlinear: true,
  ambient: false,
  curves: ['static'],
  computes: [
    'With drive d: y = c(d x) / d. Even-handed: c = tanh. One-sided, with the offset b: c = (tanh(x + b) − tanh b) / (1 − tanh² b), less its mean below 5 Hz. Gentle: c = x / √(1 + x²). Folded: c = sin x. Soft signals pass at their own level.',
    'It runs at sixteen times the sample rate, by windowed sincs for 100 dB (J. F. Kaiser, ISCAS 1974).',
    'Keep level: what leaves is multiplied by the square root of the powers before over those behind, both averaged with a time constant of 0.4 s, of the two sides of a stereo strip together. Where the drive goes from d to e, the average behind is multiplied by ((tanh(e a) / e) / (tanh(d a) / d))², with a the top of a tone of the power before.',
  ],
  measured: [
    'Aliases of tones up to 10 kHz at full scale and full drive lie below −80 dBFS at 44.1 kHz with every curve, and at 48 to 192 kHz with the even-handed one; those of 15 kHz at 44.1 kHz below −72 dBFS.',
    'Each curve is told from the others by its harmonics; kept levels stay within 0.5 dB from no drive to full, of noise at 44.1 to 192 kHz.',
  ],
  reductionAt(level, params) {
    const d = gainOf(valueOf(drive, params));
    const y = bent(d * gainOf(level), params) / d;
    return Math.max(0, level - 20 * Math.log10(Math.max(1e-9, Math.abs(y))));
  },
  packed: true,
  acts: {
    drive: 'middle',
    offset: 'middle',
    even: 'middle',
    gentle: 'middle',
    folded: 'middle',
    driven: 'end',
    output: 'end',
    centred: 'end',
    follow: 'end',
    keep: 'end',
    average: 'end',
  },
  latency: () => OVERSAMPLING_LATENCY,
  direct: (params) => ({ delay: 0, gain: gainOf(valueOf(output, params)) }),
  stateBytes: () => LANE_HEADER_BYTES + 16 + OVERSAMPLING_FLOATS * 4,
  engineParams(params, { sampleRate }) {
    const curve = curveOf(params);
    return {
      drive: gainOf(valueOf(drive, params)),
      offset: offset(params),
      /** Shares of the curves: one of them is 1, but while another takes its place. */
      even: curve < 2 ? 1 : 0,
      gentle: curve === 2 ? 1 : 0,
      folded: curve === 3 ? 1 : 0,
      /** The drive of what leaves, and its gain. */
      driven: gainOf(valueOf(drive, params)),
      output: gainOf(valueOf(output, params)),
      /** Share of the mean that is taken away, and by which it follows. */
      centred: offset(params) === 0 ? 0 : 1,
      follow: 1 - Math.exp((-2 * Math.PI * MEAN_HERTZ) / sampleRate),
      keep: isOn(keep, params) ? 1 : 0,
      /** Share by which the averages follow, a frame. */
      average: 1 - Math.exp(-1 / (KEEP_SECONDS * sampleRate)),
    };
  },
};
