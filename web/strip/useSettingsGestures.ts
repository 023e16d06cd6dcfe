import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import { processorOf } from '@core/processors/registry';
import { activeInserts, resetStrips, switchInserts, type InsertRef } from '@core/session/gestures/inserts';
import { stripOf } from '@core/session/lookup';
import {
  pasteSettings,
  SETTINGS_PARTS,
  settingsOf,
  type SettingsPart,
  type StripSettings,
} from '@core/settings/stripSettings';
import { useNotices } from '@/ui/notices';
import { useSession } from '@/session/session';
import { useStripGestures } from './useStripGestures';

/** Settings from one strip to many, and inserts switched off to compare. */
export const useSettingsGestures = defineStore('settingsGestures', () => {
  const session = useSession();
  const notices = useNotices();
  const strips = useStripGestures();
  /** What was copied last. */
  const copied = shallowRef<StripSettings | null>(null);
  /** Inserts that a bypass of many has switched off, so that exactly those come back. */
  const bypassed = shallowRef<readonly InsertRef[]>([]);
  /** What the dialog about inserts is to move, or the insert that presets are for. */
  const moving = shallowRef<readonly InsertRef[]>([]);
  const presetFor = ref<string | null>(null);

  function copySettings() {
    const id = strips.targets().at(-1);
    if (!id) return strips.none('copy settings from');
    copied.value = settingsOf(session.document!, id);
    notices.done(`The settings of ${copied.value.from} are copied. Pick strips and paste them.`);
  }
  function pasteParts(parts: readonly SettingsPart[]) {
    const ids = strips.targets();
    if (!copied.value)
      return notices.refused('Nothing is copied yet. Pick a strip and copy its settings first, by Ctrl+C.');
    if (!ids.length) return strips.none('paste settings on');
    const { commands, left } = pasteSettings(session.document!, copied.value, ids, parts);
    if (session.commit(strips.named(`settings of ${copied.value.from} on`, ids), commands) && left.length)
      notices.refused(`Left out: ${[...new Set(left)].join(' ')}`);
  }
  /** Everything but where it leads and what colour it has, which make a strip what it is. */
  const paste = () => pasteParts(SETTINGS_PARTS.filter((p) => p !== 'out' && p !== 'colour'));
  function openPaste() {
    if (!copied.value)
      return notices.refused('Nothing is copied yet. Pick a strip and copy its settings first, by Ctrl+C.');
    const ids = strips.targets();
    if (!ids.length) return strips.none('paste settings on');
    strips.dialog = { kind: 'paste', strips: ids };
  }

  function toggleBypass(active: readonly InsertRef[], within: (r: InsertRef) => boolean, what: string) {
    const back = bypassed.value.filter(within);
    const doc = session.document!;
    if (active.length) {
      if (!session.commit(`bypass ${what}`, switchInserts(doc, active, false))) return;
      bypassed.value = [...bypassed.value.filter((r) => !within(r)), ...active];
      return;
    }
    const known = back.length
      ? back
      : doc.strips.flatMap((s) => s.inserts.map((i) => ({ strip: s.id, id: i.id }))).filter(within);
    if (!session.commit(`switch on ${what}`, switchInserts(doc, known, true)))
      notices.refused('There is no insert to bypass here. Click an empty insert cell to add one.');
    bypassed.value = bypassed.value.filter((r) => !within(r));
  }
  /** All inserts of some strips off, or exactly those back on. */
  function bypassStrips(ids: readonly string[] = strips.targets()) {
    if (!ids.length) return strips.none('bypass');
    toggleBypass(
      activeInserts(session.document!, ids),
      (r) => ids.includes(r.strip),
      strips.named('inserts of', ids),
    );
  }
  /** All inserts of one kind off, in the whole session, or exactly those back on. */
  function bypassKind(type: string) {
    const doc = session.document!;
    const isOne = (r: InsertRef) =>
      doc.strips.find((s) => s.id === r.strip)?.inserts.find((i) => i.id === r.id)?.type === type;
    toggleBypass(activeInserts(doc, null, type), isOne, `every ${processorOf(type).name}`);
  }
  function reset() {
    const ids = strips.targets();
    if (!ids.length) return strips.none('return to their defaults');
    session.change(strips.named('defaults of', ids), (s) =>
      resetStrips(
        s,
        ids.filter((id) => stripOf(s, id)),
      ),
    );
  }

  function openPresets(ids: readonly string[] = strips.targets(), insert: string | null = null) {
    presetFor.value = insert;
    strips.dialog = { kind: 'presets', strips: ids };
  }
  function openMove(refs: readonly InsertRef[]) {
    moving.value = refs;
    strips.dialog = { kind: 'move', strips: refs.map((r) => r.strip) };
  }
  function openLink() {
    const ids = strips.targets();
    if (ids.length < 2)
      return notices.refused(
        'A link takes two strips or more. Pick them first, by Ctrl and a click on their names.',
      );
    strips.dialog = { kind: 'link', strips: ids };
  }

  return {
    copied,
    moving,
    presetFor,
    copySettings,
    paste,
    pasteParts,
    openPaste,
    bypassStrips,
    bypassKind,
    reset,
    openPresets,
    openMove,
    openLink,
  };
});
