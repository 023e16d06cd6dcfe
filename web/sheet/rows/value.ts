import { copyCell, resetCell, shiftCell, type ValueCell } from '@core/operations/cells';
import type { Row, RowKind } from './kind';
import { say } from '../texts';

/** What all rows of values have in common: stepped, painted, typed and returned to their defaults alike. */
export function valueRow(
  value: (row: Row) => ValueCell,
  called: (row: Row) => string,
  /** A step by key, and a fine one. */
  steps: readonly [number, number] = [0.5, 0.1],
) {
  return {
    value,
    called,
    turn: (_t, _spot, _e, across) => (across ? 'paint' : 'value'),
    paint: (session, { strip, row }, to) => copyCell(session, strip, to, value(row)),
    enter: (t, spot) => t.type(spot),
    step(t, { strip, row }, way, fine) {
      if (!t.session.now) return;
      const group = t.group(strip);
      t.session.settle(
        `step ${strip} ${row.key}`,
        t.named(called(row), group),
        shiftCell(t.session.now, group, value(row), way * steps[fine ? 1 : 0]),
      );
    },
    reset(t, { strip, row }, alone) {
      const group = t.group(strip, alone);
      t.session.change(t.named(say('defaultCalled', { called: called(row) }), group), (d) =>
        resetCell(d, group, value(row)),
      );
    },
  } satisfies Partial<RowKind>;
}
