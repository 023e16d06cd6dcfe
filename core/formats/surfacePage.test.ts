import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { deskJsonSchema } from '../surface/desk/validDesk';
import { keyRoles } from '../surface/keys/registry';
import { profileJsonSchema } from '../surface/profile/validProfile';
import { surfacePage } from './surfacePage';

it('the page and the schemas stand in docs/ as they are', () => {
  expect(readFileSync(new URL('../../docs/surfaces.md', import.meta.url), 'utf8')).toBe(surfacePage());
  const read = (name: string) =>
    JSON.parse(readFileSync(new URL(`../../docs/${name}`, import.meta.url), 'utf8')) as unknown;
  expect(read('surface.schema.json')).toEqual(JSON.parse(JSON.stringify(profileJsonSchema())));
  expect(read('desk.schema.json')).toEqual(JSON.parse(JSON.stringify(deskJsonSchema())));
});

it('every key, reach and plan is told', () => {
  const page = surfacePage();
  for (const r of keyRoles) expect(page).toContain(`| \`${r.id}\` |`);
});
