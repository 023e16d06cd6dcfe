import { shareOf, valueOf, type Processor } from './description';
import { numberJumpFrames } from '../base/jump';
import type { Hertz } from '../base/units';
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

/** The split's taps to either side of its middle, at 48 kHz; of wide rates it is made at every second or fourth frame. */
const REACH = 144;
const stretchOf = (sampleRate: Hertz) => Math.max(1, Math.round(sampleRate / 48000));
const smoothTaps = (stretch: number) => (stretch === 1 ? 1 : 12 * stretch + 1);

/**
 * A compressor that hears what lies above its frequency alone, and turns down that band, or everything, while it is too loud. The
 * band is split off by a filter of linear phase (a sinc under Kaiser's window for 50 dB; J. F. Kaiser, ISCAS 1974) whose slope of
 * 490 Hz at 48 kHz ends at the frequency: the band and what is left of it add up to the signal, only late. So with no reduction the signal is
 * untouched, and what lies in the band is turned down by as much as is asked for. At 96 and 192 kHz the filter is stretched, and what it
 * lets through once more is smoothed away before it (Neuvo, Dong and Mitra, "Interpolated finite impulse response filters", IEEE
 * Trans. ASSP 32(3), 1984).
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
  computes: [
    'The band: what a low-pass of linear phase leaves, 289 taps at 48 kHz, whose slope ends at the frequency.',
    "Reduction: min(range, (1 − 1/R)(x − T)) of each frame's level x in the band; a one-pole filter of the release lets it fall, one of the attack leads there.",
    'The band, or everything, is multiplied by it; the rest is added as it was.',
    'Where the frequency moves, the band crosses over to what it becomes in 120 frames, 2.5 ms at least, by t⁵ (126 − 420t + 540t² − 315t³ + 70t⁴).',
  ],
  measured: [
    'A tone at its frequency, and above it to 20 kHz, is turned down by what its curve and range ask for, within 0.5 dB; one 600 Hz below it by less than 0.1 dB: at 44.1 to 192 kHz.',
    'With no reduction it is the signal itself, late.',
  ],
  curves: ['static'],
  reductionAt,
  packed: false,
  latency: (_params, sampleRate) => {
    const stretch = stretchOf(sampleRate);
    return REACH * stretch + (smoothTaps(stretch) - 1) / 2;
  },
  direct: () => ({ delay: 0, gain: 1 }),
  // The header, two sets of taps, and of two channels 16 bytes and two pasts, each with room for a block.
  stateBytes: (_channels, sampleRate) => {
    const stretch = stretchOf(sampleRate);
    const past = 4 * (2 * REACH * stretch + smoothTaps(stretch) + 128 + 15);
    return 64 + 2 * 1168 + 2 * (16 + 2 * past);
  },
  leaps: ['frequency'],
  acts: {
    threshold: 'end',
    slope: 'end',
    range: 'end',
    attack: 'end',
    release: 'end',
    link: 'end',
    everything: 'end',
    listen: 'end',
    frequency: 'end',
  },
  engineParams: (params, { sampleRate }) => ({
    /** Frames in which the band crosses over to another frequency. */
    fade: numberJumpFrames(sampleRate),
    threshold: valueOf(threshold, params),
    slope: 1 - 1 / valueOf(ratio, params),
    range: valueOf(range, params),
    attack: shareOf(valueOf(attack, params), sampleRate),
    release: shareOf(valueOf(release, params), sampleRate),
    link: valueOf(link, params) / 100,
    everything: Math.round(valueOf(mode, params)) === 1 ? 1 : 0,
    listen: Math.round(valueOf(mode, params)) === 2 ? 1 : 0,
    frequency: Math.min(valueOf(hertz, params), 0.45 * sampleRate),
  }),
};
