import type { ControlRef } from '../../automation/control';
import type { Id, Travel } from '../../base/units';
import type { Command } from '../../edits/commands';
import type { Control, ControlValue } from '../../session/controls';
import type { RingStyle } from '../profile/fields';

/** What one encoder, or a fader that was flipped, steers: as it stands now, and what moves it. */
export interface Binding {
  /** Names the control: the same as long as it is the same one. */
  readonly key: string;
  /** The strip or VCA that it is of. */
  readonly owner: Id;
  readonly name: string;
  readonly text: string;
  readonly control: Control;
  readonly value: ControlValue;
  /** Where its value stands on its way. */
  readonly travel: Travel;
  /** What moving it is called in the history. */
  readonly label: string;
  /** How a ring of lights shows it. */
  readonly ring: RingStyle;
  /** What automation calls it; null where automation cannot move it. */
  readonly ref: ControlRef | null;
  /** The insert that it belongs to, whose editor follows the hands. */
  readonly insert?: Id;
  /** The edit that so many detents make; fine ones are a tenth of them. */
  turn(detents: number, fine: boolean): readonly Command[];
  /** The edit that sets it to a value, brought into its range. */
  set(value: ControlValue): readonly Command[];
  /** The edit that brings it to a place of its way, to the finest of 14 bits. */
  put(travel: Travel): readonly Command[];
  /** Where on its way it then stands: a value is as fine as its control can be set, and no finer. */
  lands(travel: Travel): Travel;
  toDefault(): readonly Command[];
  /** What a push does: a switch switches, all else goes to its default. */
  push(): readonly Command[];
  /** What lies on the same encoder while the second function is held. */
  readonly second?: Binding;
}

/** Detents across the whole way of a control. */
const DETENTS = 100;

export interface Bound {
  readonly key: string;
  readonly owner: Id;
  readonly name: string;
  readonly label: string;
  readonly control: Control;
  readonly value: ControlValue;
  /** The least step of a detent, in the control's unit. */
  readonly grain: number;
  /** The finest step to which it can be set; left out: a tenth of the least of a detent. */
  readonly finest?: number;
  readonly ref?: ControlRef | null;
  readonly insert?: Id;
  readonly ring?: RingStyle;
  readonly text?: string;
  set(value: ControlValue): readonly Command[];
  readonly second?: Binding;
}

const rounded = (value: ControlValue, grain: number): ControlValue =>
  value === null ? null : Number((Math.round(value / grain) * grain).toPrecision(12));
const within = (c: Control, value: ControlValue): ControlValue =>
  value === null ? null : Math.max(c.min, Math.min(c.max, value));

/** A ring's style by the law: a switch or choice is a dot; what rests in its middle opens from there; all else from the left. */
export function ringOf(c: Control): RingStyle {
  if (c.stepped) return 'dot';
  const middle = c.travelOf(c.default);
  return c.min < c.default && c.max > c.default && Math.abs(middle - 0.5) < 0.02 ? 'centre' : 'left';
}

/** The value after so many detents: a hundredth of the way each, at least one grain; one choice a detent. */
export function turnedValue(
  c: Control,
  value: ControlValue,
  detents: number,
  fine: boolean,
  grain: number,
): ControlValue {
  const way = Math.sign(detents);
  if (way === 0) return value;
  if (c.stepped) return within(c, (value ?? c.min) + way * Math.max(1, Math.floor(Math.abs(detents))));
  const least = fine ? grain / 10 : grain;
  const from = c.travelOf(value);
  const next = within(
    c,
    rounded(c.valueAt(Math.max(0, Math.min(1, from + detents / DETENTS / (fine ? 10 : 1)))), least),
  );
  if (next !== value) return next;
  // Where the way is steep or flat a detent still does something, up to the end.
  if (value === null) return way > 0 ? c.min : null;
  return within(c, rounded(value + way * least, least));
}

/** A binding of a control that lies somewhere in the session. */
export function bound(b: Bound): Binding {
  const { control: c, value, set } = b;
  const reset = () => set(c.default);
  const placed = (travel: Travel): ControlValue => {
    const at = Math.max(0, Math.min(1, travel));
    // The ends are the ends, whatever rounding makes of them.
    return at === 0 || at === 1 ? c.valueAt(at) : within(c, rounded(c.valueAt(at), b.finest ?? b.grain / 10));
  };
  return {
    key: b.key,
    owner: b.owner,
    name: b.name,
    text: b.text ?? c.text(value),
    control: c,
    value,
    travel: c.travelOf(value),
    label: b.label,
    ring: b.ring ?? ringOf(c),
    ref: b.ref ?? null,
    ...(b.insert === undefined ? {} : { insert: b.insert }),
    ...(b.second ? { second: b.second } : {}),
    turn: (detents, fine) => set(turnedValue(c, value, detents, fine, b.grain)),
    set: (to) => set(within(c, c.stepped && to !== null ? Math.round(to) : to)),
    put: (travel) => set(placed(travel)),
    lands: (travel) => c.travelOf(placed(travel)),
    toDefault: reset,
    push: c.stepped && c.min === 0 && c.max === 1 ? () => set(value ? 0 : 1) : reset,
  };
}
