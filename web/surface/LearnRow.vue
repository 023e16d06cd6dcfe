<script setup lang="ts">
import { mdiCrosshairsGps } from '@mdi/js';
import { computed } from 'vue';
import { moverUses, steersName, useOf, type ControlUse } from '@core/surface/learn/functions';
import type { Draft } from '@core/surface/learn/draft';
import type { Reading } from '@core/surface/learn/reading';
import { useSession } from '@/session/session';
import { say } from './texts';
import { useLearning } from './useLearning';

/** One control as it was found: what it says, what it is, what it is for. */
const props = defineProps<{
  draft: Draft;
  name: string;
  /** Where it stands, 0 to 1. */
  value: number;
  /** Whether it spoke last. */
  spoke: boolean;
  /** Whether it says what another says. */
  clash: boolean;
  /** Whether it is waited for a touch on the page that tells what it is for. */
  pointing: boolean;
  /** What keys can be for. */
  actions: readonly ControlUse[];
}>();
const learning = useLearning();
const session = useSession();
const d = computed(() => props.draft);
const named = (id: string) =>
  session.strip(id)?.name ?? session.document?.vcas.find((v) => v.id === id)?.name ?? id;
function says({ control: { in: a } }: Draft): string {
  const channel = say('channelN', { n: a.channel });
  switch (a.type) {
    case 'note':
      return `${say('note')} ${a.note}, ${channel}`;
    case 'pitchBend':
      return `${say('pitchBend')}, ${channel}`;
    case 'parameter':
      return `${say('parameter')} ${a.parameter}, ${channel}`;
    case 'control14':
      return `${say('controller')} ${a.controller} + ${a.controller + 32}, ${channel}`;
    case 'control':
      return `${say('controller')} ${a.controller}, ${channel}`;
  }
}

type What = Pick<Reading, 'is' | 'coding' | 'toggles' | 'release'>;
const keyId = (w: Pick<What, 'toggles' | 'release'>) =>
  w.toggles ? 'key_toggles' : w.release === 'off' ? 'key_held' : `key_${w.release}`;
const isId = (d: Draft) => {
  const c = d.control;
  if (c.kind === 'key') return keyId(c);
  if (c.kind === 'encoder' && c.coding !== 'position') return `turn_${c.coding}`;
  return c.kind === 'fader' ? 'fader' : 'knob';
};
function kindName(id: string): string {
  const turn = TURNS.find((t) => id === `turn_${t}`);
  return turn ? say(`turn_${turn}`) : say(id as 'fader');
}
const TURNS = ['offset', 'twos', 'signBit', 'increments'] as const;
const RELEASES = ['off', 'on', 'none'] as const;
/** What a control can be at all: an address that carries no position is a key. */
function kinds(d: Draft) {
  const { type } = d.control.in;
  const turns = type === 'control' ? TURNS.slice(0, 3) : type === 'parameter' ? TURNS.slice(3) : [];
  const ids = [
    ...(type === 'note' ? [] : ['fader', 'knob', ...turns.map((t) => `turn_${t}`)]),
    ...(type === 'note' || type === 'control' ? ['key_held', 'key_toggles', 'key_on', 'key_none'] : []),
  ];
  return ids.map((value) => ({ title: kindName(value), value }));
}
function setKind(d: Draft, id: string) {
  const base: What = { is: 'position', coding: 'position', toggles: false, release: 'off' };
  if (id === 'fader' || id === 'knob')
    return learning.decide(d.key, { reading: base, kind: id === 'fader' ? 'fader' : 'encoder' });
  const coding = TURNS.find((t) => id === `turn_${t}`);
  if (coding) return learning.decide(d.key, { reading: { ...base, is: 'turn', coding } });
  learning.decide(d.key, {
    reading: {
      ...base,
      is: 'key',
      toggles: id === 'key_toggles',
      release: RELEASES.find((r) => id === `key_${r}`) ?? 'off',
    },
  });
}
const sureness = (sure: number) => say(sure >= 0.8 ? 'sure' : sure >= 0.55 ? 'likely' : 'unsure');

const listOf = (kind: 'fader' | 'encoder') =>
  moverUses.map((u) => ({ title: u.id === 'desk' ? say(`usedAsDesk_${kind}`) : u.name, value: u.id }));
const movers = { fader: listOf('fader'), encoder: listOf('encoder') };
const keyItems = computed(() => props.actions.map((u) => ({ title: u.name, value: u.id })));
/** What a control can be for; what it is for now is among it, also where it was touched on the page. */
function usesOf(d: Draft) {
  const list = d.control.kind === 'key' ? keyItems.value : movers[d.control.kind];
  const now = useOf(d.control);
  if (list.some((u) => u.value === now)) return list;
  const title = d.control.kind === 'key' ? now : steersName(d.control.steers, named);
  return [{ title, value: now }, ...list];
}
function setUse(d: Draft, id: string | null) {
  const found = [...moverUses, ...props.actions].find((u) => u.id === id);
  if (found) learning.decide(d.key, found.decided);
}
function tells(d: Draft): readonly string[] {
  if (d.out) return [];
  return [
    ...d.tells.map((t) => say(`tell_${t}`)),
    ...(d.again === null ? [] : [say('tell_again')]),
    ...(props.clash ? [say('tell_clash')] : []),
  ];
}
const range = (d: Draft) => (d.control.kind === 'key' ? null : d.control.range);
const reversed = (d: Draft) => d.control.kind !== 'key' && d.control.reversed;
</script>

<template>
  <tr :class="{ soft: d.out }" :data-control="d.key">
    <td class="text-no-wrap">
      <b :class="{ 'text-decoration-line-through': d.out }">{{ name }}</b>
      <v-progress-linear
        v-if="d.control.kind !== 'key'"
        :model-value="value * 100"
        :aria-label="say('stands')"
        :color="spoke ? 'primary' : undefined"
      />
    </td>
    <td>
      {{ says(d) }}
      <span class="soft"
        >{{ sureness(d.sure)
        }}{{ range(d) ? `; ${say('rangeOf', { low: range(d)!.low, high: range(d)!.high })}` : '' }}</span
      >
      <div v-for="t in tells(d)" :key="t" class="caution">{{ t }}</div>
    </td>
    <td>
      <v-select
        :model-value="isId(d)"
        :items="kinds(d)"
        :aria-label="`${name}: ${say('isA')}`"
        @update:model-value="setKind(d, $event)"
      />
    </td>
    <td>
      <v-autocomplete
        :model-value="useOf(d.control)"
        :items="usesOf(d)"
        :aria-label="`${name}: ${say('isFor')}`"
        @update:model-value="setUse(d, $event)"
      />
    </td>
    <td class="text-no-wrap">
      <v-btn
        size="x-small"
        variant="text"
        :aria-pressed="pointing"
        :title="say('pointAt', { name: name })"
        :aria-label="say('pointAt', { name: name })"
        :icon="mdiCrosshairsGps"
        @click="learning.pointing = pointing ? null : d.key"
      />
      <v-btn
        v-if="d.control.kind !== 'key'"
        size="x-small"
        :aria-pressed="reversed(d)"
        :title="say('turnRound', { name: name })"
        :aria-label="say('turnRound', { name: name })"
        @click="learning.decide(d.key, { reversed: !reversed(d) })"
        >⇅</v-btn
      >
      <v-btn
        v-if="range(d)"
        size="x-small"
        :title="say('wholeRange')"
        :aria-label="`${name}: ${say('wholeRange')}`"
        @click="learning.decide(d.key, { range: null })"
        >↕</v-btn
      >
      <v-btn size="x-small" :aria-label="say('moveLeft', { name: name })" @click="learning.move(d.key, -1)"
        >←</v-btn
      >
      <v-btn size="x-small" :aria-label="say('moveRight', { name: name })" @click="learning.move(d.key, 1)"
        >→</v-btn
      >
      <v-btn
        size="x-small"
        :aria-label="say(d.out ? 'takeIn' : 'leaveOut', { name: name })"
        @click="learning.decide(d.key, { out: !d.out })"
        >{{ d.out ? '+' : '×' }}</v-btn
      >
    </td>
  </tr>
</template>
