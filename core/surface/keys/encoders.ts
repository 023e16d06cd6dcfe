import type { Strip } from '../../session/types';
import { acrosses } from '../encoders/across/registry';
import { alongs } from '../encoders/along/registry';
import { insertUnder } from '../encoders/along/insert';
import { chosen, encodersOf, fieldOf, turnedPage } from '../encoders/field';
import { subjectOf } from '../encoders/subject';
import { fadedOf, isVca } from '../faded';
import { told, type DeskContext, type DeskState, type EncoderState } from '../state';
import { slotsOf } from '../window';
import { processorOf } from '../../processors/registry';
import { isHeld, litIf, type KeyEvent, type KeyRole } from './key';

const cap = (id: string) => `${id[0]!.toUpperCase()}${id.slice(1)}`;
const steer = (state: DeskState, patch: Partial<EncoderState>): DeskState => ({
  ...state,
  encoders: { ...state.encoders, ...patch },
});
/** The unit on which a key was pushed, where it has encoders: what goes along a strip lies there. */
const unitOf = ({ context, unit }: KeyEvent): string | null => {
  const found = context.desk.units.find((u) => u.id === unit);
  return found && encodersOf(context, found).length ? unit : null;
};

/** A key for each thing that lies across. */
const acrossKeys: readonly KeyRole[] = acrosses.map((kind) => ({
  id: `across${cap(kind.id)}`,
  name: kind.name,
  word: kind.word,
  about: `Across the encoders: ${kind.about}${kind.choices ? ' Pushed again, the next choice.' : ''}`,
  of: 'unit',
  press({ context, state }) {
    const { mode, across, choice } = state.encoders;
    if (mode !== 'across' || across !== kind.id) return steer(state, { mode: 'across', across: kind.id });
    const all = kind.choices?.(context.session) ?? [];
    if (all.length < 2) return state;
    const at = Math.max(
      0,
      all.findIndex((c) => c.id === choice[kind.id]),
    );
    const way = isHeld(state, 'second') ? -1 : 1;
    const next = all[(at + way + all.length) % all.length]!;
    return steer(state, { choice: { ...choice, [kind.id]: next.id } });
  },
  lit: (_, { encoders }) => litIf(encoders.mode === 'across' && encoders.across === kind.id),
}));

/** A key for each thing that lies along a strip. */
const alongKeys: readonly KeyRole[] = alongs.map((kind) => ({
  id: `along${cap(kind.id)}`,
  name: kind.name,
  word: kind.word,
  about: `Along the encoders: ${kind.about}`,
  of: 'unit',
  press: (key) =>
    steer(key.state, { mode: 'along', along: kind.id, unit: unitOf(key) ?? key.state.encoders.unit }),
  lit: (_, { encoders }) => litIf(encoders.mode === 'along' && encoders.along === kind.id),
}));

/** Straight to a kind of processor. */
const kindKey = (type: 'equalizer' | 'compressor'): KeyRole => ({
  id: `along${cap(type)}`,
  name: processorOf(type).name,
  word: processorOf(type).shortName,
  about: `Along the encoders: the ${type} of the strip, the one that the desk is set to where it has several; pushed again, its next one.`,
  of: 'unit',
  press(key) {
    const { context, state } = key;
    const strip = subjectOf(context, state);
    const all = strip?.inserts.filter((i) => i.type === type) ?? [];
    const { mode, along, insert } = state.encoders;
    const now =
      mode === 'along' && along === 'insert' && strip
        ? insertUnder(context, strip, state.encoders)
        : undefined;
    const next = now?.type === type ? all[(all.indexOf(now) + 1) % all.length] : undefined;
    return steer(state, {
      mode: 'along',
      along: 'insert',
      insert: {
        type,
        id:
          next?.id ??
          (insert.type === type && strip && all.some((i) => i.id === insert.id) ? insert.id : null),
      },
      unit: unitOf(key) ?? state.encoders.unit,
    });
  },
  lit: (_, { encoders }) =>
    litIf(encoders.mode === 'along' && encoders.along === 'insert' && encoders.insert.type === type),
});

/** The strip whose inserts are gone through: the one of the encoders, or the first under the hands that has any. */
function withInserts(context: DeskContext, state: DeskState): Strip | null {
  const own = subjectOf(context, state);
  if (own?.inserts.length || (state.focus !== null && own)) return own;
  for (const ids of Object.values(slotsOf(context, state)))
    for (const id of ids) {
      const f = fadedOf(context.session, id);
      if (f && !isVca(f) && f.inserts.length) return f;
    }
  return own;
}
/** Goes through the inserts of the picked strip, and back to what lies across after the last. */
const insertKey: KeyRole = {
  id: 'insert',
  name: 'Through the inserts',
  word: 'INSERT',
  about:
    'Puts the inserts of the picked strip along the encoders, one after the other, and goes back to what lay across after the last.',
  of: 'unit',
  press(key) {
    const { context, state } = key;
    const strip = withInserts(context, state);
    if (!strip?.inserts.length)
      return told(steer(state, { mode: 'across' }), 'No insert here. Pick a strip with one', context.now);
    const { mode, along, insert } = state.encoders;
    const going = mode === 'along' && along === 'insert';
    const at = going ? strip.inserts.findIndex((i) => i.id === insert.id) : -1;
    const next = strip.inserts[at + 1];
    if (!next) return steer(state, { mode: 'across' });
    return {
      ...steer(state, {
        mode: 'along',
        along: 'insert',
        insert: { type: next.type, id: next.id },
        unit: unitOf(key) ?? state.encoders.unit,
      }),
      focus: state.encoders.lock === null ? strip.id : state.focus,
    };
  },
  lit: (context, state) =>
    litIf(state.encoders.mode !== 'across' && fieldOf(context, state).page.strip !== null),
};

const mode = (id: 'columns' | 'spread', name: string, about: string): KeyRole => ({
  id,
  name,
  word: name.toUpperCase(),
  about: `${about} The same key goes back.`,
  of: 'unit',
  press: ({ state }) => steer(state, { mode: state.encoders.mode === id ? 'across' : id }),
  lit: (_, { encoders }) => litIf(encoders.mode === id),
});

const pager = (id: string, way: 1 | -1, name: string, word: string): KeyRole => ({
  id,
  name,
  word,
  about: 'Another page of what the encoders steer; of what lies across, another return or band.',
  of: 'unit',
  press: ({ context, state }) => turnedPage(context, state, way),
  lit(context, state) {
    const { page, pages } = fieldOf(context, state).page;
    return litIf(way < 0 ? page > 0 : page < pages - 1);
  },
});
const chooser = (id: string, way: 1 | -1, name: string, word: string): KeyRole => ({
  id,
  name,
  word,
  about: 'Another return, or another band, of what lies across.',
  of: 'unit',
  press: ({ context, state }) => chosen(context, state, way),
  lit: () => 'off',
});

/** What the encoders steer goes to the faders, and back. */
const flip: KeyRole = {
  id: 'flip',
  name: 'Flip',
  word: 'FLIP',
  about:
    'What the encoders steer goes to the faders, at 14 bits, and the levels to the encoders; the same key goes back.',
  of: 'unit',
  press: ({ state }) => ({ ...state, flip: !state.flip }),
  lit: (_, state) => litIf(state.flip),
};
const sendsAcross: KeyRole = {
  id: 'sendsAcross',
  name: 'Sends of this return across the faders',
  word: 'SENDS',
  about:
    'With a return picked: the sends to it lie across the faders, over the strips that are sent to it. The same key goes back.',
  of: 'unit',
  press({ context, state }) {
    const of = fadedOf(context.session, state.focus);
    const { mode, across, choice } = state.encoders;
    if (state.flip && mode === 'across' && across === 'send') return { ...state, flip: false };
    if (!of || isVca(of) || of.kind === 'source') return told(state, 'Pick a return first', context.now);
    return {
      ...steer(state, { mode: 'across', across: 'send', choice: { ...choice, send: of.id } }),
      flip: true,
    };
  },
  lit: (_, { flip: flipped, encoders }) =>
    litIf(flipped && encoders.mode === 'across' && encoders.across === 'send'),
};
const lock: KeyRole = {
  id: 'lock',
  name: 'Lock',
  word: 'LOCK',
  about: 'Keeps the encoders on their strip while others are picked; again, they go with what is picked.',
  of: 'unit',
  press({ context, state }) {
    if (state.encoders.lock !== null) return steer(state, { lock: null });
    const strip = subjectOf(context, state);
    return strip ? steer(state, { lock: strip.id }) : told(state, 'Pick a strip first', context.now);
  },
  lit: (_, { encoders }) => litIf(encoders.lock !== null),
};

/** Keys of what the encoders steer. */
export const encoderKeys: readonly KeyRole[] = [
  ...acrossKeys,
  ...alongKeys,
  kindKey('equalizer'),
  kindKey('compressor'),
  insertKey,
  mode(
    'columns',
    'Columns',
    "Where a device has several rows: each strip's first parameters in its own column.",
  ),
  mode('spread', 'Spread', 'One insert over every encoder of the desk.'),
  pager('pageLeft', -1, 'Page left', 'PAGE <'),
  pager('pageRight', 1, 'Page right', 'PAGE >'),
  chooser('choiceLeft', -1, 'Choice left', 'CHOICE <'),
  chooser('choiceRight', 1, 'Choice right', 'CHOICE >'),
  flip,
  sendsAcross,
  lock,
];
