import { newLink } from '../defaults';
import { freshId, nameOf } from '../lookup';
import { Refusal } from '../refusal';
import type { Session } from '../types';
import type { Link } from '../types';
import type { Id } from '../units';
import type { Gesture } from './gather';

/**
 * Links strips, so that they are moved together from now on.
 * @throws Refusal `range` for fewer than two
 */
export function linkStrips(
  session: Session,
  strips: readonly Id[],
  options: Partial<Pick<Link, 'name' | 'parts' | 'keeps'>> = {},
): Gesture {
  if (strips.length < 2)
    throw new Refusal('range', 'A link takes two strips or more. Pick them first.', strips);
  const name = options.name ?? `${nameOf(session, strips[0]!)} and ${strips.length - 1} more`;
  const id = freshId(session, `link ${name}`);
  return {
    made: id,
    label: `link ${strips.length} strips`,
    commands: [
      {
        type: 'link.add',
        link: newLink({ id, members: strips, ...options, name }),
        at: session.links.length,
      },
    ],
  };
}

/** The links that a strip stands in. */
export const linksOf = (session: Session, strip: Id): readonly Link[] =>
  session.links.filter((l) => l.members.includes(strip));
