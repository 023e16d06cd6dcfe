import type { Schema } from 'joi';
import { fieldSchemas, tempoSchema } from '@core/session/fields/fieldSchemas';
import { say } from './texts';

/** A check of what stands in a field: true, or what is wrong with it. */
export type Rule = (value: unknown) => true | string;

/**
 * The rule of a field, from the description by which the server judges it too.
 * @param what how the field is called in the sentence
 */
export const ruleOf =
  (schema: Schema, what: () => string): Rule =>
  (value) => {
    const { error } = schema.label(what()).validate(value, { errors: { wrap: { label: false } } });
    return error ? `${error.message.charAt(0).toUpperCase()}${error.message.slice(1)}.` : true;
  };
const trimmed =
  (rule: Rule): Rule =>
  (value) =>
    rule(typeof value === 'string' ? value.trim() : value);

export const sessionName = trimmed(ruleOf(fieldSchemas.session.name, () => say('theName')));
/** Of a strip, a VCA, a link or a section. */
export const name = trimmed(ruleOf(fieldSchemas.strip.name, () => say('theName')));
export const bpm = ruleOf(tempoSchema.extract('bpm').required(), () => say('theTempo'));
