<script setup lang="ts">
import { computed } from 'vue';
import type { ControlRef } from '@core/automation/control';
import { isArmed } from '@core/automation/mode';
import { isAutomated } from '@core/automation/at';
import { levelSpoken, levelText } from '@core/levels/decibels';
import { travelOf } from '@core/levels/faderLaw';
import { fitName } from '@core/naming/fitName';
import { panText } from '@core/levels/pan';
import { shorten } from '@core/surface/shortNames';
import { processors } from '@core/processors/registry';
import type { Insert, Send, Strip } from '@core/session/types';
import type { Decibels } from '@core/session/units';
import KindShape from '@/ui/KindShape.vue';
import ModeMark from '@/ui/ModeMark.vue';
import { insertAt, LEVEL_FOOT, LEVEL_TOP, type Row } from './rows';

/** Where a VCA's rail runs over this strip: `knot` it is held, `via` held through another VCA, `line` passed by. */
export type RailMark = 'knot' | 'via' | 'line' | 'none';

const props = defineProps<{
  strip: Strip;
  number: number;
  x: number;
  width: number;
  rows: readonly Row[];
  rails: readonly RailMark[];
  effective: Decibels;
  /** Whether VCAs hold it, so that own and effective level may differ. */
  held: boolean;
  audible: boolean;
  picked: boolean;
  /** Row that has the keyboard, when it is in this column. */
  focus: string | null;
  outName: string;
  editedInsert: string | null;
  /** Whether the preamplifier that it comes by has confirmed what was asked; null where it has none. */
  preamp: 'settled' | 'open' | null;
  /** Its controls that are being written. */
  writing: readonly ControlRef[] | null;
  /** Rows that a traced signal passes, parted by spaces; null where it does not pass the strip. */
  lit: string | null;
}>();

const preampText = computed(() =>
  props.preamp === 'settled' ? 'Preamplifier: confirmed' : 'Preamplifier: asked, not confirmed',
);
const names = new Map(processors.map((p) => [p.type, p.shortName]));
const insertName = (i: Insert) => names.get(i.type) ?? i.type;
const top = (level: Decibels, row: Row) =>
  LEVEL_TOP + (1 - travelOf(level)) * (row.height - LEVEL_TOP - LEVEL_FOOT);
const sendAt = (row: Row): Send | undefined => props.strip.sends.find((s) => s.to === row.ref);
/** Height of a send's bar as a share of its cell. */
const share = (level: Decibels) => Math.max(0.08, travelOf(level));
const gap = (row: Row) => {
  const own = top(props.strip.faderDb, row);
  const now = top(props.effective, row);
  return { top: Math.min(own, now), height: Math.abs(own - now) };
};
/** Which of its lanes stand in a row: whether there are any, and whether one is being written. */
function lanesIn(row: Row): { has: boolean; writes: boolean } | null {
  const s = props.strip;
  const own = (part: ControlRef['part'], id: string | null, lanes: object, control?: string) => ({
    has: control ? control in lanes : Object.keys(lanes).length > 0,
    writes:
      props.writing?.some(
        (r) => r.part === part && r.id === id && (control === undefined || r.control === control),
      ) ?? false,
  });
  if (row.kind === 'level') return own('strip', null, s.lanes, 'fader');
  if (row.kind === 'pan') return own('strip', null, s.lanes, 'pan');
  if (row.kind === 'buttons') return own('strip', null, s.lanes, 'mute');
  if (row.kind === 'send') {
    const send = sendAt(row);
    return send ? own('send', send.id, send.lanes) : null;
  }
  if (row.kind === 'insert') {
    const insert = insertAt(s, row);
    return insert ? own('insert', insert.id, insert.lanes) : null;
  }
  return null;
}
const marks = computed(
  () =>
    new Map(
      props.rows.flatMap((row) => {
        const lanes = lanesIn(row);
        return lanes && (lanes.has || lanes.writes) ? [[row.key, lanes] as const] : [];
      }),
    ),
);
const automationText = (row: Row): string => {
  const mark = marks.value.get(row.key);
  if (!mark) return '';
  if (mark.writes) return ', being written';
  const { automation } = props.strip;
  return automation === 'off'
    ? ', automation off'
    : isArmed(automation)
      ? `, automated, armed to ${automation}`
      : ', automated';
};
const litRows = computed(() => new Set(props.lit?.split(' ') ?? []));
const name = computed(() => props.strip.name || props.strip.id);
/** Characters that fit across the column. */
const characters = computed(() => Math.max(4, Math.floor((props.width - 4) / 6.6)));
const nameLines = computed(() => fitName(name.value, characters.value, 3));
const shortOut = computed(() =>
  props.width > 80 || props.strip.kind === 'output'
    ? props.outName
    : shorten(props.outName, characters.value + 1),
);

const spoken = (row: Row): string => `${told(row)}${automationText(row)}`;
function told(row: Row): string {
  const s = props.strip;
  const of = `${name.value}: `;
  switch (row.kind) {
    case 'cap':
      return `${name.value}, ${s.kind}${props.picked ? ', picked' : ''}${props.audible ? '' : ', silenced by a solo'}`;
    case 'input':
      return `${of}${props.preamp ? `${preampText.value}, ` : ''}trim ${levelSpoken(s.trimDb)}${s.invert ? ', polarity inverted' : ''}${s.swap ? ', sides swapped' : ''}`;
    case 'insert': {
      const insert = insertAt(s, row);
      return insert
        ? `${of}${insertName(insert)}${insert.on ? '' : ', bypassed'}`
        : `${of}no insert here; Enter adds one`;
    }
    case 'level':
      return `${of}level ${levelSpoken(s.faderDb)}${props.held ? `, effective ${levelSpoken(props.effective)}` : ''}`;
    case 'buttons':
      return `${of}${s.mute ? 'muted' : 'not muted'}, ${s.solo ? 'soloed' : 'not soloed'}${s.soloSafe ? ', solo-safe' : ''}`;
    case 'auto':
      return `${of}automation ${s.automation}${isAutomated(s) ? '' : ', no lanes'}${props.writing ? ', writing now' : ''}`;
    case 'pan':
      return `${of}pan ${panText(s.pan)}`;
    case 'send': {
      const send = sendAt(row);
      return send
        ? `${of}send to ${row.label}, ${levelSpoken(send.levelDb)}, ${send.tap === 'input' ? 'from the input' : `${send.tap}-fader`}${send.pan ? `, pan ${panText(send.pan)}` : ''}${send.on ? '' : ', off'}`
        : `${of}not sent to ${row.label}`;
    }
    case 'out':
      return `${of}out to ${props.outName}${s.out.on ? '' : ', dry path off'}`;
    case 'rail':
      return `${of}${props.rails[props.rows.indexOf(row)] === 'knot' ? 'held by' : 'not held by'} ${row.label}`;
    default:
      return '';
  }
}
</script>

<template>
  <div
    class="column"
    :class="[strip.kind, { picked, silent: !audible || strip.mute, traced: lit !== null }]"
    :style="{ left: `${x}px`, width: `${width}px`, '--family': strip.colour }"
    role="row"
    :aria-label="name"
    :data-strip="strip.id"
  >
    <div
      v-for="(row, r) in rows"
      :id="`cell-${strip.id}-${row.key}`"
      :key="row.key"
      class="cell"
      :class="[row.kind, { focus: focus === row.key, lit: litRows.has(row.key) }]"
      :style="{ top: `${row.y}px`, height: `${row.height}px` }"
      :role="row.kind === 'band' ? undefined : 'gridcell'"
      :aria-label="row.kind === 'band' ? undefined : spoken(row)"
      :aria-selected="row.kind === 'cap' ? picked : undefined"
      :data-row="row.key"
    >
      <template v-if="row.kind === 'rail'">
        <i v-if="rails[r] !== 'none'" class="rail-line" />
        <i v-if="rails[r] === 'knot' || rails[r] === 'via'" class="knot" :class="rails[r]" />
      </template>

      <template v-else-if="row.kind === 'cap'">
        <KindShape :kind="strip.kind" class="kind" />
        <span class="name" :title="name"
          ><span v-for="(line, l) in nameLines" :key="l">{{ line }}</span></span
        >
        <span class="number mono">{{ number }}</span>
      </template>

      <template v-else-if="row.kind === 'input'">
        <span v-if="strip.trimDb !== 0" class="mono">{{ levelText(strip.trimDb) }}</span>
        <span v-if="preamp" class="preamp" :class="preamp" :title="preampText">{{
          preamp === 'settled' ? '▸' : '?'
        }}</span>
        <span v-if="strip.invert" title="Polarity inverted">ø</span>
        <span v-if="strip.swap" title="Left and right swapped">⇄</span>
        <span v-if="strip.channels === 2 && strip.width !== 1" class="mono" title="Width"
          >w{{ strip.width.toFixed(1) }}</span
        >
        <span
          v-if="
            !preamp &&
            strip.trimDb === 0 &&
            !strip.invert &&
            !strip.swap &&
            (strip.channels === 1 || strip.width === 1)
          "
          class="dot"
          >·</span
        >
      </template>

      <template v-else-if="row.kind === 'insert'">
        <span
          v-if="insertAt(strip, row)"
          class="chip"
          :class="{ off: !insertAt(strip, row)!.on, edited: editedInsert === insertAt(strip, row)!.id }"
          >{{ insertName(insertAt(strip, row)!) }}</span
        >
      </template>

      <template v-else-if="row.kind === 'level'">
        <i class="track" :style="{ top: `${LEVEL_TOP}px`, bottom: `${LEVEL_FOOT}px` }" />
        <i class="unity" :style="{ top: `${top(0, row)}px` }" />
        <template v-if="held && effective !== strip.faderDb">
          <i class="gap" :style="{ top: `${gap(row).top}px`, height: `${gap(row).height}px` }" />
          <i class="ghost" :style="{ top: `${top(effective, row)}px` }" />
        </template>
        <i class="handle" :style="{ top: `${top(strip.faderDb, row)}px` }" />
        <span class="value mono" :class="{ tight: width < 40, held: held && effective !== strip.faderDb }">{{
          levelText(strip.faderDb)
        }}</span>
      </template>

      <template v-else-if="row.kind === 'buttons'">
        <span class="button mute" :class="{ on: strip.mute }">M</span>
        <span
          class="button solo"
          :class="{ on: strip.solo, safe: strip.soloSafe }"
          :title="strip.soloSafe ? 'Solo-safe' : undefined"
          >S</span
        >
      </template>

      <template v-else-if="row.kind === 'auto'">
        <ModeMark :mode="strip.automation" :has="isAutomated(strip)" :writes="writing !== null" />
        <span class="mode" :class="{ quiet: strip.automation === 'read' && !isAutomated(strip) }">{{
          width < 46 ? strip.automation.charAt(0).toUpperCase() : strip.automation
        }}</span>
      </template>

      <template v-else-if="row.kind === 'pan'">
        <i class="pan-line" />
        <i
          v-if="strip.pan !== 0"
          class="pan-gap"
          :style="{ left: `${50 + Math.min(0, strip.pan) * 36}%`, width: `${Math.abs(strip.pan) * 36}%` }"
        />
        <i class="pan-mark" :style="{ left: `${50 + strip.pan * 36}%` }" />
      </template>

      <template v-else-if="row.kind === 'send'">
        <i
          v-if="sendAt(row)"
          class="send-bar"
          :class="[sendAt(row)!.tap, { off: !sendAt(row)!.on }]"
          :style="{ '--share': `${share(sendAt(row)!.levelDb) * 100}%` }"
        /><i
          v-if="sendAt(row) && sendAt(row)!.pan !== 0"
          class="send-pan"
          :style="{ left: `${50 + sendAt(row)!.pan * 36}%` }"
        />
        <span v-if="!sendAt(row) && strip.id !== row.ref && strip.kind !== 'output'" class="dot">·</span>
      </template>

      <template v-else-if="row.kind === 'out'">
        <span class="out-name" :class="{ off: !strip.out.on }">{{ shortOut }}</span>
      </template>
      <ModeMark
        v-if="marks.has(row.key)"
        class="lane-mark"
        :mode="strip.automation"
        :has="marks.get(row.key)!.has"
        :writes="marks.get(row.key)!.writes"
        :size="7"
      />
    </div>
  </div>
</template>

<style scoped>
.column {
  position: absolute;
  top: 0;
  bottom: 0;
  border-right: 1px solid var(--rule);
  contain: strict;
  overflow: hidden;
}
.cell {
  position: absolute;
  left: 0;
  right: 0;
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 3px;
  font-size: 12px;
  border-bottom: 1px solid color-mix(in srgb, var(--rule) 55%, transparent);
  white-space: nowrap;
}
.cell.band,
.cell.rail {
  border-bottom: 0;
}
.cell.rail {
  border-bottom: 1px solid color-mix(in srgb, var(--rule) 35%, transparent);
}
.focus {
  outline: 2px solid var(--signal);
  outline-offset: -2px;
  z-index: 2;
}
.value.tight {
  font-size: 10px;
  letter-spacing: -0.5px;
}
.mode {
  font-size: 11px;
}
.mode.quiet {
  color: var(--ink-soft);
}
.lane-mark {
  position: absolute;
  top: 2px;
  right: 2px;
  pointer-events: none;
}
.cell.buttons .lane-mark {
  right: auto;
  left: 2px;
}
.send-pan {
  position: absolute;
  top: 2px;
  bottom: 2px;
  width: 2px;
  background: var(--ink);
}
.traced::after {
  content: '';
  position: absolute;
  inset: 0;
  border: solid var(--signal);
  border-width: 0 1px;
  opacity: 0.7;
  pointer-events: none;
}
.cell.lit {
  background: color-mix(in srgb, var(--signal) 22%, transparent);
  box-shadow: inset 0 -2px 0 var(--signal);
}
.preamp.settled {
  color: var(--signal);
}
.preamp.open {
  color: var(--caution);
}
.dot {
  color: var(--ink-soft);
  opacity: 0.6;
}
.rail-line {
  position: absolute;
  left: 0;
  right: 0;
  top: 50%;
  border-top: 1px solid var(--signal);
  opacity: 0.55;
}
.knot {
  width: 9px;
  height: 9px;
  background: var(--signal);
  transform: rotate(45deg);
  z-index: 1;
}
.knot.via {
  background: var(--sheet);
  border: 1.5px solid var(--signal);
}
.cap {
  flex-direction: column;
  gap: 0;
  justify-content: flex-start;
  padding: 2px 2px 0;
  cursor: pointer;
}
.kind {
  width: calc(100% - 4px);
}
.name {
  display: flex;
  flex-direction: column;
  text-align: center;
  line-height: 12.5px;
  font-weight: 600;
  margin-top: 1px;
}
.number {
  position: absolute;
  bottom: 0;
  font-size: 9px;
  color: var(--ink-soft);
}
.picked {
  background: color-mix(in srgb, var(--picked) 7%, transparent);
  box-shadow:
    inset 2px 0 0 var(--picked),
    inset -2px 0 0 var(--picked);
}
.picked .cap {
  background: linear-gradient(225deg, transparent 7px, var(--picked) 7.5px);
  color: var(--on-picked);
}
.picked .number {
  color: var(--on-picked);
}
.silent .name {
  opacity: 0.6;
}
.chip {
  width: calc(100% - 6px);
  line-height: 18px;
  text-align: center;
  background: var(--raised);
  border: 1px solid transparent;
  overflow: hidden;
  text-overflow: ellipsis;
  cursor: pointer;
}
.chip.off {
  background: none;
  border: 1px dashed var(--rule);
  color: var(--ink-soft);
}
.chip.edited {
  border-color: var(--signal);
}
.track {
  position: absolute;
  left: 32%;
  width: 2px;
  margin-left: -1px;
  background: var(--rule);
}
.unity {
  position: absolute;
  left: calc(32% - 8px);
  width: 16px;
  border-top: 1px solid var(--ink-soft);
  opacity: 0.6;
}
.handle {
  position: absolute;
  left: calc(32% - 9px);
  width: 18px;
  height: 9px;
  margin-top: -4.5px;
  background: linear-gradient(var(--ink) 0 3.5px, var(--sheet) 3.5px 5.5px, var(--ink) 5.5px 9px);
  cursor: ns-resize;
}
.ghost {
  position: absolute;
  left: calc(32% - 9px);
  width: 18px;
  border-top: 2px dashed var(--signal);
  margin-top: -1px;
}
.gap {
  position: absolute;
  left: calc(32% - 2px);
  width: 4px;
  background: var(--signal);
  opacity: 0.6;
}
.value {
  position: absolute;
  bottom: 4px;
}
.value.held {
  color: var(--signal);
}
.silent .value {
  color: var(--ink-soft);
}
.button {
  flex: 1;
  max-width: 28px;
  line-height: 20px;
  text-align: center;
  border: 1px solid var(--rule);
  cursor: pointer;
  color: var(--ink-soft);
  font-size: 11px;
}
.cell.buttons {
  padding: 0 3px;
}
.mute.on {
  background: var(--alert);
  border-color: var(--alert);
  color: var(--on-alert);
  font-weight: 600;
}
.solo.on {
  background: var(--caution);
  border-color: var(--caution);
  color: var(--ground);
  font-weight: 600;
}
.solo.safe:not(.on) {
  border-style: dotted;
  border-color: var(--ink-soft);
}
.pan-line {
  position: absolute;
  left: 14%;
  right: 14%;
  top: 50%;
  border-top: 1px solid var(--rule);
}
.pan-gap {
  position: absolute;
  top: calc(50% - 1.5px);
  height: 3px;
  background: var(--ink-soft);
  opacity: 0.7;
}
.pan-mark {
  position: absolute;
  width: 3px;
  height: 11px;
  margin-left: -1.5px;
  background: var(--ink);
}
.send-bar {
  position: absolute;
  left: 7px;
  right: 7px;
  background: var(--send);
}
.send-bar.post {
  bottom: 2px;
}
.send-bar.post,
.send-bar.pre {
  height: var(--share);
  max-height: calc(100% - 4px);
}
.send-bar.pre {
  top: 2px;
}
.send-bar.input {
  top: 6px;
  bottom: 6px;
  left: 2px;
  right: auto;
  width: calc(var(--share) * 0.9);
}
.send-bar.off {
  background: none;
  border: 1px solid var(--send);
}
.out {
  cursor: pointer;
}
.out-name {
  font-size: 11px;
  overflow: hidden;
  text-overflow: ellipsis;
  padding: 0 2px;
}
.out-name.off {
  text-decoration: line-through;
  color: var(--ink-soft);
}
</style>
