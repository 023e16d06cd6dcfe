import type { Schema } from 'joi';
import Joi from '../../formats/joi';
import {
  fieldSchemas,
  insertSchema,
  linkSchema,
  LIMITS,
  sectionSchema,
  sendSchema,
  stripSchema,
  vcaSchema,
} from '../../formats/sessionSchema';
import { Refusal } from '../refusal';
import type { Command, CommandType } from './types';

const id = Joi.string().max(64).required();
const at = Joi.number().integer().min(0).max(LIMITS.strips).required();
const patch = (fields: Record<string, Schema>) => Joi.object(fields).min(1).required();

const shapes: Record<CommandType, Record<string, Schema>> = {
  'session.set': { patch: patch(fieldSchemas.session) },
  'sections.set': { sections: Joi.array().items(sectionSchema).max(LIMITS.sections).required() },
  'strip.add': { strip: stripSchema.required(), at },
  'strip.remove': { id },
  'strip.set': { id, patch: patch(fieldSchemas.strip) },
  'strip.out': {
    id,
    out: Joi.object({
      to: Joi.string().max(64).allow(null).required(),
      on: Joi.boolean().required(),
    }).required(),
  },
  'strips.order': { order: Joi.array().items(Joi.string().max(64)).max(LIMITS.strips).required() },
  'send.add': { strip: id, send: sendSchema.required(), at },
  'send.remove': { strip: id, id },
  'send.set': { strip: id, id, patch: patch(fieldSchemas.send) },
  'insert.add': { strip: id, insert: insertSchema.required(), at },
  'insert.remove': { strip: id, id },
  'insert.set': { strip: id, id, patch: patch(fieldSchemas.insert) },
  'vca.add': { vca: vcaSchema.required(), at },
  'vca.remove': { id },
  'vca.set': { id, patch: patch(fieldSchemas.vca) },
  'link.add': { link: linkSchema.required(), at },
  'link.remove': { id },
  'link.set': { id, patch: patch(fieldSchemas.link) },
  'vca.members': { id, members: Joi.array().items(Joi.string().max(64)).max(LIMITS.strips).required() },
};

export const commandSchema = Joi.alternatives().conditional(
  Joi.object({
    type: Joi.string()
      .valid(...Object.keys(shapes))
      .required(),
  }).unknown(),
  {
    then: Joi.alternatives().conditional('.type', {
      switch: Object.entries(shapes).map(([type, fields]) => ({
        is: type,
        then: Joi.object({ type: Joi.string().required(), ...fields }),
      })),
    }),
    otherwise: Joi.object({
      type: Joi.string()
        .valid(...Object.keys(shapes))
        .required(),
    }).unknown(),
  },
);

/** The most commands that one edit may hold. */
export const MOST_COMMANDS = 5000;
const listSchema = Joi.array().items(commandSchema).min(1).max(MOST_COMMANDS).required();

/**
 * Holds a list of commands that came from outside against their shapes, and fills in defaults.
 * @throws Refusal `format` naming the field
 */
export function validCommands(raw: unknown): readonly Command[] {
  const { value, error } = listSchema.validate(raw, { convert: false });
  if (error) throw new Refusal('format', `The edit is not understood: ${error.details[0]!.message}.`);
  return value as Command[];
}
