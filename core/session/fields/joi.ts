import Joi from 'joi';
import { isKeepable } from '../../base/text';

/**
 * Joi, whose strings are text that can be kept: no U+0000 and no half of a surrogate pair, which PostgreSQL's text and JSON do
 * not take (PostgreSQL 15, 8.14 and RFC 8259, 8.2). Every description of data is made with this one.
 */
const text: typeof Joi = Joi.defaults((schema) =>
  schema.type === 'string'
    ? (schema as Joi.StringSchema).custom((value: string, helpers) =>
        isKeepable(value)
          ? value
          : helpers.message({ custom: '{{#label}} holds a character that cannot be kept' }),
      )
    : schema,
);
export default text;
