import type { Sequelize } from 'sequelize';
import type { Command } from '../../core/edits/commands';
import type { Change } from '../../core/edits/history';
import { checkRoom, EDIT_RESERVE } from '../files/room';
import type { Live } from '../live/live';
import type { Maintenance } from '../maintenance';
import { commit, type CommitRequest } from './commit';

/**
 * Keeps an edit, whoever made it, and tells every window.
 * @param may throws where who asks may not do that
 * @throws what `commit` throws
 */
export type Keep = (
  session: string,
  request: CommitRequest,
  may?: (commands: readonly Command[]) => void,
) => Promise<Change>;

export const keeping =
  (sequelize: Sequelize, live: Live, maintenance: Maintenance, disk: string | null): Keep =>
  async (session, request, may) => {
    if (disk) await checkRoom(disk, 0, EDIT_RESERVE);
    const { change, fresh } = await commit(sequelize, session, request, may);
    if (fresh) {
      live.committed(session, change);
      maintenance.edited();
    }
    return change;
  };
