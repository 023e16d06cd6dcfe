import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Command } from '../../core/edits/commands';
import { Refusal } from '../../core/base/refusal';
import { hashOf } from '../audio/stemStore';

/** The stems that commands bring into a session. */
export const stemsNamed = (commands: readonly Command[]): readonly string[] => [
  ...new Set(
    commands.flatMap((c) => (c.type === 'strip.add' && c.strip.stem !== null ? [c.strip.stem] : [])),
  ),
];

/**
 * Writes down that a session names these stems, so that they stay. Sweeping waits for this transaction, or this one for
 * sweeping (PostgreSQL 15, 13.3.2: FOR KEY SHARE holds off a DELETE), so a session never names a stem that is not there.
 * @throws Refusal `dangling` naming the first stem that is not in the library
 */
export async function referTo(
  sequelize: Sequelize,
  session: string,
  stems: readonly string[],
  transaction: Transaction,
): Promise<void> {
  if (stems.length === 0) return;
  const hashes = stems.map((stem) => {
    const hash = hashOf(stem);
    if (!hash) throw new Refusal('dangling', `\`${stem}\` is no stem of the library.`, [stem]);
    return hash;
  });
  const there = (await sequelize.query(
    'SELECT id, sha256 FROM stems WHERE sha256 = ANY($1) ORDER BY id FOR KEY SHARE',
    { bind: [hashes], type: QueryTypes.SELECT, transaction },
  )) as { id: number; sha256: string }[];
  const known = new Set(there.map((r) => r.sha256.trim()));
  const lost = hashes.find((h) => !known.has(h));
  if (lost)
    throw new Refusal(
      'dangling',
      `The stem \`sha256:${lost}\` is not in the library: bring its file in again.`,
      [lost],
    );
  await sequelize.query(
    'INSERT INTO session_stems (session_id, stem_id) SELECT $1, unnest($2::int[]) ON CONFLICT DO NOTHING',
    { bind: [session, there.map((r) => r.id)], transaction },
  );
}
