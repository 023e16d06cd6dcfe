import { linkOf, vcaOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Insert, Link, Send, Session, Strip, Vca } from '../session/types';
import type { Id } from '../base/units';

/** Puts an item into a list at a place, or at the nearest that there is. */
const put = <T>(list: readonly T[], at: number, item: T): T[] => {
  const to = Math.max(0, Math.min(list.length, at));
  return [...list.slice(0, to), item, ...list.slice(to)];
};
const within = (length: number, at: number) => Math.max(0, Math.min(length, at));

/**
 * A session that commands are being applied to. Strips are found and replaced by their ids, so that a list of commands costs as
 * much as its commands and the strips once, and not their product. What no command touches stays the same object.
 */
export class Draft {
  private head: Omit<Session, 'strips'>;
  private strips: Map<Id, Strip> | null = null;
  private order: Id[] = [];

  constructor(private readonly from: Session) {
    this.head = from;
  }

  /** The session as it is now. */
  get session(): Session {
    return { ...this.head, strips: this.allStrips() };
  }
  allStrips(): readonly Strip[] {
    return this.strips ? this.order.map((id) => this.strips!.get(id)!) : this.from.strips;
  }
  private mapped(): Map<Id, Strip> {
    if (!this.strips) {
      this.strips = new Map(this.from.strips.map((s) => [s.id, s]));
      this.order = this.from.strips.map((s) => s.id);
    }
    return this.strips;
  }

  /** Sets fields of the session itself. @returns the values that were there */
  set<P extends Partial<Omit<Session, 'strips'>>>(patch: P): P {
    const was = before(this.head, patch) as P;
    this.head = { ...this.head, ...patch };
    return was;
  }
  get sections() {
    return this.head.sections;
  }

  // — strips —

  /** @throws Refusal `unknown` */
  strip(id: Id): Strip {
    const strip = this.mapped().get(id);
    if (!strip) throw new Refusal('unknown', `There is no strip \`${id}\` in this session.`, [id]);
    return strip;
  }
  /** Changes fields of a strip. @returns the strip as it was */
  change(id: Id, patch: Partial<Strip>): Strip {
    const was = this.strip(id);
    this.mapped().set(id, { ...was, ...patch });
    return was;
  }
  /** @throws Refusal `duplicate` */
  add(strip: Strip, at: number): void {
    const there = this.mapped().get(strip.id);
    if (there)
      throw new Refusal(
        'duplicate',
        `The id \`${strip.id}\` stands twice: as a ${there.kind} and as a ${strip.kind}.`,
        [strip.id],
      );
    this.mapped().set(strip.id, strip);
    this.order.splice(within(this.order.length, at), 0, strip.id);
  }
  /** @returns the strip, and where it stood */
  remove(id: Id): { readonly strip: Strip; readonly at: number } {
    const strip = this.strip(id);
    const at = this.order.indexOf(id);
    this.order.splice(at, 1);
    this.mapped().delete(id);
    return { strip, at };
  }
  /** Puts all strips into another order. @returns the order that they had @throws Refusal `range` */
  reorder(order: readonly Id[]): readonly Id[] {
    const strips = this.mapped();
    if (
      new Set(order).size !== strips.size ||
      order.length !== strips.size ||
      !order.every((id) => strips.has(id))
    )
      throw new Refusal('range', 'An order of strips names every strip of the session once.');
    const was = this.order;
    this.order = [...order];
    return was;
  }

  // — what stands in a strip —

  send(strip: Id, id: Id): Send {
    const found = this.strip(strip).sends.find((x) => x.id === id);
    if (!found) throw new Refusal('unknown', `There is no send \`${id}\` in \`${strip}\`.`, [strip, id]);
    return found;
  }
  insert(strip: Id, id: Id): Insert {
    const found = this.strip(strip).inserts.find((x) => x.id === id);
    if (!found) throw new Refusal('unknown', `There is no insert \`${id}\` in \`${strip}\`.`, [strip, id]);
    return found;
  }
  addSend(strip: Id, send: Send, at: number): void {
    this.change(strip, { sends: put(this.strip(strip).sends, at, send) });
  }
  removeSend(strip: Id, send: Send): number {
    const { sends } = this.strip(strip);
    this.change(strip, { sends: sends.filter((x) => x !== send) });
    return sends.indexOf(send);
  }
  changeSend(strip: Id, send: Send, patch: Partial<Send>): void {
    this.change(strip, {
      sends: this.strip(strip).sends.map((x) => (x === send ? { ...x, ...patch } : x)),
    });
  }
  addInsert(strip: Id, insert: Insert, at: number): void {
    this.change(strip, { inserts: put(this.strip(strip).inserts, at, insert) });
  }
  removeInsert(strip: Id, insert: Insert): number {
    const { inserts } = this.strip(strip);
    this.change(strip, { inserts: inserts.filter((x) => x !== insert) });
    return inserts.indexOf(insert);
  }
  changeInsert(strip: Id, insert: Insert, patch: Partial<Insert>): void {
    this.change(strip, {
      inserts: this.strip(strip).inserts.map((x) => (x === insert ? { ...x, ...patch } : x)),
    });
  }

  // — VCAs and links —

  vca(id: Id): Vca {
    return vcaOf(this.head as Session, id);
  }
  addVca(vca: Vca, at: number): void {
    this.head = { ...this.head, vcas: put(this.head.vcas, at, vca) };
  }
  removeVca(vca: Vca): number {
    const { vcas } = this.head;
    this.head = { ...this.head, vcas: vcas.filter((v) => v !== vca) };
    return vcas.indexOf(vca);
  }
  changeVca(vca: Vca, patch: Partial<Vca>): void {
    this.head = { ...this.head, vcas: this.head.vcas.map((v) => (v === vca ? { ...v, ...patch } : v)) };
  }
  link(id: Id): Link {
    return linkOf(this.head as Session, id);
  }
  addLink(link: Link, at: number): void {
    this.head = { ...this.head, links: put(this.head.links, at, link) };
  }
  removeLink(link: Link): number {
    const { links } = this.head;
    this.head = { ...this.head, links: links.filter((l) => l !== link) };
    return links.indexOf(link);
  }
  changeLink(link: Link, patch: Partial<Link>): void {
    this.head = { ...this.head, links: this.head.links.map((l) => (l === link ? { ...l, ...patch } : l)) };
  }
}

/** The values that a patch replaces, as a patch. */
export const before = <P extends object>(thing: object, patch: P): P =>
  Object.fromEntries(
    Object.keys(patch).map((k) => [k, (thing as Readonly<Record<string, unknown>>)[k]]),
  ) as P;
