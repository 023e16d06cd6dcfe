import { X509Certificate } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { certificateFor } from './certificate';

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'zonula-cert-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

// Addresses of documentation: RFC 5737 and RFC 3849.
it('a certificate is made for the addresses, kept, and made anew where the machine has others', async () => {
  const first = await certificateFor(folder, ['192.0.2.7', '2001:db8::7'], null);
  expect(first.selfMade).toBe(true);
  const read = new X509Certificate(first.cert);
  expect([read.checkIP('192.0.2.7'), read.checkIP('192.0.2.8'), read.ca]).toEqual([
    '192.0.2.7',
    undefined,
    false,
  ]);
  expect(read.checkIP('2001:db8::7')).toBeDefined();
  const days = (new Date(read.validTo).getTime() - Date.now()) / 86_400_000;
  expect(days).toBeGreaterThan(390);
  expect(days).toBeLessThan(398);
  expect((await certificateFor(folder, ['192.0.2.7'], null)).cert).toBe(first.cert);
  const other = await certificateFor(folder, ['192.0.2.9'], null);
  expect(other.cert).not.toBe(first.cert);
  expect(new X509Certificate(other.cert).checkIP('192.0.2.9')).toBe('192.0.2.9');
});

it('one that was given is taken as it is; where it cannot be read that is said', async () => {
  const [cert, key] = [join(folder, 'own.pem'), join(folder, 'own.key')];
  writeFileSync(cert, 'a certificate');
  writeFileSync(key, 'a key');
  expect(await certificateFor(folder, ['192.0.2.7'], { cert, key })).toEqual({
    cert: 'a certificate',
    key: 'a key',
    selfMade: false,
  });
  await expect(certificateFor(folder, [], { cert: join(folder, 'none'), key })).rejects.toThrow(/ENOENT/);
});
