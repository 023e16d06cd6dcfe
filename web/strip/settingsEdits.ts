import { defineStore } from 'pinia';
import { shallowRef } from 'vue';
import { resetStrips } from '@core/operations/inserts';
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
import { say } from './texts';

const nothingCopied = () => say('nothingCopiedYetPickStrip');

/** Settings of strips that are copied, pasted and returned to their defaults. */
export const useSettingsEdits = defineStore('settingsEdits', () => {
  const session = useSession();
  const notices = useNotices();
  const dialogs = useDialogs();
  const { targets, named, none } = useTargets();
  /** What was copied last. */
  const copied = shallowRef<StripSettings | null>(null);

  function copySettings() {
    const id = targets().at(-1);
    if (!id) return none(say('copySettingsFrom'));
    copied.value = settingsOf(session.document!, id);
    notices.done(say('settingsFromCopiedPickStrips', { from: copied.value.from }));
  }
  function pasteParts(parts: readonly SettingsPart[]) {
    const ids = targets();
    if (!copied.value) return notices.refused(nothingCopied());
    if (!ids.length) return none(say('pasteSettingsOn'));
    const { commands, left } = pasteSettings(session.document!, copied.value, ids, parts);
    if (
      session.commit(named(say('settingsOfFromOn', { from: copied.value.from }), ids), commands) &&
      left.length
    )
      notices.refused(say('leftOutWhat', { what: [...new Set(left)].join(' ') }));
  }
  /** Everything but where it leads and what colour it has, which make a strip what it is. */
  const paste = () => pasteParts(SETTINGS_PARTS.filter((p) => p !== 'out' && p !== 'colour'));
  function openPaste() {
    if (!copied.value) return notices.refused(nothingCopied());
    const ids = targets();
    if (!ids.length) return none(say('pasteSettingsOn'));
    dialogs.show('paste', { strips: ids });
  }
  function reset() {
    const ids = targets();
    if (!ids.length) return none(say('returnToTheirDefaults'));
    session.change(named(say('defaultsOf'), ids), (s) =>
      resetStrips(
        s,
        ids.filter((id) => stripOf(s, id)),
      ),
    );
  }
  return { copied, copySettings, paste, pasteParts, openPaste, reset };
});
