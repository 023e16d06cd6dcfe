import type { Session } from '../../core/session/types';
import { randomUUID } from 'node:crypto';
import { Readable } from 'node:stream';
import type { Piscina } from 'piscina';
import type { Sequelize } from 'sequelize';
import { Refusal } from '../../core/base/refusal';
import { hashOf, stemRow, stemWav, NotBegun, stemWavBytes, storeStem, touchStems } from '../audio/stemStore';
import type { PackageRead, ReaderAnswer, ReaderTask } from '../package/packageReader.worker';
import { packageStream, type StemSource } from '../package/writePackage';
import { threads } from '../workers';
import { insertSession } from './documents';
import { referTo } from './references';

/** Megabytes that the thread which reads documents may have: ten times what the largest takes. */
const MOST_MEMORY = 1024;
let reader: Piscina | null = null;

/** Has a thread do it. @throws Refusal */
async function inReader<T>(task: ReaderTask): Promise<T> {
  reader ??= threads('server/package/packageReader.worker.ts', 1, MOST_MEMORY);
  let answer: ReaderAnswer<T>;
  try {
    answer = (await reader.run(task)) as ReaderAnswer<T>;
  } catch (error) {
    if ((error as { code?: string }).code === 'ERR_WORKER_OUT_OF_MEMORY')
      throw new Refusal('size', 'The document of the package is too large to be a session.');
    throw error;
  }
  if ('refused' in answer) {
    const { rule, message, things } = answer.refused;
    throw new Refusal(rule, message, things);
  }
  return answer.value;
}

/** A session that was brought in. */
export interface Imported {
  readonly id: string;
  readonly name: string;
}

/**
 * Brings a package in: its stems into the library, its document as a new session. Its stems stay as long as this takes, those
 * that were in the library before too; the session is made with all of them, or not at all.
 * @throws Refusal naming the file or field; nothing but whole stems is left behind, and those are swept later
 */
export async function importPackage(
  sequelize: Sequelize,
  file: string,
  onStem: (done: number, of: number) => void = () => {},
): Promise<Imported> {
  const pack = await inReader<PackageRead>({ do: 'read', path: file });
  const addresses = new Map<string, string>();
  const hashes = () => [...addresses.values()].map((a) => hashOf(a)!);
  // Several at once, as many as the store takes; after one that is refused no other begins.
  let refused = false;
  const results = await Promise.allSettled(
    pack.stems.map(async ({ name, source }) => {
      try {
        const facts = await storeStem(sequelize, name, pack.sampleRate, source, () => refused);
        addresses.set(name, facts.stem);
      } catch (error) {
        refused = true;
        throw error;
      }
      await touchStems(hashes());
      onStem(addresses.size, pack.stems.length);
    }),
  );
  const failed = results.filter((r) => r.status === 'rejected').map((r) => r.reason as Error);
  // What the file is refused for is told, and not that another was not begun.
  if (failed.length) throw failed.find((e) => !(e instanceof NotBegun)) ?? failed[0]!;
  const document = await inReader<string>({ do: 'name stems', document: pack.document, addresses });
  const id = randomUUID();
  await sequelize.transaction(async (transaction) => {
    const { name, strips, sampleRate } = pack;
    await insertSession(sequelize, id, { name, strips, sampleRate }, document, transaction);
    await referTo(sequelize, id, [...new Set(addresses.values())], transaction);
  });
  return { id, name: pack.name };
}

/** A session as a package. */
export function exportPackage(
  sequelize: Sequelize,
  document: Session,
): { stream: Readable; done: Promise<void> } {
  return packageStream(document, async (address): Promise<StemSource> => {
    const stem = await stemRow(address);
    return { bytes: stemWavBytes(stem), open: () => Readable.from(stemWav(sequelize, stem)) };
  });
}
