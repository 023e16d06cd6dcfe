import { gainOf } from '../levels/decibels';
import { isOn, valueOf, type Processor } from './description';
import { decibels, toggle } from './parameters';

const gain = decibels('gain', 'Gain', -60, 24, 0, { step: 0.1 });
const invert = toggle('invert', 'Invert polarity', 0);

/** A level between two processors, and polarity. */
export const gainProcessor: Processor = {
  type: 'gain',
  name: 'Gain',
  shortName: 'Gain',
  about: 'A level of its own at any place of the chain: into a compressor, or after it.',
  parameters: [gain, invert],
  channels: 'each',
  takesKey: false,
  mixes: false,
  levelDependent: false,
  nonlinear: false,
  ambient: false,
  computes: ['Every frame is multiplied by 10^(gain/20), inverted by −1.'],
  curves: [],
  packed: false,
  latency: () => 0,
  direct: (params) => ({
    delay: 0,
    gain: gainOf(valueOf(gain, params)) * (isOn(invert, params) ? -1 : 1),
  }),
  stateBytes: () => 16,
  engineParams: (params) => ({ gain: gainOf(valueOf(gain, params)) * (isOn(invert, params) ? -1 : 1) }),
};
