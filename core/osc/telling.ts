import { LIMITS } from '../base/limits';
import { Refusal } from '../base/refusal';
import { encodeOsc, type OscArgument, type OscMessage } from '../wire/osc';
import type { OscBranch, OscWorld } from './address';
import { oscFind, oscRoot } from './tree';

/** What a controller is told of that has not said what it wants to know. */
export const USUAL: readonly string[] = [
  '/bank/{first,size,total}',
  '/bank/*/{name,colour,level,mute,solo,pan}',
  '/bank/*/level/{travel,text}',
  '/bank/*/pan/travel',
  '/transport/{there,rolling,position,loop}',
  '/session/{name,strips,vcas}',
];
/** Patterns of one subscription at most, and addresses that they may mean together. */
const MOST_PATTERNS = 64;
const MOST_TOLD = 20_000;
/** Bytes of one datagram: what goes through any network whole. */
const DATAGRAM = 1400;

/** What a controller has asked to be told. */
export interface Subscription {
  readonly patterns: readonly string[];
  /** Switches as 1 and 0, and silence as −200: for controllers that know numbers alone. */
  readonly plain: boolean;
  /** Patterns are answered by names, not by numbers. */
  readonly byName: boolean;
  /** Where it wants to be told; null is where it spoke from. */
  readonly port: number | null;
}

/**
 * Reads what stands behind `/subscribe`: patterns, `plain`, `names`, and a number that is a port, in any order.
 * @throws Refusal
 */
export function subscriptionOf(asked: readonly OscArgument[]): Subscription {
  const refuse = () =>
    new Refusal('range', '`/subscribe` takes address patterns, `plain`, `names` and the number of a port.');
  const patterns: string[] = [];
  let [plain, byName, port] = [false, false, null as number | null];
  for (const a of asked) {
    if (typeof a === 'number' && Number.isInteger(a) && a >= 1024 && a <= 65535) port = a;
    else if (a === 'plain') plain = true;
    else if (a === 'names') byName = true;
    else if (typeof a === 'string' && a.startsWith('/')) patterns.push(a);
    else throw refuse();
  }
  if (patterns.length > MOST_PATTERNS)
    throw new Refusal('size', `\`/subscribe\` takes ${MOST_PATTERNS} patterns at most.`);
  return { patterns: patterns.length ? patterns : USUAL, plain, byName, port };
}

const inStyle = (value: OscArgument, plain: boolean): OscArgument =>
  !plain ? value : value === null ? LIMITS.lowestDb : typeof value === 'boolean' ? Number(value) : value;

/** What one controller has been told, and what it has yet to be told. */
export class Telling {
  private readonly told = new Map<string, { readonly from: object | null; readonly value: OscArgument }>();
  private readonly waiting = new Map<string, OscArgument>();
  private seen: OscWorld | null = null;

  constructor(readonly subscription: Subscription) {}

  /**
   * Finds what has changed. Of what the controller moves itself only the text is told: its own echo would push its finger.
   * @param moving addresses that it is moving
   */
  look(world: OscWorld, moving: ReadonlySet<string>): void {
    const { seen } = this;
    const same =
      seen?.session === world.session && seen.bank === world.bank && seen.transport === world.transport;
    if (same && moving.size === 0) return;
    this.seen = moving.size ? null : world;
    const root = oscRoot(world);
    let left = MOST_TOLD;
    for (const pattern of this.subscription.patterns) left -= this.lookAt(root, pattern, left, moving);
  }
  private lookAt(root: OscBranch, pattern: string, most: number, moving: ReadonlySet<string>): number {
    const leaves = oscFind(root, pattern, { most, byName: this.subscription.byName });
    for (const leaf of leaves) {
      const { address, from, tell } = leaf;
      if (!tell || moving.has(address)) continue;
      const before = this.told.get(address);
      // Where nothing that it follows from has changed, it is as it was.
      if (before && from !== null && before.from === from) continue;
      const value = tell();
      this.told.set(address, { from, value });
      if (!before || !Object.is(before.value, value)) this.waiting.set(address, value);
    }
    return leaves.length;
  }
  /** Takes note of what the controller has put an address to itself. */
  heard(address: string, value: OscArgument): void {
    this.told.set(address, { from: null, value: typeof value === 'number' ? Math.fround(value) : value });
    this.waiting.delete(address);
  }

  /** The next of what waits, as much as fits into one datagram; empty where nothing does. */
  next(): readonly OscMessage[] {
    const messages: OscMessage[] = [];
    let bytes = 16;
    for (const [address, value] of this.waiting) {
      const message = { address, args: [inStyle(value, this.subscription.plain)] };
      bytes += 4 + encodeOsc(message).length;
      if (bytes > DATAGRAM && messages.length) break;
      messages.push(message);
      this.waiting.delete(address);
    }
    return messages;
  }
}
