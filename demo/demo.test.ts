import { mkdtemp, readFile, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createHash } from 'node:crypto';
import { afterAll, expect, it } from 'vitest';
import { checkSession } from '../core/edits/invariants';
import { generateDemo } from './generate';
import { demoSession } from './session';
import { STEMS } from './stems';

const folders: string[] = [];
const folder = async () => {
  const f = join(await mkdtemp(join(tmpdir(), 'zonula-demo-')), 'demo');
  folders.push(f);
  return f;
};
afterAll(() => Promise.all(folders.map((f) => rm(join(f, '..'), { recursive: true, force: true }))));

it('the demo keeps every rule, names every strip, and has a stem for every source', () => {
  const session = demoSession();
  checkSession(session);
  expect(session.strips.every((s) => s.name !== '')).toBe(true);
  expect(
    session.strips
      .filter((s) => s.kind === 'source')
      .map((s) => s.id)
      .sort(),
  ).toEqual(Object.keys(STEMS).sort());
  expect(session.strips.length).toBeGreaterThanOrEqual(30);
});

it('the demo is the same on every run, and no stem is silent or clips', async () => {
  const [a, b] = [await folder(), await folder()];
  await generateDemo(a, 8);
  await generateDemo(b, 8);
  const hash = async (f: string) =>
    createHash('sha256')
      .update(await readFile(f))
      .digest('hex');
  for (const name of await readdir(join(a, 'stems')))
    expect(await hash(join(a, 'stems', name))).toBe(await hash(join(b, 'stems', name)));
  for (const [id, make] of Object.entries(STEMS))
    for (const c of make(48000, 16)) {
      let peak = 0;
      for (const v of c) peak = Math.max(peak, Math.abs(v));
      expect([id, peak > 0.01, peak < 1]).toEqual([id, true, true]);
    }
});
