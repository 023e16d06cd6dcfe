import { useCommands } from '@/commands/commands';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import type { Row, Spot } from './rows/kind';
import { kindOf } from './rows/rows';
import type { SheetTools } from './rows/tools';

export interface KeyHosts {
  readonly rows: () => readonly Row[];
  readonly body: () => HTMLElement;
  readonly typing: () => boolean;
  /** Below a cell, where its menu opens. */
  readonly below: (spot: Spot) => { readonly x: number; readonly y: number };
  readonly reveal: (strip: string) => void;
}

/** The keyboard on the Sheet: arrows move, Enter types or opens, plus and minus step, Backspace returns the default. */
export function useSheetKeys(t: SheetTools, hosts: KeyHosts) {
  const session = useSession();
  const pick = usePick();
  const commands = useCommands();

  /** Columns and rows by which a key moves. */
  const MOVES: Readonly<Record<string, readonly [number, number]>> = {
    left: [-1, 0],
    right: [1, 0],
    rangeLeft: [-1, 0],
    rangeRight: [1, 0],
    up: [0, -1],
    down: [0, 1],
    first: [-Infinity, 0],
    last: [Infinity, 0],
  };
  const within = <T>(list: readonly T[], i: number): T => list[Math.max(0, Math.min(list.length - 1, i))]!;

  function go(spot: Spot, key: string) {
    const usable = hosts.rows().filter((r) => r.kind !== 'band');
    const [dx, dy] = MOVES[key]!;
    const ranging = key.startsWith('range');
    if (ranging && !pick.chosen.has(spot.strip)) pick.only(spot.strip);
    const strip = within(pick.reachable, pick.reachable.indexOf(spot.strip) + dx);
    const row = within(usable, usable.indexOf(spot.row) + dy);
    pick.focus = { strip, row: row.key };
    hosts.reveal(strip);
    const el = hosts.body();
    if (row.y < el.scrollTop) el.scrollTop = row.y;
    else if (row.y + row.height > el.scrollTop + el.clientHeight)
      el.scrollTop = row.y + row.height - el.clientHeight;
    if (ranging) pick.range(strip);
  }
  function openMenu(spot: Spot, at: { readonly x: number; readonly y: number }) {
    const menu = kindOf(spot.row).menu?.(t, spot, at);
    if (menu) t.menu.open(menu.title, menu.items, at);
  }
  /** Does what a key stands for in a cell. @returns whether it stands for anything there */
  function obey(key: string, spot: Spot, fine: boolean): boolean {
    const kind = kindOf(spot.row);
    if (key in MOVES) go(spot, key);
    else if (key === 'pick') pick.toggle(spot.strip);
    else if (key === 'more' || key === 'less') kind.step?.(t, spot, key === 'more' ? 1 : -1, fine);
    else if (key === 'enter') kind.enter?.(t, spot, hosts.below(spot));
    else if (key === 'default') kind.reset?.(t, spot);
    else if (key === 'remove') kind.remove?.(t, spot);
    else if (key === 'menu') openMenu(spot, hosts.below(spot));
    else if (kind.keys?.[key]) kind.keys[key](t, spot);
    else return false;
    return true;
  }

  function key(e: KeyboardEvent) {
    if (hosts.typing() || (e.target as HTMLElement).closest('.vca, .vca-name')) return;
    const what = commands.keyIn('sheet', e);
    const at = pick.focus;
    if (!what) return;
    if (at && session.strip(at.strip)) {
      const rows = hosts.rows();
      const row = rows.find((r) => r.key === at.row) ?? rows.find((r) => r.kind === 'cap')!;
      if (!obey(what, { strip: at.strip, row }, e.shiftKey)) return;
    } else {
      if (!(what in MOVES) || !pick.reachable[0]) return;
      pick.focus = { strip: pick.reachable[0], row: 'cap' };
    }
    e.preventDefault();
    e.stopPropagation();
  }

  return { key, openMenu };
}
