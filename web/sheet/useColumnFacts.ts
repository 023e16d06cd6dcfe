import { computed, type ComputedRef } from 'vue';
import { unconfirmed } from '@core/devices/preamp';
import { monitoredOutput, nameOf, stripMap } from '@core/session/lookup';
import type { Session, Strip } from '@core/session/types';
import { useMarks } from '@/session/marks';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { say } from './texts';

/** What columns show of their strips beside what the strips hold themselves. */
export function useColumnFacts(doc: ComputedRef<Session>) {
  const session = useSession();
  const pick = usePick();
  const marks = useMarks();
  /** Strips with their controls where their lanes have them now. */
  const current = computed(() => stripMap(session.now!));
  const edited = (strip: string) => (pick.insert?.strip === strip ? pick.insert.id : null);
  const NONE: readonly string[] = [];
  const dryOf = (s: Strip) =>
    marks.dry.size ? s.inserts.map((i) => i.id).filter((id) => marks.dry.has(`${s.id} ${id}`)) : NONE;
  const preampOf = (s: Strip) => {
    if (!s.preamp) return null;
    const state = session.preamps.get(s.preamp.input);
    return state && unconfirmed(state, s.preamp).length === 0 ? 'settled' : 'open';
  };
  const unitsOf = (strip: string) => marks.units.get(strip)?.join(' ') ?? '';
  const outputs = computed(() => doc.value.strips.filter((s) => s.kind === 'output').length);
  const outName = (s: Strip) =>
    s.kind === 'output'
      ? `${monitoredOutput(doc.value)?.id === s.id && outputs.value > 1 ? '◉ ' : ''}${s.pair}–${(s.pair ?? 1) + 1}`
      : s.out.to === null
        ? say('nowhere')
        : nameOf(doc.value, s.out.to);

  return { current, edited, dryOf, preampOf, unitsOf, outName };
}
