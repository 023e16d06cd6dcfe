<script setup lang="ts">
import { useElementSize, useEventListener, useRafFn } from '@vueuse/core';
import { computed, nextTick, ref, shallowRef, watch } from 'vue';
import { levelText } from '../../../core/levels/decibels';
import { panText } from '../../../core/levels/pan';
import { FAMILIES } from '../../../core/naming/lexicon';
import { processors } from '../../../core/processors/registry';
import { effectiveLevel, heldBy, vcaHolders } from '../../../core/groups/vca';
import type { Command } from '../../../core/session/commands/types';
import { newInsert } from '../../../core/session/defaults';
import { cellValue, readCell, resetCell, setCell, shiftCell, makeSends } from '../../../core/session/gestures/cells';
import { removeSends, sendTo, setSends } from '../../../core/session/gestures/returns';
import { sheetOrder, toggleFlag, toggleVca } from '../../../core/session/gestures/strips';
import { setMembers } from '../../../core/session/gestures/vcas';
import { freshId, nameOf, stripOf } from '../../../core/session/lookup';
import type { Strip, Tap } from '../../../core/session/types';
import { useActions } from '../../actions/actions';
import { usePick } from '../../stores/pick';
import { useSession } from '../../stores/session';
import { COLUMN_PIXELS, useSettings } from '../../stores/settings';
import { useTransport } from '../../stores/transport';
import type { MenuItem } from '../menu';
import { paintMeters, type MeterColours, type MeterPlace } from './paintMeters';
import { bandsOf, insertAt, LEVEL_FOOT, LEVEL_TOP, sheetRows, type Row } from './rows';
import StripColumn, { type RailMark } from './StripColumn.vue';
import { travelOf } from '../../../core/levels/faderLaw';
import { cellName, useSheetGestures, valueCell, type Hit } from './useSheetGestures';
import VcaLabel from './VcaLabel.vue';

const LABELS = 104;
const GAP = 5;
/** Columns drawn beyond the edge of the view. */
const SPARE = 2;

const session = useSession();
const pick = usePick();
const settings = useSettings();
const transport = useTransport();
const actions = useActions();

const body = ref<HTMLElement | null>(null);
const sourcesEl = ref<HTMLElement | null>(null);
const landingEl = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const { width: bodyWidth, height: bodyHeight } = useElementSize(body);
const sourcesLeft = ref(0);
const landingLeft = ref(0);

const column = computed(() => COLUMN_PIXELS[settings.columns]);
const doc = computed(() => session.shown!);
const columns = computed(() => sheetOrder(doc.value));

/** Keeps the old list where the new one says the same, so that columns that did not change are not drawn again. */
function stable<T>(get: () => T, key: (value: T) => string) {
  let last: T | undefined;
  let lastKey = '';
  return computed(() => {
    const next = get();
    const k = key(next);
    if (last === undefined || k !== lastKey) {
      last = next;
      lastKey = k;
    }
    return last;
  });
}
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

const landingFull = computed(() => columns.value.landing.length * column.value);
const landingWidth = computed(() => Math.min(landingFull.value, Math.max(column.value, Math.floor((bodyWidth.value - LABELS) * 0.48))));
const sourcesWidth = computed(() => Math.max(0, bodyWidth.value - LABELS - GAP - landingWidth.value));

interface Placed {
  readonly strip: Strip;
  readonly x: number;
  readonly number: number;
}
const inView = (strips: readonly Strip[], left: number, width: number, first: number): Placed[] => {
  const from = Math.max(0, Math.floor(left / column.value) - SPARE);
  const to = Math.min(strips.length, Math.ceil((left + width) / column.value) + SPARE);
  return strips.slice(from, to).map((strip, i) => ({ strip, x: (from + i) * column.value, number: first + from + i + 1 }));
};
const sourcesShown = computed(() => inView(columns.value.sources, sourcesLeft.value, sourcesWidth.value, 0));
const landingShown = computed(() => inView(columns.value.landing, landingLeft.value, landingWidth.value, columns.value.sources.length));
const sourceBands = stable(() => bandsOf(columns.value.sources, 'family'), (b) => b.map((x) => `${x.key} ${x.count} ${x.colour}`).join('|'));
const landingBands = stable(() => bandsOf(columns.value.landing, 'kind'), (b) => b.map((x) => `${x.key} ${x.count}`).join('|'));

const holders = computed(() => vcaHolders(doc.value));
const NO_RAILS: readonly RailMark[] = [];
/** For each strip, the mark of every rail row; the same list as before where nothing about VCAs or order changed. */
const rails = stable(
  () => {
    const order = [...columns.value.sources, ...columns.value.landing].map((s) => s.id);
    const marks = new Map<string, RailMark[]>(order.map((id) => [id, []]));
    for (const vca of doc.value.vcas) {
      const held = new Set(heldBy(doc.value, vca.id).map((s) => s.id));
      const at = order.map((id, i) => (held.has(id) ? i : -1)).filter((i) => i >= 0);
      order.forEach((id, i) => {
        const inside = at.length > 1 && i >= at[0]! && i <= at.at(-1)!;
        marks.get(id)!.push(vca.members.includes(id) ? 'knot' : held.has(id) ? 'via' : inside ? 'line' : 'none');
      });
    }
    return marks;
  },
  (m) => [...m].map(([id, r]) => `${id}:${r.join(',')}`).join('|'),
);

const edited = (strip: string) => (pick.insert?.strip === strip ? pick.insert.id : null);
const outName = (s: Strip) => (s.kind === 'output' ? 'Leaves' : s.out.to === null ? 'nowhere' : nameOf(doc.value, s.out.to));

// — where things stand —

function stripAt(e: { clientX: number }): string | null {
  const box = body.value!.getBoundingClientRect();
  const x = e.clientX - box.left - LABELS;
  if (x < 0) return null;
  const inSources = x < sourcesWidth.value;
  const list = inSources ? columns.value.sources : columns.value.landing;
  const at = inSources ? x + sourcesLeft.value : x - sourcesWidth.value - GAP + landingLeft.value;
  return list[Math.floor(at / column.value)]?.id ?? null;
}
function hitTest(e: { clientX: number; clientY: number }): Hit | null {
  const strip = stripAt(e);
  if (!strip) return null;
  const box = body.value!.getBoundingClientRect();
  const y = e.clientY - box.top + body.value!.scrollTop;
  const row = rows.value.find((r) => y >= r.y && y < r.y + r.height);
  if (!row || row.kind === 'band') return null;
  return { strip, row, x: columnX(strip, e.clientX - box.left), y: y - row.y, width: column.value };
}
const isSource = (id: string) => stripOf(doc.value, id).kind === 'source';
/** Left edge of a strip's column in the body; a position inside the column when one is given. */
function columnX(id: string, from?: number): number {
  const inSources = isSource(id);
  const list = inSources ? columns.value.sources : columns.value.landing;
  const i = list.findIndex((s) => s.id === id);
  const left = inSources ? LABELS + i * column.value - sourcesLeft.value : LABELS + sourcesWidth.value + GAP + i * column.value - landingLeft.value;
  return from === undefined ? left : from - left;
}

// — menus and typing —

const typing = shallowRef<{ strip: string; row: Row; text: string } | null>(null);
const field = ref<HTMLInputElement | null>(null);
async function type(strip: string, row: Row) {
  const s = stripOf(doc.value, strip);
  const cell = valueCell(row);
  const now = cell ? cellValue(doc.value, strip, cell) : undefined;
  typing.value = {
    strip,
    row,
    text: row.kind === 'cap' ? s.name : cell?.kind === 'pan' ? panText(s.pan) : now === undefined ? '' : levelText(now).replace('−', '-'),
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
    if (name !== stripOf(doc.value, strip).name) session.commit(`rename ${name || strip}`, [{ type: 'strip.set', id: strip, patch: { name } }]);
  } else {
    const cell = valueCell(row)!;
    const group = pick.group(strip);
    if (!session.change(actions.named(cellName(row), group), (d) => setCell(d, strip, group, cell, readCell(cell, text)))) return;
  }
  typing.value = null;
  body.value?.focus();
}
const typingBox = computed(() => {
  if (!typing.value) return {};
  const { strip, row } = typing.value;
  const width = Math.max(72, column.value);
  const top = row.kind === 'level' ? row.y + row.height - LEVEL_FOOT : row.y + (row.kind === 'cap' ? 10 : 0);
  return { left: `${Math.max(0, columnX(strip) + column.value / 2 - width / 2)}px`, top: `${top}px`, width: `${width}px` };
});

function openInsert(strip: string, row: Row, at: { clientX: number; clientY: number }) {
  const s = stripOf(doc.value, strip);
  const insert = insertAt(s, row);
  if (insert) {
    if (!pick.chosen.has(strip)) pick.only(strip);
    pick.anchor = strip;
    pick.insert = { strip, id: insert.id };
    settings.inspector = true;
    return;
  }
  const group = pick.group(strip);
  const items: MenuItem[] = processors.map((p) => ({
    label: `Add ${p.name}`,
    run: () => {
      const taken = new Set<string>();
      session.change(actions.named(`${p.name} on`, group), (d) =>
        group.map((id): Command => {
          const made = newInsert({ id: freshId(d, `${id}-${p.type}`, taken), type: p.type, place: row.place ?? 'pre', mix: stripOf(d, id).kind === 'return' ? 1 : 0.3 });
          taken.add(made.id);
          return { type: 'insert.add', strip: id, insert: made, at: lastOf(stripOf(d, id), row.place ?? 'pre') };
        }),
      );
    },
  }));
  actions.openMenu(`${row.place === 'post' ? 'After the fader' : 'Before the fader'} of ${actions.named('', group).trim()}`, items, { x: at.clientX, y: at.clientY });
}
/** Where a new insert goes in a strip's list: after the last of its place. */
const lastOf = (s: Strip, place: 'pre' | 'post') =>
  place === 'post' ? s.inserts.length : s.inserts.filter((i) => i.place === 'pre').length;

function openOut(strip: string, at: { clientX: number; clientY: number }) {
  if (stripOf(doc.value, strip).kind === 'output') return;
  const group = pick.group(strip).filter((id) => stripOf(doc.value, id).kind !== 'output');
  actions.openMenu(`Out of ${actions.named('', group).trim()}`, actions.outItems(group), { x: at.clientX, y: at.clientY });
}

const TAPS: readonly [Tap, string][] = [
  ['post', 'Post-fader: after fader and pan'],
  ['pre', 'Pre-fader: after the inserts before it'],
  ['input', 'Input: before all inserts'],
];
function openCellMenu(hit: { strip: string; row: Row }, at: { clientX: number; clientY: number }) {
  const { strip, row } = hit;
  const group = pick.group(strip);
  const place = { x: at.clientX, y: at.clientY };
  if (row.kind === 'send') {
    const send = sendTo(doc.value, strip, row.ref!);
    if (!send) return actions.openMenu(`Send to ${row.label}`, TAPS.map(([tap, label]) => ({ label, run: () => session.change(actions.named(`send to ${row.label},`, group), (d) => makeSends(d, group, row.ref!, tap)) })), place);
    const set = (label: string, patch: { tap?: Tap; on?: boolean; pan?: number }) => session.change(actions.named(label, group), (d) => setSends(d, group.filter((id) => sendTo(d, id, row.ref!)), row.ref!, patch));
    return actions.openMenu(
      `Send to ${row.label}, ${levelText(send.levelDb)} dB`,
      [
        ...TAPS.map(([tap, label]) => ({ label, checked: send.tap === tap, keys: send.tap === tap ? 'F' : undefined, run: () => set(`${tap} send to ${row.label},`, { tap }) })),
        { label: send.on ? 'Switch off' : 'Switch on', keys: 'B', run: () => set(`send to ${row.label} ${send.on ? 'off' : 'on'},`, { on: !send.on }) },
        { label: 'Remove', keys: 'Del', danger: true, run: () => session.change(actions.named(`no send to ${row.label},`, group), (d) => removeSends(d, group, row.ref!)) },
      ],
      place,
    );
  }
  if (row.kind === 'out') return openOut(strip, at);
  if (row.kind === 'insert') {
    const insert = insertAt(stripOf(doc.value, strip), row);
    if (!insert) return openInsert(strip, row, at);
    return actions.openMenu(
      'Insert',
      [
        { label: insert.on ? 'Bypass' : 'Switch on', keys: 'B', run: () => bypass(strip, row) },
        { label: insert.place === 'pre' ? 'Move after the fader' : 'Move before the fader', run: () => session.commit(`place of insert, ${nameOf(doc.value, strip)}`, [{ type: 'insert.set', strip, id: insert.id, patch: { place: insert.place === 'pre' ? 'post' : 'pre' } }]) },
        { label: 'Remove', keys: 'Del', danger: true, run: () => remove({ strip, row }) },
      ],
      place,
    );
  }
  if (row.kind === 'input') {
    const s = stripOf(doc.value, strip);
    const flag = (f: 'invert' | 'swap', label: string) => ({ label, checked: s[f], run: () => session.change(actions.named(f === 'invert' ? 'polarity of' : 'swap', group), (d) => toggleFlag(d, group, f)) });
    return actions.openMenu('Input', [flag('invert', 'Invert polarity'), ...(s.channels === 2 ? [flag('swap', 'Swap left and right')] : [])], place);
  }
  if (row.kind === 'cap') {
    return actions.openMenu(
      actions.named('', group).trim(),
      ['rename', 'gather', 'return', 'vca', 'soloSafe', 'hide', 'remove'].map((id) => {
        const a = actions.byId.get(id)!;
        return { label: a.title, keys: actions.keysOf(id), danger: id === 'remove', run: () => { if (!pick.chosen.has(strip)) pick.only(strip); a.run(); } };
      }),
      place,
    );
  }
}
function openVcaMenu(id: string, at: MouseEvent) {
  const vca = doc.value.vcas.find((v) => v.id === id)!;
  actions.openMenu(
    `VCA ${vca.name}`,
    [
      { label: 'Rename', run: () => void renameVca(id) },
      { label: 'Mute', checked: vca.mute, run: () => session.change(`mute VCA ${vca.name}`, (d) => toggleVca(d, id, 'mute')) },
      { label: 'Solo', checked: vca.solo, run: () => session.change(`solo VCA ${vca.name}`, (d) => toggleVca(d, id, 'solo')) },
      { label: 'Pick its strips', run: () => pick.set(heldBy(doc.value, id).map((s) => s.id)) },
      { label: 'Hold the picked strips too', disabled: pick.picked.length === 0, run: () => session.change(`hold by ${vca.name}`, (d) => setMembers(d, id, pick.picked, true)) },
      { label: 'Remove the VCA', danger: true, run: () => session.change(`remove VCA ${vca.name}`, (d) => [...d.vcas.filter((v) => v.members.includes(id)).map((v): Command => ({ type: 'vca.members', id: v.id, members: v.members.filter((m) => m !== id) })), { type: 'vca.remove', id }]) },
    ],
    { x: at.clientX, y: at.clientY },
  );
}
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
  if (id && name && doc.value.vcas.find((v) => v.id === id)?.name !== name) session.commit(`rename VCA ${name}`, [{ type: 'vca.set', id, patch: { name } }]);
}

// — hands —

const gestures = useSheetGestures({
  hitTest,
  stripAt,
  openInsert,
  openOut,
  type: (strip, row) => void type(strip, row),
  clearClips: () => transport.player?.clearPeaks(),
});
function pointerDown(e: PointerEvent) {
  if ((e.target as HTMLElement).closest('.labels, .typing, .band-label')) return;
  body.value?.focus({ preventScroll: true });
  gestures.down(e);
}
function contextMenu(e: MouseEvent) {
  const hit = hitTest(e);
  if (!hit) return;
  e.preventDefault();
  pick.focus = { strip: hit.strip, row: hit.row.key };
  openCellMenu(hit, e);
}
function wheel(e: WheelEvent) {
  const hit = hitTest(e);
  const cell = hit && pick.focus?.strip === hit.strip && pick.focus.row === hit.row.key ? valueCell(hit.row) : null;
  if (hit && cell && e.deltaY !== 0) {
    e.preventDefault();
    return step(hit.strip, hit.row, e.deltaY < 0 ? 1 : -1, e.shiftKey);
  }
  // A wheel that turns one way only goes along the session.
  if (e.deltaX === 0 && total.value <= bodyHeight.value + 1 && sourcesEl.value) {
    e.preventDefault();
    sourcesEl.value.scrollLeft += e.deltaY;
  }
}

function step(strip: string, row: Row, way: 1 | -1, fine: boolean) {
  const cell = valueCell(row);
  if (!cell || !session.shown) return;
  const group = pick.group(strip);
  const size = cell.kind === 'pan' ? (fine ? 0.01 : 0.05) : fine ? 0.1 : 0.5;
  session.settle(`step ${strip} ${row.key}`, actions.named(cellName(row), group), shiftCell(session.shown, group, cell, way * size));
}
function bypass(strip: string, row: Row) {
  const insert = insertAt(stripOf(doc.value, strip), row);
  if (insert) session.commit(`${insert.on ? 'bypass' : 'switch on'} insert, ${nameOf(doc.value, strip)}`, [{ type: 'insert.set', strip, id: insert.id, patch: { on: !insert.on } }]);
}
function remove({ strip, row }: { strip: string; row: Row }) {
  const group = pick.group(strip);
  if (row.kind === 'send') session.change(actions.named(`no send to ${row.label},`, group), (d) => removeSends(d, group, row.ref!));
  else if (row.kind === 'insert') {
    const insert = insertAt(stripOf(doc.value, strip), row);
    if (insert) session.commit(`remove insert, ${nameOf(doc.value, strip)}`, [{ type: 'insert.remove', strip, id: insert.id }]);
  } else if (row.kind === 'rail') session.change(`let go from ${row.label}`, (d) => setMembers(d, row.ref!, group, false));
  else if (row.kind === 'cap') {
    if (!pick.chosen.has(strip)) pick.only(strip);
    actions.removePicked();
  }
}

/** Scrolls a column into view. */
function reveal(id: string) {
  const inSources = isSource(id);
  const el = inSources ? sourcesEl.value : landingEl.value;
  const list = inSources ? columns.value.sources : columns.value.landing;
  const x = list.findIndex((s) => s.id === id) * column.value;
  if (!el || x < 0) return;
  const width = inSources ? sourcesWidth.value : landingWidth.value;
  if (x < el.scrollLeft) el.scrollLeft = x;
  else if (x + column.value > el.scrollLeft + width) el.scrollLeft = x + column.value - width;
}

function enter(strip: string, row: Row) {
  const box = body.value!.getBoundingClientRect();
  const at = { clientX: box.left + columnX(strip) + column.value / 2, clientY: box.top + row.y - body.value!.scrollTop + row.height };
  const group = pick.group(strip);
  if (row.kind === 'cap' || valueCell(row)) return void type(strip, row);
  if (row.kind === 'insert') return openInsert(strip, row, at);
  if (row.kind === 'out') return openOut(strip, at);
  if (row.kind === 'buttons') return session.change(actions.named('mute', group), (d) => toggleFlag(d, group, 'mute'));
  if (row.kind === 'rail') {
    const held = !doc.value.vcas.find((v) => v.id === row.ref)!.members.includes(strip);
    session.change(`${held ? 'hold by' : 'let go from'} ${row.label}`, (d) => setMembers(d, row.ref!, group, held));
  }
}

function key(e: KeyboardEvent) {
  if (typing.value || (e.target as HTMLElement).closest('.vca, .vca-name')) return;
  const order = pick.order;
  const at = pick.focus;
  if (!at || !session.strip(at.strip)) {
    if (e.key.startsWith('Arrow') && order[0]) {
      pick.focus = { strip: order[0], row: 'cap' };
      e.preventDefault();
    }
    return;
  }
  const usable = rows.value.filter((r) => r.kind !== 'band');
  const row = usable.find((r) => r.key === at.row) ?? usable.find((r) => r.key === 'cap')!;
  const r = usable.indexOf(row);
  const c = order.indexOf(at.strip);
  const plain = !e.ctrlKey && !e.metaKey && !e.altKey;
  const go = (column: number, line: number) => {
    const strip = order[Math.max(0, Math.min(order.length - 1, column))]!;
    pick.focus = { strip, row: usable[Math.max(0, Math.min(usable.length - 1, line))]!.key };
    reveal(strip);
    const next = rowOf(pick.focus.row)!;
    const el = body.value!;
    if (next.y < el.scrollTop) el.scrollTop = next.y;
    else if (next.y + next.height > el.scrollTop + el.clientHeight) el.scrollTop = next.y + next.height - el.clientHeight;
    if (e.shiftKey && plain && column !== c) pick.range(strip);
  };
  const done = () => {
    e.preventDefault();
    e.stopPropagation();
  };
  if (plain && e.key === 'ArrowLeft') {
    if (e.shiftKey && !pick.chosen.has(at.strip)) pick.only(at.strip);
    go(c - 1, r);
  } else if (plain && e.key === 'ArrowRight') {
    if (e.shiftKey && !pick.chosen.has(at.strip)) pick.only(at.strip);
    go(c + 1, r);
  } else if (plain && e.key === 'ArrowUp') go(c, r - 1);
  else if (plain && e.key === 'ArrowDown') go(c, r + 1);
  else if (plain && !e.shiftKey && e.key === 'Home') go(0, r);
  else if (plain && e.key === 'End') go(order.length - 1, r);
  else if (plain && (e.key === '+' || e.key === '=')) step(at.strip, row, 1, e.shiftKey);
  else if (plain && (e.key === '-' || e.key === '_')) step(at.strip, row, -1, e.shiftKey);
  else if (plain && e.key === 'Enter') enter(at.strip, row);
  else if (plain && e.key === 'Backspace') {
    const cell = valueCell(row);
    const group = pick.group(at.strip);
    if (cell) session.change(actions.named(`default ${cellName(row)},`, group), (d) => resetCell(d, group, cell));
  } else if (plain && !e.shiftKey && e.key === 'Delete') remove({ strip: at.strip, row });
  else if (plain && e.key.toLowerCase() === 'x') pick.toggle(at.strip);
  else if (plain && e.key.toLowerCase() === 'f' && row.kind === 'send') {
    const send = sendTo(doc.value, at.strip, row.ref!);
    const next: Tap = send?.tap === 'post' ? 'pre' : send?.tap === 'pre' ? 'input' : 'post';
    const group = pick.group(at.strip);
    if (send) session.change(actions.named(`${next} send to ${row.label},`, group), (d) => setSends(d, group.filter((id) => sendTo(d, id, row.ref!)), row.ref!, { tap: next }));
  } else if (plain && e.key.toLowerCase() === 'b' && (row.kind === 'insert' || row.kind === 'send')) {
    if (row.kind === 'insert') bypass(at.strip, row);
    else {
      const send = sendTo(doc.value, at.strip, row.ref!);
      if (send) session.commit(`send to ${row.label} ${send.on ? 'off' : 'on'}, ${nameOf(doc.value, at.strip)}`, [{ type: 'send.set', strip: at.strip, id: send.id, patch: { on: !send.on } }]);
    }
  } else if (e.key === 'ContextMenu' || (e.key === 'F10' && e.shiftKey)) {
    const box = body.value!.getBoundingClientRect();
    openCellMenu({ strip: at.strip, row }, { clientX: box.left + columnX(at.strip) + 10, clientY: box.top + row.y - body.value!.scrollTop + row.height });
  } else return;
  done();
}

watch(
  () => actions.renaming,
  (id) => {
    if (!id) return;
    actions.renaming = null;
    const row = rowOf('cap');
    if (row) void type(id, row);
  },
);
watch(
  () => pick.focus?.strip,
  (id) => {
    if (id && session.strip(id) && !gestures.dragging.value) reveal(id);
  },
);
useEventListener(window, 'blur', () => gestures.cancel());

function pickBand(label: string, landing: boolean, e: MouseEvent) {
  const list = landing ? columns.value.landing : columns.value.sources;
  const bands = landing ? landingBands.value : sourceBands.value;
  const b = bands.find((x) => x.key === label)!;
  const ids = list.slice(b.from, b.from + b.count).map((s) => s.id);
  pick.set(e.ctrlKey || e.shiftKey ? [...pick.chosen, ...ids] : ids);
}

// — meters —

const colours = shallowRef<MeterColours | null>(null);
watch(
  () => [settings.theme, body.value],
  async () => {
    await nextTick();
    if (!body.value) return;
    const style = getComputedStyle(body.value);
    const v = (name: string) => style.getPropertyValue(name).trim();
    colours.value = { well: v('--well'), signal: v('--signal-deep'), hot: v('--caution'), clip: v('--alert'), mark: v('--ink') };
  },
  { immediate: true, flush: 'post' },
);
const places = computed<readonly MeterPlace[]>(() => {
  const player = transport.player;
  if (!player) return [];
  const at = (p: Placed, left: number): MeterPlace => ({ slot: player.slot(p.strip.id), channels: p.strip.channels, kind: p.strip.kind, x: left + p.x, width: column.value });
  return [
    ...sourcesShown.value.map((p) => at(p, -sourcesLeft.value)),
    ...landingShown.value.map((p) => at(p, sourcesWidth.value + GAP - landingLeft.value)),
  ];
});
useRafFn(() => {
  const el = canvas.value;
  const c = colours.value;
  if (!el || !c) return;
  const width = Math.max(1, Math.round(bodyWidth.value - LABELS));
  const height = level.value.height;
  const scale = devicePixelRatio;
  if (el.width !== Math.round(width * scale) || el.height !== Math.round(height * scale)) {
    el.width = Math.round(width * scale);
    el.height = Math.round(height * scale);
  }
  const g = el.getContext('2d')!;
  g.setTransform(scale, 0, 0, scale, 0, 0);
  g.clearRect(0, 0, width, height);
  const player = transport.player;
  const readings = player?.started ? player.meters : null;
  const sources: MeterPlace[] = [];
  const landing: MeterPlace[] = [];
  for (const p of places.value) (p.kind === 'source' ? sources : landing).push(p);
  for (const [list, from, span] of [[sources, 0, sourcesWidth.value], [landing, sourcesWidth.value + GAP, landingWidth.value]] as const) {
    g.save();
    g.beginPath();
    g.rect(from, 0, span, height);
    g.clip();
    paintMeters(g, readings, list, 0, height, c);
    g.restore();
  }
});

const ticks = [12, 0, -12, -24, -40];
const tickTop = (db: number) => LEVEL_TOP + (1 - travelOf(db)) * (level.value.height - LEVEL_TOP - LEVEL_FOOT);
const returnLevel = (id: string) => (session.strip(id) ? levelText(session.strip(id)!.faderDb) : '');
const familyColour = (label: string, colour: string) => FAMILIES.find((f) => f.name === label)?.colour ?? colour;
const activeCell = computed(() => (pick.focus ? `cell-${pick.focus.strip}-${pick.focus.row}` : undefined));
</script>

<template>
  <div
    ref="body"
    class="grid"
    role="grid"
    tabindex="0"
    aria-label="The Sheet: a row a strip, its decisions as cells"
    :aria-rowcount="pick.order.length"
    :aria-activedescendant="activeCell"
    @pointerdown="pointerDown"
    @pointermove="gestures.move"
    @pointerup="gestures.up"
    @pointercancel="gestures.cancel"
    @dblclick="gestures.reset"
    @contextmenu="contextMenu"
    @wheel="wheel"
    @keydown="key"
  >
    <div class="plane" :style="{ height: `${total}px` }">
      <div class="labels" :style="{ width: `${LABELS}px` }" role="presentation">
        <div v-for="row in rows" :key="row.key" class="label" :class="row.kind" :style="{ top: `${row.y}px`, height: `${row.height}px` }">
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
            <VcaLabel v-else :vca="doc.vcas.find((v) => v.id === row.ref)!" @menu="openVcaMenu(row.ref!, $event)" />
          </template>
          <template v-else-if="row.kind === 'level'">
            <span class="text">Level</span>
            <span v-for="t in ticks" :key="t" class="tick mono" :style="{ top: `${tickTop(t)}px` }">{{ t > 0 ? `+${t}` : t === 0 ? '0' : `−${-t}` }}</span>
          </template>
          <template v-else-if="row.kind === 'cap'">
            <button v-if="actions.hiddenCount" class="plain hidden-strips" @click="actions.showHidden">{{ actions.hiddenCount }} hidden</button>
          </template>
          <template v-else>
            <span class="text" :title="row.label">{{ row.label }}</span>
            <span v-if="row.kind === 'send'" class="mono soft send-level">{{ returnLevel(row.ref!) }}</span>
          </template>
        </div>
      </div>

      <div ref="sourcesEl" class="zone" :style="{ left: `${LABELS}px`, width: `${sourcesWidth}px` }" @scroll="sourcesLeft = sourcesEl!.scrollLeft">
        <div class="strips" :style="{ width: `${columns.sources.length * column}px` }">
          <button
            v-for="b in sourceBands"
            :key="b.key"
            class="band-label"
            :style="{ left: `${b.from * column}px`, width: `${b.count * column - 1}px`, top: `${band.y}px`, height: `${band.height}px`, '--family': familyColour(b.label, b.colour) }"
            :title="`Pick ${b.label}`"
            tabindex="-1"
            @click="pickBand(b.key, false, $event)"
          >
            {{ b.label }}
          </button>
          <StripColumn
            v-for="p in sourcesShown"
            :key="p.strip.id"
            :strip="p.strip"
            :number="p.number"
            :x="p.x"
            :width="column"
            :rows="rows"
            :rails="rails.get(p.strip.id) ?? NO_RAILS"
            :effective="effectiveLevel(doc, p.strip)"
            :held="holders.has(p.strip.id)"
            :audible="session.audible.has(p.strip.id)"
            :picked="pick.chosen.has(p.strip.id)"
            :focus="pick.focus?.strip === p.strip.id ? pick.focus.row : null"
            :out-name="outName(p.strip)"
            :edited-insert="edited(p.strip.id)"
          />
        </div>
      </div>

      <div
        ref="landingEl"
        class="zone landing"
        :style="{ left: `${LABELS + sourcesWidth + GAP}px`, width: `${landingWidth}px` }"
        @scroll="landingLeft = landingEl!.scrollLeft"
      >
        <div class="strips" :style="{ width: `${landingFull}px` }">
          <button
            v-for="b in landingBands"
            :key="b.key"
            class="band-label"
            :style="{ left: `${b.from * column}px`, width: `${b.count * column - 1}px`, top: `${band.y}px`, height: `${band.height}px`, '--family': 'var(--ink-soft)' }"
            :title="`Pick ${b.label}`"
            tabindex="-1"
            @click="pickBand(b.key, true, $event)"
          >
            {{ b.label }}
          </button>
          <StripColumn
            v-for="p in landingShown"
            :key="p.strip.id"
            :strip="p.strip"
            :number="p.number"
            :x="p.x"
            :width="column"
            :rows="rows"
            :rails="rails.get(p.strip.id) ?? NO_RAILS"
            :effective="effectiveLevel(doc, p.strip)"
            :held="holders.has(p.strip.id)"
            :audible="session.audible.has(p.strip.id)"
            :picked="pick.chosen.has(p.strip.id)"
            :focus="pick.focus?.strip === p.strip.id ? pick.focus.row : null"
            :out-name="outName(p.strip)"
            :edited-insert="edited(p.strip.id)"
          />
        </div>
      </div>

      <canvas
        ref="canvas"
        class="meters"
        aria-hidden="true"
        :style="{ left: `${LABELS}px`, top: `${level.y}px`, width: `${Math.max(1, bodyWidth - LABELS)}px`, height: `${level.height}px` }"
      />

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
        @keydown.esc.stop="((typing = null), body?.focus())"
        @keydown.stop
        @blur="typing = null"
      />
    </div>
  </div>
</template>

<style scoped>
.grid {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: hidden auto;
  background: var(--sheet);
  touch-action: none;
  user-select: none;
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
.zone {
  position: absolute;
  top: 0;
  bottom: 0;
  overflow: auto hidden;
  scrollbar-width: none;
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
