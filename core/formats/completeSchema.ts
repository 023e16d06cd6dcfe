import Ajv2020, { type ValidateFunction } from 'ajv/dist/2020';
import type { Session } from '../session/types';
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
    // What a processor's parameters and lanes may be is said in fewer words elsewhere: see completeSession.ts.
    if (key === 'allOf') continue;
    if (key === 'properties' && isObject(value))
      out[key] = Object.fromEntries(
        Object.entries(value).map(([name, s]) => [name, OPEN.includes(name) ? s : complete(s)]),
      );
    else out[key] = complete(value);
  }
  if (isObject(schema.properties ?? null) && schema.additionalProperties === false)
    out.required = Object.keys(schema.properties as Schema);
  return out;
}

/** The published schema of a session, for documents in which every field stands; without what depends on a processor's type. */
export const completeSchema = (): Json => complete(jsonSchema());

let validate: ValidateFunction | null = null;
/**
 * Whether a document is of the format and has every field in its place. The command line has this function compiled
 * beforehand.
 */
export function hasEveryField(raw: unknown): raw is Session {
  validate ??= new Ajv2020({ strict: false }).compile(completeSchema() as object);
  return validate(raw);
}
