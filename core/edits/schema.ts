import Joi from '../session/fields/joi';
import { wholeJoi } from '../session/fields/fieldJoi';
import { Refusal } from '../base/refusal';
import { COMMANDS } from './commands';
import type { Command } from './commands';

const shapes = Object.fromEntries(
  Object.entries(COMMANDS).map(([type, kind]) => [type, wholeJoi(kind.fields)]),
);

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
