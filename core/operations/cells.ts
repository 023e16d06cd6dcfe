import { readLevel } from '../levels/decibels';
import { clampLevel, FADER_TOP } from '../levels/faderLaw';
import { readPan } from '../levels/pan';
import type { Command } from '../edits/commands';
import { stripOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Session, Strip } from '../session/types';
import type { Decibels, Id } from '../base/units';
import { NEW_SEND_DB, sendTo, setSends } from './returns';
import { stepLevel } from './strips';

/** A value that every strip has: its fader, its trim, its pan, or its send to one destination. */
export type ValueCell =
  { readonly kind: 'level' | 'input' | 'pan' } | { readonly kind: 'send'; readonly to: Id };

const TRIM_TOP = 48;
const TRIM_FLOOR = -80;

/** The cell's value: decibels, or a pan position; undefined where there is no such send. */
export function cellValue(session: Session, id: Id, cell: ValueCell): number | null | undefined {
  const strip = stripOf(session, id);
  switch (cell.kind) {
    case 'level':
      return strip.faderDb;
    case 'input':
      return strip.trimDb;
    case 'pan':
      return strip.pan;
    case 'send':
      return sendTo(session, id, cell.to)?.levelDb;
  }
}

const round = (value: number) => Math.round(value * 100) / 100;
const clampTrim = (level: Decibels): Decibels =>
  level === null || level < TRIM_FLOOR ? null : Math.min(TRIM_TOP, level);

/** Commands that give the cell a value on each strip. Sends that are not there are made. */
function write(
  session: Session,
  ids: readonly Id[],
  cell: ValueCell,
  value: (strip: Strip) => number | null,
): readonly Command[] {
  switch (cell.kind) {
    case 'level':
    case 'input':
    case 'pan':
      return ids.map((id): Command => {
        const strip = stripOf(session, id);
        const v = value(strip);
        const patch =
          cell.kind === 'pan'
            ? { pan: Math.max(-1, Math.min(1, round(v ?? 0))) }
            : cell.kind === 'level'
              ? { faderDb: v === null ? null : clampLevel(round(v)) }
              : { trimDb: v === null ? null : clampTrim(round(v)) };
        return { type: 'strip.set', id, patch };
      });
    case 'send':
      return ids
        .filter((id) => id !== cell.to && stripOf(session, id).kind !== 'output')
        .flatMap((id) => {
          const v = value(stripOf(session, id));
          return setSends(session, [id], cell.to, { levelDb: v === null ? null : clampLevel(round(v)) });
        });
  }
}

/** Moves the value on every strip by the same step: decibels, or a share of the stereo field. Absent sends stay absent. */
export function shiftCell(
  session: Session,
  ids: readonly Id[],
  cell: ValueCell,
  step: number,
): readonly Command[] {
  const present = cell.kind === 'send' ? ids.filter((id) => sendTo(session, id, cell.to)) : ids;
  return write(session, present, cell, (s) => {
    const now = cellValue(session, s.id, cell) ?? null;
    return cell.kind === 'pan'
      ? (now ?? 0) + step
      : cell.kind === 'input'
        ? now === null
          ? TRIM_FLOOR
          : now + step
        : stepLevel(now, step);
  });
}

/**
 * Gives one strip a value, and moves the others by as much, so that their differences are kept. From or to silence all
 * are set alike. Where the strip itself has no such send, all get one of this level.
 */
export function setCell(
  session: Session,
  id: Id,
  ids: readonly Id[],
  cell: ValueCell,
  value: number | null,
): readonly Command[] {
  const now = cellValue(session, id, cell);
  if (now === undefined || now === null || value === null) return write(session, ids, cell, () => value);
  return write(session, ids, cell, (s) => {
    const own = cellValue(session, s.id, cell);
    return s.id === id || own === undefined ? value : own === null ? null : own + (value - now);
  });
}

/** Gives the strips exactly what another one has in this cell. */
export function copyCell(session: Session, from: Id, to: readonly Id[], cell: ValueCell): readonly Command[] {
  const ids = to.filter((id) => id !== from);
  if (cell.kind === 'send') {
    const send = sendTo(session, from, cell.to);
    const able = ids.filter((id) => id !== cell.to && stripOf(session, id).kind !== 'output');
    if (!send || able.length === 0) return [];
    const { levelDb, tap, pan, on } = send;
    return setSends(session, able, cell.to, { levelDb, tap, pan, on });
  }
  const value = cellValue(session, from, cell) ?? null;
  return write(session, ids, cell, () => value);
}

/** The default of every kind of value, by the Sheet, the inspector and a surface alike: 0 dB, the centre. */
export const CELL_DEFAULT = 0;

/** Returns the cell to its default. */
export function resetCell(session: Session, ids: readonly Id[], cell: ValueCell): readonly Command[] {
  if (cell.kind === 'input')
    return ids.map((id) => ({
      type: 'strip.set',
      id,
      patch: { trimDb: CELL_DEFAULT, invert: false, swap: false, width: 1 },
    }));
  const present = cell.kind === 'send' ? ids.filter((id) => sendTo(session, id, cell.to)) : ids;
  return write(session, present, cell, () => CELL_DEFAULT);
}

/**
 * Reads what was typed into a cell.
 * @throws Refusal `range` saying what can be typed
 */
export function readCell(cell: ValueCell, text: string): number | null {
  if (cell.kind === 'pan') {
    const pan = readPan(text);
    if (pan === undefined) throw new Refusal('range', `“${text}” is no pan position. Type C, L30 or R100.`);
    return pan;
  }
  const level = readLevel(text);
  const top = cell.kind === 'input' ? TRIM_TOP : FADER_TOP;
  if (level === undefined || (level !== null && level > top))
    throw new Refusal('range', `“${text}” is no level. Type decibels up to ${top}, such as -6, or off.`);
  return level;
}

/** A send of the usual level from each strip that has none yet. */
export const makeSends = (
  session: Session,
  ids: readonly Id[],
  to: Id,
  tap: 'input' | 'pre' | 'post',
): readonly Command[] => {
  const without = ids.filter((id) => !sendTo(session, id, to));
  return without.length === 0 ? [] : setSends(session, without, to, { tap, levelDb: NEW_SEND_DB });
};
