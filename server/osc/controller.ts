import type { RemoteInfo } from 'node:dgram';
import type { OscBank } from '../../core/osc/address';
import { Telling, type Subscription } from '../../core/osc/telling';
import type { OscArgument } from '../../core/wire/osc';
import { BANK_SIZE } from '../../core/osc/tree';

/** Seconds after which a controller that says nothing is told no more: UDP does not tell that one has gone. */
export const LAPSES_S = 60;
/** Refusals that one controller is told in a second. */
const MOST_REFUSALS = 10;

/** One controller: what has spoken from one address and port. */
export class Controller {
  bank: OscBank = { first: 0, size: BANK_SIZE };
  telling: Telling | null = null;
  /** When it last said anything. */
  heard = 0;
  /** Messages of it that were understood, and the last of them. */
  count = 0;
  last = '';
  /** When it is looked next for what it has to be told. */
  nextLook = 0;
  /** Addresses that it has moved, with the controls that they moved. */
  private readonly hands = new Map<string, string>();
  private second = 0;
  private refusals = 0;

  constructor(
    readonly address: string,
    readonly port: number,
  ) {}

  static key = ({ address, port }: Pick<RemoteInfo, 'address' | 'port'>): string => `${address} ${port}`;

  /** Where it is told. */
  get tellPort(): number {
    return this.telling?.subscription.port ?? this.port;
  }
  lapsed(now: number): boolean {
    return now - this.heard > LAPSES_S * 1000;
  }
  /** Begins to be told, or goes on: who asks again for the same is told what changes, and not all anew. */
  subscribe(to: Subscription): void {
    if (JSON.stringify(this.telling?.subscription) !== JSON.stringify(to)) this.telling = new Telling(to);
  }
  /** Takes note of what it has put an address to. */
  moved(address: string, control: string, value: OscArgument | undefined): void {
    this.hands.set(address, control);
    if (value !== undefined) this.telling?.heard(address, value);
  }
  /** Addresses under its hands. @param controls that it is moving */
  moving(controls: ReadonlySet<string>): ReadonlySet<string> {
    for (const [address, control] of this.hands) if (!controls.has(control)) this.hands.delete(address);
    return new Set(this.hands.keys());
  }
  /** Whether one more refusal may be told: what floods is not answered in kind. */
  mayBeTold(now: number): boolean {
    const second = Math.floor(now / 1000);
    if (second !== this.second) {
      this.second = second;
      this.refusals = 0;
    }
    return ++this.refusals <= MOST_REFUSALS;
  }
}
