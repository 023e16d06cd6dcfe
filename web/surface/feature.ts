import type { Action, Feature } from '@/commands/feature';
import { useSurface } from './useSurface';

function surfaceActions(): readonly Action[] {
  const surface = useSurface();
  return [
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
  ];
}

/** Control surfaces. */
export const surface: Feature = { actions: surfaceActions };
