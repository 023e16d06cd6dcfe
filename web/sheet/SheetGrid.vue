<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, ref, useTemplateRef, watch } from 'vue';
import { effectiveLevel, vcaHolders } from '@core/groups/vca';
import { useAutomation } from '@/session/automation/automation';
import { stripsIn, type Band, type Column } from '@/session/columns';
import { useMarks } from '@/session/marks';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { stable } from '@/ui/stable';
import BandLabels from './BandLabels.vue';
import FoldedColumn from './FoldedColumn.vue';
import { railMarks } from './rails';
import { useRenaming } from './renaming';
import type { Hit, RailMark, Spot } from './rows/kind';
import { cellName, kindOf, sheetRows } from './rows/rows';
import { useSheetTools } from './rows/tools';
import SheetMaps from './SheetMaps.vue';
import SheetDivider from './SheetDivider.vue';
import SheetLabels from './SheetLabels.vue';
import StripColumn from './StripColumn.vue';
import StripNamed from './StripNamed.vue';
import { LABELS, useSheetColumns } from './useSheetColumns';
import { useColumnFacts } from './useColumnFacts';
import { useSheetDrags } from './useSheetDrags';
import { useSheetKeys } from './useSheetKeys';
import { useSheetMeters } from './useSheetMeters';
import ViewsDialog from './ViewsDialog.vue';
import { useSheetTyping } from './useSheetTyping';
import { useSheetView } from './sheetView';
import { useRowView } from './useRowView';
import { useSheetZoom } from './useSheetZoom';
import { wheelFactor } from './zoom';
import { vcaItems } from './vcaMenu';
import { say } from './texts';

/** The Sheet: one column a strip, one row a decision; what leads to the outputs stands at its right edge. */
const session = useSession();
const pick = usePick();
const settings = useSettings();
const marks = useMarks();
const automation = useAutomation();
const renaming = useRenaming();
const sheetView = useSheetView();

const body = ref<HTMLElement | null>(null);
const grid = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const hairlineCanvas = ref<HTMLCanvasElement | null>(null);
const field = ref<HTMLInputElement | null>(null);
const labels = useTemplateRef('labels');
const { width: bodyWidth, height: bodyHeight } = useElementSize(body);
const doc = computed(() => session.shown!);
const sheetColumns = useSheetColumns(body, bodyWidth);
const view = useRowView(sheetColumns, bodyHeight);
const rows = stable(
  () => sheetRows(doc.value, bodyHeight.value, view.value),
  (r) => r.map((x) => `${x.key} ${x.label} ${x.y} ${x.height}`).join('|'),
);
const total = computed(() => rows.value.at(-1)!.y + rows.value.at(-1)!.height);
const rowOf = (key: string) => rows.value.find((r) => r.key === key);
const level = computed(() => rowOf('level')!);
const band = computed(() => rowOf('band')!);

const {
  sourcesEl,
  landingEl,
  columns,
  sourceBands,
  innerBands,
  zones,
  isSource,
  stripAt,
  pixelsOf,
  columnX,
  gapAt,
  reveal,
  step,
} = sheetColumns;

const holders = computed(() => vcaHolders(doc.value));
const NO_RAILS: readonly RailMark[] = [];
/** The same marks as before where nothing about VCAs or order changed. */
const rails = stable(
  () =>
    railMarks(
      doc.value,
      [...columns.value.sources, ...columns.value.landing].flatMap(stripsIn).map((s) => s.id),
    ),
  (m) => [...m].map(([id, r]) => `${id}:${r.join(',')}`).join('|'),
);

const bandOf = (c: Column): Band =>
  [...sourceBands.value, ...innerBands.value].find((b) => b.folded && b.strips[0] === stripsIn(c)[0]!.id)!;
const { current, edited, dryOf, preampOf, unitsOf, outName } = useColumnFacts(doc);

// — where things stand —

function hitTest(e: { clientX: number; clientY: number }): Hit | null {
  const strip = stripAt(e);
  if (!strip) return null;
  const box = body.value!.getBoundingClientRect();
  const y = e.clientY - box.top + body.value!.scrollTop;
  const row = rows.value.find((r) => y >= r.y && y < r.y + r.height);
  if (!row || row.kind === 'band') return null;
  return { strip, row, x: columnX(strip, e.clientX - box.left), y: y - row.y, width: pixelsOf(strip) };
}

/** Below a cell, on the screen. */
function below({ strip, row }: Spot) {
  const box = body.value!.getBoundingClientRect();
  return {
    x: box.left + columnX(strip) + pixelsOf(strip) / 2,
    y: box.top + row.y - body.value!.scrollTop + row.height,
  };
}

// — hands —

const {
  typing,
  type,
  typed,
  leave,
  box: typingBox,
} = useSheetTyping(field, {
  columnX,
  pixelsOf,
  reveal,
  leave: () => grid.value?.focus(),
});
const tools = useSheetTools({
  type: (spot) => void type(spot),
  renameVca: (id) => void labels.value?.rename(id),
});
const keys = useSheetKeys(tools, {
  rows: () => rows.value,
  body: () => body.value!,
  typing: () => typing.value !== null,
  below,
  reveal,
});
const drags = useSheetDrags(tools, {
  gapAt,
  hitTest,
  stripAt,
  mine(e) {
    if ((e.target as HTMLElement).closest('.labels, .typing, .band-label, .divider')) return false;
    grid.value?.focus({ preventScroll: true });
    return true;
  },
});
function contextMenu(e: MouseEvent) {
  const hit = hitTest(e);
  if (!hit) return;
  e.preventDefault();
  pick.focus = { strip: hit.strip, row: hit.row.key };
  keys.openMenu(hit, { x: e.clientX, y: e.clientY });
}
const vcaMenu = (id: string, e: MouseEvent) =>
  tools.menu.open(
    say('vcaName', { name: doc.value.vcas.find((v) => v.id === id)!.name }),
    vcaItems(tools, id),
    { x: e.clientX, y: e.clientY },
  );
const hovered = useSheetZoom(body, sheetColumns, stripAt, drags.letGo);
function wheel(e: WheelEvent) {
  if (e.ctrlKey) {
    e.preventDefault();
    return sheetColumns.zoomBy(wheelFactor(e.deltaY), e);
  }
  const hit = hitTest(e);
  const focused = hit && pick.focus?.strip === hit.strip && pick.focus.row === hit.row.key;
  const kind = hit && kindOf(hit.row);
  if (focused && kind?.value && e.deltaY !== 0) {
    e.preventDefault();
    return kind.step?.(tools, hit, e.deltaY < 0 ? 1 : -1, e.shiftKey);
  }
  // A wheel that turns one way only goes along the session, where the rows need no scrolling.
  const along = e.deltaX !== 0 ? e.deltaX : total.value <= bodyHeight.value + 1 ? e.deltaY : 0;
  const zone = hit && !isSource(hit.strip) ? landingEl.value : sourcesEl.value;
  if (along === 0 || !zone) return;
  e.preventDefault();
  zone.scrollLeft += along;
}
watch(
  () => [renaming.strip, body.value] as const,
  ([id, el]) => {
    const row = rowOf('cap');
    if (!id || !el || !row) return;
    renaming.strip = null;
    void type({ strip: id, row });
  },
  { flush: 'post' },
);
watch(
  () => pick.focus?.strip,
  (id) => {
    if (id && session.strip(id) && !drags.dragging.value) reveal(id);
  },
);
function pickBand(b: Band, e: MouseEvent) {
  pick.set(e.ctrlKey || e.shiftKey ? [...pick.chosen, ...b.strips] : b.strips);
}
function foldBand(b: Band) {
  settings.foldedBands = b.folded
    ? settings.foldedBands.filter((key) => key !== b.fold)
    : [...settings.foldedBands, b.fold];
}

useSheetMeters(canvas, hairlineCanvas, sheetColumns, bodyWidth, rows);
/** Where a carried insert would be put. */
const dropBox = computed(() => {
  const to = drags.drop.value;
  if (!to) return null;
  return {
    left: `${columnX(to.strip)}px`,
    top: `${to.row.y}px`,
    width: `${pixelsOf(to.strip)}px`,
    height: `${to.row.height}px`,
  };
});

/** The strip that is named in full, where columns are too narrow for names: under the pointer, else under the keyboard. */
const named = computed(() => session.strip(hovered.value ?? pick.focus?.strip ?? ''));
const activeCell = computed(() => (pick.focus ? `cell-${pick.focus.strip}-${pick.focus.row}` : undefined));
</script>

<template>
  <div class="frame flex-1-1-0 min-h-0 d-flex flex-column">
    <div
      ref="body"
      class="board position-relative flex-1-1-0 min-h-0 bg-sheet"
      v-on="drags.on"
      @dblclick="drags.reset"
      @contextmenu="contextMenu"
      @wheel="wheel"
    >
      <div class="position-relative" :style="{ height: `${total}px` }">
        <SheetLabels ref="labels" :rows="rows" :width="LABELS" @menu="vcaMenu" />

        <div
          ref="grid"
          class="grid within h-100"
          role="grid"
          tabindex="0"
          :aria-label="say('sheetRowStripDecisionsAs')"
          :aria-rowcount="pick.order.length"
          :aria-activedescendant="activeCell"
          @keydown="keys.key"
        >
          <div
            v-for="z in zones"
            :id="z.id"
            :key="z.id"
            :ref="(el) => z.keep(el as HTMLElement | null)"
            class="zone position-absolute top-0 bottom-0 overflow-hidden"
            :class="z.id"
            :style="{ left: `${z.left}px`, width: `${z.width}px` }"
            @scroll="z.scrolled"
          >
            <div class="strips position-relative h-100" :style="{ width: `${z.full}px` }">
              <BandLabels
                :bands="z.bands"
                :edges="z.edges"
                :row="band"
                :folds="z.id === 'sources'"
                @pick="pickBand"
                @fold="foldBand"
              />
              <template v-for="p in z.shown" :key="p.column.id">
                <StripColumn
                  v-if="p.column.strip"
                  :strip="current.get(p.column.id) ?? p.column.strip"
                  :number="p.number"
                  :x="p.x"
                  :width="p.width"
                  :rows="rows"
                  :rails="rails.get(p.column.id) ?? NO_RAILS"
                  :effective="effectiveLevel(session.now!, current.get(p.column.id) ?? p.column.strip)"
                  :held="holders.has(p.column.id)"
                  :audible="session.audible.has(p.column.id)"
                  :picked="pick.chosen.has(p.column.id)"
                  :focus="pick.focus?.strip === p.column.id ? pick.focus.row : null"
                  :out-name="outName(p.column.strip)"
                  :edited-insert="edited(p.column.id)"
                  :dry="dryOf(p.column.strip)"
                  :preamp="preampOf(p.column.strip)"
                  :units="unitsOf(p.column.id)"
                  :writing="automation.writing.get(p.column.id) ?? null"
                  :lit="marks.lit.get(p.column.id) ?? null"
                />
                <FoldedColumn
                  v-else
                  :label="p.column.inner ?? p.column.band"
                  :colour="p.column.fold[0]!.colour"
                  :strips="p.column.fold"
                  :x="p.x"
                  :width="p.width"
                  :rows="rows"
                  :picked="p.column.fold.every((s) => pick.chosen.has(s.id))"
                  :lit="p.column.fold.some((s) => marks.lit.has(s.id))"
                  @open="foldBand({ ...bandOf(p.column), folded: true })"
                  @pick="pickBand(bandOf(p.column), $event)"
                />
              </template>
            </div>
          </div>
        </div>

        <canvas
          ref="canvas"
          class="meters position-absolute pointer-events-none"
          aria-hidden="true"
          :style="{
            left: `${LABELS}px`,
            top: `${level.y}px`,
            width: `${Math.max(1, bodyWidth - LABELS)}px`,
            height: `${level.height}px`,
          }"
        />

        <canvas
          ref="hairlineCanvas"
          class="hairlines position-absolute pointer-events-none"
          aria-hidden="true"
          :style="{
            left: `${LABELS}px`,
            top: '0px',
            width: `${Math.max(1, bodyWidth - LABELS)}px`,
            height: `${total}px`,
          }"
        />
        <SheetDivider :columns="sheetColumns" />
        <StripNamed
          v-if="step !== 'near' && named"
          :strip="named"
          :x="columnX(named.id)"
          :width="pixelsOf(named.id)"
          :room="bodyWidth"
          :top="(rowOf('cap')?.y ?? 0) + (rowOf('cap')?.height ?? 0)"
        />
        <div
          v-if="dropBox"
          class="drop position-absolute pointer-events-none text-center font-weight-semibold"
          :style="dropBox"
        >
          {{ drags.drop.value!.copy ? '+' : '' }}
        </div>

        <input
          v-if="typing"
          ref="field"
          class="field typing"
          :class="{ mono: typing.row.kind !== 'cap' }"
          :style="typingBox"
          :value="typing.text"
          :aria-label="typing.row.kind === 'cap' ? say('name') : cellName(typing.row)"
          @input="typing = { ...typing, text: ($event.target as HTMLInputElement).value }"
          @keydown.enter.stop="typed"
          @keydown.esc.stop="leave"
          @keydown.stop
          @blur="typing = null"
        />
      </div>
    </div>
    <SheetMaps :columns="sheetColumns" />
    <ViewsDialog v-if="sheetView.choosing" />
  </div>
</template>

<style scoped>
.drop {
  z-index: 5;
  border: 2px solid var(--signal);
  background: color-mix(in srgb, var(--signal) 25%, transparent);
}
.board {
  overflow: hidden auto;
  touch-action: none;
  user-select: none;
}
.grid:focus-visible {
  outline: none;
}
.zone.landing {
  border-left: 1px solid var(--rule);
  background: color-mix(in srgb, var(--raised) 35%, transparent);
}
.typing {
  position: absolute;
  z-index: 5;
  min-height: 26px;
  padding: 0 4px;
  text-align: center;
}
</style>
