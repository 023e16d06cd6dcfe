import { FAMILIES } from '@core/naming/lexicon';
import { monitor, setOuts } from '@core/operations/outputs';
import { toggleDryPath } from '@core/operations/strips';
import { stripOf } from '@core/session/lookup';
import type { MenuItem } from '@/ui/menu';
import { useSession } from './session';
import { useTargets } from './targets';
import { say } from './texts';

/** Lines of menus about strips that more than one feature opens. */
export function useStripMenus() {
  const session = useSession();
  const { named } = useTargets();

  /** Where the dry path of strips goes. */
  function outItems(ids: readonly string[]): MenuItem[] {
    const s = session.document!;
    const first = stripOf(s, ids[0]!);
    const goals = s.strips.filter(
      (x) => (x.kind === 'submix' || x.kind === 'return' || x.kind === 'output') && !ids.includes(x.id),
    );
    return [
      {
        label: say('dryPathOn'),
        keys: 'D',
        checked: first.out.on,
        run: () => session.change(named(say('dryPathOf'), ids), (d) => toggleDryPath(d, ids)),
      },
      ...goals.map((g) => ({
        label: g.name || g.id,
        checked: first.out.to === g.id,
        run: () =>
          session.change(say('namedToName', { named: named(say('outOf'), ids), name: g.name }), (d) =>
            setOuts(d, ids, g.id),
          ),
      })),
    ];
  }
  /** The family that strips belong to, with its colour. */
  function familyItems(ids: readonly string[]): MenuItem[] {
    return FAMILIES.map((f) => ({
      label: f.name,
      run: () =>
        session.change(named(say('familyName', { name: f.name }), ids), () =>
          ids.map((id) => ({ type: 'strip.set', id, patch: { family: f.name, colour: f.colour } })),
        ),
    }));
  }
  function hear(id: string) {
    session.change(say('hearName', { name: stripOf(session.document!, id).name || id }), (s) =>
      monitor(s, id),
    );
  }
  return { outItems, familyItems, hear };
}
