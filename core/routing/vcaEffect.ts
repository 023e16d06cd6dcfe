import { heldBy } from '../groups/vca';
import { stripMap, vcaOf } from '../session/lookup';
import type { Session, Vca } from '../session/types';
import type { Id } from '../session/units';
import { signalGraph } from './graph';
import { signalOrder } from './order';
import type { Repair } from './repair';
import { ripple, type Ripple } from './ripple';

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

const alone = (r: Ripple) =>
  r.driven.length === 0 &&
  r.balances.length === 0 &&
  r.outputs.every((o) =>
    o.sources.every((s) => Math.abs(s.change.low - STEP) < 1e-6 && Math.abs(s.change.high - STEP) < 1e-6),
  );

/**
 * The strips that hold what the VCA is to hold at the place where it leaves their common ground: submixes and returns
 * that nothing else feeds, instead of the sources that feed them; null when it leads nowhere else.
 */
export function membersAtTheEnd(session: Session, held: readonly Id[]): readonly Id[] | null {
  const strips = stripMap(session);
  const { entering, leaving } = signalGraph(session);
  const signal = (e: { kind: string; on: boolean }) => e.kind !== 'key' && e.on;
  const inside = new Set(held);
  for (const id of signalOrder(session)) {
    const strip = strips.get(id)!;
    if (strip.kind !== 'submix' && strip.kind !== 'return') continue;
    const feeders = entering.get(id)!.filter(signal);
    if (feeders.length > 0 && feeders.every((e) => inside.has(e.from))) inside.add(id);
  }
  const leaves = [...inside].filter((id) => leaving.get(id)!.some((e) => signal(e) && !inside.has(e.to)));
  if (leaves.length === 0) return null;
  return session.strips.map((s) => s.id).filter((id) => leaves.includes(id));
}

const listed = (names: readonly string[]) =>
  names.length <= 3
    ? names.join(names.length === 2 ? ' and ' : ', ')
    : `${names.slice(0, 2).join(', ')} and ${names.length - 2} more`;

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
  if (alone(result))
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

  const members = membersAtTheEnd(
    session,
    held.map((s) => s.id),
  );
  const same =
    members && members.length === vca.members.length && members.every((m) => vca.members.includes(m));
  let better: VcaEffect['better'] = null;
  if (members && !same) {
    const trial: Session = {
      ...session,
      vcas: session.vcas.map((v) => (v.id === id ? { ...v, members } : v)),
    };
    if (alone(ripple(...moved(trial, { ...vca, members }))))
      better = {
        members,
        label: `Let ${name} hold ${listed(members.map(nameOf))} instead`,
        commands: [{ type: 'vca.members', id, members }],
      };
  }
  return { levelAlone: false, sentence, ripple: result, better };
}
