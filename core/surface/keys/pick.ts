import { withDefault } from '../defaults';
import { isVca } from '../faded';
import { giveMode, heldMode } from './modes';
import { isHeld, litIf, scopeServed, served, type KeyRole } from './key';

/** Picks: alone, beside what is picked while *second* or *picked* is held, or from another pick key that is held to this one. */
export const pick: KeyRole = {
  id: 'pick',
  name: 'Pick',
  word: 'PICK',
  about:
    'Picks the strip alone; while *second* or *picked* is held, beside the others, or takes it out. While a mode key is held, gives the strip that mode; while *default* is, brings its fader to its default. A VCA becomes what *fan* and modes begin from; strips stay picked.',
  of: 'strip',
  press(key) {
    const { context, state, faded, actions } = key;
    if (!faded) return state;
    const mode = heldMode(state);
    if (mode) return giveMode(key, mode, [faded.id]);
    if (isHeld(state, 'default')) return withDefault(key, faded);
    const next = { ...state, focus: faded.id };
    if (isVca(faded)) return next;
    const widen = isHeld(state, 'second') || isHeld(state, 'picked');
    const strips = !widen
      ? [faded.id]
      : context.picked.includes(faded.id)
        ? context.picked.filter((id) => id !== faded.id)
        : [...context.picked, faded.id];
    actions.push({ type: 'pick', strips });
    return { ...scopeServed(served(next, 'second')), asked: strips };
  },
  lit: (context, state, { faded }) =>
    litIf(faded !== null && (isVca(faded) ? state.focus === faded.id : context.picked.includes(faded.id))),
};
