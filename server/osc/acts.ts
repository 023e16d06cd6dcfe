import { randomUUID } from 'node:crypto';
import { Refusal } from '../../core/base/refusal';
import type { Command } from '../../core/edits/commands';
import type { Live } from '../live/live';
import type { Asked } from '../live/messages';
import { Stale } from '../sessions/commit';
import type { Keep } from '../sessions/keep';
import type { Steered } from './steered';

/** Times that an undo is asked for on another revision, when others edit meanwhile. */
const MOST_TRIES = 6;

/** Asks the window that plays. @throws Refusal where none does, or it has gone */
export function askPlayer(live: Live, steered: Steered, ask: Asked['ask'], at?: number): void {
  const { player, id } = steered;
  if (player !== null && id !== null) {
    if (live.ask(id, 'osc', { to: player, ask, ...(at === undefined ? {} : { at }) })) return;
    steered.left(player);
  }
  throw new Refusal(
    'unknown',
    'No window plays the session: open it in the page, and press play there once.',
  );
}

/**
 * Takes the last edit of what is steered back, or does it again.
 * @param may throws where who asks may not do what that does
 * @throws Refusal where there is none
 */
export async function takeStep(
  keep: Keep,
  steered: Steered,
  kind: 'undo' | 'redo',
  may?: (commands: readonly Command[]) => void,
): Promise<void> {
  for (let n = 1; ; n++)
    try {
      const changeId = randomUUID();
      await keep(steered.id!, { kind, changeId, revision: steered.revision, label: kind }, may);
      return;
    } catch (error) {
      if (!(error instanceof Stale) || n >= MOST_TRIES) throw error;
      steered.forget();
      await steered.session();
    }
}
