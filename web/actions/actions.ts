import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import { FAMILIES } from '../../core/naming/lexicon';
import { gather } from '../../core/session/gestures/gather';
import { newReturn, removeSends, setSends } from '../../core/session/gestures/returns';
import { moveStrips, removeStrips, toggleDryPath, toggleFlag } from '../../core/session/gestures/strips';
import { dissolve } from '../../core/session/gestures/dissolve';
import { monitor, newOutput, setOuts } from '../../core/session/gestures/outputs';
import { stripsBy } from '../../core/session/gestures/tidy';
import { holdByVca } from '../../core/session/gestures/vcas';
import { stripOf } from '../../core/session/lookup';
import type { Session, Tap } from '../../core/session/types';
import { stripsIn } from '../components/sheet/columns';
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
  /** The dialog that is open, and the strips that it is about. */
  const dialog = shallowRef<{
    readonly kind: 'sends' | 'return' | 'rename' | 'tidy';
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
  const pickItems = (): MenuItem[] =>
    (['pickFamily', 'pickKind', 'pickColour', 'pickFeeds'] as const).map((id) => {
      const a = byId.get(id)!;
      return { label: a.title, keys: keysOf(id), run: a.run };
    });
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
        run: () => session.change(`${named('out of', ids)} to ${g.name}`, (d) => setOuts(d, ids, g.id)),
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
    {
      id: 'sends',
      title: 'Sends of the picked strips…',
      keys: 'Shift+X',
      group: 'Strips',
      enabled: some,
      run: () => openDialog('sends'),
    },
    {
      id: 'returnAs',
      title: 'New return, with effect, tap and level chosen…',
      keys: 'Shift+R',
      group: 'Strips',
      run: () => openDialog('return'),
    },
    {
      id: 'renameMany',
      title: 'Rename the picked strips by a pattern…',
      keys: 'Shift+N',
      group: 'Strips',
      enabled: some,
      run: () => openDialog('rename'),
    },
    {
      id: 'tidy',
      title: 'Tidy: families, order, colours, pairs…',
      keys: 'Shift+O',
      group: 'Strips',
      run: () => openDialog('tidy'),
    },
    {
      id: 'dissolve',
      title: 'Dissolve the picked submix into its feeders',
      keys: 'Shift+G',
      group: 'Strips',
      enabled: some,
      run: dissolvePicked,
    },
    { id: 'output', title: 'New output', keys: '', group: 'Strips', run: addOutput },
    {
      id: 'hear',
      title: 'Hear the picked output',
      keys: '',
      group: 'Strips',
      enabled: () => targets().some((id) => session.strip(id)?.kind === 'output'),
      run: () => hearOutput(targets().find((id) => session.strip(id)?.kind === 'output')!),
    },
    {
      id: 'left',
      title: 'Move the picked strips left',
      keys: 'Alt+ArrowLeft',
      group: 'Strips',
      enabled: some,
      run: () => shift(-1),
    },
    {
      id: 'right',
      title: 'Move the picked strips right',
      keys: 'Alt+ArrowRight',
      group: 'Strips',
      enabled: some,
      run: () => shift(1),
    },
    {
      id: 'pickFamily',
      title: 'Pick the whole family',
      keys: 'Shift+F',
      group: 'Strips',
      enabled: some,
      run: () => pickBy('family'),
    },
    {
      id: 'pickKind',
      title: 'Pick all of this kind',
      keys: 'Shift+K',
      group: 'Strips',
      enabled: some,
      run: () => pickBy('kind'),
    },
    {
      id: 'pickColour',
      title: 'Pick all of this colour',
      keys: 'Shift+C',
      group: 'Strips',
      enabled: some,
      run: () => pickBy('colour'),
    },
    {
      id: 'pickFeeds',
      title: 'Pick everything that feeds this',
      keys: 'Shift+E',
      group: 'Strips',
      enabled: some,
      run: () => pickBy('feeds'),
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
    ...(
      [
        ['session', 'in the session’s order'],
        ['family', 'by family'],
        ['colour', 'by colour'],
        ['kind', 'by kind'],
      ] as const
    ).map(([by, text]): Action => ({
      id: `group-${by}`,
      title: `Columns ${text}`,
      keys: '',
      group: 'View',
      enabled: () => settings.grouping !== by,
      run: () => (settings.grouping = by),
    })),
    {
      id: 'foldBand',
      title: 'Fold or open the band of the strip here',
      keys: 'Z',
      group: 'View',
      run: () => {
        const at = pick.focus?.strip ?? pick.picked[0];
        const band = pick.columns.sources.find((c) => stripsIn(c).some((s) => s.id === at))?.band;
        if (band === undefined) return none('fold the band of');
        settings.foldedBands = settings.foldedBands.includes(band)
          ? settings.foldedBands.filter((b) => b !== band)
          : [...settings.foldedBands, band];
      },
    },
    {
      id: 'foldBands',
      title: 'Fold or open all bands of sources',
      keys: 'Shift+B',
      group: 'View',
      run: () => {
        const bands = new Set(pick.columns.sources.map((c) => c.band));
        const all = [...bands].every((b) => settings.foldedBands.includes(b));
        settings.foldedBands = all ? [] : [...bands];
      },
    },
    ...(
      [
        ['slim', 'Slim'],
        ['regular', 'Regular'],
        ['wide', 'Wide'],
      ] as const
    ).flatMap(([width, text]): Action[] => [
      {
        id: width,
        title: `${text} columns`,
        keys: '',
        group: 'View',
        run: () => {
          settings.columns = width;
          settings.widths = {};
        },
      },
      {
        id: `${width}Picked`,
        title: `${text} columns for the picked strips`,
        keys: '',
        group: 'View',
        enabled: some,
        run: () => {
          const next = { ...settings.widths };
          for (const id of targets()) next[`${session.id} ${id}`] = width;
          settings.widths = next;
        },
      },
    ]),
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
    dialog,
    openDialog,
    pickItems,
    hearOutput,
    ask,
    removePicked,
    showHidden,
    reveal,
    named,
  };
});
