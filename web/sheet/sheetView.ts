import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import { bounded } from './zoom';
import { COLUMN_PIXELS, useSettings, type KeptView } from '@/session/settings';

/** The Sheet that is on the screen. */
export interface ShownSheet {
  /** What is under the pointer stays where it is, or what has the keyboard, or the middle. */
  readonly zoomBy: (factor: number) => void;
  /** The width of columns by which all are in sight. */
  readonly whole: () => number;
}

/** Views that Zonula comes with: what one looks at to set levels, and to see where everything goes. */
export const SHIPPED: readonly Omit<KeptView, 'name' | 'grouping' | 'foldedBands' | 'inspector'>[] = [
  {
    zoom: COLUMN_PIXELS.regular,
    foldedRows: ['input', 'pre', 'post'],
    railRows: 'auto',
    sendRows: 'loudest',
  },
  { zoom: 40, foldedRows: ['input', 'pre', 'post', 'auto', 'pan'], railRows: 'rows', sendRows: 'all' },
];

/** How the Sheet is looked at. */
export const useSheetView = defineStore('sheetView', () => {
  const settings = useSettings();
  const sheet = shallowRef<ShownSheet | null>(null);
  const attach = (shown: ShownSheet) => (sheet.value = shown);
  /** The width of columns before the whole session was shown. */
  let before: number | null = null;

  function toggleWhole() {
    if (!sheet.value) return;
    const whole = sheet.value.whole();
    if (settings.zoom <= whole && before !== null) {
      zoomTo(before);
      before = null;
    } else {
      before = bounded(settings.zoom);
      zoomTo(whole);
    }
  }
  const now = (name: string): KeptView => ({
    name,
    zoom: settings.zoom,
    foldedRows: [...settings.foldedRows],
    railRows: settings.railRows,
    sendRows: settings.sendRows,
    grouping: settings.grouping,
    foldedBands: [...settings.foldedBands],
    inspector: settings.inspector,
    landing: settings.landing,
    beside: settings.beside,
  });
  /** Looks at the Sheet as a view says, as far as it says anything. */
  function look(view: Partial<KeptView>) {
    const { zoom, foldedRows, railRows, sendRows, grouping, foldedBands, inspector, landing, beside } = view;
    if (foldedRows) settings.foldedRows = [...foldedRows];
    if (railRows) settings.railRows = railRows;
    if (sendRows) settings.sendRows = sendRows;
    if (grouping) settings.grouping = grouping;
    if (foldedBands) settings.foldedBands = [...foldedBands];
    if (landing !== undefined) settings.landing = landing;
    if (beside !== undefined) settings.beside = beside;
    if (inspector !== undefined) settings.inspector = inspector;
    if (zoom) zoomTo(zoom);
  }
  function zoomTo(pixels: number) {
    if (sheet.value) sheet.value.zoomBy(pixels / bounded(settings.zoom));
    else settings.zoom = pixels;
  }
  /** Keeps how the Sheet is looked at now; one of the same name is kept anew. */
  function keep(name: string) {
    settings.views = [...settings.views.filter((v) => v.name !== name), now(name)];
  }
  const forget = (name: string) => (settings.views = settings.views.filter((v) => v.name !== name));
  const zoomBy = (factor: number) => sheet.value?.zoomBy(factor);

  /** Whether views are chosen from, and kept. */
  const choosing = ref(false);

  return { attach, toggleWhole, look, keep, forget, zoomBy, zoomTo, choosing };
});
