import { defineStore } from 'pinia';
import { useRouter } from 'vue-router';
import { controlName, findControl, refKey, type ControlRef } from '@core/automation/control';
import { clearLanes, setLanes, setMode, writtenControls } from '@core/automation/edit';
import { MODE_TEXTS, nextMode } from '@core/session/mode';
import { AUTOMATION_MODES } from '@core/session/fields/tables';
import type { AutomationMode } from '@core/session/types';
import { useMenu, type MenuItem, type MenuPlace } from '@/ui/menu';
import { useAutomation } from './automation';
import { usePick } from '../pick';
import { useSession } from '../session';
import { useTransport } from '@/audio/transport';
import { useTargets } from '../targets';
import { say } from '../texts';

/** What a change of mode acts on. */
export type Scope = 'picked' | 'all';

/** Modes of automation for one strip, the picked ones or all, and what shows and takes out lanes. */
export const useAutomationEdits = defineStore('automationGestures', () => {
  const session = useSession();
  const pick = usePick();
  const transport = useTransport();
  const automation = useAutomation();
  const strips = useTargets();
  const menu = useMenu();
  const router = useRouter();

  const everything = () => [...session.document!.strips, ...session.document!.vcas].map((x) => x.id);
  const modeOf = (id: string): AutomationMode =>
    [...session.document!.strips, ...session.document!.vcas].find((x) => x.id === id)?.automation ?? 'read';
  const called = (ids: readonly string[]) => {
    if (ids.length === everything().length) return say('allStrips');
    const vca = ids.length === 1 ? session.document!.vcas.find((v) => v.id === ids[0]) : undefined;
    return vca ? say('vcaName', { name: vca.name || vca.id }) : strips.named('', ids).trim();
  };

  function set(ids: readonly string[], mode: AutomationMode) {
    const others = ids.filter((id) => modeOf(id) !== mode);
    if (others.length)
      session.change(say('automationModeCalled', { mode, called: called(ids) }), (s) =>
        setMode(s, others, mode),
      );
  }
  function setScope(scope: Scope, mode: AutomationMode) {
    const ids = scope === 'all' ? everything() : strips.targets();
    if (!ids.length) return strips.none(say('setTheAutomationOf'));
    set(ids, mode);
  }
  /** All go to the mode that follows the first one's. While it plays, steps pass write by. */
  function step(way: 1 | -1 = 1, ids: readonly string[] = strips.targets()) {
    if (!ids.length) return strips.none(say('setTheAutomationOf'));
    set(ids, nextMode(modeOf(ids[0]!), transport.rolling, way));
  }
  function clear(ids: readonly string[]) {
    session.change(say('noAutomationOfCalled', { called: called(ids) }), (s) => clearLanes(s, ids));
  }
  /** Shows the lanes of strips and VCAs, one of them chosen. */
  function show(ids: readonly string[], ref?: ControlRef) {
    const owners = ids.filter((id) => session.strip(id));
    if (owners.length) pick.set(owners);
    const vca = session.document!.vcas.find((v) => v.id === ids[0]);
    automation.asked = ref ?? (vca ? { part: 'vca', owner: vca.id, id: null, control: 'fader' } : null);
    automation.selected = ref ? { key: refKey(ref), point: -1 } : null;
    void router.push({ name: 'automation' });
  }

  const modeItems = (ids: readonly string[]): MenuItem[] => [
    ...AUTOMATION_MODES.map((mode): MenuItem => ({
      label: MODE_TEXTS[mode],
      checked: ids.every((id) => modeOf(id) === mode),
      run: () => set(ids, mode),
    })),
    {
      label: say('showItsLanes'),
      keys: '',
      run: () => show(ids),
    },
    {
      label: say('takeItsLanesOut'),
      danger: true,
      disabled: !ids.some((id) => writtenControls(session.document!, id).length > 0),
      run: () => clear(ids),
    },
  ];
  function openModes(ids: readonly string[], at: MenuPlace) {
    if (!ids.length) return strips.none(say('setTheAutomationOf'));
    menu.open(say('automationOfCalled', { called: called(ids) }), modeItems(ids), at);
  }
  /** What automation offers for one control. */
  function openControl(control: ControlRef, at: MenuPlace) {
    const placed = findControl(session.document!, control);
    if (!placed) return;
    menu.open(
      say('controlnameOfCalled', {
        controlName: controlName(session.document!, control),
        called: called([control.owner]),
      }),
      [
        {
          label: placed.lane ? say('showItsLane') : say('automateIt'),
          run: () => show([control.owner], control),
        },
        {
          label: say('takeItsLaneOut'),
          danger: true,
          disabled: !placed.lane,
          run: () =>
            session.change(
              say('noAutomationOfControlname', {
                controlName: controlName(session.document!, control).toLowerCase(),
              }),
              (s) => setLanes(s, [{ ref: control, lane: null }]),
            ),
        },
      ],
      at,
    );
  }
  return { openControl, set, setScope, step, clear, show, modeItems, openModes, called, everything };
});
