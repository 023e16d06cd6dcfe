<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core';
import { computed } from 'vue';
import { keyUses } from '@core/surface/learn/functions';
import type { Draft } from '@core/surface/learn/draft';
import { useCommands } from '@/commands/commands';
import LearnRow from './LearnRow.vue';
import { say } from './texts';
import { ASKS, useLearning } from './useLearning';

/** A controller is learned: what is asked for, what was found, and what each control is for. */
const learning = useLearning();
const commands = useCommands();
/** What keys can be for: the same list for all of them. */
const actions = computed(() => keyUses(commands.list));

const isLast = computed(
  () => learning.ask === null || learning.ask === 'any' || learning.ask === ASKS.at(-1),
);
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
      }}<span v-if="learning.last" class="soft mono ms-2"> {{ learning.last }}</span>
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
              <span class="d-sr-only">{{ say('changeProfile') }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <LearnRow
            v-for="d in learning.drafts"
            :key="d.key"
            :draft="d"
            :name="nameOf(d)"
            :value="learning.values.get(d.key) ?? 0"
            :spoke="learning.lastKey === d.key"
            :clash="learning.clashes.has(d.key)"
            :pointing="learning.pointing === d.key"
            :actions="actions"
          />
        </tbody>
      </v-table>
    </div>
  </section>
</template>
