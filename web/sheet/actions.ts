import { useRouter } from 'vue-router';
import type { Action } from '@/commands/feature';
import { bandsOf } from '@/session/columns';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { COLUMN_PIXELS, useSettings, type ColumnWidth, type Grouping } from '@/session/settings';
import { useTargets } from '@/session/targets';
import { useRenaming } from './renaming';
import { useSheetView } from './sheetView';
import { viewActions } from './viewActions';
import { say } from './texts';

const folds = (): readonly (readonly [row: string, name: string])[] => [
  ['input', say('input')],
  ['pre', say('insertsBeforeTheFader')],
  ['post', say('insertsAfterTheFader')],
  ['auto', say('automation')],
  ['pan', say('pan')],
  ['sends', say('sends')],
];
const groupings = (): readonly (readonly [Grouping, string])[] => [
  ['session', say('inTheSessionsOrder')],
  ['family', say('byFamily')],
  ['submix', say('bySubmix')],
  ['nested', say('byFamilyThenSubmix')],
  ['colour', say('byColour')],
  ['kind', say('byKind')],
];
const widths = (): readonly (readonly [ColumnWidth, string])[] => [
  ['slim', say('slim')],
  ['regular', say('regular')],
  ['wide', say('wide')],
];
const beside = (): readonly (readonly [boolean, string])[] => [
  [true, say('submixesBeside')],
  [false, say('submixesApart')],
];
/** A list with a thing in it, or without it where it was in. */
const toggled = (list: readonly string[], x: string) =>
  list.includes(x) ? list.filter((y) => y !== x) : [...list, x];

/** What can be done with the Sheet's columns and rows. */
export function sheetActions(): readonly Action[] {
  const session = useSession();
  const pick = usePick();
  const settings = useSettings();
  const router = useRouter();
  const renaming = useRenaming();
  const view = useSheetView();
  const { targets, some, none } = useTargets();
  const keyOf = (id: string) => `${session.id} ${id}`;

  function foldBand() {
    const at = pick.focus?.strip ?? pick.picked[0];
    // Where bands nest, the one within.
    const { sources } = pick.columns;
    const band = [...bandsOf(sources, 1), ...bandsOf(sources)].find((b) => b.strips.includes(at ?? ''))?.fold;
    if (band === undefined) return none(say('foldTheBandOf'));
    settings.foldedBands = toggled(settings.foldedBands, band);
  }
  function foldBands() {
    const bands = new Set(pick.columns.sources.map((c) => c.band));
    const all = [...bands].every((b) => settings.foldedBands.includes(b));
    settings.foldedBands = all ? [] : [...bands];
  }
  function waves() {
    const keys = targets().map(keyOf);
    const all = keys.every((k) => settings.waves.includes(k));
    settings.waves = all
      ? settings.waves.filter((k) => !keys.includes(k))
      : [...new Set([...settings.waves, ...keys])];
  }
  return [
    {
      id: 'rename',
      title: say('renameTheStrip'),
      keys: 'N',
      group: 'Strips',
      enabled: some,
      run: async (given) => {
        const strip = given?.strips?.at(-1) ?? targets().at(-1) ?? null;
        await router.push({ name: 'sheet' });
        renaming.strip = strip;
      },
    },
    ...folds().map(([row, name]): Action => ({
      id: `fold-${row}`,
      title: say('foldOpenRowsName', { name }),
      keys: '',
      group: 'View',
      run: () => (settings.foldedRows = toggled(settings.foldedRows, row)),
    })),
    ...groupings().map(([by, text]): Action => ({
      id: `group-${by}`,
      title: say('columnsText', { text }),
      keys: '',
      group: 'View',
      enabled: () => settings.grouping !== by,
      run: () => (settings.grouping = by),
    })),
    ...beside().map(([to, title]): Action => ({
      id: to ? 'submixesBeside' : 'submixesApart',
      title,
      keys: '',
      group: 'View',
      enabled: () => settings.beside !== to,
      run: () => (settings.beside = to),
    })),
    {
      id: 'foldBand',
      title: say('foldOpenBandStripHere'),
      keys: 'Z',
      group: 'View',
      run: foldBand,
    },
    {
      id: 'foldBands',
      title: say('foldOpenAllBandsSources'),
      keys: 'Shift+B',
      group: 'View',
      run: foldBands,
    },
    ...widths().flatMap(([width, text]): Action[] => [
      {
        id: width,
        title: say('textColumns', { text }),
        keys: '',
        group: 'View',
        run: () => {
          view.zoomTo(COLUMN_PIXELS[width]);
          settings.widths = {};
        },
      },
      {
        id: `${width}Picked`,
        title: say('textColumnsPickedStrips', { text }),
        keys: '',
        group: 'View',
        enabled: some,
        run: () => {
          const next = { ...settings.widths };
          for (const id of targets()) next[keyOf(id)] = width;
          settings.widths = next;
        },
      },
    ]),
    ...viewActions(),
    {
      id: 'waves',
      title: say('runningWaveformMeterPickedStrips'),
      keys: 'Shift+W',
      group: 'View',
      enabled: some,
      run: waves,
    },
  ];
}
