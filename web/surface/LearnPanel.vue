<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core';
import { computed } from 'vue';
import { keyUses, moverUses, steersName, useOf } from '@core/surface/learn/functions';
import type { Draft } from '@core/surface/learn/draft';
import type { Reading } from '@core/surface/learn/reading';
import { useCommands } from '@/commands/commands';
import { useSession } from '@/session/session';
import { say } from './texts';
import { ASKS, useLearning } from './useLearning';

/** A controller is learned: what is asked for, what was found, and what each control is for. */
const learning = useLearning();
const commands = useCommands();
const session = useSession();

const isLast = computed(
  () => learning.ask === null || learning.ask === 'any' || learning.ask === ASKS.at(-1),
);
const named = (id: string) =>
  session.strip(id)?.name ?? session.document?.vcas.find((v) => v.id === id)?.name ?? id;
const names = computed(() => {
  const counts = new Map<string, number>();
  return new Map(
    learning.drafts.map((d) => {
      const word = say(
        d.control.kind === 'encoder' ? 'knobWord' : d.control.kind === 'fader' ? 'fader' : 'keyWord',
      );
      const n = (counts.get(word) ?? 0) + 1;
      counts.set(word, n);
      return [d.key, `${word} ${n}`];
    }),
  );
});
const nameOf = (d: Draft) => names.value.get(d.key) ?? d.key;

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

const movers = moverUses.map((u) => ({ title: u.name, value: u.id }));
const keys = computed(() => keyUses(commands.list));
const keyItems = computed(() => keys.value.map((u) => ({ title: u.name, value: u.id })));
/** What a control can be for; what it is for now is among it, also where it was touched on the page. */
function usesOf(d: Draft) {
  const list = d.control.kind === 'key' ? keyItems.value : movers;
  const now = useOf(d.control);
  if (list.some((u) => u.value === now)) return list;
  const title = d.control.kind === 'key' ? now : steersName(d.control.steers, named);
  return [{ title, value: now }, ...list];
}
function setUse(d: Draft, id: string | null) {
  const found = [...moverUses, ...keys.value].find((u) => u.id === id);
  if (found) learning.decide(d.key, found.decided);
}
function tells(d: Draft): readonly string[] {
  if (d.out) return [];
  return [
    ...d.tells.map((t) => say(`tell_${t}`)),
    ...(d.again === null ? [] : [say('tell_again')]),
    ...(learning.clashes.has(d.key) ? [say('tell_clash')] : []),
  ];
}
const range = (d: Draft) => (d.control.kind === 'key' ? null : d.control.range);
const reversed = (d: Draft) => d.control.kind !== 'key' && d.control.reversed;
const pointed = computed(() => learning.drafts.find((d) => d.key === learning.pointing));
const channels = Array.from({ length: 16 }, (_, i) => ({
  title: say('channelN', { n: i + 1 }),
  value: i + 1,
}));
const channel = computed(() => learning.drafts[0]?.control.in.channel ?? 1);
onKeyStroke('Escape', () => (learning.pointing = null));
</script>

<template>
  <section class="d-flex flex-column ga-2 min-h-0" :aria-label="say('learning', { name: learning.name })">
    <div class="d-flex flex-wrap ga-2 align-center">
      <h2 class="ma-0">{{ say('learning', { name: learning.device?.name ?? say('someDevice') }) }}</h2>
      <v-text-field
        v-model="learning.name"
        class="flex-1-1-0"
        :placeholder="say('nameOfDevice')"
        :aria-label="say('nameOfDevice')"
        maxlength="80"
      />
      <v-select
        v-if="learning.base"
        class="flex-0-0"
        :model-value="channel"
        :items="channels"
        :aria-label="say('channelOf')"
        @update:model-value="learning.channel($event)"
      />
      <v-btn variant="outlined" @click="learning.again">{{ say('askAgain') }}</v-btn>
      <v-btn v-if="!isLast" color="primary" @click="learning.next">{{
        say(learning.ask === 'faders' ? 'askNext_faders' : 'askNext_knobs')
      }}</v-btn>
      <v-btn
        :color="isLast ? 'primary' : undefined"
        :disabled="!learning.drafts.length"
        @click="learning.finish"
        >{{ say(learning.base ? 'keepProfile' : 'done') }}</v-btn
      >
      <v-btn variant="text" @click="learning.cancel">{{ say('cancel') }}</v-btn>
    </div>
    <p class="ma-0" role="status">
      <b>{{ say(`ask_${learning.ask ?? 'any'}`) }}</b>
      {{ say('nOfThem', { n: learning.count })
      }}<span v-if="learning.last" class="soft mono"> {{ learning.last }}</span>
    </p>
    <p v-if="pointed" class="caution ma-0" role="status">{{ say('pointing', { name: nameOf(pointed) }) }}</p>
    <p v-if="learning.learned.played" class="soft ma-0">
      {{ say('playedNotes', { n: learning.learned.played }) }}
    </p>
    <p v-if="!learning.drafts.length" class="soft">{{ say('nothingHeardYet') }}</p>
    <div v-else class="overflow-y-auto flex-1-1-0 min-h-0" tabindex="0">
      <v-table density="compact">
        <thead>
          <tr>
            <th scope="col">{{ say('control') }}</th>
            <th scope="col">{{ say('says') }}</th>
            <th scope="col">{{ say('isA') }}</th>
            <th scope="col">{{ say('isFor') }}</th>
            <th scope="col">
              <span class="sr-only">{{ say('changeProfile') }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="d in learning.drafts" :key="d.key" :class="{ soft: d.out }" :data-control="d.key">
            <td class="text-no-wrap">
              <b :class="{ 'text-decoration-line-through': d.out }">{{ nameOf(d) }}</b>
              <v-progress-linear
                v-if="d.control.kind !== 'key'"
                :model-value="(learning.values.get(d.key) ?? 0) * 100"
                :aria-label="say('stands')"
                :color="learning.lastKey === d.key ? 'primary' : undefined"
              />
            </td>
            <td>
              {{ says(d) }}
              <span class="soft"
                >{{ sureness(d.sure)
                }}{{
                  range(d) ? `; ${say('rangeOf', { low: range(d)!.low, high: range(d)!.high })}` : ''
                }}</span
              >
              <div v-for="t in tells(d)" :key="t" class="caution">{{ t }}</div>
            </td>
            <td>
              <v-select
                :model-value="isId(d)"
                :items="kinds(d)"
                :aria-label="`${nameOf(d)}: ${say('isA')}`"
                @update:model-value="setKind(d, $event)"
              />
            </td>
            <td>
              <v-autocomplete
                :model-value="useOf(d.control)"
                :items="usesOf(d)"
                :aria-label="`${nameOf(d)}: ${say('isFor')}`"
                @update:model-value="setUse(d, $event)"
              />
            </td>
            <td class="text-no-wrap">
              <v-btn
                size="x-small"
                :aria-pressed="learning.pointing === d.key"
                :title="say('pointAt', { name: nameOf(d) })"
                :aria-label="say('pointAt', { name: nameOf(d) })"
                @click="learning.pointing = learning.pointing === d.key ? null : d.key"
                >⌖</v-btn
              >
              <v-btn
                v-if="d.control.kind !== 'key'"
                size="x-small"
                :aria-pressed="reversed(d)"
                :title="say('turnRound', { name: nameOf(d) })"
                :aria-label="say('turnRound', { name: nameOf(d) })"
                @click="learning.decide(d.key, { reversed: !reversed(d) })"
                >⇅</v-btn
              >
              <v-btn
                v-if="range(d)"
                size="x-small"
                :title="say('wholeRange')"
                :aria-label="`${nameOf(d)}: ${say('wholeRange')}`"
                @click="learning.decide(d.key, { range: null })"
                >↕</v-btn
              >
              <v-btn
                size="x-small"
                :aria-label="say('moveLeft', { name: nameOf(d) })"
                @click="learning.move(d.key, -1)"
                >←</v-btn
              >
              <v-btn
                size="x-small"
                :aria-label="say('moveRight', { name: nameOf(d) })"
                @click="learning.move(d.key, 1)"
                >→</v-btn
              >
              <v-btn
                size="x-small"
                :aria-label="say(d.out ? 'takeIn' : 'leaveOut', { name: nameOf(d) })"
                @click="learning.decide(d.key, { out: !d.out })"
                >{{ d.out ? '+' : '×' }}</v-btn
              >
            </td>
          </tr>
        </tbody>
      </v-table>
    </div>
  </section>
</template>
