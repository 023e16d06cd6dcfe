<script setup lang="ts">
import { useElementSize, useEventListener } from '@vueuse/core';
import { computed, nextTick, ref, shallowRef, watch } from 'vue';
import { unconfirmed } from '@core/devices/preamp';
import { levelText } from '@core/levels/decibels';
import { panText } from '@core/levels/pan';
import { FAMILIES } from '@core/naming/lexicon';
import { effectiveLevel, heldBy, vcaHolders } from '@core/groups/vca';
import { processorOf } from '@core/processors/registry';
import { cellValue, readCell, setCell } from '@core/session/gestures/cells';
import { setSends } from '@core/session/gestures/returns';
import { readSend } from '@core/session/gestures/sends';
import { monitoredOutput, nameOf, stripMap, stripOf } from '@core/session/lookup';
import type { Strip } from '@core/session/types';
import { useTargets } from '@/session/targets';
import { useCommands } from '@/commands/commands';
import { useMarks } from '@/session/marks';
import { useRenaming } from './renaming';
import { useAutomation } from '@/session/automation/automation';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { useTransport } from '@/audio/transport';
import { newWave, type MeterPlace, type Wave } from './paintMeters';
import { useCellMenus } from './useCellMenus';
import { useMeterCanvas } from './useMeterCanvas';
import { useReductionCanvas, type Hairline } from './useReductionCanvas';
import { useSheetKeys } from './useSheetKeys';
import { insertAt, LEVEL_FOOT, LEVEL_TOP, sheetRows, type Row } from './rows';
import { stripsIn, type Band, type Column } from '@/session/columns';
import { stable } from '@/ui/stable';
import { GAP, LABELS, useSheetColumns, type Placed } from './useSheetColumns';
import SessionMap from './SessionMap.vue';
import FoldedColumn from './FoldedColumn.vue';
import StripColumn, { type RailMark } from './StripColumn.vue';
import { travelOf } from '@core/levels/faderLaw';
import { cellName, valueCell } from './cells';
import { useSheetGestures, type Hit } from './useSheetGestures';
import VcaLabel from './VcaLabel.vue';

const session = useSession();
const pick = usePick();
const settings = useSettings();
const transport = useTransport();
const commands = useCommands();
const marks = useMarks();
const renaming = useRenaming();
const { named } = useTargets();
const automation = useAutomation();

const body = ref<HTMLElement | null>(null);
const grid = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const hairlineCanvas = ref<HTMLCanvasElement | null>(null);
const { width: bodyWidth, height: bodyHeight } = useElementSize(body);
const doc = computed(() => session.shown!);
const rows = stable(
  () => sheetRows(doc.value, bodyHeight.value, settings.foldedRows),
  (r) => r.map((x) => `${x.key} ${x.label} ${x.y} ${x.height}`).join('|'),
);
const total = computed(() => {
  const last = rows.value.at(-1)!;
  return last.y + last.height;
});
const rowOf = (key: string) => rows.value.find((r) => r.key === key);
const level = computed(() => rowOf('level')!);
const band = computed(() => rowOf('band')!);

const {
  sourcesEl,
  landingEl,
  sourcesLeft,
  landingLeft,
  columns,
  sourceEdges,
  landingEdges,
  sourcesFull,
  landingFull,
  sourcesWidth,
  landingWidth,
  sourcesShown,
  landingShown,
  sourceBands,
  landingBands,
  isSource,
  stripAt,
  pixelsOf,
  columnX,
  gapAt,
  goTo,
  reveal,
} = useSheetColumns(body, bodyWidth);

const holders = computed(() => vcaHolders(doc.value));
const NO_RAILS: readonly RailMark[] = [];
/** For each strip, the mark of every rail row; the same list as before where nothing about VCAs or order changed. */
const rails = stable(
  () => {
    const order = [...columns.value.sources, ...columns.value.landing].flatMap(stripsIn).map((s) => s.id);
    const marks = new Map<string, RailMark[]>(order.map((id) => [id, []]));
    for (const vca of doc.value.vcas) {
      const held = new Set(heldBy(doc.value, vca.id).map((s) => s.id));
      const at = order.map((id, i) => (held.has(id) ? i : -1)).filter((i) => i >= 0);
      order.forEach((id, i) => {
        const inside = at.length > 1 && i >= at[0]! && i <= at.at(-1)!;
        marks
          .get(id)!
          .push(vca.members.includes(id) ? 'knot' : held.has(id) ? 'via' : inside ? 'line' : 'none');
      });
    }
    return marks;
  },
  (m) => [...m].map(([id, r]) => `${id}:${r.join(',')}`).join('|'),
);

const bandOf = (c: Column): Band =>
  sourceBands.value.find((b) => b.folded && b.strips[0] === stripsIn(c)[0]!.id)!;
/** The two parts of the Sheet that scroll by themselves. */
const zones = computed(() => [
  {
    id: 'sources',
    keep: (el: HTMLElement | null) => (sourcesEl.value = el),
    left: LABELS,
    width: sourcesWidth.value,
    full: sourcesFull.value,
    edges: sourceEdges.value,
    bands: sourceBands.value,
    shown: sourcesShown.value,
    scrolled: () => (sourcesLeft.value = sourcesEl.value!.scrollLeft),
  },
  {
    id: 'landing',
    keep: (el: HTMLElement | null) => (landingEl.value = el),
    left: LABELS + sourcesWidth.value + GAP,
    width: landingWidth.value,
    full: landingFull.value,
    edges: landingEdges.value,
    bands: landingBands.value,
    shown: landingShown.value,
    scrolled: () => (landingLeft.value = landingEl.value!.scrollLeft),
  },
]);
/** Strips with their controls where their lanes have them now. */
const current = computed(() => stripMap(session.now!));
const edited = (strip: string) => (pick.insert?.strip === strip ? pick.insert.id : null);
const preampOf = (s: Strip) => {
  if (!s.preamp) return null;
  const state = session.preamps.get(s.preamp.input);
  return state && unconfirmed(state, s.preamp).length === 0 ? 'settled' : 'open';
};
const hiddenStrips = computed(() => doc.value.strips.filter((s) => s.hidden).length);
const outputs = computed(() => doc.value.strips.filter((s) => s.kind === 'output').length);
const outName = (s: Strip) =>
  s.kind === 'output'
    ? `${monitoredOutput(doc.value)?.id === s.id && outputs.value > 1 ? '◉ ' : ''}${s.pair}–${(s.pair ?? 1) + 1}`
    : s.out.to === null
      ? 'nowhere'
      : nameOf(doc.value, s.out.to);

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

// — typing —

const typing = shallowRef<{ strip: string; row: Row; text: string } | null>(null);
const field = ref<HTMLInputElement | null>(null);
async function type(strip: string, row: Row) {
  const s = stripOf(session.now!, strip);
  const cell = valueCell(row);
  const now = cell ? cellValue(session.now!, strip, cell) : undefined;
  typing.value = {
    strip,
    row,
    text:
      row.kind === 'cap'
        ? s.name
        : cell?.kind === 'pan'
          ? panText(s.pan)
          : now === undefined
            ? ''
            : levelText(now).replace('−', '-'),
  };
  reveal(strip);
  await nextTick();
  field.value?.focus();
  field.value?.select();
}
function typed() {
  const t = typing.value;
  if (!t) return;
  const { strip, row, text } = t;
  if (row.kind === 'cap') {
    const name = text.trim();
    if (name !== stripOf(doc.value, strip).name)
      session.commit(`rename ${name || strip}`, [{ type: 'strip.set', id: strip, patch: { name } }]);
  } else {
    const cell = valueCell(row)!;
    const group = pick.group(strip);
    if (cell.kind === 'send') {
      // More than a level can be typed here: a tap, a pan, on or off.
      const made = session.change(named(cellName(row), group), (d) => {
        const { levelDb, ...patch } = readSend(text);
        const able = group.filter((id) => id !== cell.to && stripOf(d, id).kind !== 'output');
        const plain = Object.keys(patch).length === 0;
        if (plain) return setCell(d, strip, able, cell, levelDb!);
        return setSends(d, able, cell.to, levelDb === undefined ? patch : { ...patch, levelDb });
      });
      if (!made) return;
    } else if (
      !session.change(named(cellName(row), group), (d) =>
        setCell(d, strip, group, cell, readCell(cell, text)),
      )
    )
      return;
  }
  typing.value = null;
  grid.value?.focus();
}
const typingBox = computed(() => {
  if (!typing.value) return {};
  const { strip, row } = typing.value;
  const own = pixelsOf(strip);
  const width = Math.max(72, own);
  const top = row.kind === 'level' ? row.y + row.height - LEVEL_FOOT : row.y + (row.kind === 'cap' ? 10 : 0);
  return {
    left: `${Math.max(0, columnX(strip) + own / 2 - width / 2)}px`,
    top: `${top}px`,
    width: `${width}px`,
  };
});

const vcaTyping = ref<string | null>(null);
const vcaName = ref('');
async function renameVca(id: string) {
  vcaName.value = doc.value.vcas.find((v) => v.id === id)?.name ?? '';
  vcaTyping.value = id;
  await nextTick();
  document.querySelector<HTMLInputElement>('.vca-name')?.select();
}
function vcaNamed() {
  const id = vcaTyping.value;
  vcaTyping.value = null;
  const name = vcaName.value.trim();
  if (id && name && doc.value.vcas.find((v) => v.id === id)?.name !== name)
    session.commit(`rename VCA ${name}`, [{ type: 'vca.set', id, patch: { name } }]);
}

// — hands —

const menus = useCellMenus((id) => void renameVca(id));
const keys = useSheetKeys({
  rows: () => rows.value,
  body: () => body.value!,
  column: pixelsOf,
  typing: () => typing.value !== null,
  columnX,
  reveal,
  type: (strip, row) => void type(strip, row),
  menus,
});

const gestures = useSheetGestures({
  gapAt,
  hitTest,
  stripAt,
  openInsert: menus.openInsert,
  openOut: menus.openOut,
  type: (strip, row) => void type(strip, row),
  clearClips: () => transport.player?.clearPeaks(),
});
function pointerDown(e: PointerEvent) {
  if ((e.target as HTMLElement).closest('.labels, .typing, .band-label')) return;
  grid.value?.focus({ preventScroll: true });
  gestures.down(e);
}
function contextMenu(e: MouseEvent) {
  const hit = hitTest(e);
  if (!hit) return;
  e.preventDefault();
  pick.focus = { strip: hit.strip, row: hit.row.key };
  menus.openCellMenu(hit, e);
}
function wheel(e: WheelEvent) {
  const hit = hitTest(e);
  const cell =
    hit && pick.focus?.strip === hit.strip && pick.focus.row === hit.row.key ? valueCell(hit.row) : null;
  if (hit && cell && e.deltaY !== 0) {
    e.preventDefault();
    return keys.step(hit.strip, hit.row, e.deltaY < 0 ? 1 : -1, e.shiftKey);
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
    void type(id, row);
  },
  { flush: 'post' },
);
watch(
  () => pick.focus?.strip,
  (id) => {
    if (id && session.strip(id) && !gestures.dragging.value) reveal(id);
  },
);
useEventListener(window, 'blur', () => gestures.cancel());

function pickBand(b: Band, e: MouseEvent) {
  pick.set(e.ctrlKey || e.shiftKey ? [...pick.chosen, ...b.strips] : b.strips);
}
function foldBand(b: Band) {
  settings.foldedBands = b.folded
    ? settings.foldedBands.filter((label) => label !== b.label)
    : [...settings.foldedBands, b.label];
}

// — meters —

const waves = new Map<string, Wave>();
const waveOf = (id: string) => {
  const known = waves.get(id) ?? newWave();
  waves.set(id, known);
  return known;
};
const places = computed<readonly MeterPlace[]>(() => {
  const player = transport.player;
  if (!player) return [];
  const at = (p: Placed, left: number): MeterPlace => {
    const strips = stripsIn(p.column);
    const first = strips[0]!;
    return {
      slot: player.slot(first.id),
      channels: first.channels,
      kind: first.kind,
      x: left + p.x,
      width: p.width,
      ...(p.column.strip && settings.waves.includes(`${session.id} ${first.id}`)
        ? { wave: waveOf(first.id) }
        : {}),
      ...(p.column.fold
        ? { total: strips.map((s) => ({ slot: player.slot(s.id), channels: s.channels })) }
        : {}),
    };
  };
  return [
    ...sourcesShown.value.map((p) => at(p, -sourcesLeft.value)),
    ...landingShown.value.map((p) => at(p, sourcesWidth.value + GAP - landingLeft.value)),
  ];
});
useMeterCanvas(canvas, {
  places,
  width: () => bodyWidth.value - LABELS,
  height: () => level.value.height,
  zones: () => [
    { from: 0, width: sourcesWidth.value, sources: true },
    { from: sourcesWidth.value + GAP, width: landingWidth.value, sources: false },
  ],
});

const hairlines = computed<readonly Hairline[]>(() => {
  const player = transport.player;
  if (!player) return [];
  const slots = rows.value.filter((r) => r.kind === 'insert');
  const at = (p: Placed, left: number, source: boolean): Hairline[] =>
    p.column.strip
      ? slots.flatMap((row) => {
          const insert = insertAt(p.column.strip!, row);
          if (!insert?.on || !processorOf(insert.type).levelDependent) return [];
          return [
            {
              slot: player.dynamicsSlot(p.column.strip!.id, insert.id),
              x: left + p.x + 4,
              y: row.y + row.height - 4,
              width: p.width - 9,
              source,
            },
          ];
        })
      : [];
  return [
    ...sourcesShown.value.flatMap((p) => at(p, -sourcesLeft.value, true)),
    ...landingShown.value.flatMap((p) => at(p, sourcesWidth.value + GAP - landingLeft.value, false)),
  ];
});
useReductionCanvas(hairlineCanvas, {
  lines: hairlines,
  width: () => bodyWidth.value - LABELS,
  height: () => total.value,
  zones: () => [
    { from: 0, width: sourcesWidth.value, sources: true },
    { from: sourcesWidth.value + GAP, width: landingWidth.value, sources: false },
  ],
});
/** Where a carried insert would be put. */
const dropBox = computed(() => {
  const to = gestures.drop.value;
  if (!to) return null;
  return {
    left: `${columnX(to.strip)}px`,
    top: `${to.row.y}px`,
    width: `${pixelsOf(to.strip)}px`,
    height: `${to.row.height}px`,
  };
});

const ticks = [12, 0, -12, -24, -40];
const tickTop = (db: number) =>
  LEVEL_TOP + (1 - travelOf(db)) * (level.value.height - LEVEL_TOP - LEVEL_FOOT);
const returnLevel = (id: string) => (session.strip(id) ? levelText(session.strip(id)!.faderDb) : '');
const familyColour = (label: string, colour: string) =>
  FAMILIES.find((f) => f.name === label)?.colour ?? (colour || 'var(--ink-soft)');
const activeCell = computed(() => (pick.focus ? `cell-${pick.focus.strip}-${pick.focus.row}` : undefined));
</script>

<template>
  <div class="frame">
    <div
      ref="body"
      class="board"
      @pointerdown="pointerDown"
      @pointermove="gestures.move"
      @pointerup="gestures.up"
      @pointercancel="gestures.cancel"
      @dblclick="gestures.reset"
      @contextmenu="contextMenu"
      @wheel="wheel"
    >
      <div class="plane" :style="{ height: `${total}px` }">
        <div class="labels" :style="{ width: `${LABELS}px` }">
          <div
            v-for="row in rows"
            :key="row.key"
            class="label"
            :class="row.kind"
            :style="{ top: `${row.y}px`, height: `${row.height}px` }"
          >
            <template v-if="row.kind === 'rail'">
              <input
                v-if="vcaTyping === row.ref"
                v-model="vcaName"
                class="field vca-name"
                aria-label="Name of the VCA"
                @keydown.enter.stop="vcaNamed"
                @keydown.esc.stop="vcaTyping = null"
                @keydown.stop
                @blur="vcaNamed"
              />
              <VcaLabel
                v-else
                :vca="session.now!.vcas.find((v) => v.id === row.ref)!"
                :writes="automation.writing.has(row.ref!)"
                @menu="menus.openVcaMenu(row.ref!, $event)"
              />
            </template>
            <template v-else-if="row.kind === 'level'">
              <span class="text">Level</span>
              <span v-for="t in ticks" :key="t" class="tick mono" :style="{ top: `${tickTop(t)}px` }">{{
                t > 0 ? `+${t}` : t === 0 ? '0' : `−${-t}`
              }}</span>
            </template>
            <template v-else-if="row.kind === 'cap'">
              <button v-if="hiddenStrips" class="hidden-strips" @click="commands.run('show')">
                {{ hiddenStrips }} hidden
              </button>
            </template>
            <template v-else>
              <span class="text" :title="row.label">{{ row.label }}</span>
              <span v-if="row.kind === 'send'" class="mono soft send-level">{{ returnLevel(row.ref!) }}</span>
            </template>
          </div>
        </div>

        <div
          ref="grid"
          class="grid"
          role="grid"
          tabindex="0"
          aria-label="The Sheet: a row a strip, its decisions as cells"
          :aria-rowcount="pick.order.length"
          :aria-activedescendant="activeCell"
          @keydown="keys.key"
        >
          <div
            v-for="z in zones"
            :id="z.id"
            :key="z.id"
            :ref="(el) => z.keep(el as HTMLElement | null)"
            class="zone"
            :class="z.id"
            :style="{ left: `${z.left}px`, width: `${z.width}px` }"
            @scroll="z.scrolled"
          >
            <div class="strips" :style="{ width: `${z.full}px` }">
              <div
                v-for="b in z.bands"
                :key="b.key"
                class="band-label"
                :style="{
                  left: `${z.edges[b.from]}px`,
                  width: `${z.edges[b.from + b.count]! - z.edges[b.from]! - 1}px`,
                  top: `${band.y}px`,
                  height: `${band.height}px`,
                  '--family': familyColour(b.label, b.colour),
                }"
                :title="`Pick ${b.label}`"
                role="presentation"
                @click="pickBand(b, $event)"
              >
                <span
                  v-if="z.id === 'sources'"
                  class="fold"
                  :data-fold="b.label"
                  :title="`${b.folded ? 'Open' : 'Fold'} ${b.label} (key Z on one of its strips)`"
                  @mousedown.prevent
                  @click.stop="foldBand(b)"
                  >{{ b.folded ? '▸' : '▾' }}</span><span
                  v-if="settings.grouping === 'colour' && z.id === 'sources'"
                  class="swatch"
                /><template v-else>{{ b.label }}</template>
              </div>
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
                  :preamp="preampOf(p.column.strip)"
                  :writing="automation.writing.get(p.column.id) ?? null"
                  :lit="marks.lit.get(p.column.id) ?? null"
                />
                <FoldedColumn
                  v-else
                  :label="p.column.band"
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
          class="meters"
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
          class="hairlines"
          aria-hidden="true"
          :style="{
            left: `${LABELS}px`,
            top: '0px',
            width: `${Math.max(1, bodyWidth - LABELS)}px`,
            height: `${total}px`,
          }"
        />
        <div v-if="dropBox" class="drop" :style="dropBox">
          {{ gestures.drop.value!.copy ? '+' : '' }}
        </div>

        <input
          v-if="typing"
          ref="field"
          class="field typing"
          :class="{ mono: typing.row.kind !== 'cap' }"
          :style="typingBox"
          :value="typing.text"
          :aria-label="typing.row.kind === 'cap' ? 'Name' : cellName(typing.row)"
          @input="typing = { ...typing, text: ($event.target as HTMLInputElement).value }"
          @keydown.enter.stop="typed"
          @keydown.esc.stop="((typing = null), grid?.focus())"
          @keydown.stop
          @blur="typing = null"
        />
      </div>
    </div>
    <div v-if="sourcesFull > sourcesWidth || landingFull > landingWidth" class="maps">
      <SessionMap
        v-if="sourcesFull > sourcesWidth"
        :style="{ left: `${LABELS}px`, width: `${sourcesWidth}px` }"
        label="Where the view stands in the session"
        :bands="sourceBands"
        :edges="sourceEdges"
        :from="sourcesLeft / sourcesFull"
        :share="sourcesWidth / sourcesFull"
        @go="goTo"
      />
      <SessionMap
        v-if="landingFull > landingWidth"
        :style="{ left: `${LABELS + sourcesWidth + GAP}px`, width: `${landingWidth}px` }"
        label="Where the view stands among submixes, returns and outputs"
        :bands="landingBands"
        :edges="landingEdges"
        :from="landingLeft / landingFull"
        :share="landingWidth / landingFull"
        @go="(share) => landingEl && (landingEl.scrollLeft = share * landingFull - landingWidth / 2)"
      />
    </div>
  </div>
</template>

<style scoped>
.drop {
  position: absolute;
  z-index: 5;
  border: 2px solid var(--signal);
  background: color-mix(in srgb, var(--signal) 25%, transparent);
  text-align: center;
  font-weight: 600;
  pointer-events: none;
}
.frame {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.board {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: hidden auto;
  background: var(--sheet);
  touch-action: none;
  user-select: none;
}
.grid {
  height: 100%;
}
.grid:focus-visible {
  outline: none;
}
.plane {
  position: relative;
}
.labels {
  position: absolute;
  left: 0;
  top: 0;
  bottom: 0;
  background: var(--sheet);
  border-right: 1px solid var(--rule);
}
.label {
  position: absolute;
  left: 0;
  right: 0;
  display: flex;
  align-items: center;
  padding: 0 6px 0 10px;
  font-size: 12px;
  color: var(--ink-soft);
  border-bottom: 1px solid color-mix(in srgb, var(--rule) 55%, transparent);
}
.label.rail {
  color: var(--ink);
}
.label.level {
  align-items: flex-start;
  padding-top: 8px;
}
.text {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.label.send .text {
  color: var(--ink);
}
.send-level {
  font-size: 11px;
}
.tick {
  position: absolute;
  right: 6px;
  transform: translateY(-50%);
  font-size: 11px;
}
.hidden-strips {
  font-size: 12px;
  padding: 0;
  text-decoration: underline;
}
.maps {
  position: relative;
  height: 14px;
  flex: none;
  background: var(--sheet);
}
.zone {
  position: absolute;
  top: 0;
  bottom: 0;
  overflow: hidden;
}
.zone.landing {
  border-left: 1px solid var(--rule);
  background: color-mix(in srgb, var(--raised) 35%, transparent);
}
.strips {
  position: relative;
  height: 100%;
}
.band-label {
  position: absolute;
  z-index: 1;
  text-align: left;
  padding: 0 5px;
  font: inherit;
  font-size: 11px;
  line-height: 15px;
  border: 0;
  border-top: 2px solid var(--family);
  background: color-mix(in srgb, var(--family) 16%, var(--sheet));
  color: var(--ink);
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  cursor: pointer;
}
.fold {
  display: inline-block;
  min-width: 14px;
  padding: 0 3px 0 0;
  cursor: pointer;
  line-height: 14px;
}
.swatch {
  display: inline-block;
  width: 22px;
  height: 8px;
  background: var(--family);
}
.hairlines,
.meters {
  position: absolute;
  pointer-events: none;
}
.typing {
  position: absolute;
  z-index: 5;
  min-height: 26px;
  padding: 0 4px;
  text-align: center;
}
.vca-name {
  min-height: 22px;
  padding: 0 4px;
  font-size: 12px;
}
</style>
