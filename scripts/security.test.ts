import { existsSync, readFileSync } from 'node:fs';
import { expect, it } from 'vitest';

const read = (path: string) => readFileSync(new URL(`../${path}`, import.meta.url), 'utf8');
const rows = read('docs/security.md')
  .split('\n')
  .flatMap((line) => {
    const found = /^\| (\d+\.\d+\.\d+[^|]*) \| ([^|]+) \| ([^|]+) \|$/.exec(line);
    return found ? [{ number: found[1]!, held: found[3]! }] : [];
  });

it('every line of the checklist names a test that there is, or gives its reason', () => {
  expect(rows.length).toBeGreaterThan(50);
  for (const { number, held } of rows) {
    const tests = [...held.matchAll(/`([\w/]+\.(?:test|spec)\.ts)`(?: "([^"]+)")?/g)];
    const says = held.startsWith('reason: ') || /\]\(|above|within/.test(held);
    expect([number, tests.length > 0 || says]).toEqual([number, true]);
    for (const [, path, title] of tests) {
      expect([number, path, existsSync(new URL(`../${path!}`, import.meta.url))]).toEqual([
        number,
        path,
        true,
      ]);
      if (title !== undefined) expect([number, read(path!).includes(title)]).toEqual([number, true]);
    }
  }
});
it('and what it says of the page and of queries is so', () => {
  const vue = import.meta.glob('../web/**/*.vue', { query: '?raw', import: 'default', eager: true });
  const server = import.meta.glob(['../server/**/*.ts', '!../server/**/*.test.ts'], {
    query: '?raw',
    import: 'default',
    eager: true,
  });
  expect(Object.keys(vue).length).toBeGreaterThan(50);
  for (const [path, text] of Object.entries(vue))
    expect([path, /v-html/.test(text as string)]).toEqual([path, false]);
  for (const [path, text] of Object.entries(server)) {
    const runs = /child_process/.test(text as string) && !path.endsWith('/backup.ts');
    expect([path, runs, /\beval\(|shell: true/.test(text as string)]).toEqual([path, false, false]);
  }
});
