import { dissolve } from '@core/operations/dissolve';
import { gather } from '@core/operations/gather';
import { newOutput } from '@core/operations/outputs';
import { newReturn } from '@core/operations/returns';
import { moveStrips, removeStrips, toggleDryPath, toggleFlag } from '@core/operations/strips';
import { stripsBy } from '@core/operations/tidy';
import { holdByVca } from '@core/operations/vcas';
import { stripOf } from '@core/session/lookup';
import type { Session } from '@core/session/types';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { useTargets } from '@/session/targets';
import { useNotices } from '@/ui/notices';
import { say } from './texts';

/** What can be done with the picked strips at once, without asking further. */
export function useStripEdits() {
  const session = useSession();
  const pick = usePick();
  const settings = useSettings();
  const notices = useNotices();
  const { targets, some, named, none, reveal } = useTargets();

  function gatherPicked() {
    if (!some()) return none(say('gather'));
    const made = session.perform((s) => gather(s, targets(), { placement: settings.placement }));
    if (made) reveal(made);
  }
  function returnPicked() {
    const made = session.perform((s) => newReturn(s, targets()));
    if (made) {
      reveal(made);
      notices.done(say('returnPlateReverbWasMade'));
    }
  }
  function dissolvePicked() {
    const ids = targets();
    if (!ids.length) return none(say('dissolve'));
    for (const id of ids)
      session.change(say('dissolveName', { name: stripOf(session.document!, id).name || id }), (s) =>
        dissolve(s, id),
      );
    pick.none();
  }
  function addOutput() {
    const made = session.perform((s) => newOutput(s));
    if (made) reveal(made);
  }
  /** Picks strips that have something in common with those that are picked. */
  function pickBy(by: 'family' | 'kind' | 'colour' | 'feeds') {
    const ids = targets();
    const doc = session.document;
    if (!ids.length || !doc) return none(say('pickByBy', { by }));
    const found = new Set<string>();
    if (by === 'feeds') for (const id of stripsBy(doc, { by, strips: ids })) found.add(id);
    else
      for (const id of ids) {
        const strip = stripOf(doc, id);
        const same =
          by === 'kind' ? stripsBy(doc, { by, value: strip.kind }) : stripsBy(doc, { by, value: strip[by] });
        for (const other of same) found.add(other);
      }
    if (found.size === 0) return notices.refused(say('nothingFeedsPicked'));
    pick.set(found);
  }
  /** Moves the picked strips past their neighbours. */
  function shift(way: -1 | 1) {
    const ids = targets();
    const doc = session.document;
    if (!doc || !ids.length) return none(say('move'));
    const order = pick.order.filter((id) => stripOf(doc, id).kind === stripOf(doc, ids[0]!).kind);
    const at = ids.map((id) => order.indexOf(id)).filter((i) => i >= 0);
    if (!at.length) return;
    const edge = way < 0 ? Math.min(...at) - 1 : Math.max(...at) + 2;
    if (edge < 0 || edge > order.length) return;
    session.change(named(say('move'), ids), (s) =>
      moveStrips(s, ids, order[edge] ?? afterLast(s, order.at(-1)!)),
    );
  }
  /** The strip that stands behind another one in the session; null at its end. */
  const afterLast = (s: Session, id: string) =>
    s.strips[s.strips.findIndex((x) => x.id === id) + 1]?.id ?? null;
  function vcaPicked() {
    if (!some()) return none(say('holdByAVca'));
    session.perform((s) => holdByVca(s, targets()));
  }
  function toggle(flag: 'mute' | 'solo' | 'hidden' | 'soloSafe', label: string) {
    const ids = targets();
    if (!ids.length) return none(label);
    session.change(named(label, ids), (s) => toggleFlag(s, ids, flag));
  }
  const dryPath = () =>
    session.change(named(say('dryPathOf'), targets()), (s) =>
      toggleDryPath(
        s,
        targets().filter((id) => stripOf(s, id).kind !== 'output'),
      ),
    );
  function removePicked() {
    const ids = targets();
    if (!ids.length) return none(say('remove'));
    session.change(named(say('remove'), ids), (s) => removeStrips(s, ids));
    pick.none();
  }
  const hidden = () => session.document?.strips.filter((s) => s.hidden) ?? [];
  function showHidden() {
    session.change(say('showHiddenStrips'), (s) =>
      s.strips
        .filter((x) => x.hidden)
        .map((x) => ({ type: 'strip.set', id: x.id, patch: { hidden: false } })),
    );
  }

  return {
    gatherPicked,
    returnPicked,
    dissolvePicked,
    addOutput,
    pickBy,
    shift,
    vcaPicked,
    toggle,
    dryPath,
    removePicked,
    hidden,
    showHidden,
  };
}
