<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { ask } from '@/session/sync/api';
import type { MachinesState } from './state';
import { say } from './texts';

/** A machine that has not been let in says the code. */
const route = useRoute();
const router = useRouter();
// Behind the #, which is sent to nobody.
const code = ref(/code=(\d+)/.exec(route.hash)?.[1] ?? '');
const name = ref(say(navigator.maxTouchPoints > 1 ? 'tablet' : 'computer'));
const why = ref('');
const busy = ref(false);

/** Where it wanted to go; never away from here. */
const next = () => {
  const to = route.query.next;
  return typeof to === 'string' && /^\/(?!\/)/.test(to) ? to : '/';
};
onMounted(async () => {
  const state = await ask<MachinesState>('GET', '/access').catch(() => null);
  // Who is let in already needs no code.
  if (state?.role) await router.replace(next());
});
async function pair() {
  busy.value = true;
  why.value = '';
  try {
    await ask('POST', '/access/pair', { code: code.value, name: name.value });
    await router.replace(next());
  } catch (error) {
    why.value = (error as Error).message;
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <main class="d-flex flex-column align-center justify-center" style="min-height: 100vh">
    <v-form class="d-flex flex-column ga-4 pa-4" style="width: min(420px, 100%)" @submit.prevent="pair">
      <h1>{{ say('pairTitle') }}</h1>
      <p class="soft ma-0">{{ say('pairAbout') }}</p>
      <v-text-field
        v-model="code"
        :placeholder="say('code')"
        :aria-label="say('code')"
        inputmode="numeric"
        autocomplete="one-time-code"
        maxlength="20"
        autofocus
        :error-messages="why"
        style="font-size: 24px"
      />
      <div>
        <span class="soft" aria-hidden="true">{{ say('myName') }}</span>
        <v-text-field
          v-model="name"
          :aria-label="say('myName')"
          maxlength="60"
          autocomplete="off"
          hide-details
        />
      </div>
      <v-btn
        type="submit"
        variant="flat"
        color="primary"
        size="large"
        :loading="busy"
        :disabled="!code.trim()"
        >{{ say('enter') }}</v-btn
      >
    </v-form>
  </main>
</template>
