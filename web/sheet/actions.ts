import { useRouter } from 'vue-router';
import type { Action } from '@/commands/feature';
import { stripsIn } from '@/session/columns';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings, type ColumnWidth, type Grouping } from '@/session/settings';
import { useTargets } from '@/session/targets';
import { useRenaming } from './renaming';

const FOLDS: readonly (readonly [row: string, name: string])[] = [
  ['input', 'input'],
  ['pre', 'inserts before the fader'],
  ['post', 'inserts after the fader'],
  ['auto', 'automation'],
  ['pan', 'pan'],
  ['sends', 'sends'],
];
const GROUPINGS: readonly (readonly [Grouping, string])[] = [
  ['session', 'in the session’s order'],
  ['family', 'by family'],
  ['colour', 'by colour'],
  ['kind', 'by kind'],
];
const WIDTHS: readonly (readonly [ColumnWidth, string])[] = [
  ['slim', 'Slim'],
  ['regular', 'Regular'],
  ['wide', 'Wide'],
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
  const { targets, some, none } = useTargets();
  const keyOf = (id: string) => `${session.id} ${id}`;

  function foldBand() {
    const at = pick.focus?.strip ?? pick.picked[0];
    const band = pick.columns.sources.find((c) => stripsIn(c).some((s) => s.id === at))?.band;
    if (band === undefined) return none('fold the band of');
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
      title: 'Rename the strip',
      keys: 'N',
      group: 'Strips',
      enabled: some,
      run: async (given) => {
        const strip = given?.strips?.at(-1) ?? targets().at(-1) ?? null;
        await router.push({ name: 'sheet' });
        renaming.strip = strip;
      },
    },
    ...FOLDS.map(([row, name]): Action => ({
      id: `fold-${row}`,
      title: `Fold or open the rows: ${name}`,
      keys: '',
      group: 'View',
      run: () => (settings.foldedRows = toggled(settings.foldedRows, row)),
    })),
    ...GROUPINGS.map(([by, text]): Action => ({
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
      run: foldBand,
    },
    {
      id: 'foldBands',
      title: 'Fold or open all bands of sources',
      keys: 'Shift+B',
      group: 'View',
      run: foldBands,
    },
    ...WIDTHS.flatMap(([width, text]): Action[] => [
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
          for (const id of targets()) next[keyOf(id)] = width;
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
      run: waves,
    },
  ];
}
