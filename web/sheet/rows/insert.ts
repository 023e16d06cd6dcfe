import { h } from 'vue';
import { processorOf, processors } from '@core/processors/registry';
import type { Command } from '@core/edits/commands';
import { activeInserts, addInserts, placeInsert, resetInsert } from '@core/operations/inserts';
import { nameOf, stripOf } from '@core/session/lookup';
import type { Insert, Session } from '@core/session/types';
import type { MenuItem, MenuPlace } from '@/ui/menu';
import { stepOf } from '../zoom';
import { insertAt, laneState, type RowKind, type Spot } from './kind';
import type { SheetTools } from './tools';
import { say } from '../texts';

const shortNames = new Map(processors.map((p) => [p.type, p.shortName]));
const shortName = (i: Insert) => shortNames.get(i.type) ?? i.type;
const at = (t: SheetTools, { strip, row }: Spot) => insertAt(t.strip(strip), row);

/** Rows of one side of the fader: one more than the longest chain, at least two before it and one after. */
function rowsOf(session: Session, place: Insert['place']) {
  const most = Math.max(0, ...session.strips.map((s) => s.inserts.filter((i) => i.place === place).length));
  const count = Math.max(place === 'pre' ? 2 : 1, most + (place === 'pre' || most > 0 ? 1 : 0));
  return Array.from({ length: count }, (_, index) => ({
    key: `${place}:${index}`,
    label: index === 0 ? (place === 'pre' ? say('inserts') : say('afterFader')) : '',
    place,
    index,
    height: 24,
  }));
}

/** Opens the editor of the insert that stands here, or what can be put here. */
function open(t: SheetTools, spot: Spot, where: MenuPlace) {
  const { strip, row } = spot;
  const there = at(t, spot);
  if (there) return t.openEditor(strip, there.id);
  const group = t.group(strip);
  const place = row.place ?? 'pre';
  const add = (type: string, name: string) => {
    const done = t.session.change(t.named(say('nameOn', { name }), group), (d) =>
      addInserts(d, group, type, place),
    );
    const made = t.session
      .strip(strip)
      ?.inserts.filter((i) => i.place === place)
      .at(-1);
    if (done && made) t.openEditor(strip, made.id);
  };
  t.menu.open(
    say('placeOfNamed', {
      place: place === 'post' ? say('afterTheFader') : say('beforeTheFader'),
      named: t.named('', group).trim(),
    }),
    [
      ...processors.map((p): MenuItem => ({ label: p.name, run: () => add(p.type, p.name) })),
      { label: say('aPreset'), run: () => t.commands.run('presets', { strips: group }) },
    ],
    where,
  );
}
function bypass(t: SheetTools, spot: Spot) {
  const insert = at(t, spot);
  if (insert)
    t.session.commit(
      say('onInsertName', {
        on: insert.on ? say('bypass') : say('switchOn'),
        name: nameOf(t.doc(), spot.strip),
      }),
      [{ type: 'insert.set', strip: spot.strip, id: insert.id, patch: { on: !insert.on } }],
    );
}
function reset(t: SheetTools, spot: Spot) {
  const insert = at(t, spot);
  if (insert)
    t.session.change(
      say('defaultsOfNameName2', { name: processorOf(insert.type).name, name2: nameOf(t.doc(), spot.strip) }),
      (d) => resetInsert(d, { strip: spot.strip, id: insert.id }),
    );
}
function remove(t: SheetTools, spot: Spot) {
  const insert = at(t, spot);
  if (insert)
    t.session.commit(say('removeInsertName', { name: nameOf(t.doc(), spot.strip) }), [
      { type: 'insert.remove', strip: spot.strip, id: insert.id },
    ]);
}

/**
 * Moves an insert, or a copy of it, by keyboard: up and down within its strip and past the fader, left and right to the next
 * strip. The keyboard goes along.
 */
function carry(t: SheetTools, { strip, row }: Spot, way: 'left' | 'right' | 'up' | 'down', copy: boolean) {
  const insert = insertAt(t.strip(strip), row);
  if (!insert) return;
  const order = t.pick.reachable;
  const across = way === 'left' ? -1 : way === 'right' ? 1 : 0;
  const to = across ? order[order.indexOf(strip) + across] : strip;
  if (!to) return;
  const side = t.strip(to).inserts.filter((i) => i.place === insert.place);
  let { place } = insert;
  let index = across ? Math.min(row.index!, side.length) : row.index! + (way === 'up' ? -1 : 2);
  if (!across && index > side.length) [place, index] = ['post', 0];
  if (!across && index < 0) [place, index] = ['pre', Infinity];
  if (!across && place === insert.place && index > side.length) return;
  let moved: string | null = null;
  t.session.change(
    say(copy ? 'copyInsert' : 'moveInsert', {
      processor: processorOf(insert.type).name,
      where: across ? say('toName', { name: nameOf(t.doc(), to) }) : say('inItsChain'),
    }),
    (d) => {
      const placed = placeInsert(d, { strip, id: insert.id }, { strip: to, place, at: index }, copy);
      moved = placed.id;
      return placed.commands;
    },
  );
  const there = t.strip(to).inserts.find((i) => i.id === moved);
  if (!there) return;
  const now = t
    .strip(to)
    .inserts.filter((i) => i.place === there.place)
    .indexOf(there);
  t.pick.focus = { strip: to, row: `${there.place}:${now}` };
}

/** An insert before or after the fader. */
export const insert: RowKind = {
  kind: 'insert',
  far: null,
  middle: 12,
  fold: (row) => row.place!,
  rows: () => [],
  sees: ({ strip, editedInsert, dry, width }, row) => [
    insertAt(strip, row),
    editedInsert,
    dry,
    stepOf(width),
  ],
  draw({ strip, editedInsert, dry, width }, row) {
    const i = insertAt(strip, row);
    return [
      i &&
        h(
          'span',
          {
            class: ['chip', { off: !i.on, dry: dry.includes(i.id), edited: editedInsert === i.id }],
            style:
              stepOf(width) === 'near'
                ? undefined
                : { height: '7px', ...(i.on ? { background: 'var(--ink-soft)' } : {}) },
          },
          // A mark where its name does not fit.
          stepOf(width) === 'near' ? shortName(i) : '',
        ),
    ];
  },
  speak({ strip, dry }, row) {
    const i = insertAt(strip, row);
    return i
      ? `${shortName(i)}${i.on ? '' : say('bypassed')}${dry.includes(i.id) ? say('heardDry') : ''}`
      : say('noInsertHereEnterAdds');
  },
  lanes(column, row) {
    const i = insertAt(column.strip, row);
    return i ? laneState(column, 'insert', i.id, i.lanes) : null;
  },
  press: (t, spot, e) => ({ mode: 'open', clicked: () => open(t, spot, { x: e.clientX, y: e.clientY }) }),
  turn: (t, spot, e) => (e.shiftKey ? 'paint' : at(t, spot) ? 'carry' : 'done'),
  paint(session, { strip, row }, to) {
    const own = insertAt(stripOf(session, strip), row);
    if (!own) return [];
    return to.flatMap((id): Command[] => {
      const there = insertAt(stripOf(session, id), row);
      return there && there.type === own.type && there.on !== own.on
        ? [{ type: 'insert.set', strip: id, id: there.id, patch: { on: own.on } }]
        : [];
    });
  },
  enter: open,
  reset,
  remove,
  keys: {
    switch: bypass,
    ...Object.fromEntries(
      (['left', 'right', 'up', 'down'] as const).flatMap((way) => {
        const end = `${way.charAt(0).toUpperCase()}${way.slice(1)}`;
        return [false, true].map((copy) => [
          `${copy ? 'copy' : 'carry'}${end}`,
          (t: SheetTools, spot: Spot) => carry(t, spot, way, copy),
        ]);
      }),
    ),
  },
  menu(t, spot, where) {
    const { strip } = spot;
    const i = at(t, spot);
    if (!i) {
      open(t, spot, where);
      return null;
    }
    const { name } = processorOf(i.type);
    const all = activeInserts(t.doc(), null, i.type);
    const ref = { strip, id: i.id };
    return {
      title: `${name}${i.key === null ? '' : say('keyedByName', { name: nameOf(t.doc(), i.key) })}`,
      items: [
        { label: i.on ? say('bypassTitle') : say('switchOnTitle'), keys: 'B', run: () => bypass(t, spot) },
        {
          label: i.place === 'pre' ? say('moveAfterTheFader') : say('moveBeforeTheFader'),
          run: () =>
            t.session.commit(say('placeOfInsertName', { name: nameOf(t.doc(), strip) }), [
              { type: 'insert.set', ...ref, patch: { place: i.place === 'pre' ? 'post' : 'pre' } },
            ]),
        },
        { label: say('itsDefaults'), keys: 'Backspace', run: () => reset(t, spot) },
        {
          label: say('bypassAllStrip'),
          keys: t.commands.keysOf('bypass'),
          run: () => t.commands.run('bypass', { strips: t.group(strip) }),
        },
        {
          label: say('bypassEveryNameSession', { name }),
          disabled: all.length === 0,
          run: () => t.commands.run('bypassKind', { processor: i.type }),
        },
        {
          label: say('compareEveryNameDryWet', { name }),
          disabled: all.length === 0,
          run: () => t.commands.run('compare', { refs: all, name: say('everyName', { name }) }),
        },
        {
          label: say('moveReturn'),
          disabled: t.strip(strip).kind === 'output',
          run: () => t.commands.run('moveToReturn', { refs: [ref] }),
        },
        t.laneItem({ part: 'insert', owner: strip, id: i.id, control: 'on' }),
        {
          label: say('presetsOfItsKind'),
          run: () => t.commands.run('presets', { strips: [strip], insert: i.id }),
        },
        { label: say('remove'), keys: 'Del', danger: true, run: () => remove(t, spot) },
      ],
    };
  },
};
/** The same on either side of the fader, each side with its own rows. */
export const preInserts: RowKind = { ...insert, rows: (session) => rowsOf(session, 'pre') };
export const postInserts: RowKind = { ...insert, rows: (session) => rowsOf(session, 'post') };
