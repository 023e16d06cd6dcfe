import type { Hertz } from '../base/units';
import { valueOf, type Processor } from './description';
import { count, frequency, milliseconds, percent, span } from './parameters';

const voices = count('voices', 'Voices', 1, 4, 3);
const rate = frequency('rate', 'Rate', 0.05, 8, 0.6, { step: 0.01 });
const depth = span('depth', 'Depth', 0, 10, 2, { step: 0.1 });
const time = milliseconds('time', 'Delay', 2, 40, 12);
const spread = percent('spread', 'Spread', 100);

/** Frames of each channel's ring; the engine computes the same (`chorus.ts` in engine/assembly). */
export const chorusRing = (sampleRate: Hertz) => 2 ** Math.ceil(Math.log2(0.06 * sampleRate + 64));

/**
 * Up to four copies of the signal, each delayed by a time that a slow sine moves: Dattorro, "Effect design, part 2:
 * delay-line modulation and chorus", J. Audio Eng. Soc. 45(10), 1997. Each voice's sine starts at its own phase, and the
 * right side's is turned by the spread, up to a quarter.
 */
export const chorus: Processor = {
  type: 'chorus',
  name: 'Chorus',
  shortName: 'Chorus',
  about: 'Makes one voice sound like several that never quite agree.',
  parameters: [voices, rate, depth, time, spread],
  channels: 'joined',
  takesKey: false,
  mixes: true,
  levelDependent: false,
  nonlinear: true,
  ambient: true,
  curves: [],
  packed: false,
  latency: () => 0,
  direct: () => null,
  stateBytes: (_channels, sampleRate) => 32 + chorusRing(sampleRate) * 2 * 4,
  engineParams: (params, { sampleRate }) => ({
    voices: Math.round(valueOf(voices, params)),
    /** Turns a frame. */
    rate: valueOf(rate, params) / sampleRate,
    /** Frames, as the time. */
    depth: (valueOf(depth, params) / 1000) * sampleRate,
    time: (valueOf(time, params) / 1000) * sampleRate,
    /** Turn of the right side. */
    spread: (valueOf(spread, params) / 100) * 0.25,
  }),
};
