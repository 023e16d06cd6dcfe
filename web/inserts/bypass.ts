import { defineStore } from 'pinia';
import { shallowRef } from 'vue';
import { processorOf } from '@core/processors/registry';
import { activeInserts, switchInserts, type InsertRef } from '@core/operations/inserts';
import { useSession } from '@/session/session';
import { useTargets } from '@/session/targets';
import { useNotices } from '@/ui/notices';
import { say } from './texts';

/** Many inserts off at once, and exactly those back on. */
export const useBypass = defineStore('bypass', () => {
  const session = useSession();
  const notices = useNotices();
  const { targets, named, none } = useTargets();
  /** Inserts that a bypass of many has switched off. */
  const bypassed = shallowRef<readonly InsertRef[]>([]);

  function toggle(active: readonly InsertRef[], within: (r: InsertRef) => boolean, what: string) {
    const back = bypassed.value.filter(within);
    const doc = session.document!;
    if (active.length) {
      if (!session.commit(say('bypassWhat', { what }), switchInserts(doc, active, false))) return;
      bypassed.value = [...bypassed.value.filter((r) => !within(r)), ...active];
      return;
    }
    const known = back.length
      ? back
      : doc.strips.flatMap((s) => s.inserts.map((i) => ({ strip: s.id, id: i.id }))).filter(within);
    if (!session.commit(say('switchOnWhat', { what }), switchInserts(doc, known, true)))
      notices.refused(say('thereNoInsertBypassHere'));
    bypassed.value = bypassed.value.filter((r) => !within(r));
  }
  /** All inserts of some strips. */
  function ofStrips(ids: readonly string[] = targets()) {
    if (!ids.length) return none(say('bypass'));
    toggle(activeInserts(session.document!, ids), (r) => ids.includes(r.strip), named(say('insertsOf'), ids));
  }
  /** All inserts of one kind in the whole session. */
  function ofKind(type: string) {
    const doc = session.document!;
    const isOne = (r: InsertRef) =>
      doc.strips.find((s) => s.id === r.strip)?.inserts.find((i) => i.id === r.id)?.type === type;
    toggle(activeInserts(doc, null, type), isOne, say('every', { name: processorOf(type).name }));
  }
  return { ofStrips, ofKind };
});
