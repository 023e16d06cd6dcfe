import { breaksRules, field } from '../../session/fields/shape';
import { SEND } from '../../session/fields/tables';
import { before } from '../draft';
import { ID, type CommandKind } from '../kind';

export const fields = { strip: ID, id: ID, patch: field({ kind: 'patch', of: SEND }) } as const;

/** Sets fields of a send. */
export const sendSet: CommandKind<'send.set'> = {
  fields,
  run(draft, c) {
    const send = draft.send(c.strip, c.id);
    draft.changeSend(c.strip, send, c.patch);
    return { ...c, patch: before(send, c.patch) };
  },
  ruled: ({ patch }) => breaksRules(SEND, patch),
  strip: ({ strip }) => strip,
};
