import type { Session } from '@core/session/types';
import { auto } from './auto';
import { band } from './band';
import { braid, braidHeight } from './braid';
import { buttons } from './buttons';
import { cap } from './cap';
import { input } from './input';
import { postInserts, preInserts } from './insert';
import type { NewRow, Row, RowKind, RowName } from './kind';
import { level } from './level';
import { loudest } from './loudest';
import { out } from './out';
import { pan } from './pan';
import { rail } from './rail';
import { send } from './send';
import type { ZoomStep } from '../zoom';
import { say } from '../texts';

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
const byName = new Map<RowName, RowKind>([...KINDS, braid, loudest].map((k) => [k.kind, k]));
export const kindOf = (row: Row): RowKind => byName.get(row.kind)!;
/** What its cells are called in the history. */
export const cellName = (row: Row): string => kindOf(row).called?.(row) ?? row.kind;

const LEAST_LEVEL = 140;

/** What of the session is in sight, and how. */
export interface RowView {
  /** Names of rows that are folded by hand. */
  readonly folded?: readonly string[];
  readonly step?: ZoomStep;
  /** Whether rails are threads of a braid, with a row for the one in hand; where it is left out, as there is room. */
  readonly braided?: boolean | null;
  /** Pixels by which it is judged how much room there is; the height where it is left out. */
  readonly room?: number;
  /** The VCA in hand. */
  readonly hand?: string | null;
  /** Sends all in rows of their own, those that are in use in sight, or the loudest alone; where it is left out, as there is room. */
  readonly sends?: 'all' | 'used' | 'loudest' | null;
  /** Destinations to which what is in sight sends. */
  readonly used?: ReadonlySet<string> | null;
  /** Whether bands stand within bands. */
  readonly nested?: boolean;
}

type Sized = NewRow & { readonly kind: RowName };
const HEIGHT: Record<ZoomStep, (kind: RowKind, row: NewRow) => number | null> = {
  near: (_, row) => row.height,
  middle: (kind, row) => (kind.middle === undefined ? row.height : kind.middle),
  far: (kind, row) => (kind.far === undefined ? row.height : kind.far),
};
const heightOf = (rows: readonly Sized[]) => rows.reduce((sum, r) => sum + r.height, 0);
const sized = (kind: RowKind, row: NewRow, step: ZoomStep): readonly Sized[] => {
  const height = HEIGHT[step](kind, row);
  return height === null ? [] : [{ ...row, kind: kind.kind, height }];
};

/** Rails as one row of threads, and the row of the one in hand. */
function braided(
  rows: readonly Sized[],
  session: Session,
  { hand, step = 'near' }: RowView,
): readonly Sized[] {
  const rails = rows.filter((r) => r.kind === 'rail');
  if (rails.length < 2) return rows;
  const one = rails.find((r) => r.ref === hand) ?? rails[0]!;
  const all = {
    key: 'braid',
    kind: 'braid',
    label: say('braidTitle'),
    height: braidHeight(session.vcas.length),
  };
  return [all, ...(step === 'far' ? [] : [one]), ...rows.filter((r) => r.kind !== 'rail')];
}
/** Sends as one row that shows the loudest. */
function oneSend(rows: readonly Sized[], step: ZoomStep): readonly Sized[] {
  const at = rows.findIndex((r) => r.kind === 'send');
  if (at < 0) return rows;
  const one = sized(loudest, { key: 'sends', label: say('sendsTitle'), height: 26 }, step);
  return [...rows.slice(0, at), ...one, ...rows.slice(at).filter((r) => r.kind !== 'send')];
}

/**
 * The rows of a session from top to bottom; the level row takes what height is left. Where it would get too little of it, rails
 * become a braid, then sends those in use in sight, then the loudest alone, unless the view says how they are.
 */
export function sheetRows(session: Session, height: number, view: RowView = {}): readonly Row[] {
  const { folded = [], step = 'near', used, room = height } = view;
  let rows: readonly Sized[] = KINDS.flatMap((k) =>
    k
      .rows(session)
      .filter((row) => !folded.includes((typeof k.fold === 'function' ? k.fold(row) : k.fold) ?? ''))
      .flatMap((row) => (step === 'far' && k === send ? [{ ...row, kind: k.kind }] : sized(k, row, step))),
  ).map((row) => (view.nested && row.kind === 'band' ? { ...row, height: row.height * 2 } : row));
  const tight = () => room > 0 && room - heightOf(rows) < LEAST_LEVEL;
  if (view.braided ?? (step !== 'near' || tight())) rows = braided(rows, session, view);
  const sends = view.sends ?? null;
  if (sends === 'used' || (sends === null && step === 'near' && tight()))
    rows = rows.filter((r) => r.kind !== 'send' || (used?.has(r.ref!) ?? true));
  if (step === 'far' || sends === 'loudest' || (sends === null && tight())) rows = oneSend(rows, step);
  const rest = heightOf(rows);
  let y = 0;
  return rows.map((row) => {
    const placed = { ...row, y, height: row.height || Math.max(LEAST_LEVEL, Math.floor(height - rest)) };
    y += placed.height;
    return placed;
  });
}
