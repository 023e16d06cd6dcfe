import type { KeptInsert, KeptSend, Preset } from './preset';

const insert = (
  type: string,
  params: Record<string, number> = {},
  more: Partial<KeptInsert> = {},
): KeptInsert => ({
  type,
  place: 'pre',
  on: true,
  mix: 1,
  params,
  key: null,
  ...more,
});
const strip = (
  name: string,
  about: string,
  words: readonly string[],
  inserts: readonly KeptInsert[],
  more: { readonly sends?: readonly KeptSend[]; readonly width?: number } = {},
): Preset => ({
  format: 'zonula-preset',
  version: 1,
  kind: 'strip',
  name,
  about,
  words,
  inserts,
  sends: more.sends ?? [],
  faderDb: undefined,
  pan: undefined,
  width: more.width,
  icon: undefined,
});
const one = (name: string, about: string, words: readonly string[], kept: KeptInsert): Preset => ({
  format: 'zonula-preset',
  version: 1,
  kind: 'processor',
  name,
  about,
  words,
  insert: kept,
});
const lowCut = (hertz: number, slope = 1) => ({ lowCutOn: 1, lowCutFrequency: hertz, lowCutSlope: slope });

/** What Zonula ships: our own starting points, made for the demo's ensemble. Each is meant to be adjusted. */
export const SHIPPED_PRESETS: readonly Preset[] = [
  strip(
    'Percussion, close',
    'Cleared below, attack kept, spill turned down between hits',
    ['drum', 'skin', 'stomp'],
    [
      insert('gate', { threshold: -42, range: 18, ratio: 4, hold: 40, release: 160 }),
      insert('equalizer', {
        ...lowCut(40),
        bell1Frequency: 320,
        bell1Gain: -3,
        bell4Frequency: 4200,
        bell4Gain: 2.5,
      }),
      insert('compressor', { threshold: -16, ratio: 4, attack: 25, release: 90, knee: 4 }),
    ],
  ),
  strip(
    'Shaker and claps',
    'Only what is bright, held level',
    ['percussion', 'high'],
    [
      insert('equalizer', { ...lowCut(300, 3), highShelfFrequency: 9000, highShelfGain: 1.5 }),
      insert('compressor', { threshold: -20, ratio: 2.5, attack: 3, release: 60 }),
    ],
  ),
  strip(
    'Percussion bus',
    'A little glue over the whole kit',
    ['submix', 'drums', 'blend'],
    [
      insert('compressor', {
        threshold: -14,
        ratio: 2,
        attack: 30,
        release: 180,
        knee: 10,
        detection: 1,
        keyLowCut: 90,
      }),
      insert('saturation', { drive: 4 }, { mix: 0.4 }),
    ],
  ),
  strip(
    'Room pair',
    'Wide above, one middle below, darker than the close ones',
    ['ambience', 'stereo', 'far'],
    [
      insert('equalizer', { ...lowCut(60), highShelfFrequency: 7000, highShelfGain: -2.5 }),
      insert('stereo', { width: 120, monoBelow: 150 }),
      insert('compressor', { threshold: -24, ratio: 3, attack: 5, release: 250, detection: 1 }, { mix: 0.5 }),
    ],
  ),
  strip(
    'Voice',
    'Clear, held, and with its s sounds in order',
    ['lead', 'vocal', 'singer'],
    [
      insert('equalizer', {
        ...lowCut(90, 2),
        bell1Frequency: 260,
        bell1Gain: -2,
        bell3Frequency: 3200,
        bell3Gain: 2,
        highShelfFrequency: 11000,
        highShelfGain: 1.5,
      }),
      insert('deEsser', { frequency: 6500, threshold: -32, range: 8 }),
      insert('compressor', { threshold: -20, ratio: 3, attack: 8, release: 140, knee: 8 }),
    ],
  ),
  strip(
    'Voice, doubled',
    'Behind the lead: thinner and softer at the top',
    ['double', 'second'],
    [
      insert('equalizer', {
        ...lowCut(160, 2),
        bell3Frequency: 3000,
        bell3Gain: -2,
        highShelfFrequency: 8000,
        highShelfGain: -2,
      }),
      insert('compressor', { threshold: -24, ratio: 4, attack: 4, release: 120 }),
    ],
  ),
  strip(
    'Choir bus',
    'Many voices as one, with room around them',
    ['submix', 'voices', 'ensemble'],
    [
      insert('equalizer', {
        ...lowCut(110),
        bell2Frequency: 700,
        bell2Gain: -1.5,
        highShelfFrequency: 9000,
        highShelfGain: 2,
      }),
      insert('compressor', { threshold: -18, ratio: 1.8, attack: 35, release: 300, knee: 14, detection: 1 }),
    ],
  ),
  strip(
    'Crew shouts',
    'Rough, near and short',
    ['shout', 'crowd'],
    [
      insert('gate', { threshold: -38, range: 24, ratio: 6, release: 120 }),
      insert('saturation', { drive: 10, character: 1, output: -2 }, { mix: 0.6 }),
      insert('equalizer', { ...lowCut(140, 2), bell3Frequency: 2200, bell3Gain: 3 }),
    ],
  ),
  strip(
    'Bass blend',
    'DI, microphone and cabinet as one instrument',
    ['low', 'submix'],
    [
      insert('equalizer', {
        ...lowCut(32, 3),
        lowShelfFrequency: 90,
        lowShelfGain: 1.5,
        bell1Frequency: 220,
        bell1Gain: -2.5,
      }),
      insert('compressor', { threshold: -20, ratio: 4, attack: 18, release: 160, knee: 6, detection: 1 }),
      insert('saturation', { drive: 6 }, { mix: 0.35 }),
    ],
  ),
  strip(
    'Plucked strings',
    'Harp, cittern: quick attacks kept, boxy middle taken',
    ['harp', 'cittern', 'guitar'],
    [
      insert('equalizer', {
        ...lowCut(75),
        bell1Frequency: 400,
        bell1Gain: -2,
        highShelfFrequency: 7000,
        highShelfGain: 1.5,
      }),
      insert('compressor', { threshold: -18, ratio: 2, attack: 30, release: 120 }),
    ],
  ),
  strip(
    'Bowed strings',
    'Fiddle: the sharp middle held while it is loud',
    ['fiddle', 'violin'],
    [
      insert('equalizer', { ...lowCut(170, 2), bell3Frequency: 2800, bell3Gain: -2 }),
      insert('deEsser', { frequency: 3200, threshold: -28, range: 5, release: 90 }),
    ],
  ),
  strip(
    'Free reed',
    'Concertina: two sides, no key noise below',
    ['concertina', 'accordion'],
    [
      insert('equalizer', { ...lowCut(130, 2), bell2Frequency: 1100, bell2Gain: -1.5 }),
      insert('stereo', { width: 85 }),
    ],
  ),
  strip(
    'Plate return',
    'A dense plate with its lows and highs cut around it',
    ['reverb', 'effect', 'return'],
    [
      insert('equalizer', { ...lowCut(180, 2), highCutOn: 1, highCutFrequency: 9000, highCutSlope: 1 }),
      insert('reverb', { character: 0, decay: 1.9, preDelay: 20, damping: 35 }),
    ],
  ),
  strip(
    'Hall return',
    'Late, wide and dark',
    ['reverb', 'effect', 'return'],
    [
      insert('equalizer', { ...lowCut(220, 1), highCutOn: 1, highCutFrequency: 7000, highCutSlope: 0 }),
      insert('reverb', { character: 2, decay: 3.2, preDelay: 35, damping: 45, size: 110 }),
    ],
  ),
  strip(
    'Room return',
    'A small room that binds without being heard',
    ['reverb', 'effect', 'return', 'short'],
    [
      insert('reverb', { character: 1, decay: 0.6, preDelay: 0, damping: 40, early: 80 }),
      insert('equalizer', { ...lowCut(200, 1) }),
    ],
  ),
  strip(
    'Slap return',
    'One dark repeat, close behind',
    ['delay', 'echo', 'effect', 'return'],
    [
      insert('delay', { note: 0, time: 110, feedback: 12, lowCut: 200, highCut: 5000 }),
      insert('equalizer', { ...lowCut(200), highCutOn: 1, highCutFrequency: 5200, highCutSlope: 1 }),
    ],
  ),
  strip(
    'Dotted repeats',
    'Dotted eighths from side to side, thinner each time',
    ['delay', 'echo', 'effect', 'return'],
    [insert('delay', { note: 8, feedback: 35, pingPong: 1, lowCut: 250, highCut: 6000 })],
  ),
  strip(
    'Ducked tail',
    'A long tail that a rhythm turns down and lets swell',
    ['reverb', 'key', 'pump', 'effect', 'return'],
    [
      insert('equalizer', { ...lowCut(180, 2) }),
      insert('reverb', { character: 0, decay: 3.5, preDelay: 10 }),
      insert('compressor', { threshold: -34, ratio: 3, attack: 12, release: 260, knee: 3 }, { key: 'Pulse' }),
    ],
  ),
  strip(
    'Wide chorus return',
    'Four voices across both sides',
    ['modulation', 'effect', 'return'],
    [
      insert('chorus', { voices: 4, rate: 0.45, depth: 3, time: 14, spread: 100 }),
      insert('equalizer', { ...lowCut(220) }),
    ],
  ),
  strip(
    'Parallel crush',
    'Hard and short, to be brought in under the dry one',
    ['parallel', 'drums', 'return'],
    [
      insert('compressor', { threshold: -36, ratio: 12, attack: 2, release: 70, makeUp: 8 }),
      insert('saturation', { drive: 8 }),
      insert('equalizer', { ...lowCut(70), highCutOn: 1, highCutFrequency: 11000 }),
    ],
  ),
  strip(
    'Main output, safe',
    'A true-peak ceiling at the very end',
    ['master', 'output', 'limiter'],
    [insert('limiter', { ceiling: -1, lookAhead: 3, release: 120 }, { place: 'post' })],
  ),
  one('Rumble cut', 'Nothing below 70 Hz', ['low cut', 'handling'], insert('equalizer', lowCut(70, 3))),
  one(
    'Boxy middle out',
    'A gentle dip around 400 Hz',
    ['mud'],
    insert('equalizer', { bell1Frequency: 400, bell1Gain: -4, bell1Q: 1.2 }),
  ),
  one(
    'Air',
    'A shelf above 11 kHz',
    ['bright'],
    insert('equalizer', { highShelfFrequency: 11000, highShelfGain: 3 }),
  ),
  one(
    'Old wireless',
    'What a small receiver leaves',
    ['telephone', 'narrow'],
    insert('equalizer', {
      ...lowCut(400, 4),
      highCutOn: 1,
      highCutFrequency: 3200,
      highCutSlope: 4,
      bell3Frequency: 1500,
      bell3Gain: 4,
    }),
  ),
  one(
    'Gentle level',
    'Two to one, soft knee',
    ['leveller'],
    insert('compressor', { threshold: -20, ratio: 2, attack: 20, release: 200, knee: 12 }),
  ),
  one(
    'Hard hold',
    'Ten to one, quick',
    ['peak'],
    insert('compressor', { threshold: -18, ratio: 10, attack: 1, release: 60, knee: 2 }),
  ),
  one(
    'Spill gate',
    'Closes between hits',
    ['bleed'],
    insert('gate', { threshold: -40, range: 30, ratio: 20, hold: 40 }),
  ),
  one(
    'Breath expander',
    'Two to one below the phrase',
    ['expander', 'noise'],
    insert('gate', { threshold: -45, range: 12, ratio: 2, release: 300, hysteresis: 6 }),
  ),
  one(
    'Warm edge',
    'A few even harmonics',
    ['colour', 'tube'],
    insert('saturation', { drive: 6, character: 1, bias: 30 }, { mix: 0.5 }),
  ),
  one(
    'Tape-like round',
    'Odd harmonics, peaks rounded',
    ['colour'],
    insert('saturation', { drive: 8, output: 1 }),
  ),
  one(
    'Eighth repeats',
    'On every eighth',
    ['echo'],
    insert('delay', { note: 9, feedback: 30, highCut: 6000 }, { mix: 0.25 }),
  ),
  one(
    'One octave down',
    'For a rumble under a bass',
    ['low'],
    insert('pitch', { semitones: -12, grain: 1 }, { mix: 0.4 }),
  ),
  one(
    'Low end in the middle',
    'Both sides alike below 120 Hz',
    ['mono'],
    insert('stereo', { monoBelow: 120 }),
  ),
];
