import { QueryTypes, type Sequelize } from 'sequelize';
import type { Command } from '../../core/edits/commands';
import { apply } from '../../core/edits/apply';
import { validCommands } from '../../core/edits/schema';
import { bodyOf, editMeant, type Change, type ChangeBody, type ChangeKind } from '../../core/edits/history';
import { Refusal } from '../../core/base/refusal';
import { PACKAGE_LIMITS } from '../package/limits';
import { bytesOf, documentsOf, lockedHeadOf } from './documents';
import { changeNamed, changesAfter, horizonOf, stacksOf, writeChange } from './history';
import { referTo, stemsNamed } from './references';
import { isUuid, noSession } from './sessions';

/** A commit that names an old revision; `missed` is what has happened since, as far as it is told at once. */
export class Stale extends Error {
  constructor(
    readonly missed: readonly Change[],
    readonly revision: number,
  ) {
    super('The session has moved on since this edit was made.');
  }
}

export interface CommitRequest {
  readonly revision: number;
  readonly changeId: string;
  readonly kind: ChangeKind;
  readonly label: string;
  /** The edit that an undo takes back or a redo does again, by its `changeId`. */
  readonly of?: string | null;
  /** What an edit does. An undo or a redo carries nothing: what it does is in the history. */
  readonly commands?: unknown;
}

/**
 * Keeps an edit: all of it or none, and only on the revision that it was made on. A change that was kept already (sent
 * again after a lost answer) is acknowledged and not done twice.
 * @param may throws where who asks may not do that: an undo is judged by what it does
 * @throws Stale with what was missed; Refusal when a command breaks a rule, a stem is not there, or there is nothing to undo
 */
export async function commit(
  sequelize: Sequelize,
  id: string,
  request: CommitRequest,
  may?: (commands: readonly Command[]) => void,
): Promise<{ change: Change; fresh: boolean }> {
  const { kind, changeId } = request;
  let { label } = request;
  const own = kind === 'edit' ? validCommands(request.commands) : null;
  if (!isUuid(id)) throw noSession(id);
  const documents = documentsOf(sequelize);
  const { kept, ...result } = await sequelize.transaction(async (transaction) => {
    const row = await lockedHeadOf(sequelize, id, changeId, transaction);
    if (!row) throw noSession(id);
    // Where it waited for another edit, what was looked at is of before that one.
    if (row.known || row.revision !== request.revision) {
      const known = await changeNamed(sequelize, id, changeId, transaction);
      if (known) return { change: known, fresh: false, kept: null };
    }
    if (row.revision !== request.revision) {
      const whole = request.revision >= (await horizonOf(sequelize, id, transaction));
      throw new Stale(
        whole ? await changesAfter(sequelize, id, request.revision, transaction) : [],
        row.revision,
      );
    }
    let of: string | null = null;
    let body: Pick<ChangeBody, 'commands'>;
    if (kind === 'edit') body = { commands: own! };
    else {
      const meant = editMeant(await stacksOf(sequelize, id, transaction), kind, request.of ?? null);
      // In the history they are called by what they take back or do again.
      ({ changeId: of, label } = meant);
      const edit = await changeNamed(sequelize, id, of, transaction);
      if (!edit)
        throw new Refusal(
          'order',
          `What is to be ${kind === 'undo' ? 'taken back' : 'done again'} is no longer in the history.`,
          [of],
        );
      body = bodyOf(kind, edit);
    }
    may?.(body.commands);
    await referTo(sequelize, id, stemsNamed(body.commands), transaction);
    const document = await documents.at(id, row.revision, row.stamp, transaction);
    const { session, inverse } = apply(document, body.commands);
    // What was once accepted can be brought back: only an edit is held to this.
    if (kind === 'edit' && bytesOf(session) > PACKAGE_LIMITS.documentBytes)
      throw new Refusal(
        'size',
        `The session would be larger than ${PACKAGE_LIMITS.documentBytes >> 20} MiB: thin out or remove automation first.`,
      );
    const revision = row.revision + 1;
    const [updated] = (await sequelize.query(
      `UPDATE sessions SET name = $1, revision = $2, strip_count = $3, sample_rate = $4, updated_at = now()
       WHERE id = $5 RETURNING updated_at::text AS stamp`,
      {
        bind: [session.name, revision, session.strips.length, session.sampleRate, id],
        type: QueryTypes.SELECT,
        transaction,
      },
    )) as [{ stamp: string }];
    const change: Change = { revision, kind, label, changeId, of, commands: body.commands, inverse };
    await writeChange(id, change, transaction);
    return { change, fresh: true, kept: { document: session, revision, stamp: updated.stamp } };
  });
  if (kept) documents.kept(id, kept);
  return result;
}
