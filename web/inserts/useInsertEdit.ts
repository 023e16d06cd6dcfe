import { computed, type ComputedRef } from 'vue';
import type { ControlRef } from '@core/automation/control';
import { valueOf, type Parameter } from '@core/processors/description';
import { processorOf } from '@core/processors/registry';
import { parameterName } from '@core/processors/text';
import type { Command, InsertPatch } from '@core/edits/commands';
import { together } from '@core/operations/together';
import type { Insert, Strip } from '@core/session/types';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { say } from './texts';

/** Changes to one insert, and to its like on the other picked strips where they are edited together. */
export function useInsertEdit(strip: ComputedRef<Strip>, insert: ComputedRef<Insert>) {
  const session = useSession();
  const pick = usePick();
  const settings = useSettings();
  const processor = computed(() => processorOf(insert.value.type));
  /** The other picked strips that have an insert of this kind. */
  const others = computed(() =>
    pick.chosen.has(strip.value.id)
      ? pick.picked.filter(
          (id) =>
            id !== strip.value.id && session.strip(id)?.inserts.some((i) => i.type === insert.value.type),
        )
      : [],
  );
  const drag = computed(() => `insert ${insert.value.id}`);
  const label = (what: string) => {
    const all = others.value.length && settings.together !== 'alone' ? others.value.length + 1 : 1;
    return all > 1
      ? say('nameAllStrips', { what, name: processor.value.name, all })
      : say('whatOfNameName2', {
          what,
          name: processor.value.name,
          name2: strip.value.name || strip.value.id,
        });
  };
  const patch = (p: InsertPatch): readonly Command[] => {
    const own: readonly Command[] = [
      { type: 'insert.set', strip: strip.value.id, id: insert.value.id, patch: p },
    ];
    if (settings.together === 'alone' || !others.value.length || !session.document) return own;
    return together(session.base()!, own, [strip.value.id, ...others.value], settings.together === 'by');
  };
  const params = (values: Readonly<Record<string, number>>) =>
    patch({ params: { ...insert.value.params, ...values } });
  const control = (id: string): ControlRef => ({
    part: 'insert',
    owner: strip.value.id,
    id: insert.value.id,
    control: id,
  });
  const name = (p: Parameter) => parameterName(p, processor.value.parameters).toLowerCase();

  return {
    control,
    processor,
    others,
    drag,
    label,
    patch,
    params,
    value: (p: Parameter) => valueOf(p, insert.value.params),
    live: (values: Readonly<Record<string, number>>) => session.live(drag.value, params(values)),
    land: (what: string, values: Readonly<Record<string, number>>) =>
      session.land(drag.value, label(what), params(values)),
    settle: (what: string, values: Readonly<Record<string, number>>) =>
      session.settle(`${drag.value} ${what}`, label(what), params(values)),
    set: (what: string, values: Readonly<Record<string, number>>) =>
      session.commit(label(what), params(values)),
    name,
  };
}
export type InsertEdit = ReturnType<typeof useInsertEdit>;
