import { AUTOMATION_MODES } from '@core/session/fields/tables';
import type { Action, Feature } from '@/commands/feature';
import { keyScope } from '@/commands/keyScopes';
import { useAutomation } from '@/session/automation/automation';
import { useAutomationEdits } from '@/session/automation/useAutomationEdits';
import { useTargets } from '@/session/targets';
import { say } from './texts';

function automationActions(): readonly Action[] {
  const automation = useAutomationEdits();
  const { targets, some } = useTargets();
  return [
    {
      id: 'autoNext',
      title: say('automationPickedStripsNextMode'),
      keys: 'U',
      group: 'Automation',
      enabled: some,
      run: () => automation.step(),
    },
    {
      id: 'autoModes',
      title: say('automationPickedStrips'),
      keys: 'Shift+U',
      group: 'Automation',
      enabled: some,
      run: () =>
        automation.openModes(
          targets(),
          document.getElementById(`cell-${targets()[0]}-auto`) ?? { x: 120, y: 80 },
        ),
    },
    {
      id: 'autoShow',
      title: say('showLanesPickedStrips'),
      keys: '',
      group: 'Automation',
      enabled: some,
      run: () => automation.show(targets()),
    },
    {
      id: 'autoClear',
      title: say('takeLanesPickedStripsOut'),
      keys: '',
      group: 'Automation',
      enabled: some,
      run: () => automation.clear(targets()),
    },
    ...(['picked', 'all'] as const).flatMap((scope) =>
      AUTOMATION_MODES.map((mode): Action => ({
        id: `auto-${scope}-${mode}`,
        title: say('automationScopeStripsMode', {
          scope: scope === 'all' ? say('all') : say('thePicked'),
          mode,
        }),
        keys: '',
        group: 'Automation',
        enabled: scope === 'all' ? undefined : some,
        run: () => automation.setScope(scope, mode),
      })),
    ),
  ];
}

/** Automation: its modes, and the view of its lanes. */
export const automation: Feature = {
  // What hands do to armed strips is written, whatever is on screen.
  setup: useAutomation,
  actions: automationActions,
  keys: () => [
    keyScope('lane', say('onALane'), {
      left: [say('toThePointBefore'), 'ArrowLeft', 'Shift+ArrowLeft'],
      right: [say('toTheNextPoint'), 'ArrowRight', 'Shift+ArrowRight'],
      earlier: [say('pointEarlier01S'), 'Alt+ArrowLeft', 'Alt+Shift+ArrowLeft'],
      later: [say('pointLater01S'), 'Alt+ArrowRight', 'Alt+Shift+ArrowRight'],
      more: [say('pointUpShiftFiner'), 'ArrowUp', 'Shift+ArrowUp', '+'],
      less: [say('pointDownShiftFiner'), 'ArrowDown', 'Shift+ArrowDown', '-'],
      type: [say('typeValueAddOnePlayhead'), 'Enter'],
      add: [say('addPointPlayhead'), 'Insert'],
      default: [say('pointDefault'), 'Backspace'],
      remove: [say('takeThePointOut'), 'Delete'],
      leave: [say('chooseNoPoint'), 'Escape'],
    }),
  ],
};
