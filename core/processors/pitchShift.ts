import type { Hertz } from '../base/units';
import { valueOf, type Parameter, type Processor } from './description';
import { choice } from './parameters';

const semitones: Parameter = {
  id: 'semitones',
  name: 'Semitones',
  unit: 'st',
  min: -12,
  max: 12,
  default: 0,
  law: 'linear',
  step: 1,
};
const cents: Parameter = {
  id: 'cents',
  name: 'Cents',
  unit: 'ct',
  min: -100,
  max: 100,
  default: 0,
  law: 'linear',
  step: 1,
};
const grain = choice('grain', 'Grains', ['Short, for rhythm', 'Long, for tone'], 1, { latent: true });

/** Half the distance over which the reading place may stray before it is set back, in milliseconds. */
const REACH_MS = [12, 25] as const;
/** Frames of each channel's ring; the engine computes the same (`pitch.ts` in engine/assembly). */
export const pitchRing = (sampleRate: Hertz) => 2 ** Math.ceil(Math.log2(0.12 * sampleRate + 1024));

const reachOf = (params: Readonly<Record<string, number>>, sampleRate: Hertz) =>
  Math.round((REACH_MS[Math.round(valueOf(grain, params))]! / 1000) * sampleRate);

/** How much faster the signal is read than it was written: 2^(semitones/12), equal temperament. */
export const pitchRatio = (params: Readonly<Record<string, number>>) =>
  2 ** ((valueOf(semitones, params) + valueOf(cents, params) / 100) / 12);

/**
 * Reads a delay line faster or slower than it is written, and sets the reading place back, in a crossfade, to where the
 * wave continues best: synchronized overlap-add, Roucos and Wilgus, ICASSP 1985, with the search by cross-correlation.
 */
export const pitchShift: Processor = {
  type: 'pitch',
  name: 'Pitch shift',
  shortName: 'Pitch',
  about:
    'Moves a signal up or down by up to an octave without changing its speed. It needs to look ahead, and what is parallel to it is held back by as much.',
  parameters: [semitones, cents, grain],
  channels: 'joined',
  takesKey: false,
  mixes: true,
  levelDependent: false,
  nonlinear: true,
  ambient: false,
  curves: [],
  packed: false,
  latency: (params, sampleRate) => 2 * reachOf(params, sampleRate),
  direct: () => null,
  stateBytes: (_channels, sampleRate) => 64 + pitchRing(sampleRate) * 2 * 4,
  engineParams: (params, { sampleRate }) => ({
    ratio: pitchRatio(params),
    /** Frames. */
    reach: reachOf(params, sampleRate),
  }),
};
