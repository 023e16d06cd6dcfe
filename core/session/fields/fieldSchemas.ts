import { INSERT, LINK, SEND, SESSION, STRIP, TEMPO, VCA } from './tables';
import { patchJoi, wholeJoi } from './fieldJoi';
import Joi from './joi';

export { LIMITS } from '../../base/limits';

/** Validators of single fields, as a patch may set them. */
export const fieldSchemas = {
  strip: patchJoi(STRIP),
  send: patchJoi(SEND),
  insert: patchJoi(INSERT),
  vca: patchJoi(VCA),
  link: patchJoi(LINK),
  session: patchJoi(SESSION),
} as const;

export const tempoSchema = Joi.object(wholeJoi(TEMPO));
