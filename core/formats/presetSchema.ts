import { FADER_TOP } from '../levels/faderLaw';
import { ICON_IDS } from '../naming/iconIds';
import { between, insertParams, level, object, processorTypes, text, type Json } from './jsonSchema';

const keptInsert: Json = {
  ...(object(['type'], {
    type: { enum: processorTypes },
    place: { enum: ['pre', 'post'], default: 'pre' },
    on: { type: 'boolean', default: true },
    mix: between(0, 1, 1),
    params: { type: 'object', default: {} },
    key: {
      ...text,
      type: ['string', 'null'],
      maxLength: 200,
      default: null,
      description: 'Name of the strip that keys it.',
    },
  }) as object),
  allOf: insertParams,
};
const head = {
  format: { const: 'zonula-preset' },
  version: { const: 1 },
  name: { ...text, minLength: 1, maxLength: 200 },
  about: { ...text, maxLength: 500, default: '' },
  words: { type: 'array', items: { ...text, maxLength: 60 }, maxItems: 20, default: [] },
};

/** A preset's file as a JSON Schema (draft 2020-12). */
export const presetJsonSchema = (): Json => ({
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'Zonula preset, version 1',
  oneOf: [
    object(['format', 'version', 'kind', 'name', 'insert'], {
      ...head,
      kind: { const: 'processor' },
      insert: keptInsert,
    }),
    object(['format', 'version', 'kind', 'name'], {
      ...head,
      kind: { const: 'strip' },
      inserts: { type: 'array', items: keptInsert, maxItems: 64, default: [] },
      sends: {
        type: 'array',
        maxItems: 200,
        default: [],
        items: object(['to'], {
          to: { ...text, maxLength: 200, description: 'Name of the return or submix.' },
          tap: { enum: ['input', 'pre', 'post'], default: 'post' },
          levelDb: level(FADER_TOP, 0),
          pan: between(-1, 1, 0),
        }),
      },
      faderDb: level(FADER_TOP, 0),
      pan: between(-1, 1, 0),
      width: between(0, 2, 1),
      icon: { enum: ICON_IDS, description: 'Left out: the strip keeps its own.' },
    }),
  ],
});
