import { defineStore } from 'pinia';
import { computed, onScopeDispose, ref, shallowReactive, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import { fieldOf, type Field } from '@core/surface/encoders/field';
import { feedback } from '@core/surface/feedback';
import { gone, marksOf, pressed, receive, tick, type Step } from '@core/surface/machine';
import type { Material } from '@core/surface/material';
import { deviceOf } from '@core/surface/stands/keyboard';
import { DESK_START, type DeskContext, type DeskState, type SurfaceAction } from '@core/surface/state';
import type { Session } from '@core/session/types';
import { groupsOf, listOf, slotsOf, windowState } from '@core/surface/window';
import { useTransport } from '@/audio/transport';
import { useCommands } from '@/commands/commands';
import { useInspector } from '@/commands/inspector';
import { useAutomation } from '@/session/automation/automation';
import { useMarks } from '@/session/marks';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { ask } from '@/session/sync/api';
import { useNotices } from '@/ui/notices';
import { Paced } from '@/ui/pace';
import { stable } from '@/ui/stable';
import { useDesks } from './desks';
import { useMidiPorts } from './midiPorts';
import { useMonitor } from './monitor';
import { SimulatedUnit } from './simulatedUnit';
import { say } from './texts';
import { Touches } from './touches';

/** Milliseconds between two answers to devices. */
const ANSWER_MS = 4;
/** Of so many milliseconds devices may take so many, message by message; beyond that they are heard every few milliseconds. */
const WINDOW_MS = 100;
const MOST_MS = 60;
const FLOOD_MS = 12;
/** Sessions that the display lists. */
const RECENT = 12;

/**
 * The control surfaces of this window: the desk in use, its units, and the state machine of core to which they speak bytes. It works
 * whatever view is shown.
 */
export const useSurface = defineStore('surface', () => {
  const session = useSession();
  const pick = usePick();
  const transport = useTransport();
  const notices = useNotices();
  const automation = useAutomation();
  const inspector = useInspector();
  const commands = useCommands();
  const router = useRouter();
  const desks = useDesks();
  const monitor = useMonitor();
  const { desk, profile, profiles } = desks;

  let state: DeskState = DESK_START;
  const touches = new Touches();
  /** What of the state the page shows. */
  const shown = shallowRef(state);
  const recent = shallowRef<readonly { readonly id: string; readonly name: string }[]>([]);
  /** Stand-ins, by the unit's id. */
  const simulated = shallowReactive(new Map<string, SimulatedUnit>());

  const material = computed<Material>(() =>
    Object.fromEntries(
      Object.entries(session.stems).flatMap(([address, { spans }]) => (spans ? [[address, spans]] : [])),
    ),
  );
  const writing = computed(() => [...automation.writing.values()].flat());
  function meter(id: string): number | null {
    const { player, rolling } = transport;
    if (!player || !rolling) return null;
    const at = player.slot(id);
    const peak = Math.max(player.meters[at] ?? 0, player.meters[at + 4] ?? 0);
    return peak > 1e-4 ? 20 * Math.log10(peak) : null;
  }
  const focus = computed(() =>
    pick.anchor !== null && pick.chosen.has(pick.anchor) ? pick.anchor : (pick.picked.at(-1) ?? null),
  );
  /** The world as the desk sees it; null where no session is open. @param seen the session, at this moment or as it is shown */
  function context(seen: Session | null = session.present()): DeskContext | null {
    if (!seen) return null;
    return {
      session: seen,
      desk: desk.value,
      profile: profile.value,
      material: material.value,
      picked: pick.picked,
      focus: focus.value,
      transport: {
        rolling: transport.rolling,
        position: session.playhead,
        looping: transport.looping,
        loop: transport.loop,
      },
      writing: writing.value,
      meter,
      recent: recent.value,
      undo: session.undoLabel !== null,
      redo: session.redoLabel !== null,
      now: performance.now(),
    };
  }

  function take(step: Step) {
    touches.note(state, step.state);
    state = step.state;
    for (const action of step.actions) carryOut(action);
  }
  function carryOut(action: SurfaceAction) {
    switch (action.type) {
      case 'live':
        return session.live(`desk ${action.drag}`, action.commands);
      case 'commit':
        return session.land(`desk ${action.drag}`, action.label, action.commands);
      case 'settle':
        return session.settle(`desk ${action.drag}`, action.label, action.commands, true);
      case 'drop':
        return session.live(`desk ${action.drag}`, null);
      case 'pick':
        return pick.set(action.strips);
      case 'play':
        return void transport.play();
      case 'stop':
        return transport.stop();
      case 'loop':
        return transport.toggleLoop();
      case 'undo':
        return void session.undo();
      case 'redo':
        return void session.redo();
      case 'desk':
        return desks.change(action.patch);
      case 'run':
        return run(action.action);
      case 'show':
        pick.insert = { strip: action.strip, id: action.insert };
        if (!pick.chosen.has(action.strip)) pick.set([action.strip]);
        return inspector.show('strip');
      case 'open':
        return void router.push(`/session/${action.session}`);
    }
  }
  /** An action of the palette, by its id. */
  function run(id: string) {
    const found = commands.list.find((a) => a.id === id);
    if (!found) return notices.refused(say('userKeyActionIdThere', { id }));
    if (found.enabled?.() !== false) found.run();
  }

  /** Listens to devices before the desk does, while one is learned. @returns whether it keeps what it heard for itself */
  const tap = shallowRef<((unit: string, bytes: readonly number[]) => boolean) | null>(null);
  /** Bytes that come from a unit: obeyed at once, or in a flood with all that came meanwhile. */
  function hear(unit: string, bytes: readonly number[]) {
    monitor.note('in', unit, bytes);
    if (tap.value?.(unit, bytes)) return;
    const waiting = waits.get(unit);
    if (waiting) return void waiting.push(...bytes);
    const begun = performance.now();
    if (begun - since > WINDOW_MS) [since, spent] = [begun, 0];
    if (spent > MOST_MS) {
      waits.set(unit, [...bytes]);
      setTimeout(() => heardOut(unit), FLOOD_MS);
      return;
    }
    obey(unit, bytes);
    spent += performance.now() - begun;
  }
  /** What waits of a unit is heard now. */
  function heardOut(unit: string) {
    const all = waits.get(unit);
    waits.delete(unit);
    if (all) obey(unit, all);
  }
  function obey(unit: string, bytes: readonly number[]) {
    const now = context();
    if (!now) return;
    take(receive(now, state, unit, bytes));
    answers.ask();
  }
  /** Bytes of units that say more than there is time for, one by one. */
  const waits = new Map<string, number[]>();
  let since = 0;
  let spent = 0;
  function tell(unit: string, bytes: readonly number[]) {
    monitor.note('out', unit, bytes);
    simulated.get(unit)?.receive(bytes);
    ports.send(unit, bytes);
  }

  let timer: ReturnType<typeof setTimeout> | null = null;
  /** Brings every device to the session as it is now, and comes back when something shown ends. */
  function refresh() {
    const now = context();
    if (!now) return;
    take(tick(now, state));
    const out = feedback(context()!, state);
    state = out.state;
    for (const [unit, bytes] of Object.entries(out.bytes)) tell(unit, bytes);
    if (timer) clearTimeout(timer);
    timer = out.again === null ? null : setTimeout(() => answers.ask(), Math.max(ANSWER_MS, out.again));
    if (shown.value !== state) shown.value = state;
  }
  /** Devices are answered once for all that came of them at a time. */
  const answers = new Paced(refresh, ANSWER_MS);
  onScopeDispose(() => {
    answers.close();
    if (timer) clearTimeout(timer);
  });
  watch(
    () => [
      session.now,
      pick.picked,
      focus.value,
      transport.rolling,
      transport.looping,
      transport.loop,
      desk.value,
      profile.value,
      material.value,
      writing.value,
      recent.value,
      session.undoLabel,
      session.redoLabel,
    ],
    () => answers.ask(),
    { flush: 'post' },
  );
  // Meters, and what sounds at the playhead, go with the song.
  watch(
    () => session.playhead,
    () => answers.ask(),
  );

  const ports = useMidiPorts({
    hear,
    come(unit) {
      forget(unit);
      answers.ask();
    },
    gone(unit) {
      heardOut(unit);
      const now = context();
      if (now) take(gone(now, state, unit));
      notices.done(say('unitGoneAway', { name: unitName(unit) }));
      answers.ask();
    },
  });
  /** What hands are doing is taken back: they are not to be heard any more. */
  function dropAll() {
    session.unsettle();
    for (const unit of Object.keys(state.units)) {
      const now = context();
      if (!now) return;
      const step = gone(now, state, unit);
      take({
        ...step,
        actions: step.actions.map((a) => ('drag' in a ? { type: 'drop' as const, drag: a.drag } : a)),
      });
      for (const [id, c] of simulated.get(unit)?.seen ?? []) if (c.touched) simulated.get(unit)!.letGo(id);
    }
    answers.ask();
  }
  /** What a device shows is not known any more: it is told everything. */
  function forget(unit: string) {
    const now = context();
    if (now) take(gone(now, state, unit));
  }
  const unitName = (id: string) => desk.value.units.find((u) => u.id === id)?.name ?? id;

  // A stand-in for each unit that has no device of its own.
  watch(
    () => desk.value.units.map((u) => [u, profile.value(u.profile)] as const),
    (units) => {
      const wanted = new Map(
        units.flatMap(([u, own]) => {
          if (u.connection.type !== 'simulated') return [];
          const p = deviceOf(u.connection.device) ?? own;
          return p ? [[u.id, p] as const] : [];
        }),
      );
      for (const [id, unit] of simulated)
        if (wanted.get(id) !== unit.profile) {
          simulated.delete(id);
          forget(id);
        }
      for (const [id, p] of wanted)
        if (!simulated.has(id)) simulated.set(id, new SimulatedUnit(p, (bytes) => hear(id, bytes)));
      for (const id of Object.keys(state.units)) if (!units.some(([u]) => u.id === id)) forget(id);
      void ports.setUnits(units.map(([u]) => u));
      answers.ask();
    },
    { immediate: true },
  );

  /** Does what a key of a role does, on the first unit or on one of them. */
  function press(role: string, unit?: string) {
    const now = context();
    if (!now) return;
    take(pressed(now, state, role, unit));
    refresh();
  }

  /** The world as it is drawn, once for all parts of the page that ask. */
  const drawn = computed(() => context(session.now));
  /** What every fader and encoder steers now. */
  const field = computed<Field | null>(() => drawn.value && fieldOf(drawn.value, shown.value));
  const slots = computed(() => (drawn.value ? slotsOf(drawn.value, shown.value) : {}));
  /** Where each window stands among what it can show. */
  const windows = computed(() =>
    drawn.value
      ? groupsOf(drawn.value).map((group) => {
          const { reach, first, following } = windowState(drawn.value!, shown.value, group.key);
          const list = following ?? listOf(drawn.value!, shown.value, group);
          const lie = new Set(group.units.flatMap((u) => slots.value[u.id] ?? []));
          const last = list.reduce((most, id, i) => (id !== null && lie.has(id) ? i + 1 : most), 0);
          return { group, reach, first, last, total: list.length };
        })
      : [],
  );
  /** Whether the desk is used: one that was never looked at marks nothing on the Sheet. */
  const used = ref(false);
  const underHands = stable(
    () => {
      if (!used.value && desks.kept.value.length === 0) return new Map<string, readonly number[]>();
      const many = desk.value.units.filter((u) => (slots.value[u.id]?.length ?? 0) > 0);
      const number = new Map(many.map((u, i) => [u.id, i + 1]));
      const marks = drawn.value ? marksOf(drawn.value, shown.value) : new Map<string, readonly string[]>();
      return new Map([...marks].map(([id, units]) => [id, units.map((u) => number.get(u) ?? 0)]));
    },
    (marks) => [...marks].join(' '),
  );
  useMarks().mark('units', () => underHands.value);

  /** Starts anew for another session. */
  function reset() {
    touches.clear();
    state = DESK_START;
    shown.value = state;
    for (const unit of desk.value.units) {
      const known = simulated.get(unit.id);
      if (known) simulated.set(unit.id, new SimulatedUnit(known.profile, (bytes) => hear(unit.id, bytes)));
    }
    monitor.clear();
    void loadRecent();
    refresh();
  }
  watch(() => session.id, reset);

  async function loadRecent() {
    try {
      const { sessions } = await ask<{ sessions: { id: string; name: string }[] }>('GET', '/sessions');
      recent.value = sessions.filter((s) => s.id !== session.id).slice(0, RECENT);
    } catch {
      // The list of sessions says by itself when the server is away.
      recent.value = [];
    }
  }
  const ready = ref(false);
  /** Reads the desks of the studio, and what else they need. */
  async function load() {
    await Promise.all([desks.load(), loadRecent()]);
    ready.value = true;
    answers.ask();
  }
  void load();

  return {
    ...desks,
    used,
    ready,
    load,
    simulated,
    ports,
    monitor,
    shown,
    field,
    slots,
    windows,
    unitName,
    hear,
    press,
    dropAll,
    refresh,
    reset,
    setDesk: desks.change,
    tap,
    touches,
    profiles,
    material,
    context,
  };
});
