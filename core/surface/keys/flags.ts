import { ask, countOf, litIf, scopeOf, scopeServed, setFlag, type KeyRole } from './key';

const flag = (id: 'mute' | 'solo', name: string, word: string, done: string): KeyRole => ({
  id,
  name,
  word,
  about: `${name}s the strip or VCA, or opens it; with *picked* or *all* held, all of those as it is done to this one.`,
  of: 'strip',
  press({ context, state, faded, actions }) {
    if (!faded) return state;
    const to = !faded[id];
    const ids = scopeOf(context, state, faded);
    ask(actions, `${to ? id : `un${id}`} ${countOf(context, ids)}`, setFlag(context, ids, id, to));
    return scopeServed(state);
  },
  lit: (_, __, { faded }) => litIf(faded?.[done as 'mute' | 'solo'] === true),
});
export const mute = flag('mute', 'Mute', 'MUTE', 'mute');
export const solo = flag('solo', 'Solo', 'SOLO', 'solo');
