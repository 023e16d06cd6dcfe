import { useStorage } from '@vueuse/core';
import { computed, onScopeDispose, ref, shallowRef } from 'vue';
import { newDesk, newUnit, type Desk, type DeskPatch, type Unit } from '@core/surface/desk/desk';
import type { SurfaceProfile } from '@core/surface/profile/profile';
import { standIns } from '@core/surface/stands/stands';
import { ask } from '@/session/sync/api';
import { useNotices } from '@/ui/notices';

/** Milliseconds after the last change of a desk until it is kept. */
const KEEP_MS = 400;

/** The desks of the studio and the profiles by which their units speak, kept by the server; one desk is in use in this browser. */
export function useDesks() {
  const notices = useNotices();
  const chosen = useStorage('zonula.desk', 'desk');
  const kept = shallowRef<readonly Desk[]>([]);
  const profiles = shallowRef<readonly SurfaceProfile[]>(standIns);
  /** A desk that is of this window alone, and is kept nowhere. */
  const passing = shallowRef<{ readonly desk: Desk; readonly profile: SurfaceProfile } | null>(null);
  const byId = computed(() => new Map(profiles.value.map((p) => [p.id, p])));
  const profile = computed(() => {
    const map = byId.value;
    const own = passing.value?.profile;
    return (id: string) => (own?.id === id ? own : map.get(id));
  });
  /** What this page has made of desks since the server was asked. */
  const own = ref(0);
  const first = newDesk('desk', 'Desk', [standIns[0]!]);
  /** Has the window work with a desk of one unit that is kept nowhere: another width of it goes on where the one before was. */
  function pass(of: SurfaceProfile) {
    const before = passing.value?.desk ?? newDesk('passing', of.name, [of]);
    passing.value = {
      profile: of,
      desk: { ...before, units: [{ ...newUnit({ units: [] }, of), pickup: 'jump' }] },
    };
  }
  const desk = computed<Desk>(
    () => passing.value?.desk ?? kept.value.find((d) => d.id === chosen.value) ?? kept.value[0] ?? first,
  );

  async function load() {
    try {
      const [{ desks }, { profiles: list }] = await Promise.all([
        ask<{ desks: unknown[] }>('GET', '/desks'),
        ask<{ profiles: unknown[] }>('GET', '/surface-profiles'),
      ]);
      // What is read is judged; the validators come only where there is something to judge.
      const others = list.filter((p) => !standIns.some((s) => s.id === (p as { id?: unknown }).id));
      if (others.length) {
        const { validProfile } = await import('@core/surface/profile/validProfile');
        profiles.value = [...standIns, ...others.map(validProfile)];
      }
      if (desks.length && own.value === 0) {
        const { validDesk } = await import('@core/surface/desk/validDesk');
        kept.value = desks.map(validDesk);
      }
    } catch (error) {
      notices.refused(error);
    }
  }

  const waiting = new Map<string, ReturnType<typeof setTimeout>>();
  async function send(next: Desk) {
    waiting.delete(next.id);
    try {
      await ask('PUT', `/desks/${encodeURIComponent(next.id)}`, next);
    } catch (error) {
      notices.refused(error);
    }
  }
  function keep(next: Desk, soon = false) {
    own.value++;
    kept.value = kept.value.some((d) => d.id === next.id)
      ? kept.value.map((d) => (d.id === next.id ? next : d))
      : [...kept.value, next];
    clearTimeout(waiting.get(next.id));
    if (soon) return void send(next);
    waiting.set(
      next.id,
      setTimeout(() => void send(next), KEEP_MS),
    );
  }
  onScopeDispose(() => waiting.forEach((t) => clearTimeout(t)));

  /** Changes the desk in use. */
  function change(patch: DeskPatch) {
    if (passing.value) {
      passing.value = { ...passing.value, desk: { ...passing.value.desk, ...patch } };
      return;
    }
    keep({ ...desk.value, ...patch });
  }
  function freshId(name: string): string {
    const stem =
      name
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^-+|-+$/g, '')
        .slice(0, 40) || 'desk';
    let id = stem;
    for (let n = 2; kept.value.some((d) => d.id === id); n++) id = `${stem}-${n}`;
    return id;
  }
  /** Adds a desk, and takes it into use. */
  function add(next: Desk) {
    const placed = { ...next, id: freshId(next.name) };
    keep(placed, true);
    chosen.value = placed.id;
  }
  async function remove(id: string) {
    clearTimeout(waiting.get(id));
    waiting.delete(id);
    kept.value = kept.value.filter((d) => d.id !== id);
    own.value++;
    try {
      await ask('DELETE', `/desks/${encodeURIComponent(id)}`);
    } catch (error) {
      notices.refused(error);
    }
  }
  /** Keeps a profile, which units can be given from then on. */
  async function keepProfile(next: SurfaceProfile) {
    await ask('PUT', `/surface-profiles/${encodeURIComponent(next.id)}`, next);
    profiles.value = [...profiles.value.filter((p) => p.id !== next.id), next];
  }
  /** Adds a unit to the desk. */
  function addUnit(
    of: SurfaceProfile,
    connection: Unit['connection'] = { type: 'simulated', device: null },
  ): string {
    const unit: Unit = { ...newUnit(desk.value, of), connection };
    change({ units: [...desk.value.units, unit] });
    return unit.id;
  }
  const setUnit = (id: string, patch: Partial<Unit>) =>
    change({ units: desk.value.units.map((u) => (u.id === id ? { ...u, ...patch } : u)) });
  const removeUnit = (id: string) => change({ units: desk.value.units.filter((u) => u.id !== id) });
  function moveUnit(id: string, way: 1 | -1) {
    const units = [...desk.value.units];
    const at = units.findIndex((u) => u.id === id);
    const to = at + way;
    if (at < 0 || to < 0 || to >= units.length) return;
    [units[at], units[to]] = [units[to]!, units[at]!];
    change({ units });
  }
  return {
    pass,
    chosen,
    kept,
    desk,
    profiles,
    profile,
    load,
    change,
    add,
    remove,
    keepProfile,
    addUnit,
    setUnit,
    removeUnit,
    moveUnit,
  };
}
