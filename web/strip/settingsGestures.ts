import { defineStore } from 'pinia';
import { shallowRef } from 'vue';
import { resetStrips } from '@core/session/gestures/inserts';
import { stripOf } from '@core/session/lookup';
import {
  pasteSettings,
  SETTINGS_PARTS,
  settingsOf,
  type SettingsPart,
  type StripSettings,
} from '@core/settings/stripSettings';
import { useDialogs } from '@/commands/dialogs';
import { useSession } from '@/session/session';
import { useTargets } from '@/session/targets';
import { useNotices } from '@/ui/notices';

const NOTHING_COPIED = 'Nothing is copied yet. Pick a strip and copy its settings first, by Ctrl+C.';

/** Settings of strips that are copied, pasted and returned to their defaults. */
export const useSettingsGestures = defineStore('settingsGestures', () => {
  const session = useSession();
  const notices = useNotices();
  const dialogs = useDialogs();
  const { targets, named, none } = useTargets();
  /** What was copied last. */
  const copied = shallowRef<StripSettings | null>(null);

  function copySettings() {
    const id = targets().at(-1);
    if (!id) return none('copy settings from');
    copied.value = settingsOf(session.document!, id);
    notices.done(`The settings of ${copied.value.from} are copied. Pick strips and paste them.`);
  }
  function pasteParts(parts: readonly SettingsPart[]) {
    const ids = targets();
    if (!copied.value) return notices.refused(NOTHING_COPIED);
    if (!ids.length) return none('paste settings on');
    const { commands, left } = pasteSettings(session.document!, copied.value, ids, parts);
    if (session.commit(named(`settings of ${copied.value.from} on`, ids), commands) && left.length)
      notices.refused(`Left out: ${[...new Set(left)].join(' ')}`);
  }
  /** Everything but where it leads and what colour it has, which make a strip what it is. */
  const paste = () => pasteParts(SETTINGS_PARTS.filter((p) => p !== 'out' && p !== 'colour'));
  function openPaste() {
    if (!copied.value) return notices.refused(NOTHING_COPIED);
    const ids = targets();
    if (!ids.length) return none('paste settings on');
    dialogs.show('paste', { strips: ids });
  }
  function reset() {
    const ids = targets();
    if (!ids.length) return none('return to their defaults');
    session.change(named('defaults of', ids), (s) =>
      resetStrips(
        s,
        ids.filter((id) => stripOf(s, id)),
      ),
    );
  }
  return { copied, copySettings, paste, pasteParts, openPaste, reset };
});
