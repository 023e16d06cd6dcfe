import { h } from 'vue';
import { isAutomated } from '@core/automation/at';
import { setMode } from '@core/automation/edit';
import { nextMode } from '@core/session/mode';
import { stripOf } from '@core/session/lookup';
import ModeMark from '@/ui/ModeMark.vue';
import { stepOf } from '../zoom';
import type { RowKind } from './kind';
import { say } from '../texts';

/** The mode of automation. */
export const auto: RowKind = {
  kind: 'auto',
  far: null,
  middle: 18,
  fold: 'auto',
  rows: () => [{ key: 'auto', label: say('automationTitle'), height: 24 }],
  sees: ({ strip, writing, width }) => [
    strip.automation,
    isAutomated(strip),
    writing !== null,
    stepOf(width),
    width < 46,
  ],
  draw({ strip, writing, width }) {
    const has = isAutomated(strip);
    const { automation: mode } = strip;
    return [
      h(ModeMark, { mode, has, writes: writing !== null }),
      h(
        'span',
        { class: ['mode', { quiet: mode === 'read' && !has }] },
        stepOf(width) === 'middle' ? '' : width < 46 ? mode.charAt(0).toUpperCase() : mode,
      ),
    ];
  },
  speak: ({ strip, writing }) =>
    say('automationAutomationIsautomatedWriting', {
      automation: strip.automation,
      isAutomated: isAutomated(strip) ? '' : say('noLanes'),
      writing: writing ? say('writingNow') : '',
    }),
  press(t, { strip }) {
    const session = t.session.base()!;
    const to = nextMode(stripOf(session, strip).automation, t.transport.rolling);
    return {
      mode: 'paint',
      stroke: {
        label: say('automationTo', { to }),
        commands: (ids) =>
          setMode(
            session,
            ids.filter((id) => stripOf(session, id).automation !== to),
            to,
          ),
      },
    };
  },
  step: (t, { strip }, way) => t.automation.step(way, t.group(strip)),
  reset: (t, { strip }, alone) => t.automation.set(t.group(strip, alone), 'read'),
  // A second click is a second step.
  resets: () => false,
  enter: (t, { strip }, at) => t.automation.openModes(t.group(strip), at),
  menu(t, { strip }, at) {
    t.automation.openModes(t.group(strip), at);
    return null;
  },
};
