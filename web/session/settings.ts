import { useStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import type { Placement } from '@core/operations/gather';

export type Grouping = 'session' | 'family' | 'colour' | 'kind';
export type ColumnWidth = 'slim' | 'regular' | 'wide';
export const COLUMN_PIXELS: Readonly<Record<ColumnWidth, number>> = { slim: 34, regular: 50, wide: 96 };

/** Milliseconds that a device may be given ahead. */
export const BUFFERS = [10, 20, 50, 100, 200] as const;

/** A meter that stays in view: of a strip, or of one of its inserts. */
export interface KeptMeter {
  readonly strip: string;
  readonly insert?: string;
}

/** What this person likes, kept in this browser. */
export const useSettings = defineStore('settings', () => {
  const theme = useStorage<'night' | 'day'>('zonula.theme', 'night');
  return {
    theme,
    otherTheme: () => (theme.value = theme.value === 'night' ? 'day' : 'night'),
    columns: useStorage<ColumnWidth>('zonula.columns', 'regular'),
    /** Widths of single columns, by session and strip. */
    widths: useStorage<Record<string, ColumnWidth>>('zonula.widths', {}),
    inspector: useStorage('zonula.inspector', true),
    placement: useStorage<Placement>('zonula.placement', 'after'),
    /** How the columns of sources are grouped; `session` is their own order. */
    grouping: useStorage<Grouping>('zonula.grouping', 'session'),
    /** Bands of sources that are folded to one column, by grouping and label. */
    foldedBands: useStorage<string[]>('zonula.foldedBands', []),
    /** Strips that show a running waveform in the place of their meter, by session and strip. */
    waves: useStorage<string[]>('zonula.waves', []),
    /** How picked strips are edited together: by the same amount, to the same value, or each alone. */
    together: useStorage<'by' | 'to' | 'alone'>('zonula.together', 'by'),
    /** Milliseconds that the device is given ahead: more bridge longer gaps, less is heard sooner. */
    buffer: useStorage('zonula.buffer', 20),
    /** The scale of meters: see `METER_SCALES`. */
    meterScale: useStorage('zonula.meterScale', 'digital'),
    /** Meters that stay in view, by session. */
    kept: useStorage<Record<string, KeptMeter[]>>('zonula.kept', {}),
    foldedRows: useStorage<string[]>('zonula.foldedRows', []),
    /** The profile that a device was given last, by the name of its port. */
    portProfiles: useStorage<Record<string, string>>('zonula.portProfiles', {}),
    shortcuts: useStorage<Record<string, string>>('zonula.shortcuts', {}),
  };
});
