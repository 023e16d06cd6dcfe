import type { RemoteInfo } from 'node:dgram';
import { isBundle, readOsc, type OscMessage, type OscPacket } from '../../core/wire/osc';

/** Packets that are read in a second: beyond that they are counted and thrown away unread. */
export const MOST_PACKETS = 20_000;
/** Messages that wait for the next turn at most: as many as there are addresses, as of one address the last holds. */
export const MOST_WAITING = 20_000;
/** Bundles that may wait for their time, and for how long. */
const MOST_LATER = 1000;
const LATEST_MS = 60_000;

/** A message with where it came from. */
export interface Heard {
  readonly from: RemoteInfo;
  readonly message: OscMessage;
  /** The packet that it came in: what comes together is one move. */
  readonly packet: number;
}

/** What of an address does something each time that it comes, and not where it last stands. */
const isAction = (address: string) =>
  /^\/(undo|redo|subscribe|unsubscribe|pair|session|transport)(\/|$)/.test(address) ||
  /^\/bank\/(left|right)$/.test(address);
/** Actions that wait for one turn. */
const MOST_ACTIONS = 200;

/** Takes packets in, as fast as they come: of each address of each controller the last message is kept, until it is dealt with. */
export class Intake {
  private waiting = new Map<string, Heard>();
  private actions = 0;
  private packets = 0;
  private second = 0;
  private count = 0;
  private readonly later = new Set<NodeJS.Timeout>();
  /** Messages that were taken since it began, and what was thrown away: as there was too much, or as it was no packet. */
  taken = 0;
  dropped = 0;
  broken = 0;

  constructor(
    /** Something waits for the next turn. */
    private readonly arrived: () => void,
    private readonly refuse: (from: RemoteInfo, address: string, why: string) => void,
    private readonly now: () => number = Date.now,
  ) {}

  packet(bytes: Uint8Array, from: RemoteInfo): void {
    const second = Math.floor(this.now() / 1000);
    if (second !== this.second) {
      this.second = second;
      this.count = 0;
    }
    if (++this.count > MOST_PACKETS) {
      this.dropped++;
      return;
    }
    let packet: OscPacket;
    try {
      packet = readOsc(bytes);
    } catch (error) {
      this.broken++;
      this.refuse(from, '', `This is no OSC packet: ${(error as Error).message}.`);
      return;
    }
    this.take(packet, from, ++this.packets);
  }
  private take(packet: OscPacket, from: RemoteInfo, number: number) {
    if (!isBundle(packet)) return this.message(packet, from, number);
    const wait = packet.at === null ? 0 : packet.at - this.now();
    const all = () => packet.elements.forEach((e) => this.take(e, from, number));
    if (wait <= 0) return all();
    if (wait > LATEST_MS || this.later.size >= MOST_LATER) {
      this.dropped++;
      this.refuse(
        from,
        '',
        wait > LATEST_MS
          ? `A bundle is meant for more than ${LATEST_MS / 1000} seconds from now: are the clocks of both machines right?`
          : `More than ${MOST_LATER} bundles wait for their time.`,
      );
      return;
    }
    const timer = setTimeout(() => {
      this.later.delete(timer);
      all();
    }, wait);
    this.later.add(timer);
  }
  private message(message: OscMessage, from: RemoteInfo, packet: number) {
    const action = isAction(message.address) || message.args.length === 0;
    if (this.waiting.size >= MOST_WAITING || (action && this.actions >= MOST_ACTIONS)) {
      this.dropped++;
      return;
    }
    this.taken++;
    if (action) this.actions++;
    const key = `${from.address} ${from.port} ${message.address}${action ? ` ${this.taken}` : ''}`;
    // What moved last is dealt with last.
    this.waiting.delete(key);
    this.waiting.set(key, { from, message, packet });
    this.arrived();
  }
  get waits(): boolean {
    return this.waiting.size > 0;
  }
  /** All that waits, in the order in which it came last. */
  turn(): readonly Heard[] {
    if (this.waiting.size === 0) return [];
    const all = [...this.waiting.values()];
    this.waiting = new Map();
    this.actions = 0;
    return all;
  }
  /** Begins anew. */
  clear(): void {
    for (const timer of this.later) clearTimeout(timer);
    this.later.clear();
    this.waiting.clear();
    this.taken = this.dropped = this.broken = this.actions = 0;
  }
}
