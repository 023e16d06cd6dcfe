import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import { FAMILIES } from '../../core/naming/lexicon';
import { gather } from '../../core/session/gestures/gather';
import { newReturn, removeSends, setSends } from '../../core/session/gestures/returns';
import { removeStrips, toggleDryPath, toggleFlag } from '../../core/session/gestures/strips';
import { holdByVca } from '../../core/session/gestures/vcas';
import { stripOf } from '../../core/session/lookup';
import type { Tap } from '../../core/session/types';
import type { MenuItem, OpenMenu } from '../components/menu';
import { useAnswers } from '../stores/answers';
import { useNotices } from '../stores/notices';
import { usePick } from '../stores/pick';
import { useSession } from '../stores/session';
import { useSettings } from '../stores/settings';
import { useTransport } from '../stores/transport';
import { useSurface } from '../surface/useSurface';
import { keyName } from './keys';

export interface Action {
  readonly id: string;
  readonly title: string;
  readonly keys: string;
  readonly group: 'Transport' | 'Edit' | 'Strips' | 'Answers' | 'Surface' | 'View';
  readonly enabled?: () => boolean;
  readonly run: () => void;
}

/** Everything that can be done by key, by the palette and by the bar of what is picked: one list. */
export const useActions = defineStore('actions', () => {
  const session = useSession();
  const pick = usePick();
  const settings = useSettings();
  const transport = useTransport();
  const notices = useNotices();
  const surface = useSurface();
  const answers = useAnswers();
  const router = useRouter();
  const palette = ref(false);
  const shortcuts = ref(false);
  const menu = shallowRef<OpenMenu | null>(null);
  /** Asks the Sheet to let the name of a strip be typed. */
  const renaming = ref<string | null>(null);
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
  function vcaPicked() {
    if (!some()) return none('hold by a VCA');
    session.perform((s) => holdByVca(s, targets()));
  }
  function reveal(id: string) {
    pick.only(id);
    pick.focus = { strip: id, row: 'cap' };
  }
  /** Opens an answer about the picked strip beside the Sheet. */
  function ask(panel: 'trace' | 'ripple') {
    if (!pick.picked.length && pick.focus) pick.only(pick.focus.strip);
    settings.inspector = true;
    const again = answers.panel === panel;
    answers.panel = again ? 'strip' : panel;
    if (router.currentRoute.value.name !== 'sheet' && router.currentRoute.value.name !== 'flow')
      void router.push({ name: 'sheet' });
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
        run: () =>
          session.change(`${named('out of', ids)} to ${g.name}`, () =>
            ids
              .filter((id) => stripOf(s, id).kind !== 'output')
              .map((id) => ({ type: 'strip.out', id, out: { to: g.id, on: true } })),
          ),
      })),
    ];
  }
  function sendItems(ids: readonly string[]): MenuItem[] {
    const s = session.document!;
    const goals = s.strips.filter((x) => x.kind === 'return' && !(ids.length === 1 && ids[0] === x.id));
    const taps: readonly [Tap, string][] = [
      ['post', 'post-fader'],
      ['pre', 'pre-fader'],
      ['input', 'from the input'],
    ];
    const items: MenuItem[] = goals.flatMap((g) =>
      taps.map(([tap, text]) => ({
        label: `${g.name || g.id}, ${text}`,
        run: () =>
          session.change(named(`send to ${g.name},`, ids), (d) => setSends(d, ids, g.id, { tap, on: true })),
      })),
    );
    for (const g of goals)
      if (ids.some((id) => stripOf(s, id).sends.some((x) => x.to === g.id)))
        items.push({
          label: `Remove sends to ${g.name || g.id}`,
          danger: true,
          run: () => session.change(named(`no send to ${g.name},`, ids), (d) => removeSends(d, ids, g.id)),
        });
    return items.length
      ? items
      : [{ label: 'There is no return yet: make one', keys: 'R', run: returnPicked }];
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

  const FOLDS: readonly [string, string][] = [
    ['input', 'input'],
    ['pre', 'inserts before the fader'],
    ['post', 'inserts after the fader'],
    ['pan', 'pan'],
    ['sends', 'sends'],
  ];
  const fold = (row: string) => {
    settings.foldedRows = settings.foldedRows.includes(row)
      ? settings.foldedRows.filter((r) => r !== row)
      : [...settings.foldedRows, row];
  };

  const list: readonly Action[] = [
    { id: 'play', title: 'Play or stop', keys: 'Space', group: 'Transport', run: () => transport.toggle() },
    {
      id: 'start',
      title: 'Go to the start',
      keys: 'Shift+Home',
      group: 'Transport',
      run: () => transport.locate(0),
    },
    {
      id: 'loop',
      title: 'Loop the section at the playhead',
      keys: 'L',
      group: 'Transport',
      run: () => transport.toggleLoop(),
    },
    {
      id: 'back',
      title: 'Go back a second',
      keys: ',',
      group: 'Transport',
      run: () => transport.locate(transport.position - 1),
    },
    {
      id: 'forth',
      title: 'Go on a second',
      keys: '.',
      group: 'Transport',
      run: () => transport.locate(transport.position + 1),
    },
    {
      id: 'undo',
      title: 'Undo',
      keys: 'Ctrl+Z',
      group: 'Edit',
      enabled: () => session.undoLabel !== null,
      run: () => session.undo(),
    },
    {
      id: 'redo',
      title: 'Redo',
      keys: 'Ctrl+Shift+Z',
      group: 'Edit',
      enabled: () => session.redoLabel !== null,
      run: () => session.redo(),
    },
    {
      id: 'gather',
      title: 'Gather the picked strips into a new submix',
      keys: 'G',
      group: 'Strips',
      enabled: some,
      run: gatherPicked,
    },
    {
      id: 'return',
      title: 'New return, fed by the picked strips',
      keys: 'R',
      group: 'Strips',
      run: returnPicked,
    },
    {
      id: 'vca',
      title: 'Hold the picked strips by a new VCA',
      keys: 'V',
      group: 'Strips',
      enabled: some,
      run: vcaPicked,
    },
    {
      id: 'mute',
      title: 'Mute the picked strips',
      keys: 'M',
      group: 'Strips',
      enabled: some,
      run: () => toggle('mute', 'mute'),
    },
    {
      id: 'solo',
      title: 'Solo the picked strips',
      keys: 'S',
      group: 'Strips',
      enabled: some,
      run: () => toggle('solo', 'solo'),
    },
    {
      id: 'soloSafe',
      title: 'Make the picked strips solo-safe, or not',
      keys: 'Shift+S',
      group: 'Strips',
      enabled: some,
      run: () => toggle('soloSafe', 'solo-safe'),
    },
    {
      id: 'dry',
      title: 'Switch the dry path of the picked strips',
      keys: 'D',
      group: 'Strips',
      enabled: some,
      run: () =>
        session.change(named('dry path of', targets()), (s) =>
          toggleDryPath(
            s,
            targets().filter((id) => stripOf(s, id).kind !== 'output'),
          ),
        ),
    },
    {
      id: 'hide',
      title: 'Hide the picked strips',
      keys: 'H',
      group: 'Strips',
      enabled: some,
      run: () => {
        toggle('hidden', 'hide');
        pick.none();
      },
    },
    {
      id: 'show',
      title: 'Show all hidden strips',
      keys: 'Shift+H',
      group: 'Strips',
      enabled: () => hiddenCount.value > 0,
      run: showHidden,
    },
    {
      id: 'rename',
      title: 'Rename the strip',
      keys: 'N',
      group: 'Strips',
      enabled: some,
      run: () => (renaming.value = targets().at(-1) ?? null),
    },
    {
      id: 'remove',
      title: 'Remove the picked strips',
      keys: 'Shift+Delete',
      group: 'Strips',
      enabled: some,
      run: removePicked,
    },
    {
      id: 'trace',
      title: 'Trace the picked strip to the output',
      keys: 'T',
      group: 'Answers',
      enabled: some,
      run: () => ask('trace'),
    },
    {
      id: 'silent',
      title: 'Why is the picked strip silent?',
      keys: 'Shift+T',
      group: 'Answers',
      enabled: some,
      run: () => ask('trace'),
    },
    {
      id: 'ripple',
      title: 'What else changes when the picked strip moves',
      keys: 'W',
      group: 'Answers',
      enabled: some,
      run: () => ask('ripple'),
    },
    { id: 'all', title: 'Pick all strips', keys: 'Ctrl+A', group: 'Strips', run: () => pick.all() },
    { id: 'nopick', title: 'Pick none', keys: 'Escape', group: 'Strips', run: () => pick.none() },
    {
      id: 'placeAfter',
      title: 'New submixes stand after the last picked strip',
      keys: '',
      group: 'Strips',
      enabled: () => settings.placement !== 'after',
      run: () => (settings.placement = 'after'),
    },
    {
      id: 'placeEnd',
      title: 'New submixes stand at the end',
      keys: '',
      group: 'Strips',
      enabled: () => settings.placement !== 'end',
      run: () => (settings.placement = 'end'),
    },
    {
      id: 'bringIn',
      title: 'Bring in WAV files…',
      keys: '',
      group: 'Strips',
      enabled: () => router.currentRoute.value.name === 'sheet',
      run: () => void choosing.value++,
    },
    ...FOLDS.map(([row, name]): Action => ({
      id: `fold-${row}`,
      title: `Fold or open the rows: ${name}`,
      keys: '',
      group: 'View',
      run: () => fold(row),
    })),
    { id: 'bankLeft', title: 'Surface: bank left', keys: '[', group: 'Surface', run: () => surface.bank(-1) },
    {
      id: 'bankRight',
      title: 'Surface: bank right',
      keys: ']',
      group: 'Surface',
      run: () => surface.bank(1),
    },
    {
      id: 'nudgeLeft',
      title: 'Surface: nudge left',
      keys: '{',
      group: 'Surface',
      run: () => surface.nudge(-1),
    },
    {
      id: 'nudgeRight',
      title: 'Surface: nudge right',
      keys: '}',
      group: 'Surface',
      run: () => surface.nudge(1),
    },
    {
      id: 'palette',
      title: 'Find a strip or an action',
      keys: 'Ctrl+K',
      group: 'View',
      run: () => (palette.value = true),
    },
    {
      id: 'shortcuts',
      title: 'Show and change shortcuts',
      keys: '?',
      group: 'View',
      run: () => (shortcuts.value = true),
    },
    {
      id: 'inspector',
      title: 'Open or close the inspector',
      keys: 'I',
      group: 'View',
      run: () => (settings.inspector = !settings.inspector),
    },
    {
      id: 'theme',
      title: 'Night or day',
      keys: '',
      group: 'View',
      run: () => (settings.theme = settings.theme === 'night' ? 'day' : 'night'),
    },
    { id: 'slim', title: 'Slim columns', keys: '', group: 'View', run: () => (settings.columns = 'slim') },
    {
      id: 'regular',
      title: 'Regular columns',
      keys: '',
      group: 'View',
      run: () => (settings.columns = 'regular'),
    },
    { id: 'wide', title: 'Wide columns', keys: '', group: 'View', run: () => (settings.columns = 'wide') },
    {
      id: 'sheet',
      title: 'Go to the Sheet',
      keys: '1',
      group: 'View',
      run: () => void router.push({ name: 'sheet' }),
    },
    {
      id: 'flow',
      title: 'Go to the Flow',
      keys: '2',
      group: 'View',
      run: () => void router.push({ name: 'flow' }),
    },
    {
      id: 'surface',
      title: 'Go to the Surface',
      keys: '3',
      group: 'View',
      run: () => void router.push({ name: 'surface' }),
    },
    {
      id: 'findings',
      title: 'Go to Findings',
      keys: '4',
      group: 'View',
      run: () => void router.push({ name: 'findings' }),
    },
    {
      id: 'print',
      title: 'Go to Print',
      keys: '5',
      group: 'View',
      run: () => void router.push({ name: 'print' }),
    },
    {
      id: 'sessions',
      title: 'Close the session',
      keys: '',
      group: 'View',
      run: () => void router.push({ name: 'sessions' }),
    },
  ];
  const byId = new Map(list.map((a) => [a.id, a]));
  const keysOf = (id: string) => settings.shortcuts[id] ?? byId.get(id)?.keys ?? '';

  /** Runs what a key press stands for. @returns whether it stood for anything */
  function press(e: KeyboardEvent): boolean {
    const name = keyName(e);
    const action = list.find((a) => keysOf(a.id) === name);
    if (!action) return false;
    if (action.enabled?.() !== false) action.run();
    return true;
  }

  return {
    list,
    byId,
    keysOf,
    press,
    palette,
    shortcuts,
    menu,
    renaming,
    choosing,
    targets,
    hiddenCount,
    openMenu,
    outItems,
    sendItems,
    colourItems,
    gatherPicked,
    returnPicked,
    vcaPicked,
    ask,
    removePicked,
    showHidden,
    reveal,
    named,
  };
});
