import Joi from './joi';
import { processors } from '../processors/registry';
import type { Processor } from '../processors/description';
import { INSERT, LINK, SECTION, SEND, SESSION, STRIP, TEMPO, VCA } from '../session/fields/tables';
import { patchJoi, wholeJoi } from './fieldJoi';

export { LIMITS } from './limits';

/** Validators of single fields, as a patch may set them. */
export const fieldSchemas = {
  strip: patchJoi(STRIP),
  send: patchJoi(SEND),
  insert: patchJoi(INSERT),
  vca: patchJoi(VCA),
  link: patchJoi(LINK),
  session: patchJoi(SESSION),
} as const;

export const parameterSchema = (processor: Processor) =>
  Joi.object(Object.fromEntries(processor.parameters.map((p) => [p.id, Joi.number().min(p.min).max(p.max)])));

export const insertSchema = Joi.object({
  ...wholeJoi(INSERT),
  params: Joi.alternatives()
    .conditional('type', {
      switch: processors.map((p) => ({ is: p.type, then: parameterSchema(p) })),
    })
    .default({}),
});
export const sendSchema = Joi.object(wholeJoi(SEND));
export const stripSchema = Joi.object({
  ...wholeJoi(STRIP),
  inserts: Joi.array().items(insertSchema).max(STRIP.inserts.shape.most).default([]),
});
export const vcaSchema = Joi.object(wholeJoi(VCA));
export const linkSchema = Joi.object(wholeJoi(LINK));
export const sectionSchema = Joi.object(wholeJoi(SECTION));
export const tempoSchema = Joi.object(wholeJoi(TEMPO));
export const sessionSchema = Joi.object({
  format: Joi.string().valid('zonula-session').required(),
  version: Joi.number().valid(1).required(),
  ...wholeJoi(SESSION),
  strips: Joi.array().items(stripSchema).max(SESSION.strips.shape.most).required(),
});
