import type { Schema } from 'joi';
import Joi from './joi';
import { PREAMP } from '../devices/preamp';
import { FADER_TOP } from '../levels/faderLaw';
import { AUTOMATION_MODES } from '../automation/mode';
import { LIMITS } from './limits';
import { LINK_PARTS } from '../session/defaults';
import { processors } from '../processors/registry';
import type { Processor } from '../processors/description';

export { LIMITS } from './limits';

const id = Joi.string().pattern(
  /^[A-Za-z0-9][A-Za-z0-9._-]{0,63}$/,
  'an id of letters, digits, dot, dash and underscore',
);
const name = Joi.string().allow('').max(LIMITS.name);
const colour = Joi.string().pattern(/^#[0-9a-fA-F]{6}$/, 'a colour such as #c2694f');
const level = (top: number) => Joi.number().min(LIMITS.lowestDb).max(top).allow(null);
const pan = Joi.number().min(-1).max(1);

/** What is asked of an input of the remote preamplifier. */
const preamp = Joi.object({
  input: Joi.number().integer().min(1).max(PREAMP.inputs).required(),
  gainDb: Joi.number().min(PREAMP.gainMin).max(PREAMP.gainMax).multiple(PREAMP.gainStep).required(),
  pad: Joi.boolean().default(false),
  phantom: Joi.boolean().default(false),
  lowCut: Joi.boolean().default(false),
  invert: Joi.boolean().default(false),
}).allow(null);

/** What the points of a lane may be. */
interface LaneValues {
  readonly min: number;
  readonly max: number;
  /** Whether null, which is silence, is a value. */
  readonly silence?: boolean;
  /** Whether there is nothing between the ends. */
  readonly stepped?: boolean;
}
const LEVELS: LaneValues = { min: LIMITS.lowestDb, max: FADER_TOP, silence: true };
const PANS: LaneValues = { min: -1, max: 1 };
const FLAGS: LaneValues = { min: 0, max: 1, stepped: true };

/**
 * One control's lane: the times do not go back; two points at one time are a jump. A lane may have very many points, and a
 * description of each costs a hundred times what looking at its two numbers does.
 */
const lane = ({ min, max, silence = false, stepped = false }: LaneValues) =>
  Joi.array()
    .min(1)
    .max(LIMITS.points)
    .custom((points: readonly unknown[], helpers) => {
      const wrong = (i: number, what: string) => helpers.message({ custom: `{{#label}}[${i}] ${what}` });
      let before = 0;
      for (let i = 0; i < points.length; i++) {
        const point = points[i];
        if (!Array.isArray(point) || point.length !== 2) return wrong(i, 'is no pair of a time and a value');
        const [time, value] = point as [unknown, unknown];
        if (typeof time !== 'number' || !(time >= 0 && time <= LIMITS.longest))
          return wrong(i, `is at no time from 0 to ${LIMITS.longest}`);
        if (time < before) return helpers.message({ custom: '{{#label}} has points whose times go back' });
        before = time;
        const fits =
          value === null
            ? silence
            : typeof value === 'number' && value >= min && value <= max && !(stepped && value % 1);
        if (!fits) return wrong(i, `has no value from ${min} to ${max}`);
      }
      return points;
    });
const lanesOf = (controls: Record<string, Schema>) => Joi.object(controls);
const automation = Joi.string().valid(...AUTOMATION_MODES);

export const fieldSchemas = {
  strip: {
    name,
    family: name,
    colour,
    trimDb: level(LIMITS.trimTop),
    invert: Joi.boolean(),
    swap: Joi.boolean(),
    width: Joi.number().min(0).max(2),
    faderDb: level(FADER_TOP),
    pan,
    mute: Joi.boolean(),
    solo: Joi.boolean(),
    soloSafe: Joi.boolean(),
    hidden: Joi.boolean(),
    preamp,
    automation,
    lanes: lanesOf({ fader: lane(LEVELS), pan: lane(PANS), mute: lane(FLAGS) }),
    pair: Joi.number()
      .integer()
      .min(1)
      .max(LIMITS.channels - 1)
      .allow(null),
  },
  send: {
    to: id,
    tap: Joi.string().valid('input', 'pre', 'post'),
    levelDb: level(FADER_TOP),
    pan,
    on: Joi.boolean(),
    lanes: lanesOf({ level: lane(LEVELS), pan: lane(PANS), on: lane(FLAGS) }),
  },
  insert: { place: Joi.string().valid('pre', 'post'), on: Joi.boolean(), mix: Joi.number().min(0).max(1) },
  vca: {
    name,
    colour,
    faderDb: level(FADER_TOP),
    mute: Joi.boolean(),
    solo: Joi.boolean(),
    automation,
    lanes: lanesOf({ fader: lane(LEVELS), mute: lane(FLAGS) }),
  },
  session: {
    name: Joi.string().min(1).max(LIMITS.name),
    panLaw: Joi.number().valid(0, -3, -4.5, -6),
    monitor: id.allow(null),
    dismissed: Joi.array().items(Joi.string().max(300)).max(LIMITS.dismissed),
  },
} as const;

export const parameterSchema = (processor: Processor) =>
  Joi.object(Object.fromEntries(processor.parameters.map((p) => [p.id, Joi.number().min(p.min).max(p.max)])));

/** Lanes of an insert. That they are of its processor's controls, and within their ranges, is a rule of the session. */
export const anyLanes = Joi.object().pattern(
  Joi.string().max(40),
  lane({ min: -1e6, max: 1e6, silence: true }),
);

const withDefaults = <T extends Record<string, Schema>>(
  fields: T,
  values: Partial<Record<keyof T, string | number | boolean | object>>,
) => Object.fromEntries(Object.entries(fields).map(([k, s]) => [k, k in values ? s.default(values[k]) : s]));

export const insertSchema = Joi.object({
  id: id.required(),
  type: Joi.string()
    .valid(...processors.map((p) => p.type))
    .required(),
  ...withDefaults(fieldSchemas.insert, { place: 'pre', on: true, mix: 1 }),
  params: Joi.alternatives()
    .conditional('type', {
      switch: processors.map((p) => ({ is: p.type, then: parameterSchema(p) })),
    })
    .default({}),
  key: id.allow(null).default(null),
  lanes: anyLanes.default({}),
});

export const sendSchema = Joi.object({
  id: id.required(),
  ...withDefaults(fieldSchemas.send, { tap: 'post', levelDb: 0, pan: 0, on: true, lanes: {} }),
  to: id.required(),
});

export const stripSchema = Joi.object({
  id: id.required(),
  kind: Joi.string().valid('source', 'submix', 'return', 'output').required(),
  ...withDefaults(fieldSchemas.strip, {
    family: '',
    colour: '#8aa0a0',
    trimDb: 0,
    invert: false,
    swap: false,
    width: 1,
    faderDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    hidden: false,
    automation: 'read',
    lanes: {},
  }),
  name: name.default(''),
  soloSafe: Joi.boolean().default(Joi.ref('kind', { adjust: (kind: string) => kind === 'return' })),
  pair: fieldSchemas.strip.pair.default(
    Joi.ref('kind', { adjust: (kind: string) => (kind === 'output' ? 1 : null) }),
  ),
  preamp: preamp.default(null),
  channels: Joi.number()
    .valid(1, 2)
    .default(Joi.ref('kind', { adjust: (kind: string) => (kind === 'source' ? 1 : 2) })),
  stem: Joi.string().max(500).allow(null).default(null),
  inserts: Joi.array().items(insertSchema).max(LIMITS.inserts).default([]),
  sends: Joi.array().items(sendSchema).max(LIMITS.sends).default([]),
  out: Joi.object({ to: id.allow(null).default(null), on: Joi.boolean().default(true) }).default({
    to: null,
    on: true,
  }),
});

export const vcaSchema = Joi.object({
  id: id.required(),
  ...withDefaults(fieldSchemas.vca, {
    name: '',
    colour: '#8aa0a0',
    faderDb: 0,
    mute: false,
    solo: false,
    automation: 'read',
    lanes: {},
  }),
  members: Joi.array().items(id).max(LIMITS.strips).default([]),
});

const linkParts = Joi.array()
  .items(Joi.string().valid(...LINK_PARTS))
  .unique();
export const linkFields = {
  name,
  on: Joi.boolean(),
  members: Joi.array().items(id).max(LIMITS.strips),
  parts: linkParts,
  keeps: Joi.boolean(),
} as const;
export const linkSchema = Joi.object({
  id: id.required(),
  name: name.default(''),
  on: Joi.boolean().default(true),
  members: linkFields.members.default([]),
  parts: linkParts.default(['fader', 'mute', 'solo']),
  keeps: Joi.boolean().default(true),
});

export const sectionSchema = Joi.object({
  id: id.required(),
  name: name.default(''),
  start: Joi.number().min(0).max(LIMITS.longest).required(),
  end: Joi.number().min(0).max(LIMITS.longest).required(),
});

export const tempoSchema = Joi.object({
  bpm: Joi.number().min(10).max(999).default(120),
  beatsPerBar: Joi.number().integer().min(1).max(64).default(4),
  beatUnit: Joi.number().valid(1, 2, 4, 8, 16, 32).default(4),
});

export const sessionSchema = Joi.object({
  format: Joi.string().valid('zonula-session').required(),
  version: Joi.number().valid(1).required(),
  name: fieldSchemas.session.name.required(),
  sampleRate: Joi.number().integer().min(8000).max(192000).required(),
  panLaw: fieldSchemas.session.panLaw.default(-3),
  tempo: tempoSchema.default({ bpm: 120, beatsPerBar: 4, beatUnit: 4 }),
  sections: Joi.array().items(sectionSchema).max(LIMITS.sections).default([]),
  strips: Joi.array().items(stripSchema).max(LIMITS.strips).required(),
  vcas: Joi.array().items(vcaSchema).max(LIMITS.vcas).default([]),
  links: Joi.array().items(linkSchema).max(LIMITS.links).default([]),
  monitor: fieldSchemas.session.monitor.default(null),
  dismissed: fieldSchemas.session.dismissed.default([]),
});
