import { ICON_IDS } from '../naming/iconIds';
import { parseMidi, type MidiMessage, type MidiParserState } from '../wire/midi';
import { decode } from './decode';
import { keyRole } from './keys/registry';
import { addressKey, type Control, type SurfaceProfile } from './profile/profile';
import { UNIT_START, type UnitState } from './state';

/** What a monitor remembers of one way of a device's MIDI. */
export interface MonitorState {
  readonly parser: MidiParserState;
  readonly unit: UnitState;
}
export const MONITOR_START: MonitorState = { parser: UNIT_START.parser, unit: UNIT_START };

/** A control as it is called: `fader 3`, `key mute 4`, `encoder 2 of row 3`. */
export function controlName(control: Control): string {
  const n = 'position' in control && control.position !== null ? ` ${control.position + 1}` : '';
  switch (control.kind) {
    case 'key':
      return `key ${control.role === 'user' ? `user ${control.user}` : (keyRole(control.role)?.word.toLowerCase() ?? control.role)}${n}`;
    case 'encoder':
      return `encoder${n}${control.row ? ` of row ${control.row + 1}` : ''}`;
    case 'display':
      return `display ${control.shows}${n}`;
    default:
      return `${control.kind}${n}`;
  }
}

/** A message as it is, in words. */
export function plainMessage(m: MidiMessage): string {
  switch (m.type) {
    case 'noteOn':
      return `note ${m.note} on, channel ${m.channel}, velocity ${m.velocity}`;
    case 'noteOff':
      return `note ${m.note} off, channel ${m.channel}`;
    case 'controlChange':
      return `controller ${m.controller} → ${m.value}, channel ${m.channel}`;
    case 'pitchBend':
      return `pitch bend → ${m.value}, channel ${m.channel}`;
    case 'programChange':
      return `program ${m.program}, channel ${m.channel}`;
    case 'channelPressure':
      return `channel pressure ${m.pressure}, channel ${m.channel}`;
    case 'polyPressure':
      return `pressure ${m.pressure} on note ${m.note}, channel ${m.channel}`;
    case 'sysex':
      return `system exclusive, ${m.data.length} bytes`;
  }
}

const number = (n: number) => (n > 0 ? `+${n}` : n < 0 ? `−${-n}` : '0');

/** Names what came from a device: `fader 3 → 8123`, `key mute 4 down`; what belongs to no control is told as the message that it is. */
export function namesOfInput(
  profile: SurfaceProfile,
  state: MonitorState,
  bytes: Iterable<number>,
): { readonly state: MonitorState; readonly names: readonly string[] } {
  const { messages, state: parser } = parseMidi(state.parser, bytes);
  let unit = state.unit;
  const names: string[] = [];
  for (const m of messages) {
    const found = decode(profile, unit, m);
    const waits = found.unit !== unit;
    unit = found.unit;
    const { heard } = found;
    if (!heard) {
      if (!waits) names.push(`? ${plainMessage(m)}`);
      continue;
    }
    const name = controlName(heard.control);
    if (heard.part === 'touch') names.push(`${name} ${heard.value > 0 ? 'touched' : 'let go'}`);
    else if (heard.part === 'push' || heard.control.kind === 'key')
      names.push(`${name} ${heard.value > 0 ? 'down' : 'up'}`);
    else if (heard.steps !== 0 || (heard.control.kind === 'encoder' && heard.control.coding !== 'position'))
      names.push(`${name} ${number(heard.steps)}`);
    else names.push(`${name} → ${heard.value}`);
  }
  return { state: { parser, unit }, names };
}

const outputs = new WeakMap<SurfaceProfile, ReadonlyMap<string, readonly [control: Control, what: string]>>();
function outputsOf(profile: SurfaceProfile) {
  let known = outputs.get(profile);
  if (!known) {
    const map = new Map<string, readonly [Control, string]>();
    for (const c of profile.controls) {
      if (c.kind === 'fader' && c.out) map.set(addressKey(c.out), [c, 'to']);
      if (c.kind === 'meter') map.set(addressKey(c.address), [c, 'level']);
      if ((c.kind === 'key' || c.kind === 'encoder') && c.light)
        map.set(addressKey(c.light.address), [c, 'light']);
      if (c.kind === 'encoder' && c.ring) {
        map.set(addressKey(c.ring.address), [c, 'ring']);
        if (c.ring.style) map.set(addressKey(c.ring.style), [c, 'ring style']);
      }
    }
    outputs.set(profile, (known = map));
  }
  return known;
}
const startsWith = (data: readonly number[], prefix: readonly number[], cell: number) =>
  prefix.every((p, i) => data[i] === p) && data[prefix.length] === cell;

/** Names what was sent to a device: `fader 3 to 8123`, `key mute 4 light 127`, `display name 2 "Rim"`. */
export function namesOfOutput(
  profile: SurfaceProfile,
  state: MonitorState,
  bytes: Iterable<number>,
): { readonly state: MonitorState; readonly names: readonly string[] } {
  const { messages, state: parser } = parseMidi(state.parser, bytes);
  const known = outputsOf(profile);
  const upper: Record<string, number> = { ...state.unit.upper };
  const names: string[] = [];
  for (const m of messages) {
    if (m.type === 'sysex') {
      const found = profile.controls.find(
        (c) =>
          (c.kind === 'display' || c.kind === 'colour' || c.kind === 'icon') &&
          startsWith(m.data, c.prefix, c.cell ?? c.position ?? 0),
      );
      if (found?.kind === 'display')
        names.push(
          `${controlName(found)} “${String.fromCharCode(...m.data.slice(found.prefix.length + 1)).trim()}”`,
        );
      else if (found?.kind === 'icon')
        names.push(`${controlName(found)} ${ICON_IDS[m.data[found.prefix.length + 1] ?? 0] ?? '?'}`);
      else names.push(found ? controlName(found) : `? ${plainMessage(m)}`);
      continue;
    }
    const key =
      m.type === 'noteOn' || m.type === 'noteOff'
        ? `note ${m.channel} ${m.note}`
        : m.type === 'controlChange'
          ? `control ${m.channel} ${m.controller}`
          : m.type === 'pitchBend'
            ? `bend ${m.channel}`
            : '';
    const own = known.get(key);
    if (own?.[0].kind === 'fader' && own[0].out?.type === 'control14' && m.type === 'controlChange') {
      upper[own[0].id] = m.value;
      continue;
    }
    if (m.type === 'controlChange' && !own) {
      const high = known.get(`control ${m.channel} ${m.controller - 32}`);
      if (high?.[0].kind === 'fader') {
        names.push(`${controlName(high[0])} to ${((upper[high[0].id] ?? 0) << 7) | m.value}`);
        continue;
      }
    }
    if (!own) names.push(`? ${plainMessage(m)}`);
    else {
      const value = m.type === 'noteOn' ? m.velocity : m.type === 'noteOff' ? 0 : 'value' in m ? m.value : 0;
      names.push(`${controlName(own[0])} ${own[1]} ${value}`);
    }
  }
  return { state: { parser, unit: { ...state.unit, upper } }, names };
}
