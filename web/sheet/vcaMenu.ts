import { heldBy } from '@core/groups/vca';
import type { Command } from '@core/session/commands/types';
import { toggleVca } from '@core/session/gestures/strips';
import { setMembers } from '@core/session/gestures/vcas';
import { vcaOf } from '@core/session/lookup';
import type { MenuItem } from '@/ui/menu';
import type { SheetTools } from './rows/tools';

/** What a VCA offers at its rail. */
export function vcaItems(t: SheetTools, id: string): readonly MenuItem[] {
  const vca = vcaOf(t.doc(), id);
  const { session, pick } = t;
  const flag = (which: 'mute' | 'solo', label: string): MenuItem => ({
    label,
    checked: vca[which],
    run: () => session.change(`${which} VCA ${vca.name}`, (d) => toggleVca(d, id, which)),
  });
  return [
    { label: 'Rename', run: () => t.renameVca(id) },
    { label: 'What does it change?', run: () => t.commands.run('vcaEffect', { vca: id }) },
    flag('mute', 'Mute'),
    flag('solo', 'Solo'),
    ...t.automation.modeItems([id]),
    { label: 'Pick its strips', run: () => pick.set(heldBy(t.doc(), id).map((s) => s.id)) },
    {
      label: 'Hold the picked strips too',
      disabled: pick.picked.length === 0,
      run: () => session.change(`hold by ${vca.name}`, (d) => setMembers(d, id, pick.picked, true)),
    },
    {
      label: 'Remove the VCA',
      danger: true,
      run: () =>
        session.change(`remove VCA ${vca.name}`, (d) => [
          ...d.vcas
            .filter((v) => v.members.includes(id))
            .map((v): Command => ({
              type: 'vca.members',
              id: v.id,
              members: v.members.filter((m) => m !== id),
            })),
          { type: 'vca.remove', id },
        ]),
    },
  ];
}
