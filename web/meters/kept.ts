import { defineStore } from 'pinia';
import { computed } from 'vue';
import { processorOf } from '@core/processors/registry';
import { useSession } from '@/session/session';
import { useSettings, type KeptMeter } from '@/session/settings';
import { useNotices } from '@/ui/notices';
import { say } from './texts';

/** As many as the audio thread can write beside the monitored output and the strip that is looked at. */
const MOST = 12;
const same = (a: KeptMeter, b: KeptMeter) => a.strip === b.strip && a.insert === b.insert;

/** The meters that stay in view, whatever view it is: of strips, and of processors that turn down. */
export const useKept = defineStore('kept', () => {
  const session = useSession();
  const settings = useSettings();
  const notices = useNotices();
  const all = computed(() => settings.kept[session.id ?? ''] ?? []);
  /** Those that are there: what was removed comes back with its undo. */
  const shown = computed(() =>
    all.value.filter(({ strip, insert }) => {
      const s = session.strip(strip);
      if (!s || insert === undefined) return s !== undefined;
      const i = s.inserts.find((x) => x.id === insert);
      return i !== undefined && processorOf(i.type).levelDependent;
    }),
  );
  const set = (list: readonly KeptMeter[]) =>
    (settings.kept = { ...settings.kept, [session.id ?? '']: [...list] });
  const has = (one: KeptMeter) => shown.value.some((k) => same(k, one));
  const drop = (one: KeptMeter) => set(all.value.filter((k) => !same(k, one)));

  /** Keeps these in view, or none of them any more where all of them are. */
  function toggle(list: readonly KeptMeter[]) {
    if (list.every(has)) return set(all.value.filter((k) => !list.some((l) => same(k, l))));
    const next = [...shown.value, ...list.filter((l) => !has(l))];
    if (next.length > MOST) notices.refused(say('mostMetersInView', { most: MOST }));
    else set(next);
  }
  return { shown, has, drop, toggle, empty: () => set([]) };
});
