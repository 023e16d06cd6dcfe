import type { Id } from '../base/units';
import type { Command } from '../edits/commands';
import { valueOf } from '../processors/description';
import { processorOf } from '../processors/registry';
import {
  insertControl,
  insertControls,
  SEND_CONTROLS,
  STRIP_CONTROLS,
  VCA_CONTROLS,
  type Control,
  type ControlValue,
} from '../session/controls';
import { nameOf, stripMap } from '../session/lookup';
import type { AutomationMode, Insert, Lane, Lanes, Send, Session, Strip, Vca } from '../session/types';

/** Names one control of a session: of a strip, of one of its sends or inserts, or of a VCA. */
export interface ControlRef {
  readonly part: 'strip' | 'send' | 'insert' | 'vca';
  /** The strip, or the VCA. */
  readonly owner: Id;
  /** The send or the insert; null for a control of the owner itself. */
  readonly id: Id | null;
  readonly control: string;
}

export const refKey = (r: ControlRef): string => `${r.part} ${r.owner} ${r.id ?? ''} ${r.control}`;

/** A control where it stands: its description, its value as it was put, and its lane. */
export interface PlacedControl {
  readonly ref: ControlRef;
  readonly control: Control;
  readonly mode: AutomationMode;
  readonly value: ControlValue;
  readonly lane: Lane | null;
  /** The lanes of what it belongs to. */
  readonly lanes: Lanes;
}

const number = (on: boolean) => (on ? 1 : 0);
const stripValue = (s: Strip | Vca, control: string): ControlValue =>
  control === 'fader' ? s.faderDb : control === 'mute' ? number(s.mute) : (s as Strip).pan;
const sendValue = (x: Send, control: string): ControlValue =>
  control === 'level' ? x.levelDb : control === 'on' ? number(x.on) : x.pan;
const insertValue = (i: Insert, control: string): ControlValue => {
  if (control === 'on') return number(i.on);
  if (control === 'mix') return i.mix;
  const p = processorOf(i.type).parameters.find((x) => x.id === control)!;
  return valueOf(p, i.params);
};

const place = (
  ref: ControlRef,
  control: Control,
  lanes: Lanes,
  mode: AutomationMode,
  value: ControlValue,
): PlacedControl => ({ ref, control, mode, value, lane: lanes[control.id] ?? null, lanes });
const placeOwn = (part: 'strip' | 'vca', s: Strip | Vca, control: Control): PlacedControl =>
  place(
    { part, owner: s.id, id: null, control: control.id },
    control,
    s.lanes,
    s.automation,
    stripValue(s, control.id),
  );
const placeSend = (s: Strip, x: Send, control: Control): PlacedControl =>
  place(
    { part: 'send', owner: s.id, id: x.id, control: control.id },
    control,
    x.lanes,
    s.automation,
    sendValue(x, control.id),
  );
const placeInsert = (s: Strip, i: Insert, control: Control): PlacedControl =>
  place(
    { part: 'insert', owner: s.id, id: i.id, control: control.id },
    control,
    i.lanes,
    s.automation,
    insertValue(i, control.id),
  );

/** All that automation can move in a strip: its own controls, those of its sends, then those of its inserts. */
export const stripControls = (s: Strip): readonly PlacedControl[] => [
  ...STRIP_CONTROLS.map((c) => placeOwn('strip', s, c)),
  ...s.sends.flatMap((x) => SEND_CONTROLS.map((c) => placeSend(s, x, c))),
  ...s.inserts.flatMap((i) => insertControls(i.type).map((c) => placeInsert(s, i, c))),
];
export const vcaControls = (v: Vca): readonly PlacedControl[] =>
  VCA_CONTROLS.map((c) => placeOwn('vca', v, c));

/** @returns undefined where there is no such control (any more) */
export function findControl(session: Session, ref: ControlRef): PlacedControl | undefined {
  const named = (list: readonly Control[]) => list.find((c) => c.id === ref.control);
  if (ref.part === 'vca') {
    const vca = session.vcas.find((v) => v.id === ref.owner);
    const control = named(VCA_CONTROLS);
    return vca && control && ref.id === null ? placeOwn('vca', vca, control) : undefined;
  }
  const strip = stripMap(session).get(ref.owner);
  if (!strip) return undefined;
  switch (ref.part) {
    case 'strip': {
      const control = named(STRIP_CONTROLS);
      return control && ref.id === null ? placeOwn('strip', strip, control) : undefined;
    }
    case 'send': {
      const send = strip.sends.find((x) => x.id === ref.id);
      const control = named(SEND_CONTROLS);
      return send && control && placeSend(strip, send, control);
    }
    case 'insert': {
      const insert = strip.inserts.find((i) => i.id === ref.id);
      const control = insert && insertControl(insert.type, ref.control);
      return control && placeInsert(strip, insert, control);
    }
  }
}

/** A control as it is called in its strip: `Level`, `Send level to Plate`, `Compressor: threshold`. */
export function controlName(session: Session, ref: ControlRef): string {
  const found = findControl(session, ref);
  const own = found?.control.name ?? ref.control;
  const strip = stripMap(session).get(ref.owner);
  if (ref.part === 'send') {
    const to = strip?.sends.find((x) => x.id === ref.id)?.to;
    return to ? `${own === 'Pan' ? 'Send pan' : own} to ${nameOf(session, to)}` : own;
  }
  if (ref.part === 'insert') {
    const insert = strip?.inserts.find((i) => i.id === ref.id);
    return insert ? `${processorOf(insert.type).name}: ${own.toLowerCase()}` : own;
  }
  return own;
}

/** The edit that gives a control's owner these lanes. */
export function lanesCommand(ref: ControlRef, lanes: Lanes): Command {
  switch (ref.part) {
    case 'strip':
      return { type: 'strip.set', id: ref.owner, patch: { lanes } };
    case 'vca':
      return { type: 'vca.set', id: ref.owner, patch: { lanes } };
    case 'send':
      return { type: 'send.set', strip: ref.owner, id: ref.id!, patch: { lanes } };
    case 'insert':
      return { type: 'insert.set', strip: ref.owner, id: ref.id!, patch: { lanes } };
  }
}
