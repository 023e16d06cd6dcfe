// Writes what in docs/ follows from the code: the JSON Schema of the session format.
import { writeFileSync } from 'node:fs';
import { jsonSchema } from '../core/formats/jsonSchema';

writeFileSync(
  new URL('../docs/session.schema.json', import.meta.url),
  `${JSON.stringify(jsonSchema(), null, 2)}\n`,
);
