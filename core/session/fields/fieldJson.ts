import { processors } from '../../processors/registry';
import { settable, type Field, type Fields, type LaneValues, type Shape } from './shape';
import { LIMITS } from '../../base/limits';

export type Json = string | number | boolean | null | readonly Json[] | { readonly [key: string]: Json };
type Schema = Readonly<Record<string, Json>>;

/** No U+0000 and no half of a surrogate pair: see text.ts. */
export const text = { type: 'string', pattern: String.raw`^[^\u0000\ud800-\udfff]*$` } as const;
export const level = (top: number, fallback: number) => ({
  description: 'Decibels; null is silence.',
  type: ['number', 'null'],
  minimum: LIMITS.lowestDb,
  maximum: top,
  default: fallback,
});
export const between = (minimum: number, maximum: number, fallback: number) => ({
  type: 'number',
  minimum,
  maximum,
  default: fallback,
});
export const object = (required: readonly string[], properties: Json): Json => ({
  type: 'object',
  additionalProperties: false,
  required,
  properties,
});

/** An automation lane whose points have these values. */
export const laneJson = ({ min, max, silence, stepped }: LaneValues): Json => ({
  type: 'array',
  minItems: 1,
  maxItems: LIMITS.points,
  items: {
    type: 'array',
    prefixItems: [
      { type: 'number', minimum: 0, maximum: LIMITS.longest, description: 'Seconds.' },
      stepped
        ? { enum: [min, max] }
        : { type: silence ? ['number', 'null'] : 'number', minimum: min, maximum: max },
    ],
    minItems: 2,
    maxItems: 2,
  },
});
/** Lanes of these controls. */
export const lanesJson = (controls: Readonly<Record<string, LaneValues>>): Json => ({
  ...(object([], Object.fromEntries(Object.entries(controls).map(([id, v]) => [id, laneJson(v)]))) as Schema),
  default: {},
  description:
    'Automation by control: points [seconds, value] in the order of time; between two the control moves evenly along its travel, a switch stays as it is.',
});

/** The JSON Schema (draft 2020-12) of what a shape holds. */
function shapeJson(shape: Shape): Schema {
  const type = (name: string): Json => ('nullable' in shape && shape.nullable ? [name, 'null'] : name);
  switch (shape.kind) {
    case 'flag':
      return { type: 'boolean' };
    case 'level':
      return {
        description: 'Decibels; null is silence.',
        type: ['number', 'null'],
        minimum: LIMITS.lowestDb,
        maximum: shape.top,
      };
    case 'number':
      return {
        type: type(shape.whole ? 'integer' : 'number'),
        minimum: shape.min,
        maximum: shape.max,
        ...(shape.step ? { multipleOf: shape.step } : {}),
      };
    case 'choice':
      return { enum: shape.values };
    case 'text':
      return {
        ...text,
        type: type('string'),
        ...(shape.least ? { minLength: shape.least } : {}),
        maxLength: shape.most,
      };
    case 'id':
      return { type: type('string'), pattern: '^[A-Za-z0-9][A-Za-z0-9._-]{0,63}$' };
    case 'colour':
      return { type: 'string', pattern: '^#[0-9a-fA-F]{6}$' };
    case 'processor':
      return { enum: processors.map((p) => p.type) };
    case 'params':
      return { type: 'object' };
    case 'lanes':
      return shape.controls
        ? (lanesJson(shape.controls) as Schema)
        : {
            type: 'object',
            additionalProperties: laneJson({ min: -1e6, max: 1e6, silence: true }),
          };
    case 'object':
      return { ...(fieldsJson(shape.fields) as Schema), type: type('object') };
    case 'patch':
      return {
        ...(object(
          [],
          Object.fromEntries(settable(shape.of).map(([name, f]) => [name, shapeJson(f.shape)])),
        ) as Schema),
        minProperties: 1,
      };
    case 'oneOf': {
      const kinds = Object.entries(shape.of).map(([kind, fields]) =>
        fieldsJson(fields, { [shape.by]: { const: kind } }),
      );
      return { oneOf: shape.nullable ? [...kinds, { type: 'null' }] : kinds };
    }
    case 'list':
      return {
        type: 'array',
        items: shapeJson(shape.of),
        ...(shape.least ? { minItems: shape.least } : {}),
        ...(shape.most === null ? {} : { maxItems: shape.most }),
        ...(shape.unique ? { uniqueItems: true } : {}),
      };
  }
}

const fieldJson = (f: Field): Json => ({
  ...shapeJson(f.shape),
  ...(f.default === undefined ? {} : { default: f.default as Json }),
  ...(f.about ? { description: f.about } : {}),
});
/** The JSON Schema of a thing with these fields, and with others beside them. */
export const fieldsJson = (fields: Fields, more: Readonly<Record<string, Json>> = {}): Json =>
  object(
    [
      ...Object.keys(more),
      ...Object.entries(fields).flatMap(([name, f]) =>
        f.default === undefined && !f.defaultBy ? [name] : [],
      ),
    ],
    { ...more, ...Object.fromEntries(Object.entries(fields).map(([name, f]) => [name, fieldJson(f)])) },
  );
