import { createHash } from 'node:crypto';
import { stemHead } from '../core/formats/audio/stemName';
import { isDeepStrictEqual } from 'node:util';
import { QueryTypes, type Sequelize } from 'sequelize';
import { apply } from '../core/edits/apply';
import { validSession } from '../core/formats/sessionDocument';
import type { Session } from '../core/session/types';
import { bulk } from './database/database';
import { StemRow } from './database/models';
import { wholeStem } from './audio/stemBytes';
import { hashOf } from './audio/stemStore';
import { giveBackRoom, sweepStems } from './audio/sweep';
import { freeBytes } from './files/room';
import { documentsOf, headOf } from './sessions/documents';
import { changesBetween, horizonOf } from './sessions/history';

/** What was found wrong, with what helps. */
export interface Problem {
  readonly problem: 'stem' | 'reference' | 'document' | 'history' | 'room';
  /** In plain words, by name. */
  readonly what: string;
  readonly where: readonly string[];
  /** What to do, or what `repair` did. */
  readonly repair: string;
}

export interface DoctorOptions {
  readonly sequelize: Sequelize;
  /** Whether what can be repaired is. */
  readonly repair: boolean;
  /** A folder on the database's disk; null where it is elsewhere. */
  readonly disk: string | null;
}

/** Free room below which it is said. */
const LITTLE = 2 * 2 ** 30;
/** Changes that are looked at in one go. */
const STEP = 500;

const select = async <T>(sequelize: Sequelize, sql: string, bind: readonly unknown[] = []) =>
  (await bulk(sequelize).query(sql, { bind: [...bind], type: QueryTypes.SELECT })) as T[];

/** Looks through everything that is kept. The application may run meanwhile. */
export async function* examine(options: DoctorOptions): AsyncGenerator<Problem> {
  yield* examineStems(options);
  yield* examineSessions(options);
  yield* examineRoom(options);
}

const sessionsWith = async (sequelize: Sequelize, stem: number) =>
  (
    await select<{ name: string }>(
      sequelize,
      'SELECT DISTINCT s.name FROM session_stems r JOIN sessions s ON s.id = r.session_id WHERE r.stem_id = $1 ORDER BY 1',
      [stem],
    )
  ).map((r) => r.name);

/** Every stem's samples still give the hash that names it. */
async function* examineStems({ sequelize, repair }: DoctorOptions): AsyncGenerator<Problem> {
  const rows = await StemRow.findAll({ order: [['id', 'ASC']], attributes: { exclude: ['overview'] } });
  for (const row of rows) {
    const sha256 = row.sha256.trim();
    if ((await hashOfStem(sequelize, row)) === sha256) {
      if (row.damaged && repair) await row.update({ damaged: false });
      continue;
    }
    // It may have been swept since the list was made.
    if (!(await StemRow.count({ where: { id: row.id } }))) continue;
    if (repair) await row.update({ damaged: true });
    const names = await sessionsWith(sequelize, row.id);
    yield {
      problem: 'stem',
      what: `The stem sha256:${sha256} is damaged: its samples are not those that were stored.${names.length ? ` It is heard in ${names.map((n) => `“${n}”`).join(', ')}.` : ' No session names it.'}`,
      where: [`sha256:${sha256}`, ...names],
      repair: repair
        ? 'It is marked: bring its file into any session, and it is stored anew where it stood.'
        : 'Run `zonula doctor --repair yes`, then bring its file into any session again; or restore a backup.',
    };
  }
}

/** The hash that a stem's chunks give now; those that are not there are silent. */
async function hashOfStem(sequelize: Sequelize, row: StemRow): Promise<string> {
  const hash = createHash('sha256').update(stemHead(row.sampleRate, row.channels, row.depth));
  for await (const piece of wholeStem(sequelize, row)) hash.update(piece);
  return hash.digest('hex');
}

async function* examineSessions({ sequelize, repair }: DoctorOptions): AsyncGenerator<Problem> {
  const ids = await select<{ id: string }>(sequelize, 'SELECT id FROM sessions ORDER BY created_at');
  for (const { id } of ids) {
    const head = await headOf(sequelize, id);
    if (!head) continue;
    let row: { readonly name: string; readonly revision: number; readonly document: Session };
    try {
      row = { ...head, document: await documentsOf(sequelize).at(id, head.revision, head.stamp) };
    } catch (error) {
      yield {
        problem: 'document',
        what: `The document of “${head.name}” cannot be read: ${(error as Error).message}`,
        where: [id],
        repair: 'Restore a backup.',
      };
      continue;
    }
    try {
      validSession(row.document);
    } catch (error) {
      yield {
        problem: 'document',
        what: `The document of “${row.name}” breaks a rule: ${(error as Error).message}`,
        where: [id],
        repair: 'Open it, and change what is named; or restore a backup.',
      };
    }
    yield* examineReferences(sequelize, repair, id, row.name, row.document);
    yield* examineHistory(sequelize, repair, id, row);
  }
}

/** Every stem that a document names is there, and is held by it. */
async function* examineReferences(
  sequelize: Sequelize,
  repair: boolean,
  id: string,
  name: string,
  document: Session,
): AsyncGenerator<Problem> {
  const named = [...new Set(document.strips.map((s) => s.stem).filter((s): s is string => s !== null))];
  for (const stem of named) {
    const [row] = await select<{ id: number; held: boolean }>(
      sequelize,
      `SELECT s.id, EXISTS (SELECT 1 FROM session_stems r WHERE r.stem_id = s.id AND r.session_id = $1) AS held
       FROM stems s WHERE s.sha256 = $2`,
      [id, hashOf(stem) ?? ''],
    );
    const strips = document.strips.filter((s) => s.stem === stem).map((s) => s.name);
    if (!row)
      yield {
        problem: 'reference',
        what: `“${name}” names a stem that is not in the library: ${strips.join(', ')} cannot be heard.`,
        where: [id, stem],
        repair: 'Bring the same file into any session again: strips that name it are heard at once.',
      };
    else if (!row.held) {
      if (repair)
        await bulk(sequelize).query(
          'INSERT INTO session_stems (session_id, stem_id) VALUES ($1, $2) ON CONFLICT DO NOTHING',
          { bind: [id, row.id] },
        );
      yield {
        problem: 'reference',
        what: `“${name}” names the stem of ${strips.join(', ')} and does not hold it: it might be swept.`,
        where: [id, stem],
        repair: repair ? 'It holds it now.' : 'Run `zonula doctor --repair yes`.',
      };
    }
  }
}

/** Every change, taken back and done again, gives the same document: the one that is kept. */
async function* examineHistory(
  sequelize: Sequelize,
  repair: boolean,
  id: string,
  { name, revision, document }: { name: string; revision: number; document: Session },
): AsyncGenerator<Problem> {
  const horizon = await horizonOf(sequelize, id);
  let after = document;
  let expected = revision;
  const wrong = async (at: number, why: string): Promise<Problem> => {
    if (repair) await cutHistory(sequelize, id, at);
    return {
      problem: 'history',
      what: `Change ${at} of “${name}” ${why}. The session itself is as it was.`,
      where: [id, String(at)],
      repair: repair
        ? `The history up to change ${at} was let go; later changes can be undone.`
        : 'Run `zonula doctor --repair yes`: the history up to that change is let go, and nothing else changes.',
    };
  };
  for (let to = revision; to > horizon; to -= STEP) {
    const from = Math.max(horizon, to - STEP);
    const changes = await changesBetween(sequelize, id, from, to);
    for (const change of [...changes].reverse()) {
      if (change.revision !== expected) return yield await wrong(expected, 'is missing');
      expected--;
      if (!change.commands || !change.inverse)
        return yield await wrong(change.revision, 'names an edit that is missing');
      let before: Session;
      try {
        before = apply(after, change.inverse).session;
        if (!isDeepStrictEqual(apply(before, change.commands).session, after))
          return yield await wrong(change.revision, 'does not lead to the document that follows it');
      } catch (error) {
        return yield await wrong(
          change.revision,
          `does not replay: ${(error as Error).message.replace(/\.$/, '')}`,
        );
      }
      after = before;
    }
  }
  if (expected !== horizon) yield await wrong(expected, 'is missing');
}

/** Lets the history up to a change go. */
async function cutHistory(sequelize: Sequelize, id: string, revision: number): Promise<void> {
  await bulk(sequelize).transaction(async (transaction) => {
    await sequelize.query(
      `INSERT INTO session_horizons (session_id, revision) VALUES ($1, $2)
       ON CONFLICT (session_id) DO UPDATE SET revision = GREATEST(session_horizons.revision, $2)`,
      { bind: [id, revision], transaction },
    );
    await sequelize.query(
      `DELETE FROM session_changes c WHERE c.session_id = $1 AND c.revision <= $2 AND NOT EXISTS (
         SELECT 1 FROM session_changes u WHERE u.session_id = $1 AND u.of_change = c.change_id AND u.revision > $2)`,
      { bind: [id, revision], transaction },
    );
  });
}

const gib = (bytes: number) => `${(bytes / 2 ** 30).toFixed(1)} GiB`;

/** There is room to go on. */
async function* examineRoom({ sequelize, repair, disk }: DoctorOptions): AsyncGenerator<Problem> {
  if (!disk) return;
  const free = await freeBytes(disk);
  if (free >= LITTLE) return;
  let back = 0;
  if (repair) {
    await sweepStems(sequelize);
    back = await giveBackRoom(sequelize, true).catch(() => 0);
  }
  yield {
    problem: 'room',
    what: `${gib(free)} are free on the database's disk (${disk}).`,
    where: [disk],
    repair: repair
      ? `${gib(back)} of removed stems came back. Where that is not enough, export and delete sessions, or move the data to a larger disk.`
      : 'Run `zonula doctor --repair yes`, which gives room of removed stems back; export and delete sessions that are done.',
  };
}
