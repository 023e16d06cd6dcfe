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
export const CODINGS = ['offset', 'twos', 'signBit', 'position'] as const;
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

/** Controls of a device, by kind. @param roles what keys can do */
export const controlsOf = <const R extends readonly string[]>(roles: R) =>
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
            "Endless: steps about 64 (`offset`), in two's complement (`twos`), or with a bit for the direction (`signBit`). With ends: its `position`.",
        },
      ),
      push: field(NULLABLE, { default: null, about: 'A note, on while it is pushed.' }),
      touch: field(NULLABLE, { default: null, about: 'A note, on while a hand is on it.' }),
      ring: field(
        { kind: 'object', fields: RING, nullable: true },
        { default: null, about: 'Its ring of lights.' },
      ),
      light,
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
