import { findControl, type ControlRef } from '../automation/control';
import { setLanes } from '../automation/edit';
import { linkedLane } from '../automation/write';
import { LIMITS } from '../base/limits';
import { clampLevel, FADER_TOP } from '../levels/faderLaw';
import { valueOf, type Parameter } from '../processors/description';
import { processorOf } from '../processors/registry';
import type { Fields, Shape } from '../session/fields/shape';
import { LINK_PARTS, STRIP } from '../session/fields/tables';
import { freshId, stripMap } from '../session/lookup';
import { kindOf } from '../edits/commands';
import type { Command, SendPatch } from '../edits/commands';
import type { Insert, Lanes, LinkPart, Session, Strip } from '../session/types';
import type { Decibels, Id } from '../base/units';

/** Strips among which an edit of one is done to all. */
interface Group {
  readonly members: readonly Id[];
  readonly parts: readonly LinkPart[];
  readonly keeps: boolean;
}

/** The insert of another strip that stands for this one: the same kind, the first for the first, the second for the second. */
export function counterpart(strip: Strip, insert: Insert, other: Strip): Insert | undefined {
  const nth = strip.inserts.filter((i) => i.type === insert.type).indexOf(insert);
  return other.inserts.filter((i) => i.type === insert.type)[nth];
}

const moved = (old: Decibels, next: Decibels, other: Decibels, keeps: boolean, floor: number): Decibels => {
  if (!keeps || old === null || next === null) return next;
  // What is silent stays silent while differences are kept.
  return other === null ? null : Math.max(floor, other + (next - old));
};
const bounded = (v: number, min: number, max: number) => Math.max(min, Math.min(max, v));

/** A parameter's value after another strip's has gone from `old` to `next`: by the same step, or the same share on a log law. */
export function movedParameter(
  p: Parameter,
  old: number,
  next: number,
  other: number,
  keeps: boolean,
): number {
  if (!keeps || p.choices) return next;
  const value = p.law === 'log' ? other * (next / old) : other + (next - old);
  return bounded(Number(value.toPrecision(12)), p.min, p.max);
}

/** A field's value on another strip, after it has gone from `was` to `next` on one: by the same step, or to the same. */
function mirroredValue(shape: Shape, was: unknown, next: unknown, other: unknown, keeps: boolean): unknown {
  if (shape.kind === 'level') {
    const level = moved(was as Decibels, next as Decibels, other as Decibels, keeps, LIMITS.lowestDb);
    return shape.top === FADER_TOP ? clampLevel(level) : level === null ? null : Math.min(shape.top, level);
  }
  if (shape.kind === 'number' && keeps)
    return bounded((other as number) + ((next as number) - (was as number)), shape.min, shape.max);
  return next;
}

/** What the lanes of one strip's part, written anew, make of the same part of another. */
function mirroredLanes(
  session: Session,
  own: Omit<ControlRef, 'control'>,
  next: Lanes,
  there: Omit<ControlRef, 'control'>,
  keeps: boolean,
): readonly Command[] {
  const was = findControl(session, { ...own, control: own.part === 'strip' ? 'fader' : 'on' })?.lanes ?? {};
  const names = [...new Set([...Object.keys(was), ...Object.keys(next)])].filter((n) => was[n] !== next[n]);
  return setLanes(
    session,
    names.flatMap((control) => {
      const from = findControl(session, { ...own, control });
      const to = findControl(session, { ...there, control });
      if (!from || !to) return [];
      const lane = next[control];
      return [{ ref: to.ref, lane: lane ? linkedLane(to.control, lane, from, to, keeps) : null }];
    }),
  );
}

function mirrored(
  session: Session,
  command: Command,
  group: Group,
  others: readonly Strip[],
  fresh: (name: string) => Id,
): readonly Command[] {
  const strips = stripMap(session);
  const has = (part: LinkPart) => group.parts.includes(part);
  switch (command.type) {
    case 'strip.set': {
      const own = strips.get(command.id)!;
      return others.flatMap((o): Command[] => {
        const patch = Object.fromEntries(
          Object.entries(command.patch).flatMap(([name, next]) => {
            const { link, shape } = (STRIP as Fields)[name]!;
            return link !== undefined && has(link as LinkPart)
              ? [
                  [
                    name,
                    mirroredValue(shape, own[name as keyof Strip], next, o[name as keyof Strip], group.keeps),
                  ],
                ]
              : [];
          }),
        );
        const lanes =
          command.patch.lanes && has('automation')
            ? mirroredLanes(
                session,
                { part: 'strip', owner: own.id, id: null },
                command.patch.lanes,
                { part: 'strip', owner: o.id, id: null },
                group.keeps,
              )
            : [];
        return [
          ...(Object.keys(patch).length ? [{ type: 'strip.set', id: o.id, patch } as Command] : []),
          ...lanes,
        ];
      });
    }
    case 'send.add':
      if (!has('sends')) return [];
      return others.flatMap((o): Command[] =>
        o.id === command.send.to || o.kind === 'output' || o.sends.some((x) => x.to === command.send.to)
          ? []
          : [
              {
                type: 'send.add',
                strip: o.id,
                send: { ...command.send, id: fresh(`${o.id}-to-${command.send.to}`), lanes: {} },
                at: o.sends.length,
              },
            ],
      );
    case 'send.remove':
    case 'send.set': {
      const own = strips.get(command.strip)?.sends.find((x) => x.id === command.id);
      if (!own) return [];
      return others.flatMap((o): readonly Command[] => {
        const there = o.sends.find((x) => x.to === own.to);
        if (!there) return [];
        if (command.type === 'send.remove')
          return has('sends') ? [{ type: 'send.remove', strip: o.id, id: there.id }] : [];
        const lanes =
          command.patch.lanes && has('automation')
            ? mirroredLanes(
                session,
                { part: 'send', owner: command.strip, id: own.id },
                command.patch.lanes,
                { part: 'send', owner: o.id, id: there.id },
                group.keeps,
              )
            : [];
        if (!has('sends')) return lanes;
        const patch: { -readonly [K in keyof SendPatch]: SendPatch[K] } = { ...command.patch };
        delete patch.to;
        delete patch.lanes;
        if (patch.levelDb !== undefined)
          patch.levelDb = clampLevel(moved(own.levelDb, patch.levelDb, there.levelDb, group.keeps, -200));
        if (patch.pan !== undefined && group.keeps)
          patch.pan = bounded(there.pan + patch.pan - own.pan, -1, 1);
        if (Object.keys(patch).length === 0) return lanes;
        return [{ type: 'send.set', strip: o.id, id: there.id, patch }, ...lanes];
      });
    }
    case 'insert.add':
      if (!has('inserts')) return [];
      return others.flatMap((o): Command[] =>
        o.channels === 1 && processorOf(command.insert.type).channels === 'stereo'
          ? []
          : [
              {
                type: 'insert.add',
                strip: o.id,
                insert: {
                  ...command.insert,
                  id: fresh(`${o.id}-${command.insert.type}`),
                  key: command.insert.key === o.id ? null : command.insert.key,
                  lanes: {},
                },
                at:
                  command.insert.place === 'post'
                    ? o.inserts.length
                    : o.inserts.filter((i) => i.place === 'pre').length,
              },
            ],
      );
    case 'insert.remove':
    case 'insert.set': {
      const strip = strips.get(command.strip);
      const own = strip?.inserts.find((i) => i.id === command.id);
      if (!strip || !own) return [];
      return others.flatMap((o): readonly Command[] => {
        const there = counterpart(strip, own, o);
        if (!there) return [];
        if (command.type === 'insert.remove')
          return has('inserts') ? [{ type: 'insert.remove', strip: o.id, id: there.id }] : [];
        const { params, key, lanes: written, ...rest } = command.patch;
        const lanes =
          written && has('automation')
            ? mirroredLanes(
                session,
                { part: 'insert', owner: strip.id, id: own.id },
                written,
                { part: 'insert', owner: o.id, id: there.id },
                group.keeps,
              )
            : [];
        if (!has('inserts')) return lanes;
        const patch: Record<string, unknown> = { ...rest };
        if (rest.mix !== undefined && group.keeps) patch.mix = bounded(there.mix + rest.mix - own.mix, 0, 1);
        if (key !== undefined) patch.key = key === o.id ? there.key : key;
        if (params) {
          const next: Record<string, number> = { ...there.params };
          for (const p of processorOf(own.type).parameters) {
            const was = valueOf(p, own.params);
            const now = valueOf(p, params);
            if (was !== now) next[p.id] = movedParameter(p, was, now, valueOf(p, there.params), group.keeps);
          }
          patch.params = next;
        }
        if (Object.keys(patch).length === 0) return lanes;
        return [{ type: 'insert.set', strip: o.id, id: there.id, patch }, ...lanes];
      });
    }
    default:
      return [];
  }
}

/** What a command touches of which strip; two commands with the same mark do not both apply. */
function marks(session: Session, c: Command): readonly string[] {
  switch (c.type) {
    case 'strip.set':
      return Object.keys(c.patch).map((field) => `${c.id} ${field}`);
    case 'send.add':
      return [`${c.strip} send ${c.send.to}`];
    case 'send.set':
    case 'send.remove': {
      const to = stripMap(session)
        .get(c.strip)
        ?.sends.find((x) => x.id === c.id)?.to;
      const send = `${c.strip} send ${to ?? c.id}`;
      if (c.type === 'send.remove') return [send];
      return [
        ...(c.patch.lanes ? [`${send} lanes`] : []),
        ...(Object.keys(c.patch).some((k) => k !== 'lanes') ? [send] : []),
      ];
    }
    case 'insert.add':
      return [`${c.strip} insert ${c.insert.type} new`];
    case 'insert.set':
      return [
        ...(c.patch.lanes ? [`${c.strip} insert ${c.id} lanes`] : []),
        ...(Object.keys(c.patch).some((k) => k !== 'lanes') ? [`${c.strip} insert ${c.id}`] : []),
      ];
    case 'insert.remove':
      return [`${c.strip} insert ${c.id}`];
    default:
      return [];
  }
}

function spread(
  session: Session,
  commands: readonly Command[],
  groupsOf: (strip: Id) => readonly Group[],
): readonly Command[] {
  const strips = stripMap(session);
  const taken = new Set<Id>();
  const fresh = (name: string) => {
    const id = freshId(session, name, taken);
    taken.add(id);
    return id;
  };
  for (const c of commands) {
    if (c.type === 'insert.add') taken.add(c.insert.id);
    if (c.type === 'send.add') taken.add(c.send.id);
  }
  const done = new Set(commands.flatMap((c) => marks(session, c)));
  const all = [...commands];
  // What one group passes on may reach the next: a strip can stand in several.
  for (let i = 0; i < all.length; i++) {
    const command = all[i]!;
    const id = kindOf(command).strip?.(command);
    if (id === undefined || !strips.has(id)) continue;
    for (const group of groupsOf(id)) {
      const others = group.members.flatMap((m) => (m === id ? [] : (strips.get(m) ?? [])));
      for (const c of mirrored(session, command, group, others, fresh)) {
        const own = marks(session, c);
        if (own.some((m) => done.has(m))) continue;
        own.forEach((m) => done.add(m));
        all.push(c);
      }
    }
  }
  return all.length === commands.length ? commands : all;
}

/** An edit with all that links make of it: what is done to one member is done to the others, in the linked parts. */
export function withLinks(session: Session, commands: readonly Command[]): readonly Command[] {
  const links = session.links.filter((l) => l.on && l.members.length > 1);
  if (links.length === 0) return commands;
  return spread(session, commands, (id) => links.filter((l) => l.members.includes(id)));
}

/**
 * An edit of one of some picked strips, done to them all: a parameter by the same step where differences are kept, else to
 * the same value. Strips that lack the send or the insert are passed over.
 */
export function together(
  session: Session,
  commands: readonly Command[],
  picked: readonly Id[],
  keeps: boolean,
): readonly Command[] {
  if (picked.length < 2) return commands;
  const group: Group = { members: picked, parts: LINK_PARTS, keeps };
  return spread(session, commands, (id) => (picked.includes(id) ? [group] : []));
}
