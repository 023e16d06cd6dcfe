import { ref, shallowRef, type Ref } from 'vue';
import { levelAt, travelOf } from '@core/levels/faderLaw';
import type { Command } from '@core/session/commands/types';
import {
  cellValue,
  copyCell,
  makeSends,
  resetCell,
  setCell,
  type ValueCell,
} from '@core/session/gestures/cells';
import { setMode } from '@core/automation/edit';
import { nextMode } from '@core/automation/mode';
import { placeInsert, resetInsert, resetStrips } from '@core/session/gestures/inserts';
import { moveStrips } from '@core/session/gestures/strips';
import { setMembers } from '@core/session/gestures/vcas';
import { processorOf } from '@core/processors/registry';
import { nameOf, stripOf, vcaOf } from '@core/session/lookup';
import type { Session, StripKind } from '@core/session/types';
import { useNotices } from '@/ui/notices';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';
import { cellName, valueCell } from './cells';
import { insertAt, LEVEL_FOOT, LEVEL_TOP, type Row } from './rows';

/** A place on the Sheet. */
export interface Hit {
  readonly strip: string;
  readonly row: Row;
  /** Position inside the cell, in pixels. */
  readonly x: number;
  readonly y: number;
  readonly width: number;
}

interface Drag {
  readonly from: Hit;
  readonly startX: number;
  readonly startY: number;
  readonly group: readonly string[];
  /** Not told apart yet, changing a value, painting along the row, or picking. */
  mode: 'open' | 'value' | 'paint' | 'pick' | 'move' | 'carry' | 'done';
  /** What the press itself did. */
  base: readonly Command[];
  label: string;
  commands: readonly Command[];
  readonly passed: Set<string>;
  readonly before: ReadonlySet<string>;
  clicked: (() => void) | null;
}

/** A place for an insert, and whether a copy goes there. */
export interface Drop {
  readonly strip: string;
  readonly row: Row;
  readonly copy: boolean;
}

const GESTURE = 'sheet';
/** Pixels before a press becomes a drag. */
const SLACK = 4;

export interface GestureHosts {
  readonly hitTest: (event: PointerEvent | MouseEvent) => Hit | null;
  readonly stripAt: (event: PointerEvent) => string | null;
  readonly openInsert: (strip: string, row: Row, event: MouseEvent) => void;
  readonly openOut: (strip: string, event: MouseEvent) => void;
  readonly type: (strip: string, row: Row) => void;
  readonly clearClips: () => void;
  /** Where strips that are moved would stand: before this strip, at its left edge or at the right edge of the last. */
  readonly gapAt: (event: PointerEvent, kind: StripKind) => { readonly before: string | null } | null;
}

/**
 * The pointer on the Sheet. A press and a move up or down changes a value; along the row it paints what the pressed cell
 * has onto every strip passed; on caps it picks. One drag is one undo step.
 */
export function useSheetGestures(hosts: GestureHosts): {
  readonly dragging: Ref<boolean>;
  /** Where a carried insert would be put. */
  readonly drop: Ref<Drop | null>;
  down(e: PointerEvent): void;
  move(e: PointerEvent): void;
  up(e: PointerEvent): void;
  cancel(): void;
  reset(e: MouseEvent): void;
} {
  const session = useSession();
  const pick = usePick();
  const notices = useNotices();
  const transport = useTransport();
  const dragging = ref(false);
  const drop = shallowRef<Drop | null>(null);
  let drag: Drag | null = null;

  /** What the hand took hold of: automated controls as they were at that moment; else the document as it is. */
  let held: Session | null = null;
  const doc = () => held ?? session.document!;
  const named = (what: string, ids: readonly string[]) =>
    ids.length === 1
      ? `${what} ${stripOf(doc(), ids[0]!).name || ids[0]}`
      : `${what} of ${ids.length} strips`;

  /** What a press on a switch does to a strip, when the pressed one goes to `to`. */
  function flag(
    hit: Hit,
  ): { commands: (ids: readonly string[]) => readonly Command[]; label: string } | null {
    const strip = stripOf(doc(), hit.strip);
    if (hit.row.kind === 'buttons') {
      const which = hit.x < hit.width / 2 ? 'mute' : 'solo';
      const to = !strip[which];
      return {
        label: to ? which : `un${which}`,
        commands: (ids) =>
          ids
            .filter((id) => stripOf(doc(), id)[which] !== to)
            .map((id) => ({ type: 'strip.set', id, patch: { [which]: to } })),
      };
    }
    if (hit.row.kind === 'auto') {
      const to = nextMode(strip.automation, transport.rolling);
      return {
        label: `automation ${to},`,
        commands: (ids) =>
          setMode(
            doc(),
            ids.filter((id) => stripOf(doc(), id).automation !== to),
            to,
          ),
      };
    }
    if (hit.row.kind === 'rail') {
      const vca = vcaOf(doc(), hit.row.ref!);
      const held = !vca.members.includes(hit.strip);
      return {
        label: `${held ? 'hold by' : 'let go from'} ${vca.name}`,
        commands: (ids) => setMembers(doc(), vca.id, ids, held),
      };
    }
    return null;
  }

  function down(e: PointerEvent) {
    if (e.button !== 0 || !session.document) return;
    const hit = hosts.hitTest(e);
    if (!hit) return;
    (e.currentTarget as HTMLElement).setPointerCapture(e.pointerId);
    pick.focus = { strip: hit.strip, row: hit.row.key };
    const group = pick.group(hit.strip, e.altKey);
    const base = session.base();
    held = base === session.document ? null : base;
    drag = {
      from: hit,
      startX: e.clientX,
      startY: e.clientY,
      group,
      mode: 'open',
      base: [],
      label: '',
      commands: [],
      passed: new Set([hit.strip]),
      before: e.ctrlKey || e.metaKey ? pick.chosen : new Set(),
      clicked: null,
    };
    dragging.value = true;
    const { row } = hit;
    if (row.kind === 'cap') {
      drag.mode = 'pick';
      if (e.shiftKey) pick.range(hit.strip, e.ctrlKey ? pick.chosen : undefined);
      else if (e.ctrlKey || e.metaKey) pick.toggle(hit.strip);
      else if (pick.chosen.has(hit.strip)) {
        // A press on a picked name moves what is picked; without a move it picks that one alone, or none.
        drag.mode = 'move';
        const one = pick.chosen.size === 1;
        drag.clicked = () => (one ? pick.none() : pick.only(hit.strip));
      } else pick.only(hit.strip);
      return;
    }
    const switched = flag(hit);
    if (switched) {
      drag.mode = 'paint';
      drag.base = switched.commands(group);
      drag.label = named(switched.label, group);
      show(drag.base);
      return;
    }
    const cell = valueCell(row);
    if (row.kind === 'send' && cellValue(doc(), hit.strip, cell!) === undefined) {
      drag.base = makeSends(doc(), group, row.ref!, e.shiftKey ? 'pre' : 'post');
      drag.label = named(`send to ${row.label},`, group);
      if (drag.base.length) show(drag.base);
    } else if (row.kind === 'insert') drag.clicked = () => hosts.openInsert(hit.strip, row, e);
    else if (row.kind === 'out') drag.clicked = () => hosts.openOut(hit.strip, e);
    else if (row.kind === 'level' && hit.y > row.height - LEVEL_FOOT)
      drag.clicked = () => hosts.type(hit.strip, row);
    else if (row.kind === 'level' && hit.y < LEVEL_TOP) drag.clicked = hosts.clearClips;
  }

  let frame = 0;
  function show(commands: readonly Command[]) {
    if (!drag) return;
    drag.commands = commands;
    // Moves come faster than pictures; one picture shows the last of them.
    frame ||= requestAnimationFrame(() => {
      frame = 0;
      if (drag) session.live(GESTURE, drag.commands.length ? drag.commands : null);
    });
  }

  function move(e: PointerEvent) {
    if (!drag) return;
    const dx = e.clientX - drag.startX;
    const dy = drag.startY - e.clientY;
    const { from } = drag;
    const cell = valueCell(from.row);
    if (drag.mode === 'open') {
      if (Math.hypot(dx, dy) < SLACK) return;
      drag.clicked = null;
      drag.mode = cell
        ? Math.abs(dx) > Math.abs(dy)
          ? 'paint'
          : 'value'
        : from.row.kind === 'insert' && !e.shiftKey
          ? insertAt(stripOf(doc(), from.strip), from.row)
            ? 'carry'
            : 'done'
          : from.row.kind === 'out' || from.row.kind === 'insert'
            ? 'paint'
            : 'done';
    }
    if (drag.mode === 'value' && cell) {
      const now = cellValue(doc(), from.strip, cell);
      const fine = e.shiftKey && !drag.base.length ? 0.1 : 1;
      const value = moved(cell, now === undefined ? -12 : now, dy * fine, from.row);
      // A send that this press has made takes the level of the same drag.
      const commands = drag.base.length
        ? drag.base.map((c) => (c.type === 'send.add' ? { ...c, send: { ...c.send, levelDb: value } } : c))
        : setCell(doc(), from.strip, drag.group, cell, value);
      if (!drag.base.length) drag.label = named(cellName(from.row), drag.group);
      show(commands);
      return;
    }
    if (drag.mode === 'move') {
      if (Math.abs(dx) < SLACK * 2 && !drag.commands.length) return;
      const kind = stripOf(doc(), from.strip).kind;
      const ids = pick.picked.filter((id) => stripOf(doc(), id).kind === kind);
      const gap = hosts.gapAt(e, kind);
      if (!gap) return;
      drag.clicked = null;
      drag.label = named('move', ids);
      return show(moveStrips(doc(), ids, behind(gap.before, ids, kind)));
    }
    if (drag.mode === 'carry') {
      const over = hosts.hitTest(e);
      drop.value =
        over?.row.kind === 'insert'
          ? { strip: over.strip, row: over.row, copy: e.ctrlKey || e.metaKey }
          : null;
      return;
    }
    if (drag.mode !== 'paint' && drag.mode !== 'pick') return;
    const over = hosts.stripAt(e);
    if (!over) return;
    if (drag.mode === 'pick') {
      if (over !== from.strip || pick.chosen.size > 1) pick.range(over, drag.before);
      return;
    }
    if (drag.passed.has(over)) return;
    // A quick hand skips columns: all from the pressed one to this one are meant.
    const order = pick.order;
    const [a, b] = [order.indexOf(from.strip), order.indexOf(over)].sort((m, n) => m - n) as [number, number];
    for (const id of order.slice(a, b + 1)) drag.passed.add(id);
    paint([...drag.passed]);
  }

  /** The strip before which moved ones are put: the next that stays; behind the last of their kind where there is none. */
  function behind(before: string | null, ids: readonly string[], kind: StripKind): string | null {
    const strips = doc().strips;
    let at = before === null ? strips.length : strips.findIndex((s) => s.id === before);
    if (before === null) {
      const last = strips.map((s) => s.kind === kind && !ids.includes(s.id)).lastIndexOf(true);
      at = last + 1;
    }
    while (at < strips.length && ids.includes(strips[at]!.id)) at++;
    return strips[at]?.id ?? null;
  }

  function paint(ids: readonly string[]) {
    if (!drag) return;
    const { from } = drag;
    const switched = flag(from);
    if (switched) {
      const all = [...new Set([...drag.group, ...ids])];
      drag.label = named(switched.label, all);
      return show(switched.commands(all));
    }
    const targets = ids.filter((id) => id !== from.strip);
    drag.label = named(`paint ${cellName(from.row)},`, ids);
    if (from.row.kind === 'out') {
      const { out } = stripOf(doc(), from.strip);
      const able = targets.filter((id) => stripOf(doc(), id).kind !== 'output' && id !== out.to);
      return show(able.map((id) => ({ type: 'strip.out', id, out })));
    }
    if (from.row.kind === 'insert') {
      const own = insertAt(stripOf(doc(), from.strip), from.row);
      if (!own) return;
      return show(
        targets.flatMap((id): Command[] => {
          const there = insertAt(stripOf(doc(), id), from.row);
          return there && there.type === own.type && there.on !== own.on
            ? [{ type: 'insert.set', strip: id, id: there.id, patch: { on: own.on } }]
            : [];
        }),
      );
    }
    const cell = valueCell(from.row)!;
    if (drag.base.length) {
      const made = [...new Set([...drag.group, ...ids])];
      drag.label = named(`send to ${from.row.label},`, made);
      const tap = drag.base[0]!.type === 'send.add' ? drag.base[0]!.send.tap : 'post';
      return show(
        makeSends(
          doc(),
          made.filter((id) => id !== from.row.ref && stripOf(doc(), id).kind !== 'output'),
          from.row.ref!,
          tap,
        ),
      );
    }
    show(copyCell(doc(), from.strip, targets, cell));
  }

  function up() {
    const ended = drag;
    drag = null;
    dragging.value = false;
    if (!ended) return;
    cancelAnimationFrame(frame);
    frame = 0;
    if (ended.mode === 'carry') put(ended);
    else if (ended.commands.length) session.land(GESTURE, ended.label, ended.commands);
    else {
      session.live(GESTURE, null);
      ended.clicked?.();
    }
    held = null;
  }

  /** Puts a carried insert where it was let go. */
  function put({ from }: Drag) {
    const to = drop.value;
    drop.value = null;
    const insert = insertAt(stripOf(doc(), from.strip), from.row);
    if (!to || !insert) return;
    let landed = '';
    session.change(
      `${to.copy ? 'copy' : 'move'} ${processorOf(insert.type).name} to ${nameOf(doc(), to.strip)}`,
      (s) => {
        const placed = placeInsert(
          s,
          { strip: from.strip, id: insert.id },
          { strip: to.strip, place: to.row.place!, at: to.row.index! },
          to.copy,
        );
        landed = placed.id;
        if (pick.insert?.id === insert.id && !to.copy) pick.insert = { strip: to.strip, id: placed.id };
        return placed.commands;
      },
    );
    const there = stripOf(doc(), to.strip).inserts.filter((i) => i.place === to.row.place);
    const index = there.findIndex((i) => i.id === landed);
    if (index >= 0) pick.focus = { strip: to.strip, row: `${to.row.place}:${index}` };
  }

  function cancel() {
    drop.value = null;
    cancelAnimationFrame(frame);
    frame = 0;
    if (drag) session.live(GESTURE, null);
    drag = null;
    held = null;
    dragging.value = false;
  }

  /** Double-click: back to the default. */
  function reset(e: MouseEvent) {
    const hit = hosts.hitTest(e);
    if (!hit || !session.document) return;
    if (hit.row.kind === 'insert') {
      const insert = insertAt(stripOf(doc(), hit.strip), hit.row);
      if (insert)
        session.change(`defaults of ${processorOf(insert.type).name}, ${nameOf(doc(), hit.strip)}`, (s) =>
          resetInsert(s, { strip: hit.strip, id: insert.id }),
        );
      return;
    }
    if (hit.row.kind === 'cap') {
      const group = pick.group(hit.strip, e.altKey);
      const what = named('defaults of', group);
      if (session.change(what, (s) => resetStrips(s, group)))
        notices.done(`${what.charAt(0).toUpperCase()}${what.slice(1)}: all as new. Ctrl+Z takes it back.`);
      return;
    }
    const cell = valueCell(hit.row);
    if (!cell) return;
    if (hit.row.kind === 'level' && hit.y > hit.row.height - LEVEL_FOOT) return;
    const group = pick.group(hit.strip, e.altKey);
    session.change(named(`default ${cellName(hit.row)},`, group), (s) => resetCell(s, group, cell));
  }

  return { dragging, drop, down, move, up, cancel, reset };
}

/** A value after a move of so many pixels up. */
function moved(cell: ValueCell, now: number | null, pixels: number, row: Row): number | null {
  if (cell.kind === 'pan') return (now ?? 0) + pixels / 60;
  if (cell.kind === 'level') {
    const range = row.height - LEVEL_TOP - LEVEL_FOOT;
    return levelAt(Math.max(0, Math.min(1, travelOf(now) + pixels / range)));
  }
  if (cell.kind === 'input') return (now ?? -80) + Math.round(pixels) * 0.25;
  return levelAt(Math.max(0, Math.min(1, travelOf(now) + pixels / 120)));
}
