import { activeInserts } from '@core/session/gestures/inserts';
import { useDialogs } from '@/commands/dialogs';
import { lazy, type Action, type Feature } from '@/commands/feature';
import { keyScope } from '@/commands/keyScopes';
import { useSession } from '@/session/session';
import { useTargets } from '@/session/targets';
import { useBypass } from './bypass';
import { useCompare } from './compare';
import CompareBar from './CompareBar.vue';
import InsertPanel from './InsertPanel.vue';

function insertActions(): readonly Action[] {
  const session = useSession();
  const compare = useCompare();
  const bypass = useBypass();
  const dialogs = useDialogs();
  const { targets, some, named } = useTargets();
  return [
    {
      id: 'bypass',
      title: 'Bypass all inserts of the picked strips, or bring them back',
      keys: 'Shift+P',
      group: 'Settings',
      enabled: some,
      run: (given) => bypass.ofStrips(given?.strips),
    },
    {
      id: 'compare',
      title: 'Compare the picked strips’ inserts dry and wet, at one loudness',
      keys: 'C',
      group: 'Settings',
      enabled: () => compare.on || some(),
      run: (given) => {
        if (given?.refs) return compare.begin(given.refs, given.name ?? 'inserts');
        if (compare.on) return compare.toggle();
        compare.begin(activeInserts(session.document!, targets()), named('inserts of', targets()));
      },
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
      id: 'bypassKind',
      title: 'Bypass every insert of a kind',
      keys: '',
      group: 'Settings',
      inner: true,
      run: (given) => bypass.ofKind(given!.processor!),
    },
    {
      id: 'moveToReturn',
      title: 'Move inserts to a return',
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
  keys: [
    keyScope('curve', 'On a band of the equalizer', {
      right: ['Higher by a semitone, with Shift a quarter of it', 'ArrowRight', 'Shift+ArrowRight'],
      left: ['Lower by a semitone, with Shift a quarter of it', 'ArrowLeft', 'Shift+ArrowLeft'],
      up: ['More by 0.5 dB, with Shift by 0.1', 'ArrowUp', 'Shift+ArrowUp'],
      down: ['Less by 0.5 dB, with Shift by 0.1', 'ArrowDown', 'Shift+ArrowDown'],
      narrow: ['Narrower, or steeper', '+', '='],
      wide: ['Wider, or flatter', '-', '_'],
      switch: ['Switch the band', 'Enter'],
      default: ['Back to the defaults', 'Backspace'],
    }),
  ],
};
