import { onBeforeUnmount, ref } from 'vue';
import type { Command } from '@core/edits/commands';
import { processorOf } from '@core/processors/registry';
import { stripMap } from '@core/session/lookup';
import type { Session } from '@core/session/types';
import { useSession } from '@/session/session';

/**
 * A band of an equalizer, or what a moving one hears, by itself while its point is held: by the ear of this window alone. Nothing is edited, sent or
 * written.
 */
export function useBandAlone(insert: () => { readonly strip: string; readonly id: string }) {
  const session = useSession();
  /** The band that is heard alone; null where none is. */
  const alone = ref<number | null>(null);
  let before: typeof session.listening = null;

  function begin(band: number) {
    if (alone.value === null) before = session.listening;
    alone.value = band;
    const { strip, id } = insert();
    session.listening = (doc: Session): readonly Command[] => {
      const held = stripMap(doc)
        .get(strip)
        ?.inserts.find((i) => i.id === id);
      if (!held) return [];
      const params = processorOf(held.type).bandAlone!(band, held.params);
      return [{ type: 'insert.set', strip, id, patch: { on: true, mix: 1, params, lanes: {} } }];
    };
  }
  function end() {
    if (alone.value === null) return;
    alone.value = null;
    session.listening = before;
  }
  onBeforeUnmount(end);
  return { alone, begin, end };
}
