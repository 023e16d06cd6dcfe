import { LANE_HEADER_BYTES, shareOf, valueOf, type Processor } from './description';
import { passSection, sectionFloats } from './filter';
import { choice, decibels, frequency, milliseconds, percent, ratioOf } from './parameters';

const hertz = frequency('frequency', 'Frequency', 1500, 14000, 6000, { group: 'Band', step: 10 });
const threshold = decibels('threshold', 'Threshold', -60, 0, -30, { group: 'Band' });
const ratio = ratioOf('ratio', 'Ratio', 1, 20, 4, { group: 'Band' });
const range = decibels('range', 'Range', 0, 24, 10, { group: 'Band' });
const attack = milliseconds('attack', 'Attack', 0.1, 20, 0.5, { group: 'Time' });
const release = milliseconds('release', 'Release', 5, 500, 50, { group: 'Time', step: 1 });
const link = percent('link', 'Stereo link', 100, 0, 100, { group: 'Time' });
const mode = choice('mode', 'Turns down', ['The band', 'Everything', 'Listen: the band alone'], 0, {
  group: 'Time',
});

/** How far a steady level in the band is turned down. */
const reductionAt: NonNullable<Processor['reductionAt']> = (level, params) =>
  Math.min(
    valueOf(range, params),
    Math.max(0, level - valueOf(threshold, params)) * (1 - 1 / valueOf(ratio, params)),
  );

/**
 * A compressor that hears what lies above its frequency alone, and turns down that band, or everything, while it is too
 * loud. It is turned down by a shelf of second order whose gain moves; with no reduction the signal is untouched.
 */
export const deEsser: Processor = {
  type: 'deEsser',
  name: 'De-esser',
  shortName: 'De-ess',
  about:
    'Turns sharp s sounds, string noise and fret squeaks down while they last. Listen to the band alone to find its frequency.',
  parameters: [hertz, threshold, ratio, range, attack, release, link, mode],
  channels: 'linked',
  takesKey: false,
  mixes: true,
  levelDependent: true,
  nonlinear: false,
  ambient: false,
  curves: ['static'],
  reductionAt,
  packed: true,
  latency: () => 0,
  direct: () => ({ delay: 0, gain: 1 }),
  stateBytes: () => LANE_HEADER_BYTES + 16,
  engineParams: (params, { sampleRate }) => ({
    threshold: valueOf(threshold, params),
    slope: 1 - 1 / valueOf(ratio, params),
    range: valueOf(range, params),
    attack: shareOf(valueOf(attack, params), sampleRate),
    release: shareOf(valueOf(release, params), sampleRate),
    link: valueOf(link, params) / 100,
    everything: Math.round(valueOf(mode, params)) === 1 ? 1 : 0,
    listen: Math.round(valueOf(mode, params)) === 2 ? 1 : 0,
    band: sectionFloats(passSection('low', valueOf(hertz, params), Math.SQRT1_2, sampleRate)),
  }),
};
