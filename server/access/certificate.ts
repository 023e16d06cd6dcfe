import { X509Certificate } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { hostname } from 'node:os';
import { join } from 'node:path';

/** A certificate with its key, as PEM. */
export interface Certificate {
  readonly cert: string;
  readonly key: string;
  /** Whether Zonula made it: browsers ask before they trust it. */
  readonly selfMade: boolean;
}
/** Days for which one is made, and before whose end the next is. */
const DAYS = 397;
const BEFORE_END = 14;

/** Whether a certificate speaks for all these addresses, and will for some time. */
function fits(cert: string, addresses: readonly string[]): boolean {
  const read = new X509Certificate(cert);
  const ends = new Date(read.validTo).getTime() - Date.now();
  return ends > BEFORE_END * 86_400_000 && addresses.every((a) => read.checkIP(a) !== undefined);
}

/**
 * The certificate that was given, or one that was made for these addresses: it is kept, and made anew when they change or it ends.
 * @param folder where one that is made is kept, readable for nobody else
 * @throws Error where a given file cannot be read
 */
export async function certificateFor(
  folder: string,
  addresses: readonly string[],
  given: { readonly cert: string; readonly key: string } | null,
): Promise<Certificate> {
  if (given) {
    const [cert, key] = [readFileSync(given.cert, 'utf8'), readFileSync(given.key, 'utf8')];
    return { cert, key, selfMade: false };
  }
  const files = { cert: join(folder, 'studio-cert.pem'), key: join(folder, 'studio-key.pem') };
  if (existsSync(files.cert) && existsSync(files.key)) {
    const cert = readFileSync(files.cert, 'utf8');
    if (fits(cert, addresses)) return { cert, key: readFileSync(files.key, 'utf8'), selfMade: true };
  }
  // It is large, and needed when it opens alone.
  const { generate } = await import('selfsigned');
  const made = await generate([{ name: 'commonName', value: 'Zonula' }], {
    keySize: 2048,
    algorithm: 'sha256',
    notAfterDate: new Date(Date.now() + DAYS * 86_400_000),
    extensions: [
      { name: 'basicConstraints', cA: false },
      { name: 'keyUsage', digitalSignature: true, keyEncipherment: true },
      { name: 'extKeyUsage', serverAuth: true },
      {
        name: 'subjectAltName',
        altNames: [
          ...addresses.map((ip) => ({ type: 7 as const, ip })),
          { type: 2 as const, value: hostname() },
          { type: 2 as const, value: `${hostname()}.local` },
        ],
      },
    ],
  });
  mkdirSync(folder, { recursive: true });
  writeFileSync(files.key, made.private, { mode: 0o600 });
  writeFileSync(files.cert, made.cert, { mode: 0o644 });
  return { cert: made.cert, key: made.private, selfMade: true };
}
