import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import { FAMILIES } from '@core/naming/lexicon';
import { dissolve } from '@core/session/gestures/dissolve';
import { gather } from '@core/session/gestures/gather';
import { monitor, newOutput, setOuts } from '@core/session/gestures/outputs';
import { newReturn } from '@core/session/gestures/returns';
import { moveStrips, removeStrips, toggleDryPath, toggleFlag } from '@core/session/gestures/strips';
import { stripsBy } from '@core/session/gestures/tidy';
import { holdByVca } from '@core/session/gestures/vcas';
import { stripOf } from '@core/session/lookup';
import type { Session } from '@core/session/types';
import type { MenuItem, OpenMenu } from '@/ui/menu';
import { useNotices } from '@/ui/notices';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';

export type DialogKind =
  'sends' | 'return' | 'rename' | 'tidy' | 'paste' | 'presets' | 'link' | 'move' | 'insert';

/** What can be done with the picked strips, and the menus and dialogs that ask how. */
export const useStripGestures = defineStore('stripGestures', () => {
  const session = useSession();
  const pick = usePick();
  const settings = useSettings();
  const notices = useNotices();
  const menu = shallowRef<OpenMenu | null>(null);
  /** Asks the Sheet to let the name of a strip be typed. */
  const renaming = ref<string | null>(null);
  /** The dialog that is open, and the strips that it is about. */
  const dialog = shallowRef<{
    readonly kind: DialogKind;
    readonly strips: readonly string[];
  } | null>(null);
  function openDialog(kind: 'sends' | 'return' | 'rename' | 'tidy') {
    if (kind !== 'tidy' && kind !== 'return' && !some()) return none(kind === 'sends' ? 'send' : 'rename');
    dialog.value = { kind, strips: targets() };
  }
  /** Counts up when files are to be chosen. */
  const choosing = ref(0);

  /** What an action acts on: the picked strips, or the one that has the keyboard. */
  const targets = () =>
    pick.picked.length
      ? pick.picked
      : pick.focus && session.strip(pick.focus.strip)
        ? [pick.focus.strip]
        : [];
  const some = () => targets().length > 0;
  const named = (what: string, ids: readonly string[]) =>
    ids.length === 1
      ? `${what} ${stripOf(session.document!, ids[0]!).name || ids[0]}`
      : `${what} ${ids.length} strips`;
  const none = (what: string) =>
    notices.refused(`Nothing is picked. Click the names of the strips to ${what} first, or press X on them.`);

  function gatherPicked() {
    if (!some()) return none('gather');
    const made = session.perform((s) => gather(s, targets(), { placement: settings.placement }));
    if (made) reveal(made);
  }
  function returnPicked() {
    const made = session.perform((s) => newReturn(s, targets()));
    if (made) {
      reveal(made);
      notices.done('A return with a plate reverb was made. Paint along its row to send more strips to it.');
    }
  }
  function dissolvePicked() {
    const ids = targets();
    if (!ids.length) return none('dissolve');
    for (const id of ids)
      session.change(`dissolve ${stripOf(session.document!, id).name || id}`, (s) => dissolve(s, id));
    pick.none();
  }
  function addOutput() {
    const made = session.perform((s) => newOutput(s));
    if (made) reveal(made);
  }
  function hearOutput(id: string) {
    session.change(`hear ${stripOf(session.document!, id).name || id}`, (s) => monitor(s, id));
  }
  /** Picks strips that have something in common with those that are picked. */
  function pickBy(by: 'family' | 'kind' | 'colour' | 'feeds') {
    const ids = targets();
    const doc = session.document;
    if (!ids.length || !doc) return none(`pick by ${by}`);
    const found = new Set<string>();
    if (by === 'feeds') for (const id of stripsBy(doc, { by, strips: ids })) found.add(id);
    else
      for (const id of ids) {
        const strip = stripOf(doc, id);
        const same =
          by === 'kind' ? stripsBy(doc, { by, value: strip.kind }) : stripsBy(doc, { by, value: strip[by] });
        for (const other of same) found.add(other);
      }
    if (found.size === 0) return notices.refused('Nothing feeds what is picked.');
    pick.set(found);
  }
  /** Moves the picked strips past their neighbours. */
  function shift(way: -1 | 1) {
    const ids = targets();
    const doc = session.document;
    if (!doc || !ids.length) return none('move');
    const order = pick.order.filter((id) => stripOf(doc, id).kind === stripOf(doc, ids[0]!).kind);
    const at = ids.map((id) => order.indexOf(id)).filter((i) => i >= 0);
    if (!at.length) return;
    const edge = way < 0 ? Math.min(...at) - 1 : Math.max(...at) + 2;
    if (edge < 0 || edge > order.length) return;
    session.change(named('move', ids), (s) => moveStrips(s, ids, order[edge] ?? afterLast(s, order.at(-1)!)));
  }
  /** The strip that stands behind another one in the session; null at its end. */
  const afterLast = (s: Session, id: string) =>
    s.strips[s.strips.findIndex((x) => x.id === id) + 1]?.id ?? null;
  function vcaPicked() {
    if (!some()) return none('hold by a VCA');
    session.perform((s) => holdByVca(s, targets()));
  }
  function reveal(id: string) {
    pick.only(id);
    pick.focus = { strip: id, row: 'cap' };
  }
  function toggle(flag: 'mute' | 'solo' | 'hidden' | 'soloSafe', label: string) {
    const ids = targets();
    if (!ids.length) return none(label);
    session.change(named(label, ids), (s) => toggleFlag(s, ids, flag));
  }
  function removePicked() {
    const ids = targets();
    if (!ids.length) return none('remove');
    session.change(named('remove', ids), (s) => removeStrips(s, ids));
    pick.none();
  }
  const hiddenCount = computed(() => session.document?.strips.filter((s) => s.hidden).length ?? 0);
  function showHidden() {
    session.change('show hidden strips', (s) =>
      s.strips
        .filter((x) => x.hidden)
        .map((x) => ({ type: 'strip.set', id: x.id, patch: { hidden: false } })),
    );
  }

  /** Opens a menu where a thing stands. */
  function openMenu(title: string, items: readonly MenuItem[], at: { x: number; y: number } | Element) {
    const place =
      at instanceof Element
        ? { x: at.getBoundingClientRect().left, y: at.getBoundingClientRect().bottom }
        : at;
    menu.value = { ...place, title, items };
  }
  function outItems(ids: readonly string[]): MenuItem[] {
    const s = session.document!;
    const first = stripOf(s, ids[0]!);
    const goals = s.strips.filter(
      (x) => (x.kind === 'submix' || x.kind === 'return' || x.kind === 'output') && !ids.includes(x.id),
    );
    return [
      {
        label: 'Dry path on',
        keys: 'D',
        checked: first.out.on,
        run: () => session.change(named('dry path of', ids), (d) => toggleDryPath(d, ids)),
      },
      ...goals.map((g) => ({
        label: g.name || g.id,
        checked: first.out.to === g.id,
        run: () => session.change(`${named('out of', ids)} to ${g.name}`, (d) => setOuts(d, ids, g.id)),
      })),
    ];
  }
  function colourItems(ids: readonly string[]): MenuItem[] {
    return FAMILIES.map((f) => ({
      label: f.name,
      run: () =>
        session.change(named(`family ${f.name},`, ids), () =>
          ids.map((id) => ({ type: 'strip.set', id, patch: { family: f.name, colour: f.colour } })),
        ),
    }));
  }

  return {
    menu,
    renaming,
    dialog,
    choosing,
    hiddenCount,
    targets,
    some,
    named,
    none,
    openDialog,
    gatherPicked,
    returnPicked,
    dissolvePicked,
    addOutput,
    hearOutput,
    pickBy,
    shift,
    vcaPicked,
    reveal,
    toggle,
    removePicked,
    showHidden,
    openMenu,
    outItems,
    colourItems,
  };
});
