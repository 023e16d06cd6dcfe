import type { Seconds } from '../core/base/units';

/** Quarter notes a minute. */
export const BPM = 96;
/** An eighth lasts half of 60/96 s, a bar of 6/8 1.875 s; sixteen bars and a ring-out make 32 s. */
export const EIGHTH: Seconds = 60 / BPM / 2;
export const BAR: Seconds = 6 * EIGHTH;
export const BARS = 16;
export const LENGTH: Seconds = 32;
export const SECTIONS = [
  { id: 's1', name: 'First verse', start: 0, end: 7.5 },
  { id: 's2', name: 'Refrain', start: 7.5, end: 15 },
  { id: 's3', name: 'Second verse', start: 15, end: 22.5 },
  { id: 's4', name: 'Refrain out', start: 22.5, end: 32 },
] as const;

export const isRefrain = (bar: number) => Math.floor(bar / 4) % 2 === 1;

/** A chord a bar, in D dorian: root as a MIDI note, and the chord's tones above it. */
export const CHORDS: readonly { readonly root: number; readonly tones: readonly number[] }[] = [
  ...[38, 36, 38, 33, 41, 36, 43, 38].map((root) => ({
    root,
    tones: root === 36 || root === 41 || root === 43 ? [0, 4, 7] : [0, 3, 7],
  })),
];
export const chordAt = (bar: number) => CHORDS[(isRefrain(bar) ? 4 : 0) + (bar % 4)]!;

/** Melody: for each bar of a verse and of a refrain, [eighth, length in eighths, MIDI note]. */
type Note = readonly [eighth: number, length: number, note: number];
export const VERSE: readonly (readonly Note[])[] = [
  [
    [0, 2, 62],
    [2, 1, 64],
    [3, 2, 65],
    [5, 1, 64],
  ],
  [
    [0, 3, 64],
    [3, 2, 60],
    [5, 1, 62],
  ],
  [
    [0, 2, 62],
    [2, 1, 65],
    [3, 2, 69],
    [5, 1, 67],
  ],
  [[0, 5, 64]],
];
export const REFRAIN: readonly (readonly Note[])[] = [
  [
    [0, 2, 69],
    [2, 1, 69],
    [3, 2, 72],
    [5, 1, 69],
  ],
  [
    [0, 3, 67],
    [3, 3, 64],
  ],
  [
    [0, 2, 67],
    [2, 1, 65],
    [3, 2, 62],
    [5, 1, 64],
  ],
  [[0, 5, 62]],
];
export const melodyAt = (bar: number) => (isRefrain(bar) ? REFRAIN : VERSE)[bar % 4]!;
