import { AUTOMATION_MODES } from '@core/automation/mode';
import type { Action, Feature } from '@/commands/feature';
import { keyScope } from '@/commands/keyScopes';
import { useAutomation } from '@/session/automation/automation';
import { useAutomationGestures } from '@/session/automation/useAutomationGestures';
import { useTargets } from '@/session/targets';

function automationActions(): readonly Action[] {
  const automation = useAutomationGestures();
  const { targets, some } = useTargets();
  return [
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
          document.getElementById(`cell-${targets()[0]}-auto`) ?? { x: 120, y: 80 },
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
  ];
}

/** Automation: its modes, and the view of its lanes. */
export const automation: Feature = {
  // What hands do to armed strips is written, whatever is on screen.
  setup: useAutomation,
  actions: automationActions,
  keys: [
    keyScope('lane', 'On a lane', {
      left: ['To the point before', 'ArrowLeft', 'Shift+ArrowLeft'],
      right: ['To the next point', 'ArrowRight', 'Shift+ArrowRight'],
      earlier: ['The point earlier by 0.1 s, with Shift by 0.01', 'Alt+ArrowLeft', 'Alt+Shift+ArrowLeft'],
      later: ['The point later by 0.1 s, with Shift by 0.01', 'Alt+ArrowRight', 'Alt+Shift+ArrowRight'],
      more: ['The point up, with Shift finer', 'ArrowUp', 'Shift+ArrowUp', '+'],
      less: ['The point down, with Shift finer', 'ArrowDown', 'Shift+ArrowDown', '-'],
      type: ['Type its value, or add one at the playhead', 'Enter'],
      add: ['Add a point at the playhead', 'Insert'],
      default: ['The point to the default', 'Backspace'],
      remove: ['Take the point out', 'Delete'],
      leave: ['Choose no point', 'Escape'],
    }),
  ],
};
