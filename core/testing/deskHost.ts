import type { Id } from '../base/units';
import { apply } from '../edits/apply';
import { newDesk, type Desk } from '../surface/desk/desk';
import { validDesk } from '../surface/desk/validDesk';
import { feedback } from '../surface/feedback';
import { attend, gone, pressed, receive, tick, type Step } from '../surface/machine';
import type { Material } from '../surface/material';
import type { Control, SurfaceProfile } from '../surface/profile/profile';
import { standIns } from '../surface/stands/stands';
import { DESK_START, type DeskContext, type DeskState, type SurfaceAction } from '../surface/state';
import { slotsOf } from '../surface/window';
import type { Session } from '../session/types';
import { control14, midiBytes, MIDI_START, parseMidi, type MidiMessage } from '../wire/midi';

const NO_FACTS: Material = {};
type Key = Extract<Control, { kind: 'key' }>;

/** A host that carries out what a desk asks for, as a page does. */
export function deskHost(
  start: Session,
  units: readonly SurfaceProfile[] = [standIns[0]!],
  more: Partial<DeskContext> = {},
) {
  const profiles = new Map([...standIns, ...units].map((p) => [p.id, p]));
  let session = start;
  let desk: Desk = validDesk(newDesk('desk', 'Desk', units));
  let state: DeskState = DESK_START;
  let picked: readonly Id[] = [];
  let world: Partial<DeskContext> = more;
  let now = 0;
  const live = new Map<string, Session>();
  /** Drags that are kept when they have rested, or when anything else is kept. */
  const resting = new Set<string>();
  const actions: SurfaceAction[] = [];
  const out = new Map<string, number[]>();
  const profile = (id: string) => profiles.get(id);
  const shown = () => [...live.values()].at(-1) ?? session;
  const context = (): DeskContext => ({
    session: shown(),
    desk,
    profile,
    material: NO_FACTS,
    picked,
    focus: picked.at(-1) ?? null,
    transport: { rolling: false, position: 0, looping: false, loop: null },
    writing: [],
    meter: () => null,
    recent: [],
    undo: false,
    redo: false,
    now,
    ...world,
  });
  function answer() {
    const before = attend(context(), state);
    take(before);
    const a = feedback(context(), state);
    state = a.state;
    for (const [unit, bytes] of Object.entries(a.bytes)) out.set(unit, [...(out.get(unit) ?? []), ...bytes]);
  }
  function take(step: Step) {
    state = step.state;
    for (const a of step.actions) {
      actions.push(a);
      if (a.type === 'live' || a.type === 'settle') live.set(a.drag, apply(shown(), a.commands).session);
      if (a.type === 'settle') resting.add(a.drag);
      if (a.type === 'drop') live.delete(a.drag);
      if (a.type === 'commit') {
        if (resting.size && [...live.keys()].every((k) => resting.has(k))) {
          session = shown();
          live.clear();
          resting.clear();
        }
        live.delete(a.drag);
        session = apply(session, a.commands).session;
      }
      if (a.type === 'pick') picked = a.strips;
      if (a.type === 'desk') desk = { ...desk, ...a.patch };
    }
  }
  const unit = (n: number) => desk.units[n]!.id;
  const profileOf = (n: number) => profiles.get(desk.units[n]!.profile)!;
  const control = (n: number, find: (c: Control) => boolean): Control => {
    const found = profileOf(n).controls.find(find);
    if (!found) throw new Error('no such control');
    return found;
  };
  const keyOf = (n: number, role: string, position: number | null) =>
    control(
      n,
      (c) => c.kind === 'key' && (c.role === role || `user${c.user}` === role) && c.position === position,
    ) as Key;
  const noteBytes = (address: { readonly channel: number; readonly note?: number }, on: boolean) =>
    midiBytes({
      type: on ? 'noteOn' : 'noteOff',
      channel: address.channel,
      note: address.note!,
      velocity: on ? 127 : 0,
    });

  const host = {
    get session() {
      return shown();
    },
    get kept() {
      return session;
    },
    get state() {
      return state;
    },
    get desk() {
      return desk;
    },
    get picked() {
      return picked;
    },
    get now() {
      return now;
    },
    actions,
    context,
    unit,
    profileOf,
    /** Time passes; what rests is kept. */
    wait(ms: number) {
      now += ms;
      take(tick(context(), state));
      answer();
    },
    /** Drags that have rested are kept. */
    settle() {
      session = shown();
      live.clear();
      answer();
    },
    edit(next: Session) {
      session = next;
      live.clear();
      answer();
    },
    pick(ids: readonly Id[]) {
      picked = ids;
      answer();
    },
    set(patch: Partial<DeskContext>) {
      world = { ...world, ...patch };
      answer();
    },
    setDesk(patch: Partial<Desk>) {
      desk = { ...desk, ...patch };
      answer();
    },
    hear(bytes: readonly number[], n = 0) {
      take(receive(context(), state, unit(n), bytes));
      answer();
    },
    gone(n = 0) {
      take(gone(context(), state, unit(n)));
    },
    role(role: string, n = 0) {
      take(pressed(context(), state, role, unit(n)));
      answer();
    },
    key(role: string, position: number | null, on: boolean, n = 0) {
      host.hear(noteBytes(keyOf(n, role, position).in as { channel: number; note: number }, on), n);
    },
    push(role: string, position: number | null = null, n = 0) {
      host.key(role, position, true, n);
      host.key(role, position, false, n);
    },
    touch(position: number, on: boolean, n = 0) {
      const f = control(n, (c) => c.kind === 'fader' && c.position === position);
      if (f.kind === 'fader' && f.touch)
        host.hear(noteBytes(f.touch as { channel: number; note: number }, on), n);
    },
    move(position: number, value: number, n = 0) {
      const f = control(n, (c) => c.kind === 'fader' && c.position === position);
      if (f.kind !== 'fader') return;
      if (f.in.type === 'control14') host.hear(control14(f.in.channel, f.in.controller, value), n);
      else if (f.in.type === 'control')
        host.hear(
          midiBytes({
            type: 'controlChange',
            channel: f.in.channel,
            controller: f.in.controller,
            value: Math.round((value / 16383) * 127),
          }),
          n,
        );
    },
    /** An encoder is turned by so many detents. */
    turn(row: number, column: number, steps: number, n = 0) {
      const e = control(n, (c) => c.kind === 'encoder' && c.row === row && c.position === column);
      if (e.kind !== 'encoder' || e.in.type !== 'control') return;
      const value = e.coding === 'offset' ? 64 + steps : (steps + 128) & 127;
      host.hear(
        midiBytes({ type: 'controlChange', channel: e.in.channel, controller: e.in.controller, value }),
        n,
      );
    },
    pushEncoder(row: number, column: number, n = 0) {
      const e = control(n, (c) => c.kind === 'encoder' && c.row === row && c.position === column);
      if (e.kind !== 'encoder' || !e.push) return;
      for (const on of [true, false])
        host.hear(noteBytes(e.push as { channel: number; note: number }, on), n);
    },
    /** What was sent to a unit since this was asked last. */
    messages(n = 0): readonly MidiMessage[] {
      const bytes = out.get(unit(n)) ?? [];
      out.delete(unit(n));
      return parseMidi(MIDI_START, bytes).messages;
    },
    /** Ids under the faders of a unit; of all units without a number. */
    slots(n?: number): readonly (Id | null)[] {
      const all = slotsOf(context(), state);
      return n === undefined ? desk.units.flatMap((u) => all[u.id] ?? []) : (all[unit(n)] ?? []);
    },
    /** What a display was told last. */
    display(shows: string, position: number | null = null, n = 0): string {
      const d = control(n, (c) => c.kind === 'display' && c.shows === shows && c.position === position);
      return state.units[unit(n)]?.sent[d.id] ?? '';
    },
    light(role: string, position: number | null = null, n = 0): number {
      return Number(state.units[unit(n)]?.sent[keyOf(n, role, position).id] ?? 0);
    },
    /** The display of an encoder. */
    encoderText(shows: string, row: number, column: number, n = 0): string {
      const d = control(
        n,
        (c) =>
          c.kind === 'display' &&
          c.over === 'encoder' &&
          c.shows === shows &&
          c.row === row &&
          c.position === column,
      );
      return state.units[unit(n)]?.sent[d.id] ?? '';
    },
    material: (facts: Material) => host.set({ material: facts }),
  };
  answer();
  out.clear();
  return host;
}
