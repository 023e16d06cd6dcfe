import { ICON_IDS } from '../naming/iconIds';
import { fieldOf } from './encoders/field';
import { fadedOf } from './faded';
import { isHeld } from './keys/key';
import { keyRole } from './keys/registry';
import { markLit, markOf, type Lit } from './marks';
import type { Light } from './profile/fields';
import { RINGS } from './profile/fields';
import type { Control } from './profile/profile';
import { BLINK_MS, HOLD_MS, unitState, type DeskContext, type DeskState, type UnitState } from './state';
import { slotsOf } from './window';
import { addressBytes, valueBytes, lightValue, textBytes, colourBytes, iconBytes } from './bytesOut';
import { Telling, displayText, shapeOf } from './displays';

export interface Answer {
  readonly state: DeskState;
  /** Bytes for each unit to which anything has to be said. */
  readonly bytes: Readonly<Record<string, readonly number[]>>;
  /** In how many milliseconds something shown ends or blinks, so that it has to be asked again; null where nothing does. */
  readonly again: number | null;
}

/** How long a motor waits for a hand that cannot be told to have gone. */
const FIGHTS_MS = 300;
/** Half a hundredth of a decibel in steps of 14 bits, where the fader law is steepest, and one for rounding. */
const FADER_SLACK = 3;

const DARK = '#000000';
/**
 * What has to be sent so that every device shows the session: only what differs from what it was sent last. A fader with a hand on it is
 * left alone.
 */
export function feedback(context: DeskContext, state: DeskState): Answer {
  const field = fieldOf(context, state);
  const slots = slotsOf(context, state);
  const telling = new Telling(context, state, field);
  const bytes: Record<string, readonly number[]> = {};
  const units: Record<string, UnitState> = { ...state.units };
  const { now } = context;
  let again = Infinity;
  const until = (time: number) => {
    if (time > now) again = Math.min(again, time - now);
  };
  if (state.message) until(state.message.until);
  for (const s of Object.values(state.shown)) until(s.until);
  for (const u of Object.values(state.units))
    for (const d of Object.values(u.down))
      if (keyRole(d.role)?.hold && !d.fired && !d.used) until(d.since + HOLD_MS);

  for (const unit of context.desk.units) {
    const profile = context.profile(unit.profile);
    if (!profile) continue;
    const u = unitState(state, unit.id);
    const shape = shapeOf(context, unit, profile);
    const own = slots[unit.id] ?? [];
    const sent: Record<string, string> = { ...u.sent };
    const heard: Record<string, number> = { ...u.heard };
    const out: number[] = [];
    const send = (id: string, key: string, make: () => readonly number[]) => {
      if (sent[id] === key) return;
      sent[id] = key;
      out.push(...make());
    };
    const shine = (id: string, light: Light | null, lit: Lit) => {
      if (!light) return;
      if (lit === 'blink') until((Math.floor(now / BLINK_MS) + 1) * BLINK_MS);
      const value = lightValue(light, lit, now);
      send(id, String(value), () => valueBytes(light.address, value));
    };
    for (const control of profile.controls) answer(control);

    function answer(control: Control): void {
      switch (control.kind) {
        case 'fader': {
          if (!control.out || control.id in u.grips) return;
          // A hand that cannot be told is taken to rest there for a moment after it moved the fader.
          const last = u.moved[control.id];
          if (last !== undefined && now - last < FIGHTS_MS) return until(last + FIGHTS_MS);
          const binding = field.faders[unit.id]?.[control.position];
          const at = binding ? Math.round(binding.travel * 16383) : 0;
          // Where the hand has just put it, give or take the rounding of the value, it stands already.
          const standing = heard[control.id];
          if (standing !== undefined && Math.abs(standing - at) <= FADER_SLACK) {
            sent[control.id] = String(at);
            return;
          }
          // The device may have been moved since it was sent there.
          sent[control.id] = '';
          send(control.id, String(at), () => addressBytes(control.out!, at / 16383));
          heard[control.id] = at;
          return;
        }
        case 'encoder': {
          const found = field.encoders[unit.id]?.[control.id] ?? null;
          const binding = found && isHeld(state, 'second') && found.second ? found.second : found;
          shine(`${control.id} light`, control.light, markLit(markOf(context, binding?.ref ?? null)));
          if (!control.ring) return;
          const { address, style, styles } = control.ring;
          if (style) {
            const shownAs = binding && styles.includes(binding.ring) ? binding.ring : (styles[0] ?? 'left');
            const code = RINGS.indexOf(shownAs);
            send(`${control.id} style`, String(code), () => valueBytes(style, code));
          }
          const at = binding ? Math.round(binding.travel * 126) + 1 : 0;
          send(control.id, String(at), () => addressBytes(address, at / 127));
          return;
        }
        case 'key': {
          if (!control.light) return;
          const faded =
            control.position === null ? null : (fadedOf(context.session, own[control.position]) ?? null);
          const role = keyRole(control.role);
          const found =
            control.role === 'user'
              ? context.desk.userKeys.some((k) => k.key === control.user && k.layer === state.layer)
              : false;
          const lit = found ? 'dim' : (role?.lit(context, state, { unit: unit.id, faded }) ?? 'off');
          shine(control.id, control.light, lit);
          return;
        }
        case 'display': {
          const text = displayText(context, state, unit.id, shape, control, field, own, telling);
          send(control.id, text, () =>
            textBytes(control.prefix, control.cell ?? control.position ?? 0, text, control.characters),
          );
          return;
        }
        case 'icon':
        case 'colour': {
          const owner =
            control.over === 'fader'
              ? own[control.position]
              : field.encoders[unit.id]?.[
                  shape.encoders.find((c) => c.row === control.row && c.position === control.position)?.id ??
                    ''
                ]?.owner;
          const cell = control.cell ?? control.position;
          const faded = fadedOf(context.session, owner);
          if (control.kind === 'icon') {
            const icon = ICON_IDS.indexOf(faded?.icon ?? 'none');
            send(control.id, String(icon), () => iconBytes(control.prefix, cell, icon));
            return;
          }
          const hex = faded?.colour ?? DARK;
          send(control.id, hex, () => colourBytes(control.prefix, cell, hex));
          return;
        }
        case 'meter': {
          const id = own[control.position];
          const level = id ? context.meter(id) : null;
          const at =
            level === null || level < -60
              ? 0
              : Math.max(1, Math.min(127, Math.round(((level + 60) / 60) * 126) + 1));
          send(control.id, String(at), () => addressBytes(control.address, at / 127));
          return;
        }
      }
    }
    units[unit.id] = { ...u, sent, heard };
    if (out.length) bytes[unit.id] = out;
  }
  const shown = Object.values(state.shown).every((x) => x.until > now)
    ? state.shown
    : Object.fromEntries(Object.entries(state.shown).filter(([, x]) => x.until > now));
  return { state: { ...state, units, shown }, bytes, again: Number.isFinite(again) ? again : null };
}
