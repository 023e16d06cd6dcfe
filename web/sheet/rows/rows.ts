import type { Session } from '@core/session/types';
import { auto } from './auto';
import { band } from './band';
import { buttons } from './buttons';
import { cap } from './cap';
import { input } from './input';
import { postInserts, preInserts } from './insert';
import type { Row, RowKind, RowName } from './kind';
import { level } from './level';
import { out } from './out';
import { pan } from './pan';
import { rail } from './rail';
import { send } from './send';

/** The kinds of rows in their order, which is that of the signal. */
const KINDS: readonly RowKind[] = [
  rail,
  band,
  cap,
  input,
  preInserts,
  level,
  buttons,
  auto,
  postInserts,
  pan,
  send,
  out,
];
const byName = new Map<RowName, RowKind>(KINDS.map((k) => [k.kind, k]));
export const kindOf = (row: Row): RowKind => byName.get(row.kind)!;
/** What its cells are called in the history. */
export const cellName = (row: Row): string => kindOf(row).called?.(row) ?? row.kind;

const LEAST_LEVEL = 132;

/** The rows of a session from top to bottom; the level row takes what height is left. @param folded names of folded rows */
export function sheetRows(session: Session, height: number, folded: readonly string[] = []): readonly Row[] {
  const rows = KINDS.flatMap((k) =>
    k
      .rows(session)
      .filter((row) => !folded.includes((typeof k.fold === 'function' ? k.fold(row) : k.fold) ?? ''))
      .map((row) => ({ ...row, kind: k.kind })),
  );
  const rest = rows.reduce((sum, r) => sum + r.height, 0);
  let y = 0;
  return rows.map((row) => {
    const placed = { ...row, y, height: row.height || Math.max(LEAST_LEVEL, Math.floor(height - rest)) };
    y += placed.height;
    return placed;
  });
}
