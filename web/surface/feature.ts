import type { Action, Feature } from '@/commands/feature';
import { useSurface } from './useSurface';
import { say } from './texts';

function surfaceActions(): readonly Action[] {
  const surface = useSurface();
  return [
    {
      id: 'bankLeft',
      title: say('surfaceBankLeft'),
      keys: '[',
      group: 'Surface',
      run: () => surface.bank(-1),
    },
    {
      id: 'bankRight',
      title: say('surfaceBankRight'),
      keys: ']',
      group: 'Surface',
      run: () => surface.bank(1),
    },
    {
      id: 'nudgeLeft',
      title: say('surfaceNudgeLeft'),
      keys: '{',
      group: 'Surface',
      run: () => surface.nudge(-1),
    },
    {
      id: 'nudgeRight',
      title: say('surfaceNudgeRight'),
      keys: '}',
      group: 'Surface',
      run: () => surface.nudge(1),
    },
  ];
}

/** Control surfaces. */
export const surface: Feature = { actions: surfaceActions };
