import type { RowKind } from './kind';

/** The families' bands over the caps: drawn over several columns at once, so its cells are empty. */
export const band: RowKind = {
  kind: 'band',
  far: 16,
  rows: () => [{ key: 'band', label: '', height: 16 }],
  sees: () => [],
  draw: () => [],
  speak: () => '',
};
