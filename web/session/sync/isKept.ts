import { ask } from './api';
import type { NewChange } from './ledger';
import type { SessionState } from './sessionSync';

/** Whether the server has kept an edit that it did not acknowledge to the tab that made it. */
export async function isKept(session: string, { history }: SessionState, { changeId }: NewChange) {
  if (history.some((c) => c.changeId === changeId)) return true;
  return ask('GET', `/sessions/${session}/changes/${changeId}`).then(
    () => true,
    () => false,
  );
}
