import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import { columnsOf, stripsIn } from './columns';
import { useSession } from './session';
import { useSettings } from './settings';
import { stable } from '@/ui/stable';

/** Which strips an action will act on, and where the keyboard stands on the Sheet. */
export const usePick = defineStore('pick', () => {
  const session = useSession();
  const chosen = shallowRef<ReadonlySet<string>>(new Set());
  const anchor = ref<string | null>(null);
  /** Cell that has the keyboard: a strip and a row. */
  const focus = shallowRef<{ readonly strip: string; readonly row: string } | null>(null);
  /** The VCA whose rail has a row of its own where all are a braid. */
  const rail = ref<string | null>(null);
  /** Insert whose editor is open. */
  const insert = shallowRef<{ readonly strip: string; readonly id: string } | null>(null);

  const settings = useSettings();
  const columns = computed(() =>
    session.shown
      ? columnsOf(session.shown, settings.grouping, new Set(settings.foldedBands), settings.beside)
      : { sources: [], landing: [] },
  );
  /** Every strip that is not hidden, in the order in which it stands; those of folded bands are among them. */
  const order = stable(
    () => [...columns.value.sources, ...columns.value.landing].flatMap(stripsIn).map((s) => s.id),
    (ids) => ids.join(' '),
  );
  /** Strips that have a column of their own. */
  const reachable = stable(
    () => [...columns.value.sources, ...columns.value.landing].flatMap((c) => (c.strip ? [c.strip.id] : [])),
    (ids) => ids.join(' '),
  );
  /** Picked strips in the Sheet's order, those that still are there. */
  const picked = computed(() => order.value.filter((id) => chosen.value.has(id)));
  /** The strip that the inspector shows: the last one picked, or the one with the keyboard. */
  const shown = computed(() => {
    if (anchor.value && chosen.value.has(anchor.value) && session.strip(anchor.value)) return anchor.value;
    return (
      picked.value.at(-1) ?? (focus.value && session.strip(focus.value.strip) ? focus.value.strip : null)
    );
  });

  function only(id: string) {
    chosen.value = new Set([id]);
    anchor.value = id;
    insert.value = null;
  }
  function toggle(id: string) {
    const next = new Set(chosen.value);
    if (!next.delete(id)) next.add(id);
    chosen.value = next;
    anchor.value = id;
  }
  /** From the anchor to this one. @param keep what was picked before stays */
  function range(id: string, keep: ReadonlySet<string> = new Set()) {
    const from = order.value.indexOf(anchor.value ?? id);
    const to = order.value.indexOf(id);
    if (from < 0 || to < 0) return only(id);
    chosen.value = new Set([...keep, ...order.value.slice(Math.min(from, to), Math.max(from, to) + 1)]);
  }
  const set = (ids: Iterable<string>) => {
    chosen.value = new Set(ids);
    anchor.value = [...chosen.value].at(-1) ?? null;
  };
  const all = () => set(order.value);
  const none = () => {
    chosen.value = new Set();
    insert.value = null;
  };
  /** What a change on this strip acts on: the picked ones where it is one of them, else it alone. */
  const group = (id: string, alone = false): readonly string[] =>
    !alone && chosen.value.has(id) ? picked.value : [id];

  return {
    chosen,
    anchor,
    focus,
    rail,
    insert,
    columns,
    reachable,
    order,
    picked,
    shown,
    only,
    toggle,
    range,
    set,
    all,
    none,
    group,
  };
});
