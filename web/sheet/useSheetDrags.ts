import { ref, shallowRef, type Ref } from 'vue';
import { processorOf } from '@core/processors/registry';
import type { Command } from '@core/edits/commands';
import { cellValue, setCell } from '@core/operations/cells';
import { placeInsert } from '@core/operations/inserts';
import { moveStrips } from '@core/operations/strips';
import { nameOf, stripOf } from '@core/session/lookup';
import type { Session, StripKind } from '@core/session/types';
import { useDrag } from '@/ui/drag';
import { insertAt, type Hit, type Press, type Row } from './rows/kind';
import { cellName, kindOf } from './rows/rows';
import type { SheetTools } from './rows/tools';
import { say } from './texts';

/** A drag on the Sheet, from its press on. */
interface Drag {
  readonly from: Hit;
  readonly press: Press;
  readonly group: readonly string[];
  /** What the press itself put into strips. */
  readonly made: readonly Command[];
  readonly passed: Set<string>;
  readonly before: ReadonlySet<string>;
  /** The session as the hand took hold of it: automated controls as they were at that moment. */
  readonly session: Session;
  mode: Press['mode'] | 'value' | 'carry' | 'done';
  label: string;
  commands: readonly Command[];
  clicked: (() => void) | undefined;
}

/** A place for an insert, and whether a copy goes there. */
export interface Drop {
  readonly strip: string;
  readonly row: Row;
  readonly copy: boolean;
}

const DRAG = 'sheet';
/** Pixels before a press becomes a drag. */
const SLACK = 4;
/** The level of a send that a drag makes, before it has moved. */
const FIRST_LEVEL = -12;

export interface DragHosts {
  readonly hitTest: (event: PointerEvent | MouseEvent) => Hit | null;
  readonly stripAt: (event: PointerEvent) => string | null;
  /** Where strips that are moved would stand: before this strip, at its left edge or at the right edge of the last. */
  readonly gapAt: (event: PointerEvent, kind: StripKind) => { readonly before: string | null } | null;
  /** Whether a press here is for the Sheet. */
  readonly mine: (event: PointerEvent) => boolean;
}

/**
 * The pointer on the Sheet. A press and a move up or down changes a value; along the row it paints what the pressed cell
 * has onto every strip passed; on caps it picks. One drag is one undo step.
 */
export function useSheetDrags(t: SheetTools, hosts: DragHosts) {
  const { session, pick } = t;
  const dragging = ref(false);
  const drop: Ref<Drop | null> = shallowRef(null);
  const named = (d: Drag, what: string, ids: readonly string[]) =>
    ids.length === 1
      ? `${what} ${stripOf(d.session, ids[0]!).name || ids[0]}`
      : say('whatOfIdsStrips', { what, ids: ids.length });

  let now: Drag | null = null;
  function show(drag: Drag, commands: readonly Command[]) {
    drag.commands = commands;
    session.live(DRAG, commands.length ? commands : null);
  }
  function rest() {
    now = null;
    dragging.value = false;
  }

  function begin(e: PointerEvent): Drag | null {
    if (!session.document || !hosts.mine(e)) return null;
    const from = hosts.hitTest(e);
    if (!from) return null;
    pick.focus = { strip: from.strip, row: from.row.key };
    const group = pick.group(from.strip, e.altKey);
    const before = e.ctrlKey || e.metaKey ? pick.chosen : new Set<string>();
    const press = kindOf(from.row).press?.(t, from, e, group) ?? { mode: 'open' };
    const made = press.stroke?.commands(group) ?? [];
    now = {
      from,
      press,
      group,
      made,
      passed: new Set([from.strip]),
      before,
      session: session.base()!,
      mode: press.mode,
      label: '',
      commands: [],
      clicked: press.clicked,
    };
    if (press.stroke) now.label = named(now, press.stroke.label, group);
    dragging.value = true;
    if (made.length) show(now, made);
    return now;
  }

  function move(e: PointerEvent, drag: Drag, dx: number, dy: number) {
    const { from } = drag;
    if (drag.mode === 'open') {
      if (Math.hypot(dx, dy) < SLACK) return;
      drag.clicked = undefined;
      drag.mode = kindOf(from.row).turn?.(t, from, e, Math.abs(dx) > Math.abs(dy)) ?? 'done';
    }
    if (drag.mode === 'value') value(drag, e, dy);
    else if (drag.mode === 'move') shift(drag, e, dx);
    else if (drag.mode === 'carry') {
      const over = hosts.hitTest(e);
      drop.value =
        over?.row.kind === 'insert'
          ? { strip: over.strip, row: over.row, copy: e.ctrlKey || e.metaKey }
          : null;
    } else if (drag.mode === 'paint' || drag.mode === 'pick') sweep(drag, e);
  }
  function value(drag: Drag, e: PointerEvent, up: number) {
    const { from, press, made } = drag;
    const kind = kindOf(from.row);
    const cell = kind.value!(from.row);
    const was = cellValue(drag.session, from.strip, cell);
    const fine = e.shiftKey && !made.length ? 0.1 : 1;
    const to = kind.moved!(was === undefined ? FIRST_LEVEL : was, up * fine, from.row);
    // A send that this press has made takes the level of the same drag.
    if (made.length)
      return show(
        drag,
        made.map((c) => press.stroke!.at!(c, to)),
      );
    drag.label = named(drag, cellName(from.row), drag.group);
    show(drag, setCell(drag.session, from.strip, drag.group, cell, to));
  }
  function shift(drag: Drag, e: PointerEvent, dx: number) {
    if (Math.abs(dx) < SLACK * 2 && !drag.commands.length) return;
    const { kind } = stripOf(drag.session, drag.from.strip);
    const ids = pick.picked.filter((id) => stripOf(drag.session, id).kind === kind);
    const gap = hosts.gapAt(e, kind);
    if (!gap) return;
    drag.clicked = undefined;
    drag.label = named(drag, say('move'), ids);
    show(drag, moveStrips(drag.session, ids, behind(drag.session, gap.before, ids, kind)));
  }
  /** Along the row: paints, or picks. */
  function sweep(drag: Drag, e: PointerEvent) {
    const { from, press, passed } = drag;
    const over = hosts.stripAt(e);
    if (!over) return;
    if (drag.mode === 'pick') {
      if (over !== from.strip || pick.chosen.size > 1) pick.range(over, drag.before);
      return;
    }
    if (passed.has(over)) return;
    // A quick hand skips columns: all from the pressed one to this one are meant.
    const order = pick.order;
    const [a, b] = [order.indexOf(from.strip), order.indexOf(over)].sort((m, n) => m - n) as [number, number];
    for (const id of order.slice(a, b + 1)) passed.add(id);
    if (press.stroke) {
      const all = [...new Set([...drag.group, ...passed])];
      drag.label = named(drag, press.stroke.label, all);
      return show(drag, press.stroke.commands(all));
    }
    drag.label = named(drag, say('paintCellname', { cellName: cellName(from.row) }), [...passed]);
    const others = [...passed].filter((id) => id !== from.strip);
    show(drag, kindOf(from.row).paint?.(drag.session, from, others) ?? []);
  }
  /** The strip before which moved ones are put: the next that stays; behind the last of their kind where there is none. */
  function behind(
    session: Session,
    before: string | null,
    ids: readonly string[],
    kind: StripKind,
  ): string | null {
    const { strips } = session;
    let at = before === null ? strips.length : strips.findIndex((s) => s.id === before);
    if (before === null) {
      const last = strips.map((s) => s.kind === kind && !ids.includes(s.id)).lastIndexOf(true);
      at = last + 1;
    }
    while (at < strips.length && ids.includes(strips[at]!.id)) at++;
    return strips[at]?.id ?? null;
  }

  function end(drag: Drag) {
    rest();
    if (drag.mode === 'carry') put(drag);
    else if (drag.commands.length) session.land(DRAG, drag.label, drag.commands);
    else {
      session.live(DRAG, null);
      drag.clicked?.();
    }
  }
  /** Puts a carried insert where it was let go. */
  function put({ from, session: was }: Drag) {
    const to = drop.value;
    drop.value = null;
    const insert = insertAt(stripOf(was, from.strip), from.row);
    if (!to || !insert) return;
    let landed = '';
    session.change(
      say('copyNameToName2', {
        copy: to.copy ? say('copy') : say('move'),
        name: processorOf(insert.type).name,
        name2: nameOf(was, to.strip),
      }),
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
    const there = stripOf(session.document!, to.strip).inserts.filter((i) => i.place === to.row.place);
    const index = there.findIndex((i) => i.id === landed);
    if (index >= 0) pick.focus = { strip: to.strip, row: `${to.row.place}:${index}` };
  }

  const drag = useDrag<Drag>({
    begin,
    move: (e, { start, note }) => move(e, note, e.clientX - start.clientX, start.clientY - e.clientY),
    end: ({ note }) => end(note),
    cancel() {
      rest();
      drop.value = null;
      session.live(DRAG, null);
    },
  });

  /** Double-click: back to the default. */
  function reset(e: MouseEvent) {
    const hit = hosts.hitTest(e);
    if (!hit || !session.document) return;
    const kind = kindOf(hit.row);
    if (kind.resets?.(hit) !== false) kind.reset?.(t, hit, e.altKey);
  }

  return { dragging, drop, on: drag.on, letGo: drag.drop, reset };
}
