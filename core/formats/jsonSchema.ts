import { processors } from '../processors/registry';
import { INSERT, SESSION, STRIP } from '../session/fields/tables';
import { between, fieldsJson, lanesJson, object, type Json } from '../session/fields/fieldJson';

export { between, level, object, text, type Json } from '../session/fields/fieldJson';

export const processorTypes = processors.map((p) => p.type);
/** What a processor's parameters, and lanes, may be, by its type. */
export const insertParams: readonly Json[] = processors.map((p) => ({
  if: { properties: { type: { const: p.type } } },
  then: {
    properties: {
      params: object(
        [],
        Object.fromEntries(
          p.parameters.map((x) => [
            x.id,
            { ...between(x.min, x.max, x.default), description: `${x.name}${x.unit ? `, ${x.unit}` : ''}` },
          ]),
        ),
      ),
      lanes: lanesJson({
        on: { min: 0, max: 1, stepped: true },
        mix: { min: 0, max: 1 },
        ...Object.fromEntries(
          p.parameters.filter((x) => !x.latent).map((x) => [x.id, { min: x.min, max: x.max }]),
        ),
      }),
    },
  },
}));

/** A strip, whose inserts have the parameters of their types. */
const strip = fieldsJson(STRIP) as Readonly<Record<string, Json>>;
const properties = strip.properties as Readonly<Record<string, Json>>;
const inserts = properties.inserts as Readonly<Record<string, Json>>;
const strips: Json = {
  type: 'array',
  items: {
    ...strip,
    properties: {
      ...properties,
      inserts: {
        ...inserts,
        items: { ...(fieldsJson(INSERT) as Readonly<Record<string, Json>>), allOf: insertParams },
      },
    },
  },
  maxItems: SESSION.strips.shape.most,
};

/**
 * The session format as a JSON Schema (draft 2020-12). It says of shapes and ranges what the reader says; that ids are
 * unique, that what is named exists and that nothing feeds itself are rules beyond a schema, and the reader holds them.
 */
export function jsonSchema(): Json {
  const whole = fieldsJson(SESSION, {
    format: { const: 'zonula-session' },
    version: { const: 1 },
  }) as Readonly<Record<string, Json>>;
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Zonula session, version 1',
    ...whole,
    properties: { ...(whole.properties as Readonly<Record<string, Json>>), strips },
  };
}
