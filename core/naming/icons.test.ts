import { describe, expect, it } from 'vitest';
import { FAMILIES } from './lexicon';
import { ICON_IDS, type IconId } from './iconIds';
import { iconFor, iconMatches, sharedIcon } from './icons';

const source = (name: string, family = '') => iconFor({ name, family, kind: 'source' });

describe('an icon from a name', () => {
  // Common studio names; common practice, no published source.
  it.each([
    ['Kick In', 'kick'],
    ['Bass drum', 'kick'],
    ['Grosse caisse', 'kick'],
    ['Snare Top', 'snare'],
    ['SD bottom', 'snare'],
    ['Caisse claire', 'snare'],
    ['Floor Tom', 'tom'],
    ['Hi-Hat', 'hat'],
    ['HH', 'hat'],
    ['Ride', 'cymbal'],
    ['OH L', 'kit'],
    ['Drum Room', 'kit'],
    ['Room Kick', 'kick'],
    ['Frame drum skin', 'hand-drum'],
    ['Handclaps L', 'clap'],
    ['Tamb', 'shaker'],
    ['Bass DI', 'bass'],
    ['Kontrabass', 'upright'],
    ['Double Bass', 'upright'],
    ['Synth Bass', 'synth'],
    ['Ac Gtr', 'guitar'],
    ['Electric Guitar 2', 'electric'],
    ['EGtr', 'electric'],
    ['Konzertgitarre', 'guitar'],
    ['Pno', 'piano'],
    ['Akkordeon', 'accordion'],
    ['Geige 1', 'violin'],
    ['Vc', 'cello'],
    ['Flöte', 'flute'],
    ['Bass Clarinet', 'reed'],
    ['Alto Sax', 'sax'],
    ['Tpt 1', 'trumpet'],
    ['Posaune', 'trombone'],
    ['French Horn', 'horn'],
    ['Lead Vox', 'voice'],
    ['Stimme', 'voice'],
    ['BV 3', 'choir'],
    ['Choir bass', 'choir'],
    ['Talkback', 'speech'],
    ['Room Pair', 'room'],
    ['Click', 'click'],
    ['Kick trig', 'click'],
    ['Glockenspiel', 'mallets'],
    ['Violin room', 'violin'],
  ] as const)('%s has %s', (name, icon) => expect(source(name)).toBe(icon));

  it('is the family’s where the name does not say more, and none where nothing does', () => {
    expect(source('Skin 4', 'Winds')).toBe('hand-drum');
    expect(source('Number four', 'Winds')).toBe('flute');
    expect(source('Take 7')).toBe('none');
    expect(source('', '')).toBe('none');
    // A word that every object knows is no icon.
    for (const kind of ['source', 'return', 'vca'])
      expect(iconFor({ name: 'Constructor', family: '', kind })).toBe('none');
  });

  it('follows the kind: a hall that returns is a reverb, an output a speaker', () => {
    const named = (name: string, kind: string) => iconFor({ name, family: '', kind });
    expect(named('Hall', 'return')).toBe('reverb');
    expect(named('Hall', 'source')).toBe('room');
    expect(named('Slap', 'return')).toBe('echo');
    expect(named('Vocal plate', 'return')).toBe('voice');
    expect(named('Cue', 'output')).toBe('click');
    expect(named('Phones', 'output')).toBe('speaker');
  });

  it('is there for every word of the lexicon', () => {
    const without = FAMILIES.flatMap((f) => f.words).filter((word) => source(word) === 'none');
    expect(without).toEqual([]);
  });
});

it('keeps the numbers that devices are told: the first ones stand as they stood', () => {
  expect(ICON_IDS.slice(0, 4)).toEqual(['none', 'kit', 'kick', 'snare']);
  expect(ICON_IDS.at(40)).toBe('note');
  expect(new Set(ICON_IDS).size).toBe(ICON_IDS.length);
  // A data byte of MIDI has seven bits (MIDI 1.0, table I).
  expect(ICON_IDS.length).toBeLessThan(128);
});

it.each([
  ['trom', 'snare', false],
  ['geig', 'violin', true],
  ['Flö', 'flute', true],
  ['hand', 'hand-drum', true],
  ['', 'note', true],
] as const)('finds by the beginning of a word in any language: %s, %s', (query, icon, found) =>
  expect(iconMatches(icon, query)).toBe(found),
);

describe('what holds strips', () => {
  const strips = (...icons: IconId[]) => icons.map((icon) => ({ icon, family: 'Strings' }));
  it('has the icon that they share, else what its own name suggests', () => {
    expect(sharedIcon(strips('cello', 'cello'), 'Low strings', 'submix')).toBe('cello');
    expect(sharedIcon(strips('cello', 'violin'), 'Choir', 'submix')).toBe('choir');
    expect(sharedIcon(strips('none', 'none'), 'Blend', 'submix')).toBe('violin');
    expect(sharedIcon([], 'Blend', 'submix')).toBe('none');
  });
});
