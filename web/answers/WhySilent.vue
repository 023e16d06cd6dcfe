<script setup lang="ts">
import { computed } from 'vue';
import { levelText } from '@core/levels/decibels';
import { nameOf } from '@core/session/lookup';
import { useAnswers } from './answers';
import { useSession } from '@/session/session';

const answers = useAnswers();
const session = useSession();
const repair = computed(() => answers.silence?.stops[0]?.repair);
/** Softer than this it may as well be silent. */
const FAINT_DB = -60;
</script>

<template>
  <section
    v-if="answers.silence && session.shown"
    class="silence pb-2 border-b text"
    aria-label="Why silent?"
  >
    <template v-if="answers.silence.stops.length">
      <h2 class="caution">Why silent?</h2>
      <p class="first">{{ answers.silence.stops[0]!.what }}</p>
      <v-btn
        v-if="repair"
        variant="outlined"
        class="wraps"
        @click="session.commit(repair.label, repair.commands)"
        >{{ repair.label }}</v-btn
      >
      <p v-if="answers.silence.stops.length > 1" class="soft">
        Then
        {{
          answers.silence.stops.length === 2
            ? 'one more thing stops'
            : `${answers.silence.stops.length - 1} more things stop`
        }}
        it:
        {{
          answers.silence.stops
            .slice(1)
            .map((s) => s.what)
            .join(' ')
        }}
      </p>
    </template>
    <p v-else class="soft">
      Nothing stops it{{
        answers.silence.output === null || answers.silence.levelDb === null
          ? '.'
          : `: ${nameOf(session.shown, answers.silence.output)} gets it at ${levelText(answers.silence.levelDb)} dB${answers.silence.levelDb < FAINT_DB ? ', which is too soft to hear' : ''}.`
      }}
    </p>
  </section>
</template>

<style scoped>
.first {
  font-size: 14px;
}
</style>
