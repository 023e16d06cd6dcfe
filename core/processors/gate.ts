import { LANE_HEADER_BYTES, shareOf, valueOf, type Processor } from './description';
import type { Hertz } from '../base/units';
import { EASED, easeNumbers } from './ease';
import { KEY_CUTS, keyCutSections } from './keyCuts';
import { decibels, milliseconds, percent, ratioOf, span } from './parameters';

const threshold = decibels('threshold', 'Threshold', -80, 0, -40, { group: 'Curve' });
const ratio = ratioOf('ratio', 'Ratio', 1, 100, 10, { group: 'Curve' });
const range = decibels('range', 'Range', 0, 90, 40, { group: 'Curve' });
const hysteresis = decibels('hysteresis', 'Hysteresis', 0, 24, 4, { group: 'Curve' });
const attack = milliseconds('attack', 'Attack', 0.05, 100, 0.5, { group: 'Time', step: 0.05 });
const hold = span('hold', 'Hold', 0, 1000, 20, { group: 'Time' });
const release = milliseconds('release', 'Release', 5, 3000, 150, { group: 'Time', step: 1 });
const link = percent('link', 'Stereo link', 100, 0, 100, { group: 'Time' });

/**
 * Milliseconds for which it stays open at least, whatever its hold, and in which the highest level counts while it is closed:
 * half a wave of 200 Hz. Lower notes are what the hold is for. Our own value.
 */
const WINDOW_MS = 2.5;

const framesOf = (ms: number, sampleRate: Hertz) => Math.round((ms / 1000) * sampleRate);

/**
 * An expander below its threshold, x - y = min(range, (T - x)(R - 1)) in decibels: Zölzer (ed.), "DAFX: Digital Audio
 * Effects", 2nd ed., 2011, chapter 4, static curve of an expander (from memory). At its highest ratios it is a gate.
 * Each frame of the key counts by itself: it opens at the first one that reaches the threshold, and begins to close when none
 * has reached the threshold less the hysteresis for as long as its hold. Before the first frame it is closed.
 */
export const gate: Processor = {
  type: 'gate',
  name: 'Gate',
  shortName: 'Gate',
  about:
    'Turns down what is softer than its threshold: spill between hits, noise between phrases. With a low ratio and a small range it expands gently; with a high one it closes.',
  parameters: [threshold, ratio, range, hysteresis, attack, hold, release, link, ...KEY_CUTS],
  channels: 'linked',
  takesKey: true,
  mixes: true,
  levelDependent: true,
  nonlinear: false,
  ambient: false,
  computes: [
    'Level: 20 log10 of each frame of the key, after its cuts, linked as by the compressor.',
    'It opens at a level that reaches the threshold, and stays open while levels reach the threshold less the hysteresis, and for the hold after that, 2.5 ms at least.',
    'Closed, it is turned down by min(range, (T − x)(R − 1)) with x the highest level of the last 2.5 to 5 ms since it closed. A one-pole filter, by the attack where it opens and by the release where it closes, leads there.',
    EASED,
  ],
  measured: [
    'It begins closed. It holds as long as asked, 2.5 ms at least, within three frames, at 44.1 to 192 kHz.',
  ],
  curves: ['static'],
  reductionAt: (level, params) =>
    Math.min(
      valueOf(range, params),
      Math.max(0, valueOf(threshold, params) - level) * (valueOf(ratio, params) - 1),
    ),
  packed: true,
  latency: () => 0,
  // Its quiet state is the open one: what passes it unchanged.
  direct: () => ({ delay: 0, gain: 1 }),
  stateBytes: () => LANE_HEADER_BYTES + 56,
  engineParams: (params, { sampleRate }) => ({
    threshold: valueOf(threshold, params),
    slope: valueOf(ratio, params) - 1,
    range: valueOf(range, params),
    hysteresis: valueOf(hysteresis, params),
    attack: shareOf(valueOf(attack, params), sampleRate),
    /** Frames. */
    hold: Math.max(framesOf(WINDOW_MS, sampleRate), framesOf(valueOf(hold, params), sampleRate)),
    release: shareOf(valueOf(release, params), sampleRate),
    window: framesOf(WINDOW_MS, sampleRate),
    link: valueOf(link, params) / 100,
    ...keyCutSections(params, sampleRate),
    ...easeNumbers(sampleRate),
  }),
};
