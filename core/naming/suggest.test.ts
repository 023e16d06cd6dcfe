import { describe, expect, it } from 'vitest';
import { fitName } from './fitName';
import { familyOf, suggest, tidyName, withoutTake } from './suggest';

describe('a name from a file name', () => {
  it.each([
    ['03_Frame-Drum_skin.wav', 'Frame Drum skin'],
    ['Kick In.wav', 'Kick In'],
    ['stems/LeadVox.wav', 'Lead Vox'],
    ['Track 12 Bass.wav', 'Bass'],
    ['808.wav', '808'],
    ['.wav', 'Stem'],
    ['C:\\audio\\Oboe.WAV', 'Oboe'],
  ])('%s is %s', (file, name) => expect(tidyName(file)).toBe(name));
});

describe('a family from a name', () => {
  // Common studio names; common practice, no published source.
  it.each([
    ['Kick In', 'Percussion'],
    ['Snare Top', 'Percussion'],
    ['OH L', 'Percussion'],
    ['Room Kick', 'Percussion'],
    ['Bass DI', 'Bass'],
    ['Sub', 'Bass'],
    ['Gtr 1 L', 'Guitars'],
    ['Gitarre', 'Guitars'],
    ['Pno', 'Keys'],
    ['Vln 2', 'Strings'],
    ['Geige', 'Strings'],
    ['Lead Vox', 'Lead'],
    ['BV 3', 'Choir'],
    ['Room Pair', 'Room'],
    ['Flöte', 'Winds'],
    ['Trumpets', 'Winds'],
    ['Click', 'Triggers'],
    ['Take 7', 'Others'],
  ])('%s is of %s', (name, family) => expect(familyOf(name).name).toBe(family));
  it('gives the same colour to all of one family', () => {
    expect(suggest('Kick.wav').colour).toBe(suggest('Snare.wav').colour);
    expect(suggest('Kick.wav').colour).not.toBe(suggest('Bass.wav').colour);
  });
});

describe('a name in a narrow column', () => {
  it.each([
    ['Frame drum skin', 7, 3, ['Frame', 'drum', 'skin']],
    ['Bass DI', 7, 3, ['Bass DI']],
    ['Concertina L', 7, 3, ['Concer.', 'L']],
    ['One two three four five', 5, 2, ['One', 'five']],
    ['', 7, 3, []],
  ] as const)('%s', (name, most, lines, rows) => expect(fitName(name, most, lines)).toEqual(rows));
});

// Common practice, no published source: what recorders and programs write behind the name of a take.
it.each([
  ['Skin_take3.wav', 'Skin.wav'],
  ['Skin Take 12', 'Skin'],
  ['Frame-Drum-tk04.aif', 'Frame-Drum.aif'],
  ['Skin_T02.wav', 'Skin.wav'],
  ['Tom T1.wav', 'Tom T1.wav'],
  ['Skin_2026-05-14.wav', 'Skin.wav'],
  ['Skin 20260514_1530.flac', 'Skin.flac'],
  ['Skin-2026.05.14-15h30m12s.wav', 'Skin.wav'],
  ['Skin_14-05-26.wav', 'Skin.wav'],
  ['Skin (2).wav', 'Skin.wav'],
  ['Skin_take2_2026-05-14 (1).wav', 'Skin.wav'],
  ['Tom 2.wav', 'Tom 2.wav'],
  ['Vox 1999.wav', 'Vox 1999.wav'],
  ['Uptake 3.wav', 'Uptake 3.wav'],
  ['2026-05-14.wav', '2026-05-14.wav'],
  ['take 7.wav', 'take 7.wav'],
  ['Part 14-05.wav', 'Part 14-05.wav'],
])('without what says which take it is, %s is %s', (file, bare) => expect(withoutTake(file)).toBe(bare));
