import { heldBy } from '@core/groups/vca';
import { toggleVca } from '@core/operations/strips';
import { removeVca, setMembers } from '@core/operations/vcas';
import { vcaOf } from '@core/session/lookup';
import type { MenuItem } from '@/ui/menu';
import type { SheetTools } from './rows/tools';
import { say } from './texts';

/** What a VCA offers at its rail. */
export function vcaItems(t: SheetTools, id: string): readonly MenuItem[] {
  const vca = vcaOf(t.doc(), id);
  const { session, pick } = t;
  const flag = (which: 'mute' | 'solo', label: string, change: string): MenuItem => ({
    label,
    checked: vca[which],
    run: () => session.change(change, (d) => toggleVca(d, id, which)),
  });
  return [
    { label: say('rename'), run: () => t.renameVca(id) },
    { label: say('iconAsk'), run: () => t.commands.run('icon', { strips: [id] }) },
    { label: say('whatDoesItChange'), run: () => t.commands.run('vcaEffect', { vca: id }) },
    flag('mute', say('muteTitle'), say('muteVcaName', { name: vca.name })),
    flag('solo', say('soloTitle'), say('soloVcaName', { name: vca.name })),
    ...t.automation.modeItems([id]),
    { label: say('pickItsStrips'), run: () => pick.set(heldBy(t.doc(), id).map((s) => s.id)) },
    {
      label: say('holdPickedStripsToo'),
      disabled: pick.picked.length === 0,
      run: () =>
        session.change(say('holdByName', { name: vca.name }), (d) => setMembers(d, id, pick.picked, true)),
    },
    {
      label: say('removeTheVca'),
      danger: true,
      run: () => session.change(say('removeVcaName', { name: vca.name }), (d) => removeVca(d, id)),
    },
  ];
}
