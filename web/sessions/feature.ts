import { useRouter } from 'vue-router';
import { lazy, type Action, type Feature } from '@/commands/feature';
import { usePreamps } from '@/session/preamps';
import { useStemImport } from '@/session/stems/stemImport';
import { say } from './texts';

function sessionActions(): readonly Action[] {
  const router = useRouter();
  const stems = useStemImport();
  return [
    { id: 'bringInFolder', title: say('addFolder'), keys: '', group: 'Strips', run: stems.chooseFolder },
    { id: 'bringIn', title: say('addWavFiles'), keys: '', group: 'Strips', run: stems.choose },
    {
      id: 'sessions',
      title: say('closeTheSession'),
      keys: '',
      group: 'View',
      run: () => router.push({ name: 'sessions' }),
    },
  ];
}

/** Sessions: their list, and what belongs to the whole of one. */
export const sessions: Feature = {
  // What the document says of the preamplifier is asked of it, whatever is on screen.
  setup: usePreamps,
  actions: sessionActions,
  panels: [{ tab: 'session', component: lazy(() => import('./SessionPanel.vue')) }],
};
