import { PREAMP } from '../devices/preamp';
import { FADER_TOP } from '../levels/faderLaw';
import { AUTOMATION_MODES } from '../automation/mode';
import { LINK_PARTS } from '../session/defaults';
import { processors } from '../processors/registry';
import { LIMITS } from './sessionSchema';

export type Json = string | number | boolean | null | readonly Json[] | { readonly [key: string]: Json };

const id = { type: 'string', pattern: '^[A-Za-z0-9][A-Za-z0-9._-]{0,63}$' };
/** No U+0000 and no half of a surrogate pair: see text.ts. */
export const text = { type: 'string', pattern: String.raw`^[^\u0000\ud800-\udfff]*$` };
const name = (fallback: string) => ({ ...text, maxLength: LIMITS.name, default: fallback });
const colour = { type: 'string', pattern: '^#[0-9a-fA-F]{6}$', default: '#8aa0a0' };
export const level = (top: number, fallback: number) => ({
  description: 'Decibels; null is silence.',
  type: ['number', 'null'],
  minimum: LIMITS.lowestDb,
  maximum: top,
  default: fallback,
});
export const between = (minimum: number, maximum: number, fallback: number) => ({
  type: 'number',
  minimum,
  maximum,
  default: fallback,
});
const flag = (fallback: boolean) => ({ type: 'boolean', default: fallback });
export const object = (required: readonly string[], properties: Json): Json => ({
  type: 'object',
  additionalProperties: false,
  required,
  properties,
});
const list = (items: Json, maxItems: number) => ({ type: 'array', items, maxItems, default: [] });

/** An automation lane whose points have values of this kind. */
const lane = (value: Json): Json => ({
  type: 'array',
  minItems: 1,
  maxItems: LIMITS.points,
  items: {
    type: 'array',
    prefixItems: [{ type: 'number', minimum: 0, maximum: LIMITS.longest, description: 'Seconds.' }, value],
    minItems: 2,
    maxItems: 2,
  },
});
const levelLane = lane({ type: ['number', 'null'], minimum: LIMITS.lowestDb, maximum: FADER_TOP });
const panLane = lane({ type: 'number', minimum: -1, maximum: 1 });
const flagLane = lane({ enum: [0, 1] });
const lanes = (controls: Json): Json => ({
  ...(object([], controls) as object),
  default: {},
  description:
    'Automation by control: points [seconds, value] in the order of time; between two the control moves evenly along its travel, a switch stays as it is.',
});
const mode: Json = { enum: [...AUTOMATION_MODES], default: 'read' };

export const processorTypes = processors.map((p) => p.type);
/** What a processor's parameters may be, by its type. */
export const insertParams: readonly Json[] = processors.map((p) => ({
  if: { properties: { type: { const: p.type } } },
  then: {
    properties: {
      params: object(
        [],
        Object.fromEntries(
          p.parameters.map((x) => [
            x.id,
            { ...between(x.min, x.max, x.default), description: `${x.name}${x.unit ? `, ${x.unit}` : ''}` },
          ]),
        ),
      ),
      lanes: lanes({
        on: flagLane,
        mix: lane({ type: 'number', minimum: 0, maximum: 1 }),
        ...Object.fromEntries(
          p.parameters
            .filter((x) => !x.latent)
            .map((x) => [x.id, lane({ type: 'number', minimum: x.min, maximum: x.max })]),
        ),
      }),
    },
  },
}));

const insert: Json = {
  ...(object(['id', 'type'], {
    id,
    type: { enum: processorTypes },
    place: { enum: ['pre', 'post'], default: 'pre' },
    on: flag(true),
    mix: between(0, 1, 1),
    params: { type: 'object', default: {} },
    key: { ...id, type: ['string', 'null'], default: null },
    lanes: {
      type: 'object',
      additionalProperties: lane({ type: ['number', 'null'], minimum: -1e6, maximum: 1e6 }),
      default: {},
    },
  }) as object),
  allOf: insertParams,
};

const strip: Json = object(['id', 'kind'], {
  id,
  kind: { enum: ['source', 'submix', 'return', 'output'] },
  name: name(''),
  family: name(''),
  colour,
  channels: { enum: [1, 2], description: 'Left out: 1 for a source, else 2.' },
  stem: {
    ...text,
    type: ['string', 'null'],
    minLength: 1,
    maxLength: 500,
    default: null,
    description: 'Path inside the package; sources alone.',
  },
  trimDb: level(LIMITS.trimTop, 0),
  invert: flag(false),
  swap: flag(false),
  width: between(0, 2, 1),
  faderDb: level(FADER_TOP, 0),
  pan: between(-1, 1, 0),
  mute: flag(false),
  solo: flag(false),
  soloSafe: { type: 'boolean', description: 'Left out: true on a return, else false.' },
  hidden: flag(false),
  pair: {
    type: ['integer', 'null'],
    minimum: 1,
    maximum: LIMITS.channels - 1,
    description: 'First channel of the pair by which an output leaves. Left out: 1 on an output, else null.',
  },
  preamp: {
    ...(object(['input', 'gainDb'], {
      input: { type: 'integer', minimum: 1, maximum: PREAMP.inputs },
      gainDb: {
        type: 'number',
        minimum: PREAMP.gainMin,
        maximum: PREAMP.gainMax,
        multipleOf: PREAMP.gainStep,
      },
      pad: flag(false),
      phantom: flag(false),
      lowCut: flag(false),
      invert: flag(false),
    }) as object),
    type: ['object', 'null'],
    default: null,
    description: 'Input of the remote preamplifier that a source comes by; sources alone.',
  },
  automation: mode,
  lanes: lanes({ fader: levelLane, pan: panLane, mute: flagLane }),
  inserts: list(insert, LIMITS.inserts),
  sends: list(
    object(['id', 'to'], {
      id,
      to: id,
      tap: { enum: ['input', 'pre', 'post'], default: 'post' },
      levelDb: level(FADER_TOP, 0),
      pan: between(-1, 1, 0),
      on: flag(true),
      lanes: lanes({ level: levelLane, pan: panLane, on: flagLane }),
    }),
    LIMITS.sends,
  ),
  out: object([], { to: { ...id, type: ['string', 'null'], default: null }, on: flag(true) }),
});

/**
 * The session format as a JSON Schema (draft 2020-12). It says of shapes and ranges what the reader says; that ids are
 * unique, that what is named exists and that nothing feeds itself are rules beyond a schema, and the reader holds them.
 */
export const jsonSchema = (): Json => ({
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'Zonula session, version 1',
  ...(object(['format', 'version', 'name', 'sampleRate', 'strips'], {
    format: { const: 'zonula-session' },
    version: { const: 1 },
    name: { ...text, minLength: 1, maxLength: LIMITS.name },
    sampleRate: { type: 'integer', minimum: 8000, maximum: 192000 },
    panLaw: { enum: [0, -3, -4.5, -6], default: -3, description: 'Decibels at the centre.' },
    tempo: object([], {
      bpm: { ...between(10, 999, 120), description: 'Quarter notes a minute.' },
      beatsPerBar: { type: 'integer', minimum: 1, maximum: 64, default: 4 },
      beatUnit: { enum: [1, 2, 4, 8, 16, 32], default: 4 },
    }),
    sections: list(
      object(['id', 'start', 'end'], {
        id,
        name: name(''),
        start: { type: 'number', minimum: 0, maximum: LIMITS.longest, description: 'Seconds.' },
        end: { type: 'number', minimum: 0, maximum: LIMITS.longest, description: 'Seconds.' },
      }),
      LIMITS.sections,
    ),
    strips: { type: 'array', items: strip, maxItems: LIMITS.strips },
    vcas: list(
      object(['id'], {
        id,
        name: name(''),
        colour,
        faderDb: level(FADER_TOP, 0),
        mute: flag(false),
        solo: flag(false),
        automation: mode,
        lanes: lanes({ fader: levelLane, mute: flagLane }),
        members: list(id, LIMITS.strips),
      }),
      LIMITS.vcas,
    ),
    links: list(
      object(['id'], {
        id,
        name: name(''),
        on: flag(true),
        members: list(id, LIMITS.strips),
        parts: {
          type: 'array',
          items: { enum: [...LINK_PARTS] },
          uniqueItems: true,
          default: ['fader', 'mute', 'solo'],
        },
        keeps: { ...flag(true), description: 'Whether differences between members are kept.' },
      }),
      LIMITS.links,
    ),
    monitor: {
      ...id,
      type: ['string', 'null'],
      default: null,
      description: 'The output that is heard; null: the first.',
    },
    dismissed: {
      ...list({ ...text, maxLength: 300 }, LIMITS.dismissed),
      description: 'Keys of findings that were looked at and let stand.',
    },
  }) as object),
});
