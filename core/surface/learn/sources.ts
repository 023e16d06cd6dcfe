import type { MidiMessage } from '../../wire/midi';
import type { MidiAddress } from '../profile/fields';
import { addressKey } from '../profile/profile';

/** A message and when it came, in milliseconds. */
export interface HeardAt {
  readonly at: number;
  readonly message: MidiMessage;
}

/** Something of a device that speaks: all that it has said, in order. */
export interface Source {
  readonly key: string;
  readonly address: MidiAddress;
  /** Positions, 0 to the top; of a note the velocity, 0 for off. */
  readonly values: readonly { readonly at: number; readonly value: number }[];
  /** The highest value that it can say: 127, or 16383. */
  readonly top: number;
  /** Steps that were told by increments of a parameter, each with its sign. */
  readonly increments: readonly { readonly at: number; readonly value: 1 | -1 }[];
}

type Said = { readonly at: number; readonly value: number; readonly order: number };

/** Controllers that name a parameter, and those that then move it (MIDI 1.0 Detailed Specification, "Registered and non-registered parameter numbers"). */
const NAMING = new Set([98, 99, 100, 101]);
const MOVING = new Set([6, 38, 96, 97]);
/** From here on controllers are channel mode messages: all notes off and the like. */
const MODES = 120;

/** Two halves belong together where each upper one has a lower one so near, in milliseconds, … */
const NEAR = 30;
/** … for so large a share of them. */
const MOSTLY = 0.7;

/** How two controllers, 32 apart, make up one of 14 bits: which half comes first; null where they do not belong together. */
function pairing(upper: readonly Said[], lower: readonly Said[]): { readonly lowFirst: boolean } | null {
  let [near, from] = [0, 0];
  for (const u of upper) {
    while (from < lower.length && lower[from]!.at < u.at - NEAR) from++;
    if (from < lower.length && lower[from]!.at <= u.at + NEAR) near++;
  }
  if (near < MOSTLY * upper.length) return null;
  // Two controls that were moved one after the other meet at one moment alone.
  if (upper.length < 2 || lower.length < 2) {
    if (upper.length !== 1 || lower.length !== 1) return null;
    if (Math.abs(upper[0]!.order - lower[0]!.order) !== 1) return null;
  }
  // Halves of one position come close upon each other.
  const apart = (from: readonly Said[], to: readonly Said[]) => {
    let [sum, at] = [0, 0];
    for (const f of from) {
      while (at < to.length && to[at]!.order < f.order) at++;
      if (at < to.length) sum += Math.min(NEAR, to[at]!.at - f.at);
    }
    return sum / from.length;
  };
  const [plain, swapped] = [apart(upper, lower), apart(lower, upper)];
  if (Math.abs(plain - swapped) > 0.5) return { lowFirst: swapped < plain };
  // Put together in the wrong order the way goes back and forth; where it does not, whichever came first comes first.
  const detour = (lowFirst: boolean) => {
    const way = positions(upper, lower, lowFirst).map((s) => s.value);
    const gone = way.reduce((sum, v, i) => (i > 0 ? sum + Math.abs(v - way[i - 1]!) : 0), 0);
    return gone - Math.abs((way.at(-1) ?? 0) - (way[0] ?? 0));
  };
  const [straight, crossed] = [detour(false), detour(true)];
  if (straight !== crossed) return { lowFirst: crossed < straight };
  return { lowFirst: lower[0]!.order < upper[0]!.order };
}

/** Joins halves to positions. */
function positions(upper: readonly Said[], lower: readonly Said[], lowFirst: boolean): readonly Said[] {
  const all = [...upper.map((s) => ({ ...s, up: true })), ...lower.map((s) => ({ ...s, up: false }))].sort(
    (a, b) => a.order - b.order,
  );
  const joined: Said[] = [];
  let half: number | null = null;
  for (const { at, order, value, up } of all)
    if (up !== lowFirst) half = value;
    else if (half !== null) joined.push({ at, order, value: up ? (value << 7) | half : (half << 7) | value });
  return joined;
}

/**
 * Takes a stream apart into what speaks in it, in the order in which each spoke first. Real-time messages, programs, pressure, channel
 * mode messages, registered parameters and system exclusive are no controls: they are passed by.
 */
export function sourcesOf(heard: readonly HeardAt[]): readonly Source[] {
  const controllers = new Map<string, { channel: number; controller: number; said: Said[] }>();
  const others = new Map<
    string,
    { address: MidiAddress; top: number; said: Said[]; increments: { at: number; value: 1 | -1 }[] }
  >();
  const named = new Map<number, { high: number | null; low: number | null; upper: number }>();
  const other = (address: MidiAddress, top: number) => {
    const key = addressKey(address);
    let found = others.get(key);
    if (!found) others.set(key, (found = { address, top, said: [], increments: [] }));
    return found;
  };
  heard.forEach(({ at, message: m }, order) => {
    switch (m.type) {
      case 'noteOn':
      case 'noteOff':
        other({ type: 'note', channel: m.channel, note: m.note }, 127).said.push({
          at,
          order,
          value: m.type === 'noteOn' ? m.velocity : 0,
        });
        return;
      case 'pitchBend':
        other({ type: 'pitchBend', channel: m.channel }, 16383).said.push({ at, order, value: m.value });
        return;
      case 'controlChange': {
        const { channel, controller, value } = m;
        if (controller >= MODES) return;
        const name = named.get(channel) ?? { high: null, low: null, upper: 0 };
        if (NAMING.has(controller)) {
          if (controller === 99) named.set(channel, { ...name, high: value, upper: 0 });
          else if (controller === 98) named.set(channel, { ...name, low: value, upper: 0 });
          else named.set(channel, { high: 127, low: 127, upper: 0 });
          return;
        }
        const parameter = name.high !== null && name.low !== null ? (name.high << 7) | name.low : null;
        if (MOVING.has(controller) && parameter !== null) {
          // 16383 names none ("null function"), and so does a registered one here.
          if (parameter === 16383) return;
          const to = other({ type: 'parameter', channel, parameter }, 16383);
          if (controller === 96 || controller === 97)
            to.increments.push({ at, value: controller === 96 ? 1 : -1 });
          else {
            const upper = controller === 6 ? value : name.upper;
            named.set(channel, { ...name, upper });
            to.said.push({ at, order, value: (upper << 7) | (controller === 38 ? value : 0) });
          }
          return;
        }
        const key = `${channel} ${controller}`;
        let found = controllers.get(key);
        if (!found) controllers.set(key, (found = { channel, controller, said: [] }));
        found.said.push({ at, order, value });
        return;
      }
      default:
        return;
    }
  });

  const sources: { first: number; source: Source }[] = [];
  const add = (
    address: MidiAddress,
    top: number,
    said: readonly Said[],
    first: number,
    increments: Source['increments'] = [],
  ) =>
    sources.push({
      first,
      source: {
        key: addressKey(address),
        address,
        top,
        values: said.map(({ at, value }) => ({ at, value })),
        increments,
      },
    });
  const lowers = new Set<string>();
  for (const { channel, controller, said } of controllers.values()) {
    if (controller >= 32) continue;
    const key = `${channel} ${controller + 32}`;
    const lower = controllers.get(key);
    const pair = lower && pairing(said, lower.said);
    if (!pair) continue;
    lowers.add(key).add(`${channel} ${controller}`);
    add(
      { type: 'control14', channel, controller, lowFirst: pair.lowFirst },
      16383,
      positions(said, lower.said, pair.lowFirst),
      Math.min(said[0]!.order, lower.said[0]!.order),
    );
  }
  for (const [key, { channel, controller, said }] of controllers)
    if (!lowers.has(key)) add({ type: 'control', channel, controller }, 127, said, said[0]!.order);
  // What others said of itself has its own order; increments alone have none, and stand by their time.
  const orderAt = (time: number) => heard.findIndex((h) => h.at >= time);
  for (const { address, top, said, increments } of others.values())
    add(address, top, said, said[0]?.order ?? orderAt(increments[0]!.at), increments);
  return sources.sort((a, b) => a.first - b.first).map((s) => s.source);
}
