<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core';
import { computed, ref, shallowRef, watch } from 'vue';
import { ask } from '@/session/sync/api';
import { useNotices } from '@/ui/notices';
import { say } from '../texts';
import OscStandIn from './OscStandIn.vue';

interface Wanted {
  readonly on: boolean;
  readonly port: number;
}
interface Controller {
  readonly address: string;
  readonly port: number;
  readonly subscribed: boolean;
  readonly messages: number;
  readonly last: string;
  readonly ago: number;
}
interface State {
  readonly on: boolean;
  readonly host: string;
  readonly port: number;
  readonly session: string | null;
  readonly controllers: readonly Controller[];
  readonly taken: number;
  readonly dropped: number;
  readonly broken: number;
  readonly wanted: Wanted;
}

/** OSC: whether the server listens for controllers, which have spoken, and a simulated one. */
const notices = useNotices();
const state = shallowRef<State | null>(null);
const port = ref(9000);
const busy = ref(false);
/** As the switch stands: where it is refused it goes back. */
const on = ref(false);
watch(state, (now) => {
  if (now && !busy.value) on.value = now.on;
});
async function look() {
  try {
    const first = !state.value;
    state.value = await ask<State>('GET', '/osc');
    if (first) port.value = state.value.wanted.port;
  } catch {
    // It is asked again in a moment; that the server is away is said elsewhere.
  }
}
useIntervalFn(() => void look(), 1000, { immediateCallback: true });

/** One after another: what is asked for last holds. */
let before: Promise<unknown> = Promise.resolve();
const put = (wanted: Wanted) => (before = before.then(() => send(wanted)));
async function send(wanted: Wanted) {
  busy.value = true;
  try {
    state.value = await ask<State>('PUT', '/osc', wanted);
  } catch (error) {
    // It stands as it is before that is said: who tries again at once switches it on.
    on.value = state.value?.on === true;
    notices.refused(error);
    await look();
  } finally {
    busy.value = false;
    on.value = state.value?.on === true;
  }
}
const fits = computed(() => Number.isInteger(port.value) && port.value >= 1024 && port.value <= 65535);
/** While it is off the port is taken when it is switched on. */
const setPort = () => {
  if (fits.value && state.value?.on && port.value !== state.value.port)
    void put({ on: true, port: port.value });
};
</script>

<template>
  <div class="d-flex flex-column ga-3">
    <section class="d-flex flex-column ga-2" :aria-label="say('osc')">
      <h2>{{ say('osc') }}</h2>
      <p class="soft ma-0">{{ say('oscAbout') }}</p>
      <template v-if="state">
        <v-switch
          v-model="on"
          :label="say('oscOn')"
          :loading="busy"
          hide-details
          density="compact"
          color="primary"
          @update:model-value="put({ on, port: fits ? port : state.wanted.port })"
        />
        <div class="d-flex ga-2 align-center">
          <span aria-hidden="true">{{ say('oscPort') }}</span>
          <v-number-input
            v-model="port"
            :aria-label="say('oscPort')"
            class="flex-0-0"
            width="96"
            :min="1024"
            :max="65535"
            control-variant="hidden"
            hide-details
            density="compact"
            @blur="setPort"
            @keydown.enter="setPort"
          />
        </div>
        <p v-if="state.on" class="ma-0 tiny" role="status">
          {{ say('oscListens', { host: state.host, port: state.port }) }}
          {{ say('oscCounts', { taken: state.taken, dropped: state.dropped, broken: state.broken }) }}
        </p>
        <template v-if="state.on">
          <h2 class="mt-2">{{ say('oscControllers') }}</h2>
          <p v-if="!state.controllers.length" class="soft ma-0 tiny">{{ say('oscNobody') }}</p>
          <ul class="plain-list ma-0 pa-0 tiny">
            <li v-for="c in state.controllers" :key="`${c.address} ${c.port}`" class="mb-1">
              <b class="mono">{{ c.address }}:{{ c.port }}</b>
              {{ say(c.subscribed ? 'oscTold' : 'oscNotTold') }}
              <div class="soft text-truncate mono">{{ say('oscLast', { last: c.last, ago: c.ago }) }}</div>
            </li>
          </ul>
        </template>
      </template>
    </section>
    <OscStandIn v-if="state?.on" />
  </div>
</template>
