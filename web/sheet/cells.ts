import type { ValueCell } from '@core/session/gestures/cells';
import type { Row } from './rows';

/** The value that a cell of a row shows; null where it is no value. */
export const valueCell = (row: Row): ValueCell | null =>
  row.kind === 'level' || row.kind === 'input' || row.kind === 'pan'
    ? { kind: row.kind }
    : row.kind === 'send'
      ? { kind: 'send', to: row.ref! }
      : null;

/** What a cell is called in the history. */
export const cellName = (row: Row): string =>
  row.kind === 'send'
    ? `send to ${row.label}`
    : row.kind === 'input'
      ? 'trim'
      : row.kind === 'auto'
        ? 'automation'
        : row.kind;
