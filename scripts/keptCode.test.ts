import { appendFileSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { runKept } from './keptCode.cjs';

let folder: string;
let bundle: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'zonula-code-'));
  bundle = join(folder, 'bundle.cjs');
  writeFileSync(
    bundle,
    `const { basename } = require('node:path');
     exports.name = () => basename(__filename);
     exports.double = (n) => 2 * n;`,
  );
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const code = () => join(folder, 'code');
const start = (use = 'print') => {
  const { exports: made, keep } = runKept(bundle, code(), use);
  const { name, double } = made as { name(): string; double(n: number): number };
  return { said: `${name()} ${double(21)}`, keep };
};
const kept = () => join(code(), readdirSync(code())[0]!);

it('runs a bundle with and without what has been kept of it, which is kept once', () => {
  const first = start();
  expect(first.said).toBe('bundle.cjs 42');
  first.keep();
  const before = readFileSync(kept());
  const second = start();
  expect(second.said).toBe('bundle.cjs 42');
  second.keep();
  expect(readFileSync(kept()).equals(before)).toBe(true);
});

it('keeps something of its own for another use', () => {
  start('print').keep();
  start('trace').keep();
  expect(readdirSync(code())).toHaveLength(2);
});

it.each([
  ['damaged', (b: Buffer) => b.fill(0x55, 64, b.length / 2 - 64)],
  ['cut off', (b: Buffer) => b.subarray(0, 100)],
  ['empty', () => Buffer.alloc(0)],
  ['made by another', () => Buffer.from('another machine another machine ')],
])('makes one that is %s anew', (_, spoil) => {
  start().keep();
  const good = readFileSync(kept());
  writeFileSync(kept(), spoil(Buffer.from(good)));
  // V8 remembers what it has compiled in this process; of another text it knows nothing.
  appendFileSync(bundle, '// changed');
  const next = start();
  expect(next.said).toBe('bundle.cjs 42');
  next.keep();
  const both = readFileSync(kept());
  const half = both.subarray(0, both.length / 2);
  expect(half.equals(both.subarray(both.length / 2))).toBe(true);
  expect(half.length).toBeGreaterThan(200);
});

it('runs where nothing can be kept', () => {
  writeFileSync(code(), 'a file stands where the folder should');
  const { said, keep } = start();
  expect(said).toBe('bundle.cjs 42');
  expect(keep).not.toThrow();
});
