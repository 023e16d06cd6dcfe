<script setup lang="ts">
import { computed } from 'vue';
import { levelText } from '@core/levels/decibels';
import { nameOf } from '@core/session/lookup';
import { useAnswers } from './answers';
import { useSession } from '@/session/session';
import { say } from './texts';

const answers = useAnswers();
const session = useSession();
const repair = computed(() => answers.silence?.stops[0]?.repair);
/** What stops it after the first thing. */
const more = computed(() => answers.silence?.stops.slice(1) ?? []);
/** Softer than this it may as well be silent. */
const FAINT_DB = -60;
</script>

<template>
  <section
    v-if="answers.silence && session.shown"
    class="silence pb-2 border-b text"
    :aria-label="say('whySilent')"
  >
    <template v-if="answers.silence.stops.length">
      <h2 class="caution">{{ say('whySilent') }}</h2>
      <p class="first">{{ answers.silence.stops[0]!.what }}</p>
      <v-btn
        v-if="repair"
        variant="outlined"
        class="wraps"
        @click="session.commit(repair.label, repair.commands)"
        >{{ repair.label }}</v-btn
      >
      <p v-if="more.length" class="soft">
        {{ say('thenStops', { things: more.length, what: more.map((s) => s.what).join(' ') }, more.length) }}
      </p>
    </template>
    <p v-else class="soft">
      {{
        answers.silence.output === null || answers.silence.levelDb === null
          ? say('nothingStops')
          : say(answers.silence.levelDb < FAINT_DB ? 'arrivesFaint' : 'arrivesAt', {
              name: nameOf(session.shown, answers.silence.output),
              level: levelText(answers.silence.levelDb),
            })
      }}
    </p>
  </section>
</template>

<style scoped>
.first {
  font-size: 14px;
}
</style>
