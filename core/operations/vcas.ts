import { sharedIcon } from '../naming/icons';
import { newVca } from '../session/defaults';
import { freshId, stripOf, vcaOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Command } from '../edits/commands';
import type { Session } from '../session/types';
import type { Id } from '../base/units';
import type { Operation } from './gather';

/** Puts a new VCA over the picked strips. @throws Refusal `range` when nothing is picked */
export function holdByVca(session: Session, picked: readonly Id[], name?: string): Operation {
  if (picked.length === 0)
    throw new Refusal('range', 'Nothing is picked: pick the strips that the VCA is to hold first.');
  const strips = picked.map((id) => stripOf(session, id));
  const family = strips[0]!.family;
  const base = name ?? (family && strips.every((s) => s.family === family) ? family : 'VCA');
  const names = new Set(session.vcas.map((v) => v.name));
  let free = base;
  for (let n = 2; names.has(free); n++) free = `${base} ${n}`;
  const made = freshId(session, `vca-${free}`);
  return {
    made,
    label: `VCA ${free}`,
    commands: [
      {
        type: 'vca.add',
        vca: newVca({
          id: made,
          name: free,
          colour: strips[0]!.colour,
          icon: sharedIcon(strips, free, 'vca'),
          members: picked,
        }),
        at: session.vcas.length,
      },
    ],
  };
}

/** Adds strips to a VCA or takes them out. No command where nothing would change. */
export function setMembers(
  session: Session,
  vca: Id,
  strips: readonly Id[],
  held: boolean,
): readonly Command[] {
  const { members } = vcaOf(session, vca);
  const next = held
    ? [...members, ...strips.filter((id) => !members.includes(id))]
    : members.filter((id) => !strips.includes(id));
  return next.length === members.length ? [] : [{ type: 'vca.members', id: vca, members: next }];
}

/** Removes a VCA, and lets those that hold it let go of it. */
export const removeVca = (session: Session, id: Id): readonly Command[] => [
  ...session.vcas
    .filter((v) => v.members.includes(id))
    .map((v): Command => ({
      type: 'vca.members',
      id: v.id,
      members: v.members.filter((m) => m !== id),
    })),
  { type: 'vca.remove', id },
];
