import { field, filled } from '../../session/fields/shape';
import { SEND } from '../../session/fields/tables';
import { AT, ID, type CommandKind } from '../kind';

export const fields = { strip: ID, send: field({ kind: 'object', fields: SEND }), at: AT } as const;

/** Adds a send to a strip. */
export const sendAdd: CommandKind<'send.add'> = {
  fields,
  run(draft, { strip, send, at }) {
    draft.addSend(strip, filled(SEND, send), at);
    return { type: 'send.remove', strip, id: send.id };
  },
  strip: ({ strip }) => strip,
};
