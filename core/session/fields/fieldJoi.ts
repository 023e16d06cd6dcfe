import type { Schema } from 'joi';
import { processors } from '../../processors/registry';
import { settable, type Field, type Fields, type LaneValues, type Settable, type Shape } from './shape';
import Joi from './joi';
import { LIMITS } from '../../base/limits';

/**
 * One control's lane: the times do not go back; two points at one time are a jump. A lane may have very many points, and a
 * description of each costs a hundred times what looking at its two numbers does.
 */
const laneJoi = ({ min, max, silence = false, stepped = false }: LaneValues) =>
  Joi.array()
    .min(1)
    .max(LIMITS.points)
    .custom((points: readonly unknown[], helpers) => {
      const wrong = (i: number, what: string) => helpers.message({ custom: `{{#label}}[${i}] ${what}` });
      let before = 0;
      for (let i = 0; i < points.length; i++) {
        const point = points[i];
        if (!Array.isArray(point) || point.length !== 2) return wrong(i, 'is no pair of a time and a value');
        const [time, value] = point as [unknown, unknown];
        if (typeof time !== 'number' || !(time >= 0 && time <= LIMITS.longest))
          return wrong(i, `is at no time from 0 to ${LIMITS.longest}`);
        if (time < before) return helpers.message({ custom: '{{#label}} has points whose times go back' });
        before = time;
        const fits =
          value === null
            ? silence
            : typeof value === 'number' && value >= min && value <= max && !(stepped && value % 1);
        if (!fits) return wrong(i, `has no value from ${min} to ${max}`);
      }
      return points;
    });

const idJoi = Joi.string().pattern(
  /^[A-Za-z0-9][A-Za-z0-9._-]{0,63}$/,
  'an id of letters, digits, dot, dash and underscore',
);
/** Lanes of an insert. That they are of its processor's controls, and within their ranges, is a rule of the session. */
const anyLanes = Joi.object().pattern(Joi.string().max(40), laneJoi({ min: -1e6, max: 1e6, silence: true }));

const byType = new Map(
  processors.map((p) => [p.type, new Map(p.parameters.map((q) => [q.id, q] as const))] as const),
);
/**
 * Parameters of the processor whose type stands beside them, each within its range. They are looked at here, as there are
 * hundreds of them: to make a validator of each takes longer than to read a session.
 */
export const paramsJoi = Joi.object()
  .custom((params: Readonly<Record<string, unknown>>, helpers) => {
    const { path, ancestors } = helpers.state as { path: readonly string[]; ancestors: readonly unknown[] };
    // Where the type is none, that has been said.
    const known = byType.get((ancestors[0] as { type: string }).type);
    for (const [id, value] of Object.entries(params)) {
      const parameter = known?.get(id);
      const wrong = (code: string, local: object = {}) =>
        helpers.error(
          code,
          { ...local, value },
          helpers.state.localize!([...path, id], [params, ...ancestors]),
        );
      if (!parameter) return wrong('object.unknown', { child: id });
      if (typeof value !== 'number' || !Number.isFinite(value)) return wrong('number.base');
      if (value < parameter.min) return wrong('number.min', { limit: parameter.min });
      if (value > parameter.max) return wrong('number.max', { limit: parameter.max });
    }
    return params;
  })
  .messages({
    'number.base': '{{#label}} must be a number',
    'number.min': '{{#label}} must be greater than or equal to {{#limit}}',
    'number.max': '{{#label}} must be less than or equal to {{#limit}}',
  });

/** The validator of what a shape holds. */
export function shapeJoi(shape: Shape): Schema {
  const orNull = <S extends Schema>(schema: S) =>
    'nullable' in shape && shape.nullable ? schema.allow(null) : schema;
  switch (shape.kind) {
    case 'flag':
      return Joi.boolean();
    case 'level':
      return Joi.number().min(LIMITS.lowestDb).max(shape.top).allow(null);
    case 'number': {
      const number = Joi.number().min(shape.min).max(shape.max);
      const whole = shape.whole ? number.integer() : number;
      return orNull(shape.step ? whole.multiple(shape.step) : whole);
    }
    case 'choice':
      return (typeof shape.values[0] === 'number' ? Joi.number() : Joi.string()).valid(...shape.values);
    case 'text': {
      const text = Joi.string().max(shape.most);
      return orNull(shape.least ? text.min(shape.least) : text.allow(''));
    }
    case 'id':
      return orNull(idJoi);
    case 'colour':
      return Joi.string().pattern(/^#[0-9a-fA-F]{6}$/, 'a colour such as #c2694f');
    case 'processor':
      return Joi.string().valid(...processors.map((p) => p.type));
    case 'params':
      return Joi.object().pattern(Joi.string().max(40), Joi.number());
    case 'lanes':
      return shape.controls
        ? Joi.object(
            Object.fromEntries(Object.entries(shape.controls).map(([id, values]) => [id, laneJoi(values)])),
          )
        : anyLanes;
    case 'object':
      return orNull(Joi.object(wholeJoi(shape.fields)));
    case 'patch':
      return Joi.object(patchJoi(shape.of)).min(1);
    case 'oneOf': {
      const kinds = Object.entries(shape.of);
      const known = Joi.string().valid(...kinds.map(([kind]) => kind));
      return orNull(
        Joi.alternatives().conditional(`.${shape.by}`, {
          switch: kinds.map(([kind, fields]) => ({
            is: kind,
            then: Joi.object({ [shape.by]: known.required(), ...wholeJoi(fields) }),
          })),
          // A kind that is none: said of the field that names it.
          otherwise: Joi.object({ [shape.by]: known.required() }).unknown(),
        }),
      );
    }
    case 'list': {
      const any = Joi.array().items(shapeJoi(shape.of));
      const list = shape.least ? any.min(shape.least) : any;
      const unique = shape.unique ? list.unique() : list;
      return shape.most === null ? unique : unique.max(shape.most);
    }
  }
}

/** A field of a whole thing: there, or filled in with its default. */
function fieldJoi(f: Field): Schema {
  const schema = f.shape.kind === 'params' ? paramsJoi : shapeJoi(f.shape);
  if (f.defaultBy) return schema.default(Joi.ref('kind', { adjust: (kind: string) => f.defaultBy!(kind) }));
  return f.default === undefined ? schema.required() : schema.default(f.default);
}
/** All fields of a thing, with their defaults. */
export const wholeJoi = <F extends Fields>(fields: F) =>
  Object.fromEntries(Object.entries(fields).map(([name, f]) => [name, fieldJoi(f)])) as Record<
    keyof F,
    Schema
  >;
/** The fields that a patch may set, each without a default. */
export const patchJoi = <F extends Fields>(fields: F) =>
  Object.fromEntries(settable(fields).map(([name, f]) => [name, shapeJoi(f.shape)])) as Record<
    Settable<F>,
    Schema
  >;
