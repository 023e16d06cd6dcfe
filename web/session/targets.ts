import { defineStore } from 'pinia';
import { stripOf } from '@core/session/lookup';
import { useNotices } from '@/ui/notices';
import { usePick } from './pick';
import { useSession } from './session';
import { say } from './texts';

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
      ? say('namedOne', { what, name: stripOf(session.document!, ids[0]!).name || ids[0] })
      : say('namedStrips', { what, strips: ids.length });
  /** Says that nothing is picked. @param what what was to be done with it */
  const none = (what: string) => notices.refused(say('nothingPickedClickNamesStrips', { what }));
  /** Picks one strip and brings it into view. */
  function reveal(id: string) {
    pick.only(id);
    pick.focus = { strip: id, row: 'cap' };
  }
  return { targets, some, named, none, reveal };
});
