import type { ObjectSchema } from 'joi';
import { BadRequest } from './errors';

/** @throws BadRequest naming the field */
export function valid<T>(schema: ObjectSchema<T>, value: unknown, convert = false): T {
  const { value: out, error } = schema.required().validate(value, { convert });
  if (error)
    throw new BadRequest(400, 'format', `The request is not understood: ${error.details[0]!.message}.`);
  return out;
}
