import { field, type ValueOf } from '../../session/fields/shape';

/*
 * What a device has, as its profile says it. Type, validator, JSON Schema and the page of the documentation are made from
 * these tables.
 */

const CHANNEL = field({ kind: 'number', min: 1, max: 16, whole: true }, { about: 'MIDI channel, 1 to 16.' });
const SEVEN = { kind: 'number', min: 0, max: 127, whole: true } as const;

/** A MIDI message, in either direction. */
export const ADDRESS = {
  kind: 'oneOf',
  by: 'type',
  of: {
    control14: {
      channel: CHANNEL,
      controller: field(
        { kind: 'number', min: 0, max: 31, whole: true },
        { about: 'Carries the upper seven bits; the one 32 above it carries the lower.' },
      ),
      lowFirst: field(
        { kind: 'flag' },
        { default: false, about: 'Whether the device sends the lower seven bits before the upper ones.' },
      ),
    },
    control: { channel: CHANNEL, controller: field(SEVEN) },
    note: { channel: CHANNEL, note: field(SEVEN) },
    pitchBend: { channel: CHANNEL },
    parameter: {
      channel: CHANNEL,
      parameter: field(
        { kind: 'number', min: 0, max: 16383, whole: true },
        { about: 'A non-registered parameter: its number by controllers 99 and 98, its value by 6 and 38.' },
      ),
    },
  },
} as const;
const NULLABLE = { ...ADDRESS, nullable: true } as const;

/** Where something lies on the device, in millimetres from its upper left corner. */
export const PLACE = {
  x: field({ kind: 'number', min: 0, max: 3000 }),
  y: field({ kind: 'number', min: 0, max: 3000 }),
  width: field({ kind: 'number', min: 1, max: 3000 }),
  height: field({ kind: 'number', min: 1, max: 3000 }),
} as const;
const place = field(
  { kind: 'object', fields: PLACE, nullable: true },
  { default: null, about: 'Where it lies, in millimetres; null: where the page finds room.' },
);
const id = field({ kind: 'text', least: 1, most: 40 }, { about: 'One of a kind in the profile.' });
const POSITION = { kind: 'number', min: 0, max: 63, whole: true } as const;
const position = field(POSITION, { about: 'Place from the left, from 0.' });
const row = field(POSITION, { default: 0, about: 'Row of encoders, from the top, from 0.' });
const input = field(ADDRESS, { about: 'What it says.' });
const OVER = {
  kind: 'choice',
  values: ['fader', 'encoder'],
} as const;
const over = field(OVER, { default: 'fader', about: 'What it belongs to.' });
const prefix = field(
  { kind: 'list', of: SEVEN, most: 16, least: 1 },
  { about: 'First bytes of the system exclusive message, after F0.' },
);
const cell = field(
  { ...SEVEN, nullable: true },
  { default: null, about: 'The byte after the prefix; null: the position.' },
);

/** A light: how brightly it can shine. */
export const LIGHT = {
  address: field(ADDRESS, { about: 'A note, or a controller.' }),
  on: field(SEVEN, { default: 127, about: 'The value with which it shines brightly.' }),
  dim: field(
    { ...SEVEN, nullable: true },
    { default: null, about: 'The value with which it shines faintly; null where it cannot.' },
  ),
} as const;
const light = field(
  { kind: 'object', fields: LIGHT, nullable: true },
  { default: null, about: 'Its light.' },
);

/** How turns of an encoder are told. */
export const CODINGS = ['offset', 'twos', 'signBit', 'increments', 'position'] as const;
/** How a ring of lights can show a value. */
export const RINGS = ['left', 'centre', 'dot', 'width'] as const;
export const RING = {
  address: field(ADDRESS, { about: 'Takes the value, 1 to 127, 64 the middle; 0 is dark.' }),
  style: field(NULLABLE, {
    default: null,
    about: 'Takes how it is shown: 0 from the left, 1 from the centre, 2 a dot, 3 opening both ways.',
  }),
  styles: field(
    { kind: 'list', of: { kind: 'choice', values: RINGS }, most: null, unique: true },
    {
      default: ['left'],
      about: 'What it can do; where it cannot do what a value asks for, it does the first.',
    },
  ),
} as const;

const RANGE = {
  low: field({ kind: 'number', min: 0, max: 16383, whole: true }),
  high: field({ kind: 'number', min: 0, max: 16383, whole: true }),
} as const;
const range = field(
  { kind: 'object', fields: RANGE, nullable: true },
  {
    default: null,
    about:
      'Where its way begins and ends, of 0 to 16383, for one that does not go from end to end; null: all of it.',
  },
);
const reversed = field({ kind: 'flag' }, { default: false, about: 'Whether it runs the other way round.' });

/** Of which strip a control that always does one thing does it. */
export const OWNERS = ['place', 'picked', 'main', 'strip'] as const;
const owner = field(
  { kind: 'choice', values: OWNERS },
  {
    default: 'place',
    about:
      'Of the strip at its place in the window, of the one picked last, of the main output, or of one strip alone.',
  },
);
const strip = field(
  { kind: 'text', most: 40, nullable: true },
  { default: null, about: 'The id of that one strip or VCA.' },
);
/** What a control always does, whatever the encoders of the desk are set to. @param what a strip has that a hand can move */
const steersOf = <const W extends readonly string[]>(what: W) =>
  field(
    {
      kind: 'oneOf',
      by: 'type',
      nullable: true,
      of: {
        across: {
          what: field({ kind: 'choice', values: what }, { about: 'What it moves.' }),
          nth: field(
            { kind: 'number', min: 0, max: 63, whole: true, nullable: true },
            {
              default: null,
              about: 'Which return, or which band, from 0; null: the one that the desk has chosen.',
            },
          ),
          of: owner,
          strip,
        },
        parameter: {
          processor: field({ kind: 'text', least: 1, most: 40 }),
          parameter: field(
            { kind: 'text', least: 1, most: 40 },
            { about: 'Of the first such processor of the strip.' },
          ),
          of: owner,
          strip,
        },
      },
    },
    { default: null, about: 'What it always moves; null: what the desk lays on it.' },
  );

/** Controls of a device, by kind. @param roles what keys can do @param what a strip has that a hand can move */
export const controlsOf = <const R extends readonly string[], const W extends readonly string[]>(
  roles: R,
  what: W,
) =>
  ({
    fader: {
      id,
      position,
      in: input,
      out: field(NULLABLE, { default: null, about: 'Where its motor listens; null for one without.' }),
      touch: field(NULLABLE, {
        default: null,
        about: 'A note that tells of a hand on it; null where it cannot.',
      }),
      range,
      reversed,
      steers: steersOf(what),
      place,
    },
    encoder: {
      id,
      row,
      position: field(POSITION, { about: 'Place in its row, from the left, from 0.' }),
      in: input,
      coding: field(
        { kind: 'choice', values: CODINGS },
        {
          default: 'offset',
          about:
            "Endless: steps about 64 (`offset`), in two's complement (`twos`), with a bit for the direction (`signBit`), or by controllers 96 and 97 for a non-registered parameter (`increments`). With ends: its `position`.",
        },
      ),
      push: field(NULLABLE, { default: null, about: 'A note, on while it is pushed.' }),
      touch: field(NULLABLE, { default: null, about: 'A note, on while a hand is on it.' }),
      ring: field(
        { kind: 'object', fields: RING, nullable: true },
        { default: null, about: 'Its ring of lights.' },
      ),
      light,
      range,
      reversed,
      steers: steersOf(what),
      place,
    },
    key: {
      id,
      position: field(
        { ...POSITION, nullable: true },
        { default: null, about: 'Of a key of a strip: its place. Null: of the whole unit.' },
      ),
      role: field({ kind: 'choice', values: roles }, { about: 'What it does: see below.' }),
      user: field(
        { kind: 'number', min: 1, max: 32, whole: true, nullable: true },
        { default: null, about: 'Of a user key: its number.' },
      ),
      in: input,
      toggles: field(
        { kind: 'flag' },
        { default: false, about: 'Whether it says on and off by turns instead of while held.' },
      ),
      release: field(
        { kind: 'choice', values: ['off', 'on', 'none'] },
        { default: 'off', about: 'What it says when it is let go: off, on once more, or nothing.' },
      ),
      action: field(
        { kind: 'text', least: 1, most: 80, nullable: true },
        { default: null, about: 'Of a key of the role `action`: the id of an action of the palette.' },
      ),
      light,
      place,
    },
    display: {
      id,
      over,
      position: field({ ...POSITION, nullable: true }, { default: null, about: 'Null: of the whole unit.' }),
      row,
      shows: field(
        { kind: 'choice', values: ['name', 'value', 'mode', 'page', 'reach'] },
        {
          about:
            'The name; the value; the automation mode in four letters; of the whole unit: what the encoders steer, or what the window shows.',
        },
      ),
      characters: field({ kind: 'number', min: 3, max: 80, whole: true }),
      prefix,
      cell,
      place,
    },
    colour: { id, over, position, row, prefix, cell, place },
    icon: { id, over, position, row, prefix, cell, place },
    meter: {
      id,
      position,
      address: field(ADDRESS, { about: 'Takes the level: 0 is silence, 1 to 127 is -60 to 0 dBFS.' }),
      place,
    },
  }) as const;

/** Fields of a profile beside its format, version and controls. */
export const PROFILE = {
  id,
  name: field({ kind: 'text', least: 1, most: 80 }),
  simulated: field(
    { kind: 'flag' },
    { default: false, about: 'Whether it is a stand-in that the program brings itself.' },
  ),
  width: field(
    { kind: 'number', min: 0, max: 64, whole: true },
    { about: 'How many strips it shows at once: its faders; 0 for a unit of encoders alone.' },
  ),
  pickup: field(
    { kind: 'choice', values: ['catch', 'scale', 'jump'] },
    {
      default: 'catch',
      about:
        'How faders without motors, and knobs with ends, take hold of a value; can be chosen anew for each unit.',
    },
  ),
  size: field(
    {
      kind: 'object',
      nullable: true,
      fields: {
        width: field({ kind: 'number', min: 10, max: 3000 }),
        height: field({ kind: 'number', min: 10, max: 3000 }),
      },
    },
    { default: null, about: 'Of the device, in millimetres.' },
  ),
} as const;

export type MidiAddress = ValueOf<typeof ADDRESS>;
export type Place = ValueOf<{ kind: 'object'; fields: typeof PLACE }>;
export type Light = ValueOf<{ kind: 'object'; fields: typeof LIGHT }>;
export type RingStyle = (typeof RINGS)[number];
