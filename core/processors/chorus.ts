import type { Hertz } from '../base/units';
import { valueOf, type Processor } from './description';
import { count, frequency, milliseconds, percent, span } from './parameters';

const voices = count('voices', 'Voices', 1, 4, 3);
const rate = frequency('rate', 'Rate', 0.05, 8, 0.6, { step: 0.01 });
const depth = span('depth', 'Depth', 0, 10, 2, { step: 0.1 });
const time = milliseconds('time', 'Delay', 2, 40, 12);
const spread = percent('spread', 'Spread', 100);

/** Frames of each channel's ring; the engine computes the same (`chorus.ts` in engine/assembly). */
/** Share of the delay that its depth may be: the earliest voice still reads what has come. */
const DEEPEST = 0.5;
export const chorusRing = (sampleRate: Hertz) => 2 ** Math.ceil(Math.log2(0.08 * sampleRate + 64)) + 32;

/**
 * Up to four copies of the signal, each delayed by a time that a slow sine moves: Dattorro, "Effect design, part 2:
 * delay-line modulation and chorus", J. Audio Eng. Soc. 45(10), 1997. Each voice has its own phase, rate and delay, and by the spread
 * the right side's have others: no two of the eight ever move alike for long. Between frames a sinc of 32 taps reads.
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
  computes: [
    'A voice reads what came time × a ms ago, moved by depth × sin(2π p), half of its time at most, where p turns at rate × b: a is 1, 1.17, 0.87, 1.31 and b 1, 0.91, 1.07, 1.17 of the four voices; the right side’s by the spread at a + 0.11, −0.09, +0.13, −0.07, and p further by 0.37, 0.61, 0.43, 0.53 and half a sine at 0.13, 0.11, 0.17, 0.07 of the rate.',
    'The voices are added by power: divided by the square root of how many there are. A time and a depth that change glide by 1/(50 ms) of the way, 0.4 frames a frame at most.',
  ],
  measured: [
    'Left and right of four voices are alike by less than 0.5 (correlation, of noise that is the same on both sides), at 44.1 to 192 kHz.',
    'A tone of 18 kHz loses less than 0.1 dB, and what reading between frames adds lies below −80 dB, at 44.1 to 192 kHz.',
  ],
  curves: [],
  packed: false,
  latency: () => 0,
  direct: () => null,
  stateBytes: (_channels, sampleRate) => 80 + chorusRing(sampleRate) * 2 * 4,
  engineParams: (params, { sampleRate }) => ({
    voices: Math.round(valueOf(voices, params)),
    /** Turns a frame. */
    rate: valueOf(rate, params) / sampleRate,
    /** Frames, as the time. */
    depth: Math.min(valueOf(depth, params) / 1000, (DEEPEST * valueOf(time, params)) / 1000) * sampleRate,
    time: (valueOf(time, params) / 1000) * sampleRate,
    spread: valueOf(spread, params) / 100,
  }),
};
