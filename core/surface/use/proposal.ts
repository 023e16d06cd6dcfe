import type { Id } from '../../base/units';
import { costOf, type Arrangement, type Cost } from './cost';
import type { Use } from './uses';

/** An arrangement that costs less, and what both cost. */
export interface Proposal {
  readonly today: Cost;
  readonly arrangement: Arrangement;
  readonly cost: Cost;
}

/** Pins that a proposal has at most: the window has to keep room for what moves. */
const pinsAtMost = (width: number) => Math.max(0, Math.min(4, Math.floor(width / 3)));
/** Exchanges that are tried. */
const TRIALS = 240;

/** How often each strip was reached for, the most first; of those that were as often, the one that was first. */
function byUse(uses: readonly Use[]): readonly Id[] {
  const counts = new Map<Id, number>();
  for (const { strip } of uses) counts.set(strip, (counts.get(strip) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1]).map(([id]) => id);
}
/** Banks of what is reached for one after the other: each begins with what is used most, and takes what goes with it. */
function banked(uses: readonly Use[], ids: readonly Id[], room: number): readonly Id[] {
  const together = new Map<string, number>();
  for (let i = 1; i < uses.length; i++) {
    const key = [uses[i - 1]!.strip, uses[i]!.strip].sort().join('\n');
    together.set(key, (together.get(key) ?? 0) + 1);
  }
  const between = (a: Id, b: Id) => together.get([a, b].sort().join('\n')) ?? 0;
  const rank = new Map(ids.map((id, i) => [id, i]));
  const left = new Set(ids);
  const order: Id[] = [];
  while (left.size) {
    const bank: Id[] = [[...left][0]!];
    left.delete(bank[0]!);
    while (bank.length < room && left.size) {
      const best = [...left].sort(
        (a, b) =>
          bank.reduce((sum, x) => sum + between(x, b) - between(x, a), 0) || rank.get(a)! - rank.get(b)!,
      )[0]!;
      bank.push(best);
      left.delete(best);
    }
    // Within a bank all cost the same: they stand as they did.
    order.push(...bank);
  }
  return order;
}

/** A sequence that looks random and is the same each time (Park and Miller, "minimal standard", CACM 31, 1988). */
function* numbers() {
  let x = 20261128;
  for (;;) yield (x = (x * 16807) % 2147483647);
}

/**
 * Looks for pins and an order that would have cost fewer presses: what is used most at the edges, what is used together in banks, and then
 * exchanges as long as they save something. It is never worse than today's, which is returned where nothing better is found.
 */
export function propose(uses: readonly Use[], today: Arrangement): Proposal {
  const now = costOf(uses, today);
  let best: { arrangement: Arrangement; cost: Cost } = { arrangement: today, cost: now };
  const consider = (arrangement: Arrangement): boolean => {
    const cost = costOf(uses, arrangement);
    if (cost.presses >= best.cost.presses) return false;
    best = { arrangement, cost };
    return true;
  };
  const used = byUse(uses).filter((id) => today.all.includes(id));
  const keepLeft = today.left;
  const free = used.filter((id) => !today.left.includes(id) && !today.right.includes(id));
  const inOrder = (ids: readonly Id[]) => {
    const at = new Map(today.all.map((id, i) => [id, i]));
    return [...ids].sort((a, b) => at.get(a)! - at.get(b)!);
  };
  const most = Math.max(0, pinsAtMost(today.width) - today.left.length - today.right.length);
  for (let pins = 0; pins <= most; pins++) {
    const left = [...keepLeft, ...inOrder(free.slice(0, pins))];
    const room = Math.max(1, today.width - left.length - today.right.length);
    const rest = free.slice(pins);
    const never = today.all.filter((id) => !used.includes(id));
    const banks = banked(uses, rest, room);
    // In each bank they stand as they do on the Sheet.
    const sorted = Array.from({ length: Math.ceil(banks.length / room) }, (_, k) =>
      inOrder(banks.slice(k * room, (k + 1) * room)),
    ).flat();
    consider({ ...today, left, order: today.order });
    consider({ ...today, left, order: [...sorted, ...never] });
    consider({ ...today, left, order: [...inOrder(rest), ...never] });
  }
  if (best.cost.presses === 0) return { today: now, ...best };
  const random = numbers();
  const length = Math.min(best.arrangement.order.length, used.length);
  for (let n = 0; n < TRIALS && length > 1; n++) {
    const order = [...best.arrangement.order];
    const i = (random.next().value as number) % length;
    const j = (random.next().value as number) % order.length;
    [order[i], order[j]] = [order[j]!, order[i]!];
    consider({ ...best.arrangement, order });
  }
  return { today: now, ...best };
}
