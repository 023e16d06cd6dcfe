import { stripControls, type ControlRef } from '@core/automation/control';
import { stripOf } from '@core/session/lookup';
import type { Session } from '@core/session/types';
import { useTransport } from '@/audio/transport';
import { useCommands } from '@/commands/commands';
import { useInspector } from '@/commands/inspector';
import { useAutomationEdits } from '@/session/automation/useAutomationEdits';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useStripMenus } from '@/session/stripMenus';
import { useTargets } from '@/session/targets';
import { useMenu, type MenuItem } from '@/ui/menu';
import { useNotices } from '@/ui/notices';
import type { Spot } from './kind';
import { say } from '../texts';

/** What the Sheet itself can be asked for. */
export interface SheetHost {
  /** Lets a cell's value be typed. */
  readonly type: (spot: Spot) => void;
  readonly renameVca: (id: string) => void;
}

/** What rows of the Sheet work with. */
export function useSheetTools(host: SheetHost) {
  const session = useSession();
  const pick = usePick();
  const inspector = useInspector();
  const automation = useAutomationEdits();
  const { named } = useTargets();
  /** The document as it is shown. */
  const doc = (): Session => session.shown!;
  const strip = (id: string) => stripOf(doc(), id);
  return {
    ...host,
    session,
    pick,
    automation,
    named,
    doc,
    strip,
    menu: useMenu(),
    commands: useCommands(),
    transport: useTransport(),
    notices: useNotices(),
    ...useStripMenus(),
    /** What a change on a strip acts on. */
    group: (id: string, alone = false) => pick.group(id, alone),
    /** Opens the editor of an insert beside the Sheet. */
    openEditor(id: string, insert: string) {
      if (!pick.chosen.has(id)) pick.only(id);
      pick.anchor = id;
      pick.insert = { strip: id, id: insert };
      inspector.show('strip');
    },
    /** Leads to the lane of what a cell shows. */
    laneItem(ref: ControlRef): MenuItem {
      const has = stripControls(strip(ref.owner)).some(
        (p) => p.lane && p.ref.part === ref.part && p.ref.id === ref.id,
      );
      return {
        label: has ? say('showItsAutomation') : say('automateIt'),
        run: () => automation.show([ref.owner], ref),
      };
    },
  };
}
export type SheetTools = ReturnType<typeof useSheetTools>;
