import { h } from 'vue';
import { levelSpoken, levelText } from '@core/levels/decibels';
import { levelAt, travelOf } from '@core/levels/faderLaw';
import { panText } from '@core/levels/pan';
import { cellValue, makeSends } from '@core/operations/cells';
import { removeSends, sendTo, setSends } from '@core/operations/returns';
import { faderFromSend, setTap } from '@core/operations/sends';
import { nameOf, stripOf } from '@core/session/lookup';
import type { Send, Tap } from '@core/session/types';
import { tapWord } from '@/session/words';
import { stepOf } from '../zoom';
import { laneState, type Column, type Row, type RowKind, type Spot } from './kind';
import { panAt } from './pan';
import type { SheetTools } from './tools';
import { valueRow } from './value';
import { say } from '../texts';

const taps = (): readonly (readonly [Tap, string])[] => [
  ['post', say('postFaderAfterFaderPan')],
  ['pre', say('preFaderAfterInsertsBefore')],
  ['input', say('inputBeforeAllInserts')],
];
const NEXT: Readonly<Record<Tap, Tap>> = { post: 'pre', pre: 'input', input: 'post' };
/** Pixels that lead from the fader's bottom to its top. */
const TRAVEL = 120;
const PAN_STEP = 0.05;

const at = ({ strip }: Column, row: Row): Send | undefined => strip.sends.find((s) => s.to === row.ref);
const sendOf = (t: SheetTools, { strip, row }: Spot) => sendTo(t.doc(), strip, row.ref!);
/** The strips of a group that send there. */
const senders = (t: SheetTools, { strip, row }: Spot) =>
  t.group(strip).filter((id) => sendTo(t.doc(), id, row.ref!));

/** Changes the sends of all that are picked with this strip. */
function set(t: SheetTools, spot: Spot, label: string, patch: { tap?: Tap; on?: boolean }) {
  t.session.change(t.named(label, t.group(spot.strip)), (d) =>
    setSends(
      d,
      t.group(spot.strip).filter((id) => sendTo(d, id, spot.row.ref!)),
      spot.row.ref!,
      patch,
    ),
  );
}
function nextTap(t: SheetTools, spot: Spot) {
  const send = sendOf(t, spot);
  if (send) set(t, spot, `${NEXT[send.tap]} send to ${spot.row.label},`, { tap: NEXT[send.tap] });
}
function turn(t: SheetTools, spot: Spot) {
  const send = sendOf(t, spot);
  if (send)
    t.session.commit(
      say('sendRowName', {
        row: spot.row.label,
        on: send.on ? say('off') : say('on'),
        name: nameOf(t.doc(), spot.strip),
      }),
      [{ type: 'send.set', strip: spot.strip, id: send.id, patch: { on: !send.on } }],
    );
}
function panBy(t: SheetTools, spot: Spot, by: number) {
  const group = senders(t, spot);
  if (!sendOf(t, spot)) return;
  t.session.settle(
    `pan ${spot.strip} ${spot.row.key}`,
    t.named(say('panSendRow', { row: spot.row.label }), group),
    group.map((id) => {
      const x = sendTo(t.session.now!, id, spot.row.ref!)!;
      const pan = Math.max(-1, Math.min(1, Math.round((x.pan + by) * 100) / 100));
      return { type: 'send.set', strip: id, id: x.id, patch: { pan } };
    }),
  );
}
function remove(t: SheetTools, { strip, row }: Spot) {
  const group = t.group(strip);
  t.session.change(t.named(say('noSendToRow', { row: row.label }), group), (d) =>
    removeSends(d, group, row.ref!),
  );
}

/**
 * The send to a return. A bar: on the floor of the cell post-fader, from the ceiling pre-fader, from the left wall at the
 * input; hollow when it is off.
 */
export const send: RowKind = {
  kind: 'send',
  far: null,
  middle: 14,
  fold: 'sends',
  rows: (session) =>
    session.strips
      .filter((s) => s.kind === 'return')
      .map((s) => ({ key: `send:${s.id}`, label: s.name || s.id, ref: s.id, height: 26 })),
  ...valueRow(
    (row) => ({ kind: 'send', to: row.ref! }),
    (row) => say('sendToRow', { row: row.label }),
  ),
  sees: (column, row) => [at(column, row), column.strip.id, column.strip.kind, stepOf(column.width)],
  draw(column, row) {
    const { strip } = column;
    const x = at(column, row);
    if (!x) return [strip.id !== row.ref && strip.kind !== 'output' && h('span', { class: 'dot' }, '·')];
    return [
      h('i', {
        class: ['send-bar', x.tap, { off: !x.on }],
        style: {
          '--share': `${Math.max(0.08, travelOf(x.levelDb)) * 100}%`,
          // A narrow column has no margin to spare.
          ...(stepOf(column.width) !== 'near' && x.tap !== 'input' ? { left: '1px', right: '1px' } : {}),
        },
      }),
      x.pan !== 0 && h('i', { class: 'send-pan', style: { left: panAt(x.pan) } }),
    ];
  },
  speak(column, row) {
    const x = at(column, row);
    return x
      ? say('sendRowLevelTapPan', {
          row: row.label,
          level: levelSpoken(x.levelDb),
          tap: x.tap === 'input' ? say('fromTheInput') : tapWord(x.tap),
          pan: x.pan ? say('panPanAdded', { pan: panText(x.pan) }) : '',
          on: x.on ? '' : say('offAdded'),
        })
      : say('notSentToRow', { row: row.label });
  },
  lanes(column, row) {
    const x = at(column, row);
    return x ? laneState(column, 'send', x.id, x.lanes) : null;
  },
  press(t, { strip, row }, e) {
    const session = t.session.base()!;
    const to = row.ref!;
    if (cellValue(session, strip, { kind: 'send', to }) !== undefined) return { mode: 'open' };
    // Where there is none, the press makes one, and the same drag gives it its level.
    const tap = e.shiftKey ? 'pre' : 'post';
    return {
      mode: 'open',
      stroke: {
        label: say('sendToRow2', { row: row.label }),
        commands: (ids) =>
          makeSends(
            session,
            ids.filter((id) => id !== to && stripOf(session, id).kind !== 'output'),
            to,
            tap,
          ),
        at: (c, levelDb) => (c.type === 'send.add' ? { ...c, send: { ...c.send, levelDb } } : c),
      },
    };
  },
  moved: (now, pixels) => levelAt(Math.max(0, Math.min(1, travelOf(now) + pixels / TRAVEL))),
  remove,
  keys: {
    tap: nextTap,
    switch: turn,
    panLeft: (t, spot) => panBy(t, spot, -PAN_STEP),
    panRight: (t, spot) => panBy(t, spot, PAN_STEP),
  },
  menu(t, spot) {
    const { strip, row } = spot;
    const group = t.group(strip);
    const to = row.ref!;
    const x = sendOf(t, spot);
    if (!x)
      return {
        title: say('sendToRowTitle', { row: row.label }),
        items: taps().map(([tap, label]) => ({
          label,
          run: () =>
            t.session.change(t.named(say('sendToRow2', { row: row.label }), group), (d) =>
              makeSends(d, group, to, tap),
            ),
        })),
      };
    return {
      title: say('sendRowLevelDb', { row: row.label, level: levelText(x.levelDb) }),
      items: [
        ...taps().map(([tap, label]) => ({
          label,
          checked: x.tap === tap,
          keys: x.tap === tap ? t.commands.keysOf('sheet.tap') : undefined,
          run: () => set(t, spot, `${tap} send to ${row.label},`, { tap }),
        })),
        ...(x.tap === 'post'
          ? [
              {
                label: say('preFaderFromFadersLevel'),
                run: () =>
                  t.session.change(t.named(say('preSendRowFromFader', { row: row.label }), group), (d) =>
                    setTap(d, group, to, 'pre', true),
                  ),
              },
            ]
          : []),
        {
          label: say('faderTakesLevelPan'),
          run: () =>
            t.session.change(t.named(say('faderFromSendRow', { row: row.label }), group), (d) =>
              faderFromSend(d, group, to),
            ),
        },
        {
          label: x.on ? say('switchOff') : say('switchOnTitle'),
          keys: t.commands.keysOf('sheet.switch'),
          run: () => set(t, spot, `send to ${row.label} ${x.on ? 'off' : 'on'},`, { on: !x.on }),
        },
        t.laneItem({ part: 'send', owner: strip, id: x.id, control: 'level' }),
        { label: say('remove'), keys: 'Del', danger: true, run: () => remove(t, spot) },
      ],
    };
  },
};
