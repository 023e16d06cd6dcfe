import type { Id } from '../../base/units';
import { linkStrips } from '../../operations/links';
import { Refusal } from '../../base/refusal';
import type { Command } from '../../edits/commands';
import { stripMap } from '../../session/lookup';
import { withPins } from '../../operations/pins';
import { fadedOf, isVca } from '../faded';
import { told, type DeskContext, type DeskState } from '../state';
import { ask, countOf, isHeld, litIf, type KeyRole } from './key';

/** Strips that a key of the whole desk acts on: what is picked, else what was picked last. */
const picks = (context: DeskContext, state: DeskState): readonly Id[] =>
  context.picked.length ? context.picked : state.focus !== null ? [state.focus] : [];

const join: KeyRole = {
  id: 'join',
  name: 'Join and part',
  word: 'JOIN',
  about:
    'Joins all units to one window over the strips, or parts them: each then has a window of its own. Each way finds the windows where they were.',
  of: 'unit',
  press({ context, state, actions }) {
    const joined = !context.desk.joined;
    actions.push({ type: 'desk', patch: { joined } });
    return told(state, joined ? 'Units joined' : 'Units apart', context.now);
  },
  lit: (context) => litIf(context.desk.joined),
};

const pin = (side: 'left' | 'right'): KeyRole => ({
  id: side === 'left' ? 'pinLeft' : 'pinRight',
  name: `Pin to the ${side}`,
  word: side === 'left' ? 'PIN <' : 'PIN >',
  about: `Keeps what is picked at the ${side} edge of the desk, or while units are apart, of this one; again, no longer.`,
  of: 'unit',
  press({ context, state, unit, actions }) {
    const focus = fadedOf(context.session, state.focus);
    const ids = focus && isVca(focus) ? [focus.id] : picks(context, state);
    if (ids.length === 0) return told(state, 'Pick a strip first', context.now);
    const { commands, label } = withPins(context.session, ids, side, context.desk.joined ? null : unit);
    ask(actions, label, commands);
    return told(state, label, context.now);
  },
  lit: (context, state) =>
    litIf(context.session.pins.some((p) => p.side === side && p.strip === state.focus)),
});

const hide: KeyRole = {
  id: 'hide',
  name: 'Hide',
  word: 'HIDE',
  about: 'Held for a second, hides what is picked: it takes things away, so that a slip does nothing.',
  of: 'unit',
  press: ({ context, state }) =>
    told(state, picks(context, state).length ? 'Hold on to hide' : 'Pick a strip first', context.now),
  hold({ context, state, actions }) {
    const strips = stripMap(context.session);
    const ids = picks(context, state).filter((id) => strips.get(id)?.hidden === false);
    ask(
      actions,
      `hide ${countOf(context, ids)}`,
      ids.map((id): Command => ({ type: 'strip.set', id, patch: { hidden: true } })),
    );
    return ids.length ? told(state, `Hidden: ${countOf(context, ids)}`, context.now) : state;
  },
  lit: (_, state) => (isHeld(state, 'hide') ? 'blink' : 'off'),
};
const showAll: KeyRole = {
  id: 'showAll',
  name: 'Show all',
  word: 'SHOW',
  about: 'Shows all that was hidden.',
  of: 'unit',
  press({ context, state, actions }) {
    const hidden = context.session.strips.filter((s) => s.hidden).map((s) => s.id);
    ask(
      actions,
      `show ${countOf(context, hidden)}`,
      hidden.map((id): Command => ({ type: 'strip.set', id, patch: { hidden: false } })),
    );
    return told(
      state,
      hidden.length ? `Shown: ${countOf(context, hidden)}` : 'Nothing is hidden',
      context.now,
    );
  },
  lit: (context) => litIf(context.session.strips.some((s) => s.hidden)),
};
const link: KeyRole = {
  id: 'link',
  name: 'Link',
  word: 'LINK',
  about: 'Links what is picked, or where it is all in one link, takes that link away.',
  of: 'unit',
  press({ context, state, actions }) {
    const { session, picked } = context;
    const known = session.links.find(
      (l) =>
        picked.length > 1 &&
        l.members.length === picked.length &&
        picked.every((id) => l.members.includes(id)),
    );
    if (known) {
      ask(actions, `link ${known.name} taken away`, [{ type: 'link.remove', id: known.id }]);
      return told(state, 'Link taken away', context.now);
    }
    try {
      const made = linkStrips(session, picked);
      ask(actions, made.label, made.commands);
      return told(state, made.label, context.now);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      return told(state, 'Pick two strips or more', context.now);
    }
  },
  lit: ({ session, focus }) =>
    litIf(focus !== null && session.links.some((l) => l.on && l.members.includes(focus))),
};

/** The list of recent sessions on the display. */
const recent: KeyRole = {
  id: 'recent',
  name: 'Recent sessions',
  word: 'RECENT',
  about:
    'Lists the sessions opened last on the display: any encoder turned chooses, pushed opens; the same key leaves the list.',
  of: 'unit',
  press({ context, state }) {
    if (state.list !== null) return { ...state, list: null };
    return context.recent.length ? { ...state, list: 0 } : told(state, 'No other session yet', context.now);
  },
  lit: (_, state) => litIf(state.list !== null),
};

const layer: KeyRole = {
  id: 'layer',
  name: 'Second layer of user keys',
  word: 'LAYER',
  about: 'User keys do what they do on their second layer, until it is pushed again.',
  of: 'unit',
  press: ({ state }) => ({ ...state, layer: state.layer === 1 ? 2 : 1 }),
  lit: (_, state) => litIf(state.layer === 2),
};
/** Does an action of the page's palette. */
const user: KeyRole = {
  id: 'user',
  name: 'User key',
  word: 'USER',
  about: 'Does an action of the page, by its id, as the desk says; each has a second layer.',
  of: 'unit',
  press({ context, state, user: number, actions }) {
    const found = context.desk.userKeys.find((k) => k.key === number && k.layer === state.layer);
    if (!found) return told(state, `User key ${number ?? ''} is free`, context.now);
    actions.push({ type: 'run', action: found.action });
    return state;
  },
  lit: () => 'off',
};
/** An action of the page that the device's own profile names: it goes with the device, and not with the desk. */
const action: KeyRole = {
  id: 'action',
  name: 'Action of the page',
  word: 'DO',
  about: 'Does the action of the page that its profile names by its id.',
  of: 'unit',
  press({ context, state, action: id, actions }) {
    if (!id) return told(state, 'The key has no action', context.now);
    actions.push({ type: 'run', action: id });
    return state;
  },
  lit: () => 'off',
};

/** Keys of the desk as a whole. */
export const deskKeys: readonly KeyRole[] = [
  join,
  pin('left'),
  pin('right'),
  hide,
  showAll,
  link,
  recent,
  layer,
  user,
  action,
];
