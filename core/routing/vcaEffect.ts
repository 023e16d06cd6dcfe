import { heldBy, isMuted, vcaHolders } from '../groups/vca';
import { processorOf } from '../processors/registry';
import { stripMap, vcaOf } from '../session/lookup';
import type { Insert, Session, Strip, Vca } from '../session/types';
import type { Id } from '../base/units';
import { signalGraph, type Edge } from '../session/graph';
import { signalOrder } from '../session/order';
import type { Repair } from './repair';
import { ripple, type Ripple } from './ripple';
import { audibleStrips } from './solo';
import { followsFader, insertFollowsFader } from './stages';

/** What moving a VCA does beside moving levels. */
export interface VcaEffect {
  /** Whether everything that changes at an output changes by the VCA's own decibels, and nothing else changes. */
  readonly levelAlone: boolean;
  /** One sentence that says which. */
  readonly sentence: string;
  /** What a move of 6 dB down does. */
  readonly ripple: Ripple;
  /** The membership that would change level alone, where there is one and it is another. */
  readonly better: (Repair & { readonly members: readonly Id[] }) | null;
}

const STEP = -6;

const moved = (session: Session, vca: Vca): readonly [before: Session, after: Session] => {
  const at = (faderDb: number): Session => ({
    ...session,
    vcas: session.vcas.map((v) => (v.id === vca.id ? { ...v, faderDb, mute: false } : v)),
  });
  return [at(0), at(STEP)];
};

/** What of the session passes a signal. */
interface Passing {
  /** Whether a strip's own signal comes out of its fader, wherever it goes then. */
  fader(strip: Strip): boolean;
  edge(from: Strip, edge: Edge): boolean;
  /** Strips that a signal reaches. */
  readonly alive: ReadonlySet<Id>;
  readonly dependent: readonly { readonly strip: Strip; readonly insert: Insert }[];
}
const afterFader = (e: Edge) => e.kind !== 'key' && followsFader(e.kind === 'send' ? e.tap : 'post');

const known = new WeakMap<Session, Map<Id | null, Passing>>();
/** @param up a VCA that is taken to be up, where it is muted or at silence; null where there is none */
function passing(session: Session, vca: Id): Passing {
  const itself = session.vcas.find((v) => v.id === vca);
  const up = itself && (itself.mute || itself.faderDb === null) ? vca : null;
  let list = known.get(session);
  if (!list) known.set(session, (list = new Map()));
  let found = list.get(up);
  if (!found) list.set(up, (found = passingOf(session, up)));
  return found;
}

function passingOf(session: Session, up: Id | null): Passing {
  const strips = stripMap(session);
  const audible = audibleStrips(session);
  const holders = vcaHolders(session);
  const { leaving } = signalGraph(session);
  const opens = new Set<Id>();
  const faders = new Set<Id>();
  for (const s of session.strips) {
    const held = holders.get(s.id) ?? [];
    const muted = s.mute || held.some((v) => v.mute && v.id !== up);
    if (!muted && audible.has(s.id) && s.trimDb !== null) opens.add(s.id);
    if (s.faderDb !== null && held.every((v) => v.id === up || (v.faderDb !== null && !v.mute)))
      faders.add(s.id);
  }
  const edge = (from: Strip, e: Edge) =>
    e.kind !== 'key' &&
    e.on &&
    opens.has(from.id) &&
    (e.kind === 'out' || e.send.levelDb !== null) &&
    (!afterFader(e) || faders.has(from.id));
  const alive = new Set<Id>();
  for (const id of signalOrder(session)) {
    const strip = strips.get(id)!;
    if (strip.kind === 'source') alive.add(id);
    if (!alive.has(id)) continue;
    for (const e of leaving.get(id)!) if (!alive.has(e.to) && edge(strip, e)) alive.add(e.to);
  }
  return {
    edge,
    alive,
    fader: (s) => !s.mute && s.trimDb !== null && faders.has(s.id),
    dependent: session.strips.flatMap((strip) =>
      strip.inserts.flatMap((insert) =>
        insert.on && processorOf(insert.type).levelDependent ? [{ strip, insert }] : [],
      ),
    ),
  };
}

/** Level-dependent inserts that are driven differently when the faders of these strips move together. */
export function drivenBy(
  session: Session,
  vca: Id,
  held: ReadonlySet<Id>,
): readonly { readonly strip: Id; readonly insert: Id }[] {
  const strips = stripMap(session);
  const { leaving } = signalGraph(session);
  const pass = passing(session, vca);
  /** Strips whose input moves. */
  const moved = new Set<Id>();
  const follow = (id: Id, input: boolean) => {
    const strip = strips.get(id)!;
    for (const e of leaving.get(id)!)
      if ((input || afterFader(e)) && !moved.has(e.to) && pass.edge(strip, e)) {
        moved.add(e.to);
        follow(e.to, true);
      }
  };
  for (const id of held) if (pass.alive.has(id)) follow(id, false);
  const after = (id: Id) => moved.has(id) || held.has(id);
  return pass.dependent
    .filter(({ strip: s, insert: i }) =>
      i.key !== null && i.key !== s.id
        ? pass.alive.has(i.key) && after(i.key) && pass.fader(strips.get(i.key)!)
        : s.trimDb !== null &&
          pass.alive.has(s.id) &&
          (insertFollowsFader(s, i) ? after(s.id) && pass.fader({ ...s, mute: false }) : moved.has(s.id)),
    )
    .map(({ strip, insert }) => ({ strip: strip.id, insert: insert.id }));
}

/**
 * Whether moving the faders of these strips together changes level alone: nothing is driven differently, and at each
 * output every source arrives by ways that all pass just one of these faders, or by ways that all pass none.
 */
export function levelAlone(session: Session, vca: Id, held: ReadonlySet<Id>): boolean {
  if (drivenBy(session, vca, held).length > 0) return false;
  const strips = stripMap(session);
  const { leaving } = signalGraph(session);
  const order = signalOrder(session);
  const pass = passing(session, vca);
  for (const output of session.strips) {
    if (output.kind !== 'output' || isMuted(session, output) || !output.out.on) continue;
    const own = held.has(output.id) ? 1 : 0;
    /** Fewest and most of the faders on a way from the strip's input to the output. */
    const down = new Map<Id, readonly [number, number]>([[output.id, [own, own]]]);
    for (let i = order.length - 1; i >= 0; i--) {
      const strip = strips.get(order[i]!)!;
      if (strip.id === output.id) continue;
      let low = Infinity;
      let high = -Infinity;
      for (const e of leaving.get(strip.id)!) {
        const onward = down.get(e.to);
        if (!onward || !pass.edge(strip, e)) continue;
        const here = held.has(strip.id) && afterFader(e) ? 1 : 0;
        low = Math.min(low, onward[0] + here);
        high = Math.max(high, onward[1] + here);
      }
      if (high < 0) continue;
      down.set(strip.id, [low, high]);
      if (strip.kind === 'source' && (low !== high || high > 1)) return false;
    }
  }
  return true;
}

const orders = new WeakMap<readonly Strip[], { buses: readonly Id[]; at: ReadonlyMap<Id, number> }>();
/** Submixes and returns in the signal's order, and where each strip stands in the session. */
function inOrder(session: Session) {
  let found = orders.get(session.strips);
  if (!found) {
    const strips = stripMap(session);
    found = {
      buses: signalOrder(session).filter((id) => ['submix', 'return'].includes(strips.get(id)!.kind)),
      at: new Map(session.strips.map((s, i) => [s.id, i])),
    };
    orders.set(session.strips, found);
  }
  return found;
}

/** What strips feed alone: themselves, and the submixes and returns that nothing else feeds. */
function commonGround(session: Session, held: readonly Id[]) {
  const { entering, leaving } = signalGraph(session);
  const signal = (e: Edge) => e.kind !== 'key' && e.on;
  const inside = new Set(held);
  const fedFromInside = (id: Id) => entering.get(id)!.every((e) => !signal(e) || inside.has(e.from));
  const { buses, at } = inOrder(session);
  for (const id of buses)
    if (!inside.has(id) && entering.get(id)!.some(signal) && fedFromInside(id)) inside.add(id);
  const leaves = [...inside]
    .filter((id) => leaving.get(id)!.some((e) => signal(e) && !inside.has(e.to)))
    .sort((a, b) => at.get(a)! - at.get(b)!);
  return { leaves, closed: [...inside].every(fedFromInside) };
}

/**
 * The strips that hold what the VCA is to hold at the place where it leaves their common ground: submixes and returns
 * that nothing else feeds, instead of the sources that feed them; null when it leads nowhere else.
 */
export function membersAtTheEnd(session: Session, held: readonly Id[]): readonly Id[] | null {
  const { leaves } = commonGround(session, held);
  return leaves.length ? leaves : null;
}

const listed = (names: readonly string[]) =>
  names.length <= 3
    ? names.join(names.length === 2 ? ' and ' : ', ')
    : `${names.slice(0, 2).join(', ')} and ${names.length - 2} more`;

/**
 * `levelAlone` for strips at the end of a common ground, which nothing from outside enters: they may hand on their
 * signal after their faders alone, and none to another one.
 */
function aloneAtTheEnd(session: Session, vca: Id, leaves: ReadonlySet<Id>): boolean {
  if (drivenBy(session, vca, leaves).length > 0) return false;
  const strips = stripMap(session);
  const { leaving } = signalGraph(session);
  const pass = passing(session, vca);
  for (const leaf of leaves) {
    if (!pass.alive.has(leaf)) continue;
    const seen = new Set<Id>();
    const meets = (id: Id): boolean =>
      leaving.get(id)!.some((e) => {
        if (!pass.edge(strips.get(id)!, e)) return false;
        if (id === leaf && !afterFader(e)) return true;
        if (leaves.has(e.to)) return true;
        if (seen.has(e.to)) return false;
        seen.add(e.to);
        return meets(e.to);
      });
    if (meets(leaf)) return false;
  }
  return true;
}

/**
 * The membership that would change level alone, as a step; null where there is none, or where it is so already.
 * @throws Refusal `unknown` when there is no such VCA
 */
export function betterMembers(session: Session, id: Id): VcaEffect['better'] {
  const vca = vcaOf(session, id);
  const strips = stripMap(session);
  const { leaves: members, closed } = commonGround(
    session,
    heldBy(session, id).map((s) => s.id),
  );
  if (
    members.length === 0 ||
    (members.length === vca.members.length && members.every((m) => vca.members.includes(m)))
  )
    return null;
  if (!(closed ? aloneAtTheEnd : levelAlone)(session, id, new Set(members))) return null;
  return {
    members,
    label: `Let ${vca.name || id} hold ${listed(members.map((m) => strips.get(m)!.name || m))} instead`,
    commands: [{ type: 'vca.members', id, members }],
  };
}

/** @throws Refusal `unknown` when there is no such VCA */
export function vcaEffect(session: Session, id: Id): VcaEffect {
  const vca = vcaOf(session, id);
  const name = vca.name || id;
  const strips = stripMap(session);
  const nameOf = (s: Id) => strips.get(s)?.name || s;
  const result = ripple(...moved(session, vca));
  const held = heldBy(session, id);
  if (held.length === 0)
    return { levelAlone: true, sentence: `${name} holds nothing.`, ripple: result, better: null };
  if (levelAlone(session, id, new Set(held.map((s) => s.id))))
    return {
      levelAlone: true,
      sentence: `${name} changes level alone: all that it holds arrives by as many decibels louder or softer.`,
      ripple: result,
      better: null,
    };
  const effects: string[] = [];
  if (result.driven.length)
    effects.push(
      `drives ${result.driven
        .slice(0, 2)
        .map((d) => {
          const insert = strips.get(d.strip)!.inserts.find((i) => i.id === d.insert)!;
          return `the ${insert.type} on ${nameOf(d.strip)}`;
        })
        .join(
          ' and ',
        )}${result.driven.length > 2 ? ` and ${result.driven.length - 2} more` : ''} differently`,
    );
  if (result.balances.length) {
    const through = [...new Set(result.balances.map((b) => b.through))];
    effects.push(`shifts dry against ${listed(through.map(nameOf))}`);
  }
  const doubled = result.outputs.some((o) =>
    o.sources.some((s) => s.change.low < STEP - 1e-6 && s.change.low > -Infinity),
  );
  if (doubled)
    effects.push('moves some signals by more than its own decibels, as it holds them twice on their way');
  if (effects.length === 0)
    effects.push('moves a part of what leaves the strips that it holds, and leaves other ways as they are');
  const sentence = `${name} changes more than level: it ${listed(effects)}.`;

  const better = betterMembers(session, id);
  return { levelAlone: false, sentence, ripple: result, better };
}
