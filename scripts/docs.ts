// Writes what in docs/ follows from the code: the JSON Schemas of the formats and a page for each processor.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { fieldPage } from '../core/formats/fieldPage';
import { jsonSchema } from '../core/formats/jsonSchema';
import { presetJsonSchema } from '../core/formats/presetSchema';
import { processorCurve, processorPage } from '../core/formats/processorPage';
import { oscPage } from '../core/formats/oscPage';
import { surfacePage } from '../core/formats/surfacePage';
import { deskJsonSchema } from '../core/surface/desk/validDesk';
import { profileJsonSchema } from '../core/surface/profile/validProfile';
import { processors } from '../core/processors/registry';
import { apiDocument } from '../server/api/openapi';
import { livePage } from '../server/live/livePage';

const at = (path: string) => new URL(`../docs/${path}`, import.meta.url);
const schema = (path: string, json: unknown) => writeFileSync(at(path), `${JSON.stringify(json, null, 2)}\n`);

schema('session.schema.json', jsonSchema());
schema('preset.schema.json', presetJsonSchema());
schema('surface.schema.json', profileJsonSchema());
schema('desk.schema.json', deskJsonSchema());
const { version } = JSON.parse(readFileSync(at('../package.json'), 'utf8')) as { version: string };
schema('openapi.json', apiDocument(version));
writeFileSync(at('fields.md'), fieldPage());
writeFileSync(at('live.md'), livePage());
writeFileSync(at('surfaces.md'), surfacePage());
writeFileSync(at('osc.md'), oscPage());
mkdirSync(at('processors'), { recursive: true });
for (const p of processors) {
  writeFileSync(at(`processors/${p.type}.md`), processorPage(p));
  const curve = processorCurve(p);
  if (curve) writeFileSync(at(`processors/${p.type}.svg`), curve);
}
writeFileSync(
  at('processors/README.md'),
  [
    '# Processors',
    '',
    '<!-- Written by `npm run docs` from core/processors. -->',
    '',
    '| Processor | What it is for |',
    '| --- | --- |',
    ...processors.map((p) => `| [${p.name}](${p.type}.md) | ${p.about} |`),
    '',
  ].join('\n'),
);
