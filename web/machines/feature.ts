import { useRouter } from 'vue-router';
import type { Action, Feature } from '@/commands/feature';
import { say } from './texts';

function machinesActions(): readonly Action[] {
  const router = useRouter();
  return [
    {
      id: 'machines',
      title: say('letTabletIn'),
      keys: '',
      group: 'View',
      run: () => router.push('/machines'),
    },
  ];
}

/** Other machines: letting them in. */
export const machines: Feature = { actions: machinesActions };
