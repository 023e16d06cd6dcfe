import { nameOf } from '../../../session/lookup';
import type { Session } from '../../../session/types';
import { isVca } from '../../faded';
import { sendBinding } from '../bindings';
import type { AcrossKind } from './across';

/** Where strips are sent to: the returns, then whatever else a send leads to. */
function destinations(session: Session) {
  const fed = new Set(session.strips.flatMap((s) => s.sends.map((x) => x.to)));
  const returns = session.strips.filter((s) => s.kind === 'return');
  const rest = session.strips.filter((s) => s.kind !== 'return' && fed.has(s.id));
  return [...returns, ...rest].map(({ id }) => ({ id, name: nameOf(session, id) }));
}

export const send: AcrossKind = {
  id: 'send',
  name: 'Send to a return',
  word: 'Send',
  about:
    'The send of each strip to one return; the choice goes through the returns. With *second* held its pan; a push switches it where *second* is held.',
  choices: destinations,
  bind({ session }, faded, choice) {
    const found = isVca(faded) ? undefined : faded.sends.find((x) => x.to === choice);
    return found && !isVca(faded) ? sendBinding(session, faded, found) : null;
  },
};
