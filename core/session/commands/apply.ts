import { withLanes } from '../defaults';
import { checkSession } from '../invariants';
import { linkOf, stripOf, vcaOf } from '../lookup';
import { breaksRules } from '../fields/shape';
import { INSERT, LINK, SEND, SESSION, STRIP, VCA } from '../fields/tables';
import { Refusal, type Rule } from '../refusal';
import type { Insert, Send, Session, Strip, Vca } from '../types';
import type { Id } from '../units';
import type { Command } from './types';

export interface Applied {
  readonly session: Session;
  /** What brings the session back, in the order in which it has to be applied. */
  readonly inverse: readonly Command[];
}

interface Step {
  readonly session: Session;
  readonly inverse: Command;
}

const put = <T>(list: readonly T[], at: number, item: T): T[] => {
  const to = Math.max(0, Math.min(list.length, at));
  return [...list.slice(0, to), item, ...list.slice(to)];
};

/** The values that a patch replaces, as a patch. */
const before = <T extends object>(thing: T, patch: Partial<T>): Partial<T> =>
  Object.fromEntries(Object.keys(patch).map((k) => [k, thing[k as keyof T]])) as Partial<T>;

const withStrip = (session: Session, id: Id, change: (strip: Strip) => Strip): Session => ({
  ...session,
  strips: session.strips.map((s) => (s.id === id ? change(s) : s)),
});

const sendOf = (strip: Strip, id: Id): Send => {
  const found = strip.sends.find((x) => x.id === id);
  if (!found) throw new Refusal('unknown', `There is no send \`${id}\` in \`${strip.id}\`.`, [strip.id, id]);
  return found;
};
const insertOf = (strip: Strip, id: Id): Insert => {
  const found = strip.inserts.find((x) => x.id === id);
  if (!found)
    throw new Refusal('unknown', `There is no insert \`${id}\` in \`${strip.id}\`.`, [strip.id, id]);
  return found;
};

function step(session: Session, c: Command): Step {
  switch (c.type) {
    case 'session.set':
      return {
        session: { ...session, ...c.patch },
        inverse: { type: c.type, patch: before(session, c.patch) },
      };
    case 'sections.set':
      return {
        session: { ...session, sections: c.sections },
        inverse: { type: c.type, sections: session.sections },
      };
    case 'strip.add': {
      const strip: Strip = {
        ...withLanes(c.strip),
        automation: c.strip.automation ?? 'read',
        sends: c.strip.sends.map(withLanes),
        inserts: c.strip.inserts.map(withLanes),
      };
      return {
        session: { ...session, strips: put(session.strips, c.at, strip) },
        inverse: { type: 'strip.remove', id: c.strip.id },
      };
    }
    case 'strip.remove': {
      const strip = stripOf(session, c.id);
      return {
        session: { ...session, strips: session.strips.filter((s) => s !== strip) },
        inverse: { type: 'strip.add', strip, at: session.strips.indexOf(strip) },
      };
    }
    case 'strip.set': {
      const strip = stripOf(session, c.id);
      return {
        session: withStrip(session, c.id, (s) => ({ ...s, ...c.patch })),
        inverse: { type: c.type, id: c.id, patch: before(strip, c.patch) },
      };
    }
    case 'strip.out': {
      const strip = stripOf(session, c.id);
      return {
        session: withStrip(session, c.id, (s) => ({ ...s, out: c.out })),
        inverse: { type: c.type, id: c.id, out: strip.out },
      };
    }
    case 'strips.order': {
      const at = new Map(c.order.map((id, i) => [id, i]));
      if (
        at.size !== session.strips.length ||
        c.order.length !== at.size ||
        !session.strips.every((s) => at.has(s.id))
      )
        throw new Refusal('range', 'An order of strips names every strip of the session once.');
      return {
        session: { ...session, strips: [...session.strips].sort((a, b) => at.get(a.id)! - at.get(b.id)!) },
        inverse: { type: c.type, order: session.strips.map((s) => s.id) },
      };
    }
    case 'send.add':
      stripOf(session, c.strip);
      return {
        session: withStrip(session, c.strip, (s) => ({ ...s, sends: put(s.sends, c.at, withLanes(c.send)) })),
        inverse: { type: 'send.remove', strip: c.strip, id: c.send.id },
      };
    case 'send.remove': {
      const strip = stripOf(session, c.strip);
      const send = sendOf(strip, c.id);
      return {
        session: withStrip(session, c.strip, (s) => ({ ...s, sends: s.sends.filter((x) => x !== send) })),
        inverse: { type: 'send.add', strip: c.strip, send, at: strip.sends.indexOf(send) },
      };
    }
    case 'send.set': {
      const send = sendOf(stripOf(session, c.strip), c.id);
      return {
        session: withStrip(session, c.strip, (s) => ({
          ...s,
          sends: s.sends.map((x) => (x === send ? { ...x, ...c.patch } : x)),
        })),
        inverse: { ...c, patch: before(send, c.patch) },
      };
    }
    case 'insert.add':
      stripOf(session, c.strip);
      return {
        session: withStrip(session, c.strip, (s) => ({
          ...s,
          inserts: put(s.inserts, c.at, withLanes(c.insert)),
        })),
        inverse: { type: 'insert.remove', strip: c.strip, id: c.insert.id },
      };
    case 'insert.remove': {
      const strip = stripOf(session, c.strip);
      const insert = insertOf(strip, c.id);
      return {
        session: withStrip(session, c.strip, (s) => ({
          ...s,
          inserts: s.inserts.filter((x) => x !== insert),
        })),
        inverse: { type: 'insert.add', strip: c.strip, insert, at: strip.inserts.indexOf(insert) },
      };
    }
    case 'insert.set': {
      const insert = insertOf(stripOf(session, c.strip), c.id);
      return {
        session: withStrip(session, c.strip, (s) => ({
          ...s,
          inserts: s.inserts.map((x) => (x === insert ? { ...x, ...c.patch } : x)),
        })),
        inverse: { ...c, patch: before(insert, c.patch) },
      };
    }
    case 'vca.add': {
      const vca: Vca = { ...withLanes(c.vca), automation: c.vca.automation ?? 'read' };
      return {
        session: { ...session, vcas: put(session.vcas, c.at, vca) },
        inverse: { type: 'vca.remove', id: c.vca.id },
      };
    }
    case 'vca.remove': {
      const vca = vcaOf(session, c.id);
      return {
        session: { ...session, vcas: session.vcas.filter((v) => v !== vca) },
        inverse: { type: 'vca.add', vca, at: session.vcas.indexOf(vca) },
      };
    }
    case 'vca.set': {
      const vca = vcaOf(session, c.id);
      return {
        session: { ...session, vcas: session.vcas.map((v) => (v === vca ? { ...v, ...c.patch } : v)) },
        inverse: { ...c, patch: before(vca, c.patch) },
      };
    }
    case 'vca.members': {
      const vca = vcaOf(session, c.id);
      return {
        session: {
          ...session,
          vcas: session.vcas.map((v) => (v === vca ? { ...v, members: c.members } : v)),
        },
        inverse: { ...c, members: vca.members },
      };
    }
    case 'link.add':
      return {
        session: { ...session, links: put(session.links, c.at, c.link) },
        inverse: { type: 'link.remove', id: c.link.id },
      };
    case 'link.remove': {
      const link = linkOf(session, c.id);
      return {
        session: { ...session, links: session.links.filter((l) => l !== link) },
        inverse: { type: 'link.add', link, at: session.links.indexOf(link) },
      };
    }
    case 'link.set': {
      const link = linkOf(session, c.id);
      return {
        session: { ...session, links: session.links.map((l) => (l === link ? { ...l, ...c.patch } : l)) },
        inverse: { ...c, patch: before(link, c.patch) },
      };
    }
  }
}

/** Commands that set fields, and the tables that say which of these can break a rule of the whole session. */
const PATCHES = {
  'session.set': SESSION,
  'strip.set': STRIP,
  'send.set': SEND,
  'insert.set': INSERT,
  'vca.set': VCA,
  'link.set': LINK,
} as const;
/** Whether a command cannot break a rule of the whole session, so that a drag need not hold it against all of them. */
const harmless = (c: Command) =>
  'patch' in c ? !breaksRules(PATCHES[c.type], c.patch) : c.type === 'strips.order';

/** Rules that sessions may break which were kept before they were held to them: counts, and ranges of parameters. */
const YOUNG: ReadonlySet<Rule> = new Set<Rule>(['size', 'range', 'unknown']);

/** Whether a session breaks the same kind of rule already. */
function brokeBefore(session: Session, refusal: unknown): boolean {
  if (!(refusal instanceof Refusal) || !YOUNG.has(refusal.rule)) return false;
  try {
    checkSession(session);
    return false;
  } catch (error) {
    return error instanceof Refusal && error.rule === refusal.rule;
  }
}

/**
 * Applies a list of commands as one edit: all of them or none. Rules are held against the result, so that a step in the
 * middle may lead to a strip that a later step adds.
 * @returns the next session and the commands that undo the edit
 * @throws Refusal naming the rule and the thing; the session given is unchanged
 */
export function apply(session: Session, commands: readonly Command[]): Applied {
  let next = session;
  const inverse: Command[] = [];
  for (const command of commands) {
    const done = step(next, command);
    next = done.session;
    inverse.unshift(done.inverse);
  }
  if (commands.some((c) => !harmless(c)))
    try {
      checkSession(next);
    } catch (error) {
      // What was wrong before this edit is no reason against it: else nothing could be mended one by one.
      if (!brokeBefore(session, error)) throw error;
    }
  return { session: next, inverse };
}
