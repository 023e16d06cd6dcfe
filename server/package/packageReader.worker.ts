import type { Session } from '../../core/session/types';
import { Refusal } from '../../core/base/refusal';
import { openPackage, sessionIn, stemsOf } from './readPackage';
import { statSync } from 'node:fs';
import { openZip } from './zip';
import type { StemSource } from '../audio/stemReader.worker';

/** A package that has been read and judged: its document as text, and where each of its stems is. */
export interface PackageRead {
  readonly name: string;
  readonly sampleRate: number;
  readonly strips: number;
  readonly document: string;
  readonly stems: readonly { readonly name: string; readonly source: StemSource }[];
}
export type ReaderTask =
  | { readonly do: 'read'; readonly path: string }
  | { readonly do: 'name stems'; readonly document: string; readonly addresses: ReadonlyMap<string, string> };
type Rule = Refusal['rule'];
export type ReaderAnswer<T> =
  | { readonly value: T }
  | {
      readonly refused: { readonly rule: Rule; readonly message: string; readonly things: readonly string[] };
    };

async function read(path: string): Promise<PackageRead> {
  const isFile = statSync(path, { throwIfNoEntry: false })?.isFile() && statSync(path).size > 0;
  if (!isFile) {
    const pack = await openPackage(path);
    return facts(pack.session, (stem) => ({ file: pack.stemFile(stem) }));
  }
  const zip = await openZip(path);
  try {
    return facts(await sessionIn(zip), (entry) => ({ file: path, entry }));
  } finally {
    zip.close();
  }
}
const facts = (session: Session, source: (stem: string) => StemSource): PackageRead => ({
  name: session.name,
  sampleRate: session.sampleRate,
  strips: session.strips.length,
  document: JSON.stringify(session),
  stems: stemsOf(session).map((name) => ({ name, source: source(name) })),
});

function nameStems(document: string, addresses: ReadonlyMap<string, string>): string {
  const session = JSON.parse(document) as Session;
  return JSON.stringify({
    ...session,
    strips: session.strips.map((s) => (s.stem === null ? s : { ...s, stem: addresses.get(s.stem)! })),
  });
}

/** Reads a package, or puts the library's addresses in the place of its stems' names. A document may be very large. */
export default async function work(task: ReaderTask): Promise<ReaderAnswer<PackageRead | string>> {
  try {
    return {
      value: task.do === 'read' ? await read(task.path) : nameStems(task.document, task.addresses),
    };
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    return { refused: { rule: error.rule, message: error.message, things: [...error.things] } };
  }
}
