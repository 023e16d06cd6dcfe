import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';

const read = (file: string) => readFileSync(new URL(`../${file}`, import.meta.url), 'utf8');

it('the version that the program tells is the newest of the changes, and stands in the API’s description', () => {
  const { version } = JSON.parse(read('package.json')) as { version: string };
  const headings = [...read('CHANGELOG.md').matchAll(/^## (\S+)/gm)].map((m) => m[1]);
  expect(headings.find((h) => h !== 'Unreleased')).toBe(version);
  expect((JSON.parse(read('docs/openapi.json')) as { info: { version: string } }).info.version).toBe(version);
});
