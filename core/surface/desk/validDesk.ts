import { Refusal } from '../../base/refusal';
import { wholeJoi } from '../../session/fields/fieldJoi';
import { fieldsJson, type Json } from '../../session/fields/fieldJson';
import Joi from '../../session/fields/joi';
import { DESK, type Desk } from './desk';

const schema = Joi.object({
  format: Joi.string().valid('zonula-desk').required(),
  version: Joi.number().valid(1).required(),
  ...wholeJoi(DESK),
});

/** @throws Refusal `format` naming the field, `duplicate` where two units bear one id */
export function validDesk(raw: unknown): Desk {
  const { value, error } = schema.required().validate(raw, { convert: false }) as {
    value: Desk;
    error?: Error;
  };
  if (error) throw new Refusal('format', `The desk is not understood: ${error.message}.`);
  const ids = value.units.map((u) => u.id);
  const twice = ids.find((id, i) => ids.indexOf(id) !== i);
  if (twice !== undefined)
    throw new Refusal('duplicate', `The desk has two units \`${twice}\`: give each an id of its own.`, [
      twice,
    ]);
  const keys = value.userKeys.map((k) => `${k.key} on layer ${k.layer}`);
  const again = keys.find((k, i) => keys.indexOf(k) !== i);
  if (again !== undefined)
    throw new Refusal('duplicate', `The desk says twice what user key ${again} does.`, []);
  return value;
}

/** A desk's file as a JSON Schema (draft 2020-12). */
export const deskJsonSchema = (): Json => ({
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'Zonula desk, version 1',
  ...(fieldsJson(DESK, { format: { const: 'zonula-desk' }, version: { const: 1 } }) as object),
});
