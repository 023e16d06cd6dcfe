import { ROLES } from '../../core/base/role';
import Joi from '../../core/session/fields/joi';

const role = Joi.string().valid(...ROLES);
export const openSchema = Joi.object<{ open: boolean }>({ open: Joi.boolean().required() });
export const codeSchema = Joi.object<{ role: (typeof ROLES)[number] }>({ role: role.required() });
export const pairSchema = Joi.object<{ code: string; name: string }>({
  code: Joi.string().max(20).required(),
  /** What the device is called in the list. */
  name: Joi.string().allow('').max(100).required(),
});
export const deviceSchema = Joi.object<{ name?: string; role?: (typeof ROLES)[number] }>({
  name: Joi.string().max(100),
  role,
}).min(1);
