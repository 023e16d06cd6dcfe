import type { Id } from '../../base/units';
import type { Use } from './uses';

/** How strips lie on a desk: what decides how many presses it takes to reach one. */
export interface Arrangement {
  /** Faders of the window, those of the pins among them. */
  readonly width: number;
  readonly left: readonly Id[];
  readonly right: readonly Id[];
  /** What the window goes along. */
  readonly order: readonly Id[];
  /** What it can go along instead, by the key of a reach: everything. */
  readonly all: readonly Id[];
  readonly bankBy: 'width' | 'eight';
}
/** What uses cost. */
export interface Cost {
  /** Key presses in all. */
  readonly presses: number;
  /** Of each strip, and how often it was reached for. */
  readonly byStrip: ReadonlyMap<Id, { readonly presses: number; readonly uses: number }>;
}

/** Presses of the reach key: there and back again, for what lies in no place of the order. */
const ELSEWHERE = 2;

/** Places to which one press leads: bank, nudge and the ends, as the keys of the desk do (`movedFirst` in `window.ts`). */
function nextTo(first: number, count: number, room: number, bank: number): readonly number[] {
  const most = Math.max(0, count - 1);
  const lastBank = Math.floor(most / bank) * bank;
  const banked = (way: 1 | -1) =>
    Math.max(0, Math.min(Math.max(lastBank, Math.min(most, first)), first + way * bank));
  return [
    banked(1),
    banked(-1),
    Math.min(most, first + 1),
    Math.max(0, first - 1),
    0,
    Math.floor(most / room) * room,
  ];
}

/** The way from each place of a window to each strip: how many presses, and where it then stands. */
class Ways {
  private readonly known = new Map<number, readonly (readonly [presses: number, first: number])[]>();
  constructor(
    private readonly count: number,
    private readonly room: number,
    private readonly bank: number,
  ) {}
  /** By the place of a strip: the fewest presses, and of places that take as many the one that is reached first. */
  from(first: number): readonly (readonly [presses: number, first: number])[] {
    let found = this.known.get(first);
    if (found) return found;
    const { count, room, bank } = this;
    const to: [number, number][] = Array.from({ length: count }, () => [Infinity, first]);
    const seen = new Set([first]);
    let edge = [first];
    let left = count;
    for (let presses = 0; edge.length && left > 0; presses++) {
      for (const at of edge)
        for (let i = at; i < Math.min(count, at + room); i++)
          if (to[i]![0] === Infinity) {
            to[i] = [presses, at];
            left--;
          }
      edge = [...new Set(edge.flatMap((at) => nextTo(at, count, room, bank)))].filter((at) => !seen.has(at));
      for (const at of edge) seen.add(at);
    }
    this.known.set(first, (found = to));
    return found;
  }
}

/**
 * What it costs, in presses of keys, to bring each strip under a fader when it is reached for: none where it is pinned or lies in the window
 * already, else the fewest presses of bank, nudge and ends from where the window stands.
 * @param uses in the order of time; of strips that are no more nothing is counted
 */
export function costOf(uses: readonly Use[], a: Arrangement): Cost {
  const pinned = new Set([...a.left, ...a.right]);
  const room = Math.max(1, a.width - pinned.size);
  const list = a.order.filter((id) => !pinned.has(id));
  const all = a.all.filter((id) => !pinned.has(id));
  const place = new Map(list.map((id, i) => [id, i]));
  const placeInAll = new Map(all.map((id, i) => [id, i]));
  const bank = a.bankBy === 'eight' ? 8 : room;
  const ways = new Ways(list.length, room, bank);
  const waysInAll = new Ways(all.length, room, bank);
  const byStrip = new Map<Id, { presses: number; uses: number }>();
  let presses = 0;
  let first = 0;
  for (const { strip } of uses) {
    let cost = 0;
    if (!pinned.has(strip)) {
      const at = place.get(strip);
      if (at !== undefined) {
        const [far, to] = ways.from(first)[at]!;
        cost = far;
        first = to;
      } else {
        const there = placeInAll.get(strip);
        if (there === undefined) continue;
        cost = ELSEWHERE + waysInAll.from(0)[there]![0];
      }
    }
    presses += cost;
    const known = byStrip.get(strip) ?? { presses: 0, uses: 0 };
    byStrip.set(strip, { presses: known.presses + cost, uses: known.uses + 1 });
  }
  return { presses, byStrip };
}
