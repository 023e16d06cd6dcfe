import { computed, nextTick, shallowRef, type Ref } from 'vue';
import { levelText } from '@core/levels/decibels';
import { panText } from '@core/levels/pan';
import { cellValue, readCell, setCell } from '@core/operations/cells';
import { setSends } from '@core/operations/returns';
import { readSend } from '@core/operations/sends';
import { stripOf } from '@core/session/lookup';
import { usePick } from '@/session/pick';
import * as rules from '@/session/rules';
import { useSession } from '@/session/session';
import { useTargets } from '@/session/targets';
import { useNotices } from '@/ui/notices';
import { LEVEL_FOOT, type Spot } from './rows/kind';
import { cellName, kindOf } from './rows/rows';
import { say } from './texts';

/** Pixels of the narrowest field that can be read. */
const LEAST_WIDTH = 72;

export interface TypingHost {
  readonly columnX: (strip: string) => number;
  readonly pixelsOf: (strip: string) => number;
  readonly reveal: (strip: string) => void;
  /** Gives the keyboard back to the Sheet. */
  readonly leave: () => void;
}

/** A cell whose value, or whose strip's name, is typed over it. */
export function useSheetTyping(field: Ref<HTMLInputElement | null>, host: TypingHost) {
  const session = useSession();
  const pick = usePick();
  const notices = useNotices();
  const { named } = useTargets();
  const typing = shallowRef<(Spot & { readonly text: string }) | null>(null);

  function textOf({ strip, row }: Spot): string {
    const s = stripOf(session.now!, strip);
    if (row.kind === 'cap') return s.name;
    const cell = kindOf(row).value?.(row);
    if (cell?.kind === 'pan') return panText(s.pan);
    const now = cell && cellValue(session.now!, strip, cell);
    return now === undefined ? '' : levelText(now).replace('−', '-');
  }
  async function type(spot: Spot) {
    typing.value = { strip: spot.strip, row: spot.row, text: textOf(spot) };
    host.reveal(spot.strip);
    await nextTick();
    field.value?.focus();
    field.value?.select();
  }
  async function rename(strip: string, text: string): Promise<boolean> {
    const name = text.trim();
    const wrong = await rules.broken(rules.name, name);
    if (wrong) {
      notices.refused(wrong);
      return false;
    }
    if (name !== stripOf(session.document!, strip).name)
      session.commit(say('renameName', { name: name || strip }), [
        { type: 'strip.set', id: strip, patch: { name } },
      ]);
    return true;
  }
  function set({ strip, row, text }: Spot & { readonly text: string }): boolean {
    const cell = kindOf(row).value!(row);
    const group = pick.group(strip);
    return session.change(named(cellName(row), group), (d) => {
      if (cell.kind !== 'send') return setCell(d, strip, group, cell, readCell(cell, text));
      // More than a level can be typed here: a tap, a pan, on or off.
      const { levelDb, ...patch } = readSend(text);
      const able = group.filter((id) => id !== cell.to && stripOf(d, id).kind !== 'output');
      if (Object.keys(patch).length === 0) return setCell(d, strip, able, cell, levelDb!);
      return setSends(d, able, cell.to, levelDb === undefined ? patch : { ...patch, levelDb });
    });
  }
  async function typed() {
    const t = typing.value;
    if (!t || !(t.row.kind === 'cap' ? await rename(t.strip, t.text) : set(t))) return;
    leave();
  }
  function leave() {
    typing.value = null;
    host.leave();
  }
  const box = computed(() => {
    if (!typing.value) return {};
    const { strip, row } = typing.value;
    const own = host.pixelsOf(strip);
    const width = Math.max(LEAST_WIDTH, own);
    const top =
      row.kind === 'level' ? row.y + row.height - LEVEL_FOOT : row.y + (row.kind === 'cap' ? 10 : 0);
    return {
      left: `${Math.max(0, host.columnX(strip) + own / 2 - width / 2)}px`,
      top: `${top}px`,
      width: `${width}px`,
    };
  });
  return { typing, type, typed, leave, box };
}
