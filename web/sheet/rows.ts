import type { Session, Strip } from '@core/session/types';

export type RowKind =
  'rail' | 'band' | 'cap' | 'input' | 'insert' | 'level' | 'buttons' | 'auto' | 'pan' | 'send' | 'out';

/** A row of the Sheet: a decision that every strip has. */
export interface Row {
  /** `send:plate`, `rail:vca-choir`, `pre:0`, `level` … */
  readonly key: string;
  readonly kind: RowKind;
  readonly label: string;
  readonly y: number;
  readonly height: number;
  /** VCA of a rail, destination of a send row. */
  readonly ref?: string;
  /** Place and number of an insert row. */
  readonly place?: 'pre' | 'post';
  readonly index?: number;
}

export const HEIGHTS = {
  rail: 24,
  band: 16,
  cap: 62,
  input: 24,
  insert: 24,
  buttons: 28,
  auto: 24,
  pan: 24,
  send: 26,
  out: 26,
} as const;
const LEAST_LEVEL = 132;
/** Room in the level row above the fader's top, and below its bottom for the number. */
export const LEVEL_TOP = 12;
export const LEVEL_FOOT = 26;

const insertRows = (session: Session, place: 'pre' | 'post') => {
  const most = Math.max(0, ...session.strips.map((s) => s.inserts.filter((i) => i.place === place).length));
  return Math.max(place === 'pre' ? 2 : 1, most + (place === 'pre' ? 1 : most > 0 ? 1 : 0));
};

/** The rows of a session from top to bottom; the level row takes what height is left. */
export function sheetRows(session: Session, height: number, folded: readonly string[] = []): readonly Row[] {
  const rows: (Omit<Row, 'y' | 'height'> & { height: number })[] = [];
  const add = (row: Omit<Row, 'y' | 'height'>, h: number) => rows.push({ ...row, height: h });
  for (const vca of session.vcas)
    add({ key: `rail:${vca.id}`, kind: 'rail', label: vca.name || vca.id, ref: vca.id }, HEIGHTS.rail);
  add({ key: 'band', kind: 'band', label: '' }, HEIGHTS.band);
  add({ key: 'cap', kind: 'cap', label: '' }, HEIGHTS.cap);
  if (!folded.includes('input')) add({ key: 'input', kind: 'input', label: 'Input' }, HEIGHTS.input);
  if (!folded.includes('pre'))
    for (let i = 0; i < insertRows(session, 'pre'); i++)
      add(
        { key: `pre:${i}`, kind: 'insert', label: i === 0 ? 'Inserts' : '', place: 'pre', index: i },
        HEIGHTS.insert,
      );
  add({ key: 'level', kind: 'level', label: 'Level' }, 0);
  add({ key: 'buttons', kind: 'buttons', label: 'Mute, solo' }, HEIGHTS.buttons);
  if (!folded.includes('auto')) add({ key: 'auto', kind: 'auto', label: 'Automation' }, HEIGHTS.auto);
  if (!folded.includes('post'))
    for (let i = 0; i < insertRows(session, 'post'); i++)
      add(
        { key: `post:${i}`, kind: 'insert', label: i === 0 ? 'After fader' : '', place: 'post', index: i },
        HEIGHTS.insert,
      );
  if (!folded.includes('pan')) add({ key: 'pan', kind: 'pan', label: 'Pan' }, HEIGHTS.pan);
  if (!folded.includes('sends'))
    for (const s of session.strips)
      if (s.kind === 'return')
        add({ key: `send:${s.id}`, kind: 'send', label: s.name || s.id, ref: s.id }, HEIGHTS.send);
  add({ key: 'out', kind: 'out', label: 'Out' }, HEIGHTS.out);
  const rest = rows.reduce((sum, r) => sum + r.height, 0);
  const level = Math.max(LEAST_LEVEL, Math.floor(height - rest));
  let y = 0;
  return rows.map((row) => {
    const h = row.kind === 'level' ? level : row.height;
    const placed = { ...row, y, height: h };
    y += h;
    return placed;
  });
}

/** Insert of a strip that stands in a row. */
export const insertAt = (strip: Strip, row: Pick<Row, 'place' | 'index'>) =>
  strip.inserts.filter((i) => i.place === row.place)[row.index ?? 0];
