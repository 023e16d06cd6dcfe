import { balance } from '../levels/pan';
import { isOn, valueOf, type Params, type Processor } from './description';
import { restableCut, sectionFloats } from './filter';
import { choice, frequency, percent, toggle } from './parameters';

const width = percent('width', 'Width', 100, 0, 200, { group: 'Image' });
const balanceOf = percent('balance', 'Balance', 0, -100, 100, { group: 'Image' });
const monoBelow = frequency('monoBelow', 'Mono below', 20, 1000, 20, { group: 'Image' });
const swap = toggle('swap', 'Swap sides', 0, { group: 'Image' });
const polarity = choice('polarity', 'Invert', ['Neither', 'Left', 'Right', 'Both'], 0, { group: 'Sides' });

/** Gains ll, rl, lr, rr: width, then sides swapped, then polarity, then balance. */
export function stereoMatrix(params: Params): readonly [number, number, number, number] {
  const w = valueOf(width, params) / 100;
  const same = (1 + w) / 2;
  const other = (1 - w) / 2;
  const [a, b] = isOn(swap, params) ? [other, same] : [same, other];
  const inverted = Math.round(valueOf(polarity, params));
  const [l, r] = balance(valueOf(balanceOf, params) / 100);
  const left = l * (inverted === 1 || inverted === 3 ? -1 : 1);
  const right = r * (inverted === 2 || inverted === 3 ? -1 : 1);
  return [a * left, b * left, b * right, a * right];
}

/**
 * The stereo image: the difference of the sides is scaled by the width, M = (L + R)/2, S = (L - R)/2, and has a low cut of
 * 12 dB per octave, below which both sides are the same.
 */
export const stereoTool: Processor = {
  type: 'stereo',
  name: 'Stereo tool',
  shortName: 'Stereo',
  about: 'Width, balance and polarity of a stereo signal, and one side for the low end.',
  parameters: [width, balanceOf, monoBelow, swap, polarity],
  channels: 'stereo',
  takesKey: false,
  mixes: false,
  levelDependent: false,
  nonlinear: false,
  ambient: false,
  computes: [
    'Below its frequency the difference of the sides is cut by 12 dB per octave (Butterworth); then M = (L+R)/2, S = w(L−R)/2, sides swapped, inverted, and balanced as a strip is.',
  ],
  curves: [],
  packed: false,
  latency: () => 0,
  direct: (params) => ({ delay: 0, gain: 1, matrix: stereoMatrix(params) }),
  stateBytes: () => 32,
  engineParams: (params, { sampleRate }) => ({
    matrix: stereoMatrix(params),
    /** A low cut of the difference of the sides. */
    sideCut: sectionFloats(restableCut('low', valueOf(monoBelow, params), monoBelow.min, sampleRate)),
  }),
};
