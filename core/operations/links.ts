import { newLink } from '../session/defaults';
import { freshId, nameOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Session } from '../session/types';
import type { Link } from '../session/types';
import type { Id } from '../base/units';
import type { Operation } from './gather';

/**
 * Links strips, so that they are moved together from now on.
 * @throws Refusal `range` for fewer than two
 */
export function linkStrips(
  session: Session,
  strips: readonly Id[],
  options: Partial<Pick<Link, 'name' | 'parts' | 'keeps'>> = {},
): Operation {
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
