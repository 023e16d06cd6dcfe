import { clampLevel, FADER_FLOOR } from '../levels/faderLaw';
import { newStrip } from '../session/defaults';
import { freshId, mainOutput, stripMap, stripOf, vcaOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import { iconFor } from '../naming/icons';
import { suggest, withoutTake } from '../naming/suggest';
import type { Command } from '../edits/commands';
import type { Channels, Session, Strip } from '../session/types';
import type { Decibels, Id } from '../base/units';

/** An audio file that has been brought in. */
export interface ImportedStem {
  readonly fileName: string;
  /** Its address: where the strip finds it. */
  readonly stem: string;
  readonly channels: Channels;
  /** What tells it from others of its file. */
  readonly place?: string | null;
}

/** Names of files for people: without what says which take each is, but where that alone tells two of them apart. */
function takesApart(stems: readonly ImportedStem[]): readonly string[] {
  const bare = stems.map(({ fileName }) => withoutTake(fileName));
  const files = (name: string) =>
    new Set(stems.filter((_, k) => bare[k]!.toLowerCase() === name.toLowerCase()).map((s) => s.fileName));
  return stems.map(({ fileName }, k) => (files(bare[k]!).size > 1 ? fileName : bare[k]!));
}

/** A source strip for each stem, with name, family, colour and icon suggested, standing after the other sources. */
export function addSources(session: Session, stems: readonly ImportedStem[]): readonly Command[] {
  const taken = new Set<Id>();
  const lastSource = session.strips.map((s) => s.kind).lastIndexOf('source');
  const to = mainOutput(session)?.id ?? null;
  const names = takesApart(stems);
  return stems.map(({ stem, channels, place }, i) => {
    const { name: whole, family, colour } = suggest(names[i]!);
    const name = place
      ? `${whole.slice(0, 80 - place.length - 1)} ${place === 'lfe' ? 'LFE' : place}`
      : whole;
    const id = freshId(session, name, taken);
    taken.add(id);
    const icon = iconFor({ name, family, kind: 'source' });
    return {
      type: 'strip.add',
      at: lastSource + 1 + i,
      strip: newStrip({
        id,
        kind: 'source',
        name,
        family,
        colour,
        icon,
        channels,
        stem,
        out: { to, on: true },
      }),
    };
  });
}

/**
 * Takes strips away with everything that leads to them: sends and keys to them go, and what had its out to one of
 * them goes where that one went.
 * @throws Refusal `in-use` for the last output
 */
export function removeStrips(session: Session, ids: readonly Id[]): readonly Command[] {
  const gone = new Set(ids);
  const strips = stripMap(session);
  const outputs = session.strips.filter((s) => s.kind === 'output');
  if (outputs.every((s) => gone.has(s.id)))
    throw new Refusal(
      'in-use',
      `\`${outputs[0]?.name}\` is the last output: a session keeps one.`,
      outputs.map((s) => s.id),
    );
  const survivor = (id: Id | null): Id | null => {
    let at = id;
    while (at !== null && gone.has(at)) at = strips.get(at)!.out.to;
    return at;
  };
  const commands: Command[] = [];
  for (const s of session.strips) {
    if (gone.has(s.id)) continue;
    for (const x of s.sends)
      if (gone.has(x.to)) commands.push({ type: 'send.remove', strip: s.id, id: x.id });
    for (const i of s.inserts)
      if (i.key !== null && gone.has(i.key))
        commands.push({ type: 'insert.set', strip: s.id, id: i.id, patch: { key: null } });
    if (s.out.to !== null && gone.has(s.out.to)) {
      const to = survivor(s.out.to) ?? outputs.find((o) => !gone.has(o.id))?.id ?? null;
      commands.push({ type: 'strip.out', id: s.id, out: { to, on: s.out.on } });
    }
  }
  for (const v of session.vcas)
    if (v.members.some((m) => gone.has(m)))
      commands.push({ type: 'vca.members', id: v.id, members: v.members.filter((m) => !gone.has(m)) });
  for (const l of session.links) {
    const members = l.members.filter((m) => !gone.has(m));
    if (members.length === l.members.length) continue;
    commands.push(
      members.length < 2
        ? { type: 'link.remove', id: l.id }
        : { type: 'link.set', id: l.id, patch: { members } },
    );
  }
  if (session.pins.some((p) => gone.has(p.strip)))
    commands.push({
      type: 'session.set',
      patch: { pins: session.pins.filter((p) => !gone.has(p.strip)) },
    });
  if (session.layouts.some((l) => l.order.some((id) => gone.has(id))))
    commands.push({
      type: 'session.set',
      patch: {
        layouts: session.layouts.map((l) => ({ ...l, order: l.order.filter((id) => !gone.has(id)) })),
      },
    });
  if (session.monitor !== null && gone.has(session.monitor))
    commands.push({ type: 'session.set', patch: { monitor: null } });
  for (const id of ids) commands.push({ type: 'strip.remove', id: stripOf(session, id).id });
  return commands;
}

/** Moves strips, in their own order, to stand before another one; to the end where `before` is null. */
export function moveStrips(session: Session, ids: readonly Id[], before: Id | null): readonly Command[] {
  const moving = new Set(ids);
  const rest = session.strips.map((s) => s.id).filter((id) => !moving.has(id));
  const at = before === null || moving.has(before) ? rest.length : rest.indexOf(before);
  const moved = session.strips.map((s) => s.id).filter((id) => moving.has(id));
  const order = [...rest.slice(0, at), ...moved, ...rest.slice(at)];
  return order.every((id, i) => session.strips[i]!.id === id) ? [] : [{ type: 'strips.order', order }];
}

/** Raises a level by a step; from silence a step up begins at the fader's floor. */
export const stepLevel = (level: Decibels, step: number): Decibels =>
  level === null ? (step > 0 ? FADER_FLOOR : null) : clampLevel(level + step);

/** Moves faders by the same decibels: differences are kept. */
export const shiftFaders = (session: Session, ids: readonly Id[], step: number): readonly Command[] =>
  ids.map((id) => ({
    type: 'strip.set',
    id,
    patch: { faderDb: stepLevel(stripOf(session, id).faderDb, step) },
  }));

type Flag = 'mute' | 'solo' | 'soloSafe' | 'hidden' | 'invert' | 'swap';

/** Sets a flag on all of them: on, unless every one has it. */
export function toggleFlag(session: Session, ids: readonly Id[], flag: Flag): readonly Command[] {
  const strips = ids.map((id) => stripOf(session, id));
  const to = !strips.every((s) => s[flag]);
  return strips
    .filter((s) => s[flag] !== to)
    .map((s) => ({ type: 'strip.set', id: s.id, patch: { [flag]: to } }));
}

/** Switches dry paths: on, unless every one is. */
export function toggleDryPath(session: Session, ids: readonly Id[]): readonly Command[] {
  const strips = ids.map((id) => stripOf(session, id));
  const on = !strips.every((s) => s.out.on);
  return strips
    .filter((s) => s.out.on !== on)
    .map((s) => ({ type: 'strip.out', id: s.id, out: { ...s.out, on } }));
}

/** Turns the VCA's flag over. */
export const toggleVca = (session: Session, id: Id, flag: 'mute' | 'solo'): readonly Command[] => [
  { type: 'vca.set', id, patch: { [flag]: !vcaOf(session, id)[flag] } },
];

/** Columns of the Sheet: sources first in their order, then submixes, returns and outputs. */
export function sheetOrder(session: Session): {
  readonly sources: readonly Strip[];
  readonly landing: readonly Strip[];
} {
  const shown = session.strips.filter((s) => !s.hidden);
  const kind = (k: Strip['kind']) => shown.filter((s) => s.kind === k);
  return { sources: kind('source'), landing: [...kind('submix'), ...kind('return'), ...kind('output')] };
}
