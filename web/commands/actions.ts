import { defineStore, storeToRefs } from 'pinia';
import { ref } from 'vue';
import { useRouter } from 'vue-router';
import { activeInserts } from '@core/session/gestures/inserts';
import { toggleDryPath } from '@core/session/gestures/strips';
import { stripOf } from '@core/session/lookup';
import type { MenuItem } from '@/ui/menu';
import { stripsIn } from '@/session/columns';
import { useAnswers } from '@/answers/answers';
import { useCompare } from '@/inserts/compare';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { useTransport } from '@/audio/transport';
import { useSurface } from '@/surface/useSurface';
import { keyName } from './keys';
import { AUTOMATION_MODES } from '@core/automation/mode';
import { useAutomationGestures } from '@/session/automation/useAutomationGestures';
import { useSettingsGestures } from '@/strip/useSettingsGestures';
import { useStripGestures } from '@/strip/useStripGestures';

export interface Action {
  readonly id: string;
  readonly title: string;
  readonly keys: string;
  readonly group:
    'Transport' | 'Edit' | 'Strips' | 'Settings' | 'Automation' | 'Answers' | 'Surface' | 'View';
  readonly enabled?: () => boolean;
  readonly run: () => void;
}

/** Everything that can be done by key, by the palette and by the bar of what is picked: one list. */
export const useActions = defineStore('actions', () => {
  const session = useSession();
  const pick = usePick();
  const settings = useSettings();
  const transport = useTransport();
  const surface = useSurface();
  const answers = useAnswers();
  const router = useRouter();
  const palette = ref(false);
  const shortcuts = ref(false);
  const strips = useStripGestures();
  const given = useSettingsGestures();
  const compare = useCompare();
  const automation = useAutomationGestures();
  const { menu, renaming, dialog, choosing, hiddenCount } = storeToRefs(strips);
  const {
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
  } = strips;

  const pickItems = (): MenuItem[] =>
    (['pickFamily', 'pickKind', 'pickColour', 'pickFeeds'] as const).map((id) => {
      const a = byId.get(id)!;
      return { label: a.title, keys: keysOf(id), run: a.run };
    });
  /** Opens an answer about the picked strip beside the Sheet. */
  function ask(panel: 'trace' | 'ripple') {
    if (!pick.picked.length && pick.focus) pick.only(pick.focus.strip);
    settings.inspector = true;
    const again = answers.panel === panel;
    answers.panel = again ? 'strip' : panel;
    if (router.currentRoute.value.name !== 'sheet' && router.currentRoute.value.name !== 'flow')
      void router.push({ name: 'sheet' });
  }
  const FOLDS: readonly [string, string][] = [
    ['input', 'input'],
    ['pre', 'inserts before the fader'],
    ['post', 'inserts after the fader'],
    ['auto', 'automation'],
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
      id: 'autoNext',
      title: 'Automation of the picked strips: the next mode',
      keys: 'U',
      group: 'Automation',
      enabled: some,
      run: () => automation.step(),
    },
    {
      id: 'autoModes',
      title: 'Automation of the picked strips…',
      keys: 'Shift+U',
      group: 'Automation',
      enabled: some,
      run: () =>
        automation.openModes(
          targets(),
          window.document.getElementById(`cell-${targets()[0]}-auto`) ?? { x: 120, y: 80 },
        ),
    },
    {
      id: 'autoShow',
      title: 'Show the lanes of the picked strips',
      keys: '',
      group: 'Automation',
      enabled: some,
      run: () => automation.show(targets()),
    },
    {
      id: 'autoClear',
      title: 'Take the lanes of the picked strips out',
      keys: '',
      group: 'Automation',
      enabled: some,
      run: () => automation.clear(targets()),
    },
    ...(['picked', 'all'] as const).flatMap((scope) =>
      AUTOMATION_MODES.map((mode): Action => ({
        id: `auto-${scope}-${mode}`,
        title: `Automation of ${scope === 'all' ? 'all' : 'the picked'} strips: ${mode}`,
        keys: '',
        group: 'Automation',
        enabled: scope === 'all' ? undefined : some,
        run: () => automation.setScope(scope, mode),
      })),
    ),
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
    {
      id: 'copySettings',
      title: 'Copy the strip’s settings',
      keys: 'Ctrl+C',
      group: 'Settings',
      enabled: some,
      run: given.copySettings,
    },
    {
      id: 'pasteSettings',
      title: 'Paste settings: inserts, sends, fader, pan, input',
      keys: 'Ctrl+V',
      group: 'Settings',
      enabled: some,
      run: given.paste,
    },
    {
      id: 'pasteParts',
      title: 'Paste settings, parts chosen…',
      keys: 'Ctrl+Shift+V',
      group: 'Settings',
      enabled: some,
      run: given.openPaste,
    },
    {
      id: 'presets',
      title: 'Presets for the picked strips…',
      keys: 'P',
      group: 'Settings',
      run: () => given.openPresets(),
    },
    {
      id: 'link',
      title: 'Link the picked strips…',
      keys: 'K',
      group: 'Settings',
      enabled: some,
      run: given.openLink,
    },
    {
      id: 'bypass',
      title: 'Bypass all inserts of the picked strips, or bring them back',
      keys: 'Shift+P',
      group: 'Settings',
      enabled: some,
      run: () => given.bypassStrips(),
    },
    {
      id: 'compare',
      title: 'Compare the picked strips’ inserts dry and wet, at one loudness',
      keys: 'C',
      group: 'Settings',
      enabled: () => compare.on || some(),
      run: () =>
        compare.on
          ? compare.toggle()
          : compare.begin(activeInserts(session.document!, targets()), named('inserts of', targets())),
    },
    {
      id: 'compareEnd',
      title: 'End comparing dry and wet',
      keys: '',
      group: 'Settings',
      enabled: () => compare.on,
      run: compare.end,
    },
    {
      id: 'resetStrips',
      title: 'Return the picked strips to their defaults',
      keys: '',
      group: 'Settings',
      enabled: some,
      run: given.reset,
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
      id: 'waves',
      title: 'Running waveform or meter, for the picked strips',
      keys: 'Shift+W',
      group: 'View',
      enabled: some,
      run: () => {
        const keys = targets().map((id) => `${session.id} ${id}`);
        const all = keys.every((k) => settings.waves.includes(k));
        settings.waves = all
          ? settings.waves.filter((k) => !keys.includes(k))
          : [...new Set([...settings.waves, ...keys])];
      },
    },
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
      id: 'automation',
      title: 'Go to the Automation',
      keys: '3',
      group: 'View',
      run: () => void router.push({ name: 'automation' }),
    },
    {
      id: 'surface',
      title: 'Go to the Surface',
      keys: '4',
      group: 'View',
      run: () => void router.push({ name: 'surface' }),
    },
    {
      id: 'findings',
      title: 'Go to Findings',
      keys: '5',
      group: 'View',
      run: () => void router.push({ name: 'findings' }),
    },
    {
      id: 'print',
      title: 'Go to Print',
      keys: '6',
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
    openPresets: given.openPresets,
    openMove: given.openMove,
    bypassStrips: given.bypassStrips,
    bypassKind: given.bypassKind,
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
