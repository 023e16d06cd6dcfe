import type { Hertz, Samples } from '../base/units';
import { isOn, valueOf, type Parameter, type Params, type Processor } from './description';
import { choice, toggle } from './parameters';

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
const formants = toggle('formants', 'Keep formants', 0);

/** Length of the long grains in seconds, taken to the nearest power of two in frames; short ones are half as long. */
const GRAIN_SECONDS = 0.08533;
/** Frames of the long grains; the engine computes the same (`pitch.ts` in engine/assembly). */
function longest(sampleRate: Hertz): Samples {
  let n = 1024;
  while (n * 1.41421356 < sampleRate * GRAIN_SECONDS) n *= 2;
  return Math.min(n, 16384);
}
const windowOf = (params: Params, sampleRate: Hertz): Samples =>
  longest(sampleRate) / (Math.round(valueOf(grain, params)) === 1 ? 1 : 2);

/** How much higher everything becomes: 2^(semitones/12), equal temperament. */
export const pitchRatio = (params: Params) =>
  2 ** ((valueOf(semitones, params) + valueOf(cents, params) / 100) / 12);

export const pitchShift: Processor = {
  type: 'pitch',
  name: 'Pitch shift',
  shortName: 'Pitch',
  about:
    'Moves a signal up or down by up to an octave without changing its speed. It needs to look ahead, and what is parallel to it is held back by as much.',
  parameters: [semitones, cents, grain, formants],
  channels: 'joined',
  takesKey: false,
  mixes: true,
  levelDependent: false,
  nonlinear: true,
  ambient: false,
  computes: [
    'A short-time Fourier transform of Hann windows, a quarter of a window apart and filled up with as many zeros again. What lies about each peak of the spectrum of both sides is moved by as much as the peak is, and turned by as much as that makes from window to window: J. Laroche and M. Dolson, “New phase-vocoder techniques for pitch-shifting, harmonizing and other exotic effects”, IEEE WASPAA 1999.',
    'Where a sound sets in, with eight times the energy of what was there before, all peaks are turned so that they agree at that moment; so hits stay hits.',
    'Keep formants: each line is multiplied by what the hills of the spectrum, its highest within 150 Hz averaged over 75, are where it goes to over what they are where it comes from.',
    'A change of pitch takes hold from window to window about its point. By nothing at all it is the signal itself.',
  ],
  measured: [
    'A tone comes 2^(n/12) times as high within 3 cents, at 44.1 to 192 kHz; of a chord of three nothing else stands within 45 dB, with long grains.',
    'Hits stay where they are within 2 ms, and as strong within 2 dB up to seven semitones, 3 dB to an octave; up a fourth at 44.1 to 192 kHz.',
  ],
  curves: [],
  packed: false,
  latency: windowOf,
  direct: () => null,
  stateBytes: (_channels, sampleRate) => 640 + 4 * (7 * longest(sampleRate) + 16),
  engineParams: (params, { sampleRate }) => ({
    ratio: pitchRatio(params),
    /** Frames. */
    window: windowOf(params, sampleRate),
    formants: isOn(formants, params) ? 1 : 0,
  }),
};
