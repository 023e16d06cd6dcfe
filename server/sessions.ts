import { randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import { Op, type Sequelize, type Transaction } from 'sequelize';
import { apply } from '../core/session/commands/apply';
import { validCommands } from '../core/session/commands/schema';
import type { Command } from '../core/session/commands/types';
import { newSession } from '../core/session/defaults';
import type { Change, ChangeKind } from '../core/session/history';
import { Refusal } from '../core/session/refusal';
import type { Session } from '../core/session/types';
import { fieldSchemas } from '../core/formats/sessionSchema';
import { stemRow, stemWav, stemWavBytes, storeStem, sweepStems, hashOf } from './audio/stemStore';
import { ChangeRow, SessionRow, StemRow } from './database/models';
import { openPackage } from './package/readPackage';
import { packageStream, type StemSource } from './package/writePackage';

/** How many changes a window gets when it opens a session: as far back as it can undo. */
export const HISTORY = 200;

export interface SessionSummary {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  readonly strips: number;
  readonly sampleRate: number;
  readonly openedAt: string;
}

export interface OpenedSession {
  readonly id: string;
  readonly revision: number;
  readonly document: Session;
  readonly history: readonly Change[];
}

/** A commit that names an old revision; `missed` is what has happened since. */
export class Stale extends Error {
  constructor(readonly missed: readonly Change[]) {
    super('The session has moved on since this edit was made.');
  }
}

const changeOf = (row: ChangeRow): Change => ({
  revision: row.revision,
  kind: row.kind,
  label: row.label,
  changeId: row.changeId,
  commands: row.commands,
  inverse: row.inverse,
});

export async function listSessions(): Promise<readonly SessionSummary[]> {
  const rows = await SessionRow.findAll({
    order: [
      ['openedAt', 'DESC'],
      ['createdAt', 'DESC'],
    ],
  });
  return rows.map((r) => ({
    id: r.id,
    name: r.name,
    revision: r.revision,
    strips: r.document.strips.length,
    sampleRate: r.document.sampleRate,
    openedAt: r.openedAt.toISOString(),
  }));
}

const isUuid = (id: string) => /^[0-9a-f]{8}-([0-9a-f]{4}-){3}[0-9a-f]{12}$/.test(id);

async function rowOf(id: string): Promise<SessionRow> {
  const row = isUuid(id) ? await SessionRow.findByPk(id) : null;
  if (!row) throw new Refusal('unknown', `There is no session \`${id}\`. It may have been deleted.`, [id]);
  return row;
}

/** Finds a session by id or, where just one bears it, by name. */
export async function findSession(idOrName: string): Promise<SessionRow> {
  if (isUuid(idOrName)) return rowOf(idOrName);
  const rows = await SessionRow.findAll({ where: { name: idOrName } });
  if (rows.length > 1)
    throw new Refusal(
      'duplicate',
      `${rows.length} sessions are named \`${idOrName}\`: name one by its id: ${rows.map((r) => r.id).join(', ')}.`,
    );
  if (!rows[0]) throw new Refusal('unknown', `There is no session \`${idOrName}\`.`, [idOrName]);
  return rows[0];
}

export async function createSession(name: string, sampleRate: number): Promise<SessionRow> {
  const { error } = fieldSchemas.session.name.validate(name);
  if (error) throw new Refusal('format', `The name is not accepted: ${error.message}.`);
  return SessionRow.create({ id: randomUUID(), name, document: newSession(name, sampleRate) });
}

export async function openSession(id: string): Promise<OpenedSession> {
  const row = await rowOf(id);
  await SessionRow.update({ openedAt: new Date() }, { where: { id }, silent: true });
  return {
    id,
    revision: row.revision,
    document: row.document,
    history: (await changesBefore(id, HISTORY)).reverse(),
  };
}

async function changesBefore(id: string, count: number): Promise<Change[]> {
  const rows = await ChangeRow.findAll({
    where: { sessionId: id },
    order: [['revision', 'DESC']],
    limit: count,
  });
  return rows.map(changeOf);
}

export async function changesAfter(
  id: string,
  revision: number,
  transaction?: Transaction,
): Promise<readonly Change[]> {
  const rows = await ChangeRow.findAll({
    where: { sessionId: id, revision: { [Op.gt]: revision } },
    order: [['revision', 'ASC']],
    limit: 1000,
    transaction,
  });
  return rows.map(changeOf);
}

export async function deleteSession(sequelize: Sequelize, id: string): Promise<void> {
  await (await rowOf(id)).destroy();
  await sweepStems(sequelize);
}

export interface CommitRequest {
  readonly revision: number;
  readonly changeId: string;
  readonly kind: ChangeKind;
  readonly label: string;
  readonly commands: unknown;
}

/**
 * Keeps an edit: all of it or none, and only on the revision that it was made on. A change that was kept already (sent
 * again after a lost answer) is acknowledged and not done twice.
 * @throws Stale with what was missed; Refusal when a command breaks a rule or a stem is not there
 */
export async function commit(
  sequelize: Sequelize,
  id: string,
  request: CommitRequest,
): Promise<{ change: Change; fresh: boolean }> {
  const commands = validCommands(request.commands);
  if (!isUuid(id)) throw new Refusal('unknown', `There is no session \`${id}\`.`, [id]);
  return sequelize.transaction(async (transaction) => {
    const row = await SessionRow.findByPk(id, { transaction, lock: transaction.LOCK.UPDATE });
    if (!row) throw new Refusal('unknown', `There is no session \`${id}\`. It may have been deleted.`, [id]);
    const known = await ChangeRow.findOne({
      where: { sessionId: id, changeId: request.changeId },
      transaction,
    });
    if (known) return { change: changeOf(known), fresh: false };
    if (row.revision !== request.revision)
      throw new Stale(await changesAfter(id, request.revision, transaction));
    await checkStems(commands, transaction);
    const { session, inverse } = apply(row.document, commands);
    const revision = row.revision + 1;
    await SessionRow.update(
      { document: session, name: session.name, revision },
      { where: { id }, transaction },
    );
    const change = await ChangeRow.create(
      {
        sessionId: id,
        revision,
        kind: request.kind,
        label: request.label,
        changeId: request.changeId,
        commands,
        inverse,
      },
      { transaction },
    );
    return { change: changeOf(change), fresh: true };
  });
}

async function checkStems(commands: readonly Command[], transaction: Transaction): Promise<void> {
  const named = commands.flatMap((c) =>
    c.type === 'strip.add' && c.strip.stem !== null ? [c.strip.stem] : [],
  );
  if (named.length === 0) return;
  const hashes = named.map((stem) => {
    const hash = hashOf(stem);
    if (!hash) throw new Refusal('dangling', `\`${stem}\` is no stem of the library.`, [stem]);
    return hash;
  });
  const there = new Set(
    (await StemRow.findAll({ where: { sha256: hashes }, attributes: ['sha256'], transaction })).map((r) =>
      r.sha256.trim(),
    ),
  );
  const lost = hashes.find((h) => !there.has(h));
  if (lost)
    throw new Refusal(
      'dangling',
      `The stem \`sha256:${lost}\` is not in the library: bring its file in again.`,
      [lost],
    );
}

/** Facts of the stems that a session names. */
export async function stemsOfSession(
  session: Session,
): Promise<Record<string, { channels: number; frames: number; overview: string }>> {
  const hashes = [
    ...new Set(
      session.strips.map((s) => (s.stem ? hashOf(s.stem) : null)).filter((h): h is string => h !== null),
    ),
  ];
  const rows = await StemRow.findAll({ where: { sha256: hashes } });
  return Object.fromEntries(
    rows.map((r) => [
      `sha256:${r.sha256.trim()}`,
      { channels: r.channels, frames: r.frames, overview: r.overview.toString('base64') },
    ]),
  );
}

/**
 * Brings a package in: its stems into the library, its document as a new session.
 * @throws Refusal naming the file or field; nothing but whole stems is left behind, and those are swept later
 */
export async function importPackage(
  sequelize: Sequelize,
  file: string,
  onStem: (done: number, of: number) => void = () => {},
): Promise<SessionRow> {
  const pack = await openPackage(file);
  try {
    const { session } = pack;
    const addresses = new Map<string, string>();
    const stems = [...new Set(session.strips.map((s) => s.stem).filter((s): s is string => s !== null))];
    for (const [n, stem] of stems.entries()) {
      const facts = await storeStem(
        sequelize,
        stem,
        session.sampleRate,
        createReadStream(pack.stemFile(stem), { highWaterMark: 1 << 18 }),
      );
      addresses.set(stem, facts.stem);
      onStem(n + 1, stems.length);
    }
    const document: Session = {
      ...session,
      strips: session.strips.map((s) => (s.stem === null ? s : { ...s, stem: addresses.get(s.stem)! })),
    };
    return await SessionRow.create({ id: randomUUID(), name: document.name, document });
  } finally {
    await pack.close();
  }
}

/** A session as a package. */
export function exportPackage(
  sequelize: Sequelize,
  row: SessionRow,
): { stream: Readable; done: Promise<void> } {
  return packageStream(row.document, async (address): Promise<StemSource> => {
    const stem = await stemRow(address);
    return { bytes: stemWavBytes(stem), open: () => Readable.from(stemWav(sequelize, stem)) };
  });
}
