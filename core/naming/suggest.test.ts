import { describe, expect, it } from 'vitest';
import { fitName } from './fitName';
import { familyOf, suggest, tidyName } from './suggest';

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
