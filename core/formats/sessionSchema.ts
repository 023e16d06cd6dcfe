import { SESSION } from '../session/fields/tables';
import { wholeJoi } from '../session/fields/fieldJoi';
import Joi from '../session/fields/joi';

/** The validator of a whole document. */
export const sessionSchema = Joi.object({
  format: Joi.string().valid('zonula-session').required(),
  version: Joi.number().valid(1).required(),
  ...wholeJoi(SESSION),
});
