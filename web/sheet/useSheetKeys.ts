import { resetCell, shiftCell } from '@core/session/gestures/cells';
import { resetStrips } from '@core/session/gestures/inserts';
import { sendTo, setSends } from '@core/session/gestures/returns';
import { toggleFlag } from '@core/session/gestures/strips';
import { setMembers } from '@core/session/gestures/vcas';
import { nameOf } from '@core/session/lookup';
import type { Tap } from '@core/session/types';
import { useTargets } from '@/session/targets';
import { useAutomationGestures } from '@/session/automation/useAutomationGestures';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import type { Row } from './rows';
import type { useCellMenus } from './useCellMenus';
import { cellName, valueCell } from './cells';

export interface KeyHosts {
  readonly rows: () => readonly Row[];
  readonly body: () => HTMLElement;
  readonly column: (strip: string) => number;
  readonly typing: () => boolean;
  readonly columnX: (strip: string) => number;
  readonly reveal: (strip: string) => void;
  readonly type: (strip: string, row: Row) => void;
  readonly menus: ReturnType<typeof useCellMenus>;
}

/** The keyboard on the Sheet: arrows move, Enter types or opens, plus and minus step, Backspace returns the default. */
export function useSheetKeys(hosts: KeyHosts) {
  const session = useSession();
  const pick = usePick();
  const { named } = useTargets();
  const automation = useAutomationGestures();
  const doc = () => session.now!;

  function step(strip: string, row: Row, way: 1 | -1, fine: boolean) {
    if (row.kind === 'auto') return automation.step(way, pick.group(strip));
    const cell = valueCell(row);
    if (!cell || !session.now) return;
    const group = pick.group(strip);
    const size = cell.kind === 'pan' ? (fine ? 0.01 : 0.05) : fine ? 0.1 : 0.5;
    session.settle(
      `step ${strip} ${row.key}`,
      named(cellName(row), group),
      shiftCell(session.now, group, cell, way * size),
    );
  }
  function enter(strip: string, row: Row) {
    const box = hosts.body().getBoundingClientRect();
    const at = {
      clientX: box.left + hosts.columnX(strip) + hosts.column(strip) / 2,
      clientY: box.top + row.y - hosts.body().scrollTop + row.height,
    };
    const group = pick.group(strip);
    if (row.kind === 'cap' || valueCell(row)) return void hosts.type(strip, row);
    if (row.kind === 'insert') return hosts.menus.openInsert(strip, row, at);
    if (row.kind === 'out') return hosts.menus.openOut(strip, at);
    if (row.kind === 'auto') return automation.openModes(group, { x: at.clientX, y: at.clientY });
    if (row.kind === 'buttons')
      return session.change(named('mute', group), (d) => toggleFlag(d, group, 'mute'));
    if (row.kind === 'rail') {
      const held = !doc()
        .vcas.find((v) => v.id === row.ref)!
        .members.includes(strip);
      session.change(`${held ? 'hold by' : 'let go from'} ${row.label}`, (d) =>
        setMembers(d, row.ref!, group, held),
      );
    }
  }

  function key(e: KeyboardEvent) {
    if (hosts.typing() || (e.target as HTMLElement).closest('.vca, .vca-name')) return;
    const order = pick.reachable;
    const at = pick.focus;
    if (!at || !session.strip(at.strip)) {
      if (e.key.startsWith('Arrow') && order[0]) {
        pick.focus = { strip: order[0], row: 'cap' };
        e.preventDefault();
      }
      return;
    }
    const usable = hosts.rows().filter((r) => r.kind !== 'band');
    const row = usable.find((r) => r.key === at.row) ?? usable.find((r) => r.key === 'cap')!;
    const r = usable.indexOf(row);
    const c = order.indexOf(at.strip);
    const plain = !e.ctrlKey && !e.metaKey && !e.altKey;
    const go = (column: number, line: number) => {
      const strip = order[Math.max(0, Math.min(order.length - 1, column))]!;
      pick.focus = { strip, row: usable[Math.max(0, Math.min(usable.length - 1, line))]!.key };
      hosts.reveal(strip);
      const next = usable.find((x) => x.key === pick.focus!.row)!;
      const el = hosts.body();
      if (next.y < el.scrollTop) el.scrollTop = next.y;
      else if (next.y + next.height > el.scrollTop + el.clientHeight)
        el.scrollTop = next.y + next.height - el.clientHeight;
      if (e.shiftKey && plain && column !== c) pick.range(strip);
    };
    const done = () => {
      e.preventDefault();
      e.stopPropagation();
    };
    if (e.altKey && !e.ctrlKey && !e.metaKey && row.kind === 'insert' && e.key.startsWith('Arrow')) {
      const next = hosts.menus.carry(at.strip, row, e.key, e.shiftKey);
      if (!next) return;
      pick.focus = next;
      hosts.reveal(next.strip);
      return done();
    }
    if (plain && e.key === 'ArrowLeft') {
      if (e.shiftKey && !pick.chosen.has(at.strip)) pick.only(at.strip);
      go(c - 1, r);
    } else if (plain && e.key === 'ArrowRight') {
      if (e.shiftKey && !pick.chosen.has(at.strip)) pick.only(at.strip);
      go(c + 1, r);
    } else if (plain && e.key === 'ArrowUp') go(c, r - 1);
    else if (plain && e.key === 'ArrowDown') go(c, r + 1);
    else if (plain && !e.shiftKey && e.key === 'Home') go(0, r);
    else if (plain && e.key === 'End') go(order.length - 1, r);
    else if (plain && (e.key === '+' || e.key === '=')) step(at.strip, row, 1, e.shiftKey);
    else if (plain && (e.key === '-' || e.key === '_')) step(at.strip, row, -1, e.shiftKey);
    else if (plain && e.key === 'Enter') enter(at.strip, row);
    else if (plain && e.key === 'Backspace') {
      const cell = valueCell(row);
      const group = pick.group(at.strip);
      if (row.kind === 'insert') hosts.menus.reset(at.strip, row);
      else if (row.kind === 'auto') automation.set(group, 'read');
      else if (row.kind === 'cap') session.change(named('defaults of', group), (d) => resetStrips(d, group));
      else if (cell)
        session.change(named(`default ${cellName(row)},`, group), (d) => resetCell(d, group, cell));
    } else if (plain && !e.shiftKey && e.key === 'Delete') hosts.menus.remove({ strip: at.strip, row });
    else if (plain && !e.shiftKey && e.key.toLowerCase() === 'x') pick.toggle(at.strip);
    else if (plain && !e.shiftKey && e.key.toLowerCase() === 'f' && row.kind === 'send') {
      const send = sendTo(doc(), at.strip, row.ref!);
      const next: Tap = send?.tap === 'post' ? 'pre' : send?.tap === 'pre' ? 'input' : 'post';
      const group = pick.group(at.strip);
      if (send)
        session.change(named(`${next} send to ${row.label},`, group), (d) =>
          setSends(
            d,
            group.filter((id) => sendTo(d, id, row.ref!)),
            row.ref!,
            { tap: next },
          ),
        );
    } else if (plain && (e.key === '<' || e.key === '>') && row.kind === 'send') {
      const send = sendTo(doc(), at.strip, row.ref!);
      const group = pick.group(at.strip).filter((id) => sendTo(doc(), id, row.ref!));
      if (send)
        session.settle(
          `pan ${at.strip} ${row.key}`,
          named(`pan of the send to ${row.label},`, group),
          group.map((id) => {
            const x = sendTo(session.now!, id, row.ref!)!;
            const pan = Math.max(
              -1,
              Math.min(1, Math.round((x.pan + (e.key === '<' ? -0.05 : 0.05)) * 100) / 100),
            );
            return { type: 'send.set', strip: id, id: x.id, patch: { pan } };
          }),
        );
    } else if (plain && e.key.toLowerCase() === 'b' && (row.kind === 'insert' || row.kind === 'send')) {
      if (row.kind === 'insert') hosts.menus.bypass(at.strip, row);
      else {
        const send = sendTo(doc(), at.strip, row.ref!);
        if (send)
          session.commit(`send to ${row.label} ${send.on ? 'off' : 'on'}, ${nameOf(doc(), at.strip)}`, [
            { type: 'send.set', strip: at.strip, id: send.id, patch: { on: !send.on } },
          ]);
      }
    } else if (e.key === 'ContextMenu' || (e.key === 'F10' && e.shiftKey)) {
      const box = hosts.body().getBoundingClientRect();
      hosts.menus.openCellMenu(
        { strip: at.strip, row },
        {
          clientX: box.left + hosts.columnX(at.strip) + 10,
          clientY: box.top + row.y - hosts.body().scrollTop + row.height,
        },
      );
    } else return;
    done();
  }

  return { key, step };
}
