import type { MidiMessage } from '../wire/midi';
import type { MidiAddress } from './profile/fields';
import {
  addressKey,
  inputsOf,
  type Control,
  type EncoderControl,
  type SurfaceProfile,
} from './profile/profile';
import type { UnitState } from './state';

/** What a message says of a control: which part of it, and to where, 0..1 of its whole way; of steps, how many. */
export interface Heard {
  readonly control: Control;
  readonly part: 'in' | 'push' | 'touch';
  /** 0..16383 of a position; 0 or more of a note: its velocity. */
  readonly value: number;
  /** Detents of an endless encoder, clockwise. */
  readonly steps: number;
}

interface Place {
  readonly control: Control;
  readonly part: 'in' | 'push' | 'touch';
  readonly address: MidiAddress;
}
interface Inputs {
  readonly byKey: ReadonlyMap<string, Place>;
  /** Channels on which non-registered parameters are listened to. */
  readonly parameters: ReadonlySet<number>;
}
const tables = new WeakMap<SurfaceProfile, Inputs>();
/** What each message of a device is, found once for a profile. */
function inputsFor(profile: SurfaceProfile): Inputs {
  let known = tables.get(profile);
  if (!known) {
    const byKey = new Map<string, Place>();
    const parameters = new Set<number>();
    for (const control of profile.controls)
      for (const [part, address] of inputsOf(control)) {
        const place: Place = { control, part: part as Place['part'], address };
        byKey.set(addressKey(address), place);
        if (address.type === 'control14')
          byKey.set(addressKey({ ...address, controller: address.controller + 32 }), place);
        if (address.type === 'parameter') parameters.add(address.channel);
      }
    tables.set(profile, (known = { byKey, parameters }));
  }
  return known;
}

/** Steps that a seven-bit value tells, by the coding: 64 or 0 is no move. (Common practice, no published source.) */
export function stepsOf(coding: EncoderControl['coding'], value: number): number {
  switch (coding) {
    case 'offset':
      return value - 64;
    case 'twos':
      return value < 64 ? value : value - 128;
    case 'signBit':
      return value & 64 ? -(value & 63) : value & 63;
    case 'increments':
    case 'position':
      return 0;
  }
}

/** A position as its control's whole way has it: from end to end, and the right way round. */
function onItsWay(control: Control, value: number): number {
  if (control.kind !== 'fader' && control.kind !== 'encoder') return value;
  const { range, reversed } = control;
  const at = range
    ? Math.round(Math.max(0, Math.min(1, (value - range.low) / (range.high - range.low))) * 16383)
    : value;
  return reversed ? 16383 - at : at;
}
const place = (p: Place, value: number, steps = 0): Heard => ({
  control: p.control,
  part: p.part,
  value: p.part === 'in' ? onItsWay(p.control, value) : value,
  steps: p.control.kind === 'encoder' && p.control.reversed ? -steps : steps,
});

/**
 * What a message says of which control, and what has to be remembered for the next: of 14 bits the half that comes first waits for the other, and
 * a non-registered parameter is named before its value comes ("MIDI 1.0 Detailed Specification", control changes 6, 38, 98 and 99).
 */
export function decode(
  profile: SurfaceProfile,
  unit: UnitState,
  m: MidiMessage,
): { readonly unit: UnitState; readonly heard: Heard | null } {
  const { byKey, parameters } = inputsFor(profile);
  switch (m.type) {
    case 'noteOn':
    case 'noteOff': {
      const p = byKey.get(`note ${m.channel} ${m.note}`);
      return { unit, heard: p ? place(p, m.type === 'noteOn' ? m.velocity : 0) : null };
    }
    case 'pitchBend': {
      const p = byKey.get(`bend ${m.channel}`);
      return { unit, heard: p ? place(p, m.value) : null };
    }
    case 'controlChange': {
      if (parameters.has(m.channel)) {
        const found = parameter(byKey, unit, m);
        if (found) return found;
      }
      const p = byKey.get(`control ${m.channel} ${m.controller}`);
      if (!p) return { unit, heard: null };
      if (p.address.type === 'control14') {
        // The half that comes first waits for the other.
        const upper = m.controller === p.address.controller;
        if (upper !== p.address.lowFirst)
          return { unit: { ...unit, upper: { ...unit.upper, [p.control.id]: m.value } }, heard: null };
        const half = unit.upper[p.control.id];
        if (half === undefined) return { unit, heard: null };
        return { unit, heard: place(p, upper ? (m.value << 7) | half : (half << 7) | m.value) };
      }
      if (p.control.kind === 'encoder' && p.part === 'in' && p.control.coding !== 'position')
        return { unit, heard: place(p, 0, stepsOf(p.control.coding, m.value)) };
      if (p.control.kind === 'key' || p.part !== 'in') return { unit, heard: place(p, m.value) };
      return { unit, heard: place(p, Math.round((m.value / 127) * 16383)) };
    }
    default:
      return { unit, heard: null };
  }
}

function parameter(
  byKey: ReadonlyMap<string, Place>,
  unit: UnitState,
  m: Extract<MidiMessage, { type: 'controlChange' }>,
): { readonly unit: UnitState; readonly heard: Heard | null } | null {
  const now = unit.named[m.channel] ?? { high: 127, low: 127, value: null };
  const to = (named: typeof now): UnitState => ({ ...unit, named: { ...unit.named, [m.channel]: named } });
  if (m.controller === 99) return { unit: to({ ...now, high: m.value, value: null }), heard: null };
  if (m.controller === 98) return { unit: to({ ...now, low: m.value, value: null }), heard: null };
  // A registered one is named: what comes next is not of these.
  if (m.controller === 101 || m.controller === 100)
    return { unit: to({ high: 127, low: 127, value: null }), heard: null };
  const p = byKey.get(`parameter ${m.channel} ${(now.high << 7) | now.low}`);
  if (!p) return null;
  if (m.controller === 96 || m.controller === 97) {
    const steps = p.control.kind === 'encoder' && p.control.coding === 'increments';
    return { unit, heard: steps ? place(p, 0, m.controller === 96 ? 1 : -1) : null };
  }
  if (m.controller !== 6 && m.controller !== 38) return null;
  // The upper half may come alone; the lower one makes it finer.
  const upper = m.controller === 6 ? m.value : (now.value ?? 0);
  const lower = m.controller === 38 ? m.value : 0;
  return { unit: to({ ...now, value: upper }), heard: place(p, (upper << 7) | lower) };
}
