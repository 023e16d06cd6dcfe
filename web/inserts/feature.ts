import { activeInserts } from '@core/operations/inserts';
import { useDialogs } from '@/commands/dialogs';
import { lazy, type Action, type Feature } from '@/commands/feature';
import { keyScope } from '@/commands/keyScopes';
import { useSession } from '@/session/session';
import { useTargets } from '@/session/targets';
import { useBypass } from './bypass';
import { useCompare } from './compare';
import CompareBar from './CompareBar.vue';
import InsertPanel from './InsertPanel.vue';
import { say } from './texts';

function insertActions(): readonly Action[] {
  const session = useSession();
  const compare = useCompare();
  const bypass = useBypass();
  const dialogs = useDialogs();
  const { targets, some, named } = useTargets();
  return [
    {
      id: 'bypass',
      title: say('bypassAllInsertsPickedStrips'),
      keys: 'Shift+P',
      group: 'Settings',
      enabled: some,
      run: (given) => bypass.ofStrips(given?.strips),
    },
    {
      id: 'compare',
      title: say('comparePickedStripsInsertsDry'),
      keys: 'C',
      group: 'Settings',
      enabled: () => compare.on || some(),
      run: (given) => {
        if (given?.refs) return compare.begin(given.refs, given.name ?? 'inserts');
        if (compare.on) return compare.toggle();
        compare.begin(activeInserts(session.document!, targets()), named(say('insertsOf'), targets()));
      },
    },
    {
      id: 'compareEnd',
      title: say('endComparingDryWet'),
      keys: '',
      group: 'Settings',
      enabled: () => compare.on,
      run: compare.end,
    },
    {
      id: 'bypassKind',
      title: say('bypassEveryInsertKind'),
      keys: '',
      group: 'Settings',
      inner: true,
      run: (given) => bypass.ofKind(given!.processor!),
    },
    {
      id: 'moveToReturn',
      title: say('moveInsertsReturn'),
      keys: '',
      group: 'Settings',
      inner: true,
      run: (given) => dialogs.show('moveToReturn', { refs: given!.refs! }),
    },
  ];
}

/** Inserts: their editor and its curves, dry against wet, many off at once, one moved to a return. */
export const inserts: Feature = {
  actions: insertActions,
  dialogs: {
    insert: lazy(() => import('./InsertDialog.vue')),
    moveToReturn: lazy(() => import('./MoveToReturnDialog.vue')),
  },
  panels: [{ tab: 'strip', component: InsertPanel, rank: 1 }],
  bars: [CompareBar],
  keys: () => [
    keyScope('curve', say('bandEqualizer'), {
      right: [say('higherSemitoneShiftQuarter'), 'ArrowRight', 'Shift+ArrowRight'],
      left: [say('lowerSemitoneShiftQuarter'), 'ArrowLeft', 'Shift+ArrowLeft'],
      up: [say('more05DbShift'), 'ArrowUp', 'Shift+ArrowUp'],
      down: [say('less05DbShift'), 'ArrowDown', 'Shift+ArrowDown'],
      further: [say('goesFurtherUp'), 'PageUp', 'Shift+PageUp'],
      deeper: [say('goesFurtherDown'), 'PageDown', 'Shift+PageDown'],
      narrow: [say('narrowerOrSteeper'), '+', '='],
      wide: [say('widerOrFlatter'), '-', '_'],
      switch: [say('switchTheBand'), 'Enter'],
      default: [say('backToTheDefaults'), 'Backspace'],
      alone: [say('hearTheBandAlone'), 'A'],
    }),
  ],
};
