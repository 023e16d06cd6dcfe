import { ID, type CommandKind } from '../kind';

export const fields = { strip: ID, id: ID } as const;

/** Removes a send from a strip. */
export const sendRemove: CommandKind<'send.remove'> = {
  fields,
  removes: true,
  run(draft, { strip, id }) {
    const send = draft.send(strip, id);
    return { type: 'send.add', strip, send, at: draft.removeSend(strip, send) };
  },
  strip: ({ strip }) => strip,
};
