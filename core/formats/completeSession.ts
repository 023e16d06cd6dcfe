import Ajv2020, { type ValidateFunction } from 'ajv/dist/2020';
import { jsonSchema, type Json } from './jsonSchema';

type Schema = Record<string, Json>;
const isObject = (v: Json): v is Schema => typeof v === 'object' && v !== null && !Array.isArray(v);

/** What may leave anything out: parameters that are at their defaults, controls without a lane. */
const OPEN = ['params', 'lanes'];

/** A schema with every field required that it has. */
function complete(schema: Json): Json {
  if (Array.isArray(schema)) return schema.map(complete);
  if (!isObject(schema)) return schema;
  const out: Schema = {};
  for (const [key, value] of Object.entries(schema)) {
    if (key === 'if') out[key] = value;
    // Which lanes a processor has, and how far they reach, the session's own rules say in fewer words.
    else if (key === 'then' && isObject(value) && isObject(value.properties!))
      out[key] = { properties: { params: value.properties.params! } };
    else if (key === 'properties' && isObject(value))
      out[key] = Object.fromEntries(
        Object.entries(value).map(([name, s]) => [name, OPEN.includes(name) ? s : complete(s)]),
      );
    else out[key] = complete(value);
  }
  if (isObject(schema.properties ?? null) && schema.additionalProperties === false)
    out.required = Object.keys(schema.properties as Schema);
  return out;
}

/** The published schema of a session, for documents in which every field stands. */
export const completeSchema = (): Json => complete(jsonSchema());

let validate: ValidateFunction | null = null;
/**
 * Whether a document is of the format and has every field in its place, as all that are written by the program: then there
 * is no default to fill in. The command line has this function compiled beforehand.
 */
export function isComplete(raw: unknown): boolean {
  validate ??= new Ajv2020({ strict: false }).compile(completeSchema() as object);
  return validate(raw);
}
