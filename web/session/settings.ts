import { StorageSerializers, useStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import type { Placement } from '@core/operations/gather';

export type Grouping = 'session' | 'family' | 'submix' | 'nested' | 'colour' | 'kind';
export type RailRows = 'auto' | 'rows' | 'braid';
export type SendRows = 'auto' | 'all' | 'used' | 'loudest';
export type ColumnWidth = 'slim' | 'regular' | 'wide';
export const COLUMN_PIXELS: Readonly<Record<ColumnWidth, number>> = { slim: 34, regular: 50, wide: 96 };

/** Milliseconds that a device may be given ahead. */
export const BUFFERS = [10, 20, 50, 100, 200] as const;

/** How the Sheet is looked at; nothing of it is in the session. */
export interface KeptView {
  readonly name: string;
  readonly zoom: number;
  readonly foldedRows: readonly string[];
  readonly railRows: RailRows;
  readonly sendRows: SendRows;
  readonly grouping: Grouping;
  readonly foldedBands: readonly string[];
  readonly inspector: boolean;
  readonly landing?: number | null;
  readonly beside?: boolean;
}

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
    /** Pixels of a column of the Sheet. */
    zoom: useStorage<number>('zonula.zoom', COLUMN_PIXELS.regular),
    /** How the rails of VCAs and the rows of sends stand: as there is room, or as they are asked for. */
    railRows: useStorage<RailRows>('zonula.railRows', 'auto'),
    sendRows: useStorage<SendRows>('zonula.sendRows', 'auto'),
    /** Views of the Sheet that are kept by name. */
    views: useStorage<KeptView[]>('zonula.views', []),
    /** Widths of single columns, by session and strip. */
    widths: useStorage<Record<string, ColumnWidth>>('zonula.widths', {}),
    inspector: useStorage('zonula.inspector', true),
    /** Whether the inspector gives its width back while nothing is picked. */
    inspectorRests: useStorage('zonula.inspectorRests', false),
    /** The share of the Sheet that the landing zone may take; null: what it needs, up to a half. */
    landing: useStorage<number | null>('zonula.landing', null, undefined, {
      serializer: StorageSerializers.object,
    }),
    /** Whether submixes stand beside what feeds them instead of in the landing zone. */
    beside: useStorage('zonula.beside', false),
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
