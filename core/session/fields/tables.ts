import { PREAMP } from '../../devices/preamp';
import { LIMITS } from '../../base/limits';
import { ICON_IDS } from '../../naming/iconIds';
import { levelText } from '../../levels/decibels';
import { FADER_TOP } from '../../levels/faderLaw';
import { PAN_LAWS, panText } from '../../levels/pan';
import type { Decibels } from '../../base/units';
import { field, type LaneValues, type ValueOf } from './shape';

/*
 * Every field of the session, stated once: type, validators of documents and edits, JSON Schema, defaults, sentences about
 * changes and documents follow from these tables.
 */

/** What a strip can do with its lanes, in the order in which it steps through them. */
export const AUTOMATION_MODES = ['off', 'read', 'touch', 'latch', 'trim', 'write'] as const;

const ID = field({ kind: 'id' }, { fixed: true });
const NAME = { kind: 'text', most: LIMITS.name } as const;
const COLOUR = { kind: 'colour' } as const;
const ICON = field(
  { kind: 'choice', values: ICON_IDS },
  { default: 'none', words: (_, now) => (now === 'none' ? 'no icon' : `icon ${now}`) },
);
const FLAG = { kind: 'flag' } as const;
const LEVEL = { kind: 'level', top: FADER_TOP } as const;
const PAN = { kind: 'number', min: -1, max: 1 } as const;
const MODE = { kind: 'choice', values: AUTOMATION_MODES } as const;
const GREY = '#8aa0a0';

const LEVELS: LaneValues = { min: LIMITS.lowestDb, max: FADER_TOP, silence: true };
const PANS: LaneValues = { min: -1, max: 1 };
const FLAGS: LaneValues = { min: 0, max: 1, stepped: true };

const db = (level: Decibels) => (level === null ? 'silence' : `${levelText(level)} dB`);
const either = (yes: string, no: string) => (_: boolean, now: boolean) => (now ? yes : no);
const renamed = (was: string, _now: string, t: { readonly id: string }) => `renamed from “${was || t.id}”`;
const levelled = (was: Decibels, now: Decibels) => `level ${db(now)}, was ${db(was)}`;
const moded = (was: string, now: string) => `automation ${now}, was ${was}`;

/** What is asked of an input of the remote preamplifier. */
export const PREAMP_SETTINGS = {
  input: field({ kind: 'number', min: 1, max: PREAMP.inputs, whole: true }),
  gainDb: field({ kind: 'number', min: PREAMP.gainMin, max: PREAMP.gainMax, step: PREAMP.gainStep }),
  pad: field(FLAG, { default: false }),
  phantom: field(FLAG, { default: false }),
  lowCut: field(FLAG, { default: false }),
  invert: field(FLAG, { default: false }),
} as const;
const PREAMPLIFIER = { kind: 'object', fields: PREAMP_SETTINGS, nullable: true } as const;
const preampWords = (_: unknown, now: ValueOf<typeof PREAMPLIFIER>) =>
  now
    ? [
        `preamplifier input ${now.input}, ${now.gainDb} dB`,
        ...(now.pad ? ['pad'] : []),
        ...(now.phantom ? ['phantom power'] : []),
        ...(now.lowCut ? ['low cut'] : []),
        ...(now.invert ? ['inverted'] : []),
      ].join(', ')
    : 'no preamplifier';

/** A processor in a strip's chain, before or after its fader. */
export const INSERT = {
  id: ID,
  type: field({ kind: 'processor' }, { fixed: true }),
  place: field(
    { kind: 'choice', values: ['pre', 'post'] },
    {
      default: 'pre',
      words: (_, now) => `${now === 'pre' ? 'before' : 'after'} the fader`,
    },
  ),
  on: field(FLAG, { default: true, words: either('on', 'bypassed') }),
  mix: field(
    { kind: 'number', min: 0, max: 1 },
    {
      default: 1,
      about: 'Share of the processed signal: 0 is dry, 1 is wet.',
      words: (was, now) => `${Math.round(now * 100)} % wet, was ${Math.round(was * 100)} %`,
    },
  ),
  params: field({ kind: 'params' }, { default: {}, ruled: 'itself' }),
  key: field(
    { kind: 'id', nullable: true },
    {
      default: null,
      ruled: true,
      about: 'The strip whose signal keys the processor, where it takes a key.',
      words: (_, now, t) => `keyed by ${now === null ? 'its own signal' : t.named(now)}`,
    },
  ),
  lanes: field({ kind: 'lanes', controls: null }, { default: {}, ruled: 'itself' }),
} as const;

export const SEND = {
  id: ID,
  to: field({ kind: 'id' }, { ruled: true }),
  tap: field({ kind: 'choice', values: ['input', 'pre', 'post'] }, { default: 'post' }),
  levelDb: field(LEVEL, { default: 0 }),
  pan: field(PAN, { default: 0 }),
  on: field(FLAG, { default: true }),
  lanes: field(
    { kind: 'lanes', controls: { level: LEVELS, pan: PANS, on: FLAGS } },
    { default: {}, ruled: 'itself' },
  ),
} as const;

/** Where a strip's dry path goes. */
export const OUT = {
  to: field({ kind: 'id', nullable: true }, { default: null }),
  on: field(FLAG, { default: true }),
} as const;

export const STRIP = {
  id: ID,
  kind: field({ kind: 'choice', values: ['source', 'submix', 'return', 'output'] }, { fixed: true }),
  name: field(NAME, { default: '', words: renamed }),
  family: field(NAME, {
    default: '',
    words: (was, now) => `family ${now || 'none'}, was ${was || 'none'}`,
  }),
  // A family brings its colour.
  colour: field(COLOUR, { default: GREY, words: (_, __, t) => (t.same('family') ? 'another colour' : null) }),
  icon: ICON,
  channels: field(
    { kind: 'choice', values: [1, 2] },
    {
      defaultBy: (kind) => (kind === 'source' ? 1 : 2),
      fixed: true,
      about: 'Left out: 1 for a source, else 2.',
    },
  ),
  stem: field(
    { kind: 'text', least: 1, most: 500, nullable: true },
    {
      default: null,
      fixed: true,
      about: 'Path inside the package; sources alone.',
    },
  ),
  trimDb: field(
    { kind: 'level', top: LIMITS.trimTop },
    {
      default: 0,
      link: 'fader',
      words: (was, now) => `trim ${db(now)}, was ${db(was)}`,
    },
  ),
  invert: field(FLAG, { default: false, words: either('polarity inverted', 'polarity as it is') }),
  swap: field(FLAG, { default: false, words: either('sides swapped', 'sides as they are') }),
  width: field(
    { kind: 'number', min: 0, max: 2 },
    {
      default: 1,
      link: 'pan',
      words: (_, now) => `width ${Math.round(now * 100)} %`,
    },
  ),
  faderDb: field(LEVEL, { default: 0, link: 'fader', words: levelled }),
  pan: field(PAN, {
    default: 0,
    link: 'pan',
    words: (was, now) => `pan ${panText(now)}, was ${panText(was)}`,
  }),
  mute: field(FLAG, { default: false, link: 'mute', words: either('muted', 'unmuted') }),
  solo: field(FLAG, { default: false, link: 'solo', words: either('soloed', 'solo off') }),
  soloSafe: field(FLAG, {
    defaultBy: (kind) => kind === 'return',
    link: 'solo',
    about: 'Left out: true on a return, else false.',
    words: either('solo-safe', 'no longer solo-safe'),
  }),
  hidden: field(FLAG, { default: false, words: either('hidden', 'shown') }),
  pair: field(
    { kind: 'number', min: 1, max: LIMITS.channels - 1, whole: true, nullable: true },
    {
      defaultBy: (kind) => (kind === 'output' ? 1 : null),
      ruled: true,
      about: 'First channel of the pair by which an output leaves. Left out: 1 on an output, else null.',
      words: (_, now) => (now === null ? null : `leaves by ${now}–${now + 1}`),
    },
  ),
  preamp: field(PREAMPLIFIER, {
    default: null,
    ruled: true,
    about: 'Input of the remote preamplifier that a source comes by; sources alone.',
    words: preampWords,
  }),
  automation: field(MODE, { default: 'read', link: 'automation', words: moded }),
  lanes: field(
    { kind: 'lanes', controls: { fader: LEVELS, pan: PANS, mute: FLAGS } },
    { default: {}, ruled: 'itself' },
  ),
  inserts: field(
    { kind: 'list', of: { kind: 'object', fields: INSERT }, most: LIMITS.inserts },
    {
      default: [],
      fixed: true,
    },
  ),
  sends: field(
    { kind: 'list', of: { kind: 'object', fields: SEND }, most: LIMITS.sends },
    {
      default: [],
      fixed: true,
    },
  ),
  out: field({ kind: 'object', fields: OUT }, { default: { to: null, on: true }, fixed: true }),
} as const;

/** A fader that carries no audio: its decibels are added to those of its members. */
export const VCA = {
  id: ID,
  name: field(NAME, { default: '', words: renamed }),
  colour: field(COLOUR, { default: GREY }),
  icon: ICON,
  faderDb: field(LEVEL, { default: 0, words: levelled }),
  mute: field(FLAG, { default: false, words: either('muted', 'unmuted') }),
  solo: field(FLAG, { default: false, words: either('soloed', 'solo off') }),
  automation: field(MODE, { default: 'read', words: moded }),
  lanes: field({ kind: 'lanes', controls: { fader: LEVELS, mute: FLAGS } }, { default: {}, ruled: 'itself' }),
  members: field({ kind: 'list', of: { kind: 'id' }, most: LIMITS.strips }, { default: [], fixed: true }),
} as const;

export const LINK_PARTS = ['fader', 'pan', 'mute', 'solo', 'sends', 'inserts', 'automation'] as const;

/** Strips that are moved together, in both directions: what is done to one is done to all. */
export const LINK = {
  id: ID,
  name: field(NAME, { default: '' }),
  on: field(FLAG, { default: true }),
  members: field({ kind: 'list', of: { kind: 'id' }, most: LIMITS.strips }, { default: [], ruled: true }),
  parts: field(
    { kind: 'list', of: { kind: 'choice', values: LINK_PARTS }, most: null, unique: true },
    {
      default: ['fader', 'mute', 'solo'],
    },
  ),
  keeps: field(FLAG, { default: true, about: 'Whether differences between members are kept.' }),
} as const;

const TIME = { kind: 'number', min: 0, max: LIMITS.longest } as const;
export const SECTION = {
  id: ID,
  name: field(NAME, { default: '' }),
  start: field(TIME, { about: 'Seconds.' }),
  end: field(TIME, { about: 'Seconds.' }),
} as const;

export const TEMPO = {
  bpm: field({ kind: 'number', min: 10, max: 999 }, { default: 120, about: 'Quarter notes a minute.' }),
  beatsPerBar: field({ kind: 'number', min: 1, max: 64, whole: true }, { default: 4 }),
  beatUnit: field({ kind: 'choice', values: [1, 2, 4, 8, 16, 32] }, { default: 4 }),
} as const;

/** A strip or VCA that is kept at an edge of the control surfaces. */
export const PIN = {
  strip: field({ kind: 'id' }, { about: 'The strip, or VCA.' }),
  side: field({ kind: 'choice', values: ['left', 'right'] }),
  unit: field(
    { kind: 'id', nullable: true },
    {
      default: null,
      about: 'The unit of the desk at whose edge it is kept while units are apart; null: the whole desk.',
    },
  ),
} as const;

/** An order of one's own in which strips lie on the control surfaces. */
export const LAYOUT = {
  id: ID,
  name: field(NAME, { default: '' }),
  order: field({ kind: 'list', of: { kind: 'id' }, most: LIMITS.strips + LIMITS.vcas }, { default: [] }),
} as const;

/** Fields of the session itself, beside its format and version. */
export const SESSION = {
  name: field(
    { kind: 'text', least: 1, most: LIMITS.name },
    {
      words: (_, now) => `is called “${now}”`,
    },
  ),
  sampleRate: field({ kind: 'number', min: 8000, max: 192000, whole: true }, { fixed: true }),
  panLaw: field(
    { kind: 'choice', values: PAN_LAWS },
    {
      default: -3,
      about: 'Decibels at the centre.',
      words: (_, now) => `pan law ${now} dB`,
    },
  ),
  tempo: field({ kind: 'object', fields: TEMPO }, { default: { bpm: 120, beatsPerBar: 4, beatUnit: 4 } }),
  sections: field(
    { kind: 'list', of: { kind: 'object', fields: SECTION }, most: LIMITS.sections },
    {
      default: [],
      fixed: true,
    },
  ),
  strips: field(
    { kind: 'list', of: { kind: 'object', fields: STRIP }, most: LIMITS.strips },
    { fixed: true },
  ),
  vcas: field(
    { kind: 'list', of: { kind: 'object', fields: VCA }, most: LIMITS.vcas },
    {
      default: [],
      fixed: true,
    },
  ),
  links: field(
    { kind: 'list', of: { kind: 'object', fields: LINK }, most: LIMITS.links },
    {
      default: [],
      fixed: true,
    },
  ),
  pins: field(
    { kind: 'list', of: { kind: 'object', fields: PIN }, most: LIMITS.pins },
    {
      default: [],
      about: 'What is kept at the edges of the control surfaces, from the edge inwards.',
      words: (_, now) => (now.length ? `${now.length} pinned on the desk` : 'nothing pinned on the desk'),
    },
  ),
  layouts: field(
    { kind: 'list', of: { kind: 'object', fields: LAYOUT }, most: LIMITS.layouts },
    {
      default: [],
      about: "Orders of one's own for the control surfaces, by name.",
      words: (_, now) =>
        now.length ? `desk layouts ${now.map((l) => l.name || l.id).join(', ')}` : 'no desk layouts',
    },
  ),
  monitor: field(
    { kind: 'id', nullable: true },
    {
      default: null,
      ruled: true,
      about: 'The output that is heard; null: the first.',
    },
  ),
  dismissed: field(
    { kind: 'list', of: { kind: 'text', least: 1, most: 300 }, most: LIMITS.dismissed },
    {
      default: [],
      about: 'Keys of findings that were looked at and let stand.',
    },
  ),
} as const;
