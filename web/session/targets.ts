import { defineStore } from 'pinia';
import { stripOf } from '@core/session/lookup';
import { useNotices } from '@/ui/notices';
import { usePick } from './pick';
import { useSession } from './session';

/** What an action acts on, and how that is called. */
export const useTargets = defineStore('targets', () => {
  const session = useSession();
  const pick = usePick();
  const notices = useNotices();

  /** The picked strips, or the one that has the keyboard. */
  const targets = () =>
    pick.picked.length
      ? pick.picked
      : pick.focus && session.strip(pick.focus.strip)
        ? [pick.focus.strip]
        : [];
  const some = () => targets().length > 0;
  /** `mute Bass DI`, `mute 3 strips`. */
  const named = (what: string, ids: readonly string[]) =>
    ids.length === 1
      ? `${what} ${stripOf(session.document!, ids[0]!).name || ids[0]}`
      : `${what} ${ids.length} strips`;
  /** Says that nothing is picked. @param what what was to be done with it */
  const none = (what: string) =>
    notices.refused(`Nothing is picked. Click the names of the strips to ${what} first, or press X on them.`);
  /** Picks one strip and brings it into view. */
  function reveal(id: string) {
    pick.only(id);
    pick.focus = { strip: id, row: 'cap' };
  }
  return { targets, some, named, none, reveal };
});
