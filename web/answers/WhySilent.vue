<script setup lang="ts">
import { levelText } from '@core/levels/decibels';
import { nameOf } from '@core/session/lookup';
import { useAnswers } from './answers';
import { useSession } from '@/session/session';

const answers = useAnswers();
const session = useSession();
/** Softer than this it may as well be silent. */
const FAINT_DB = -60;
</script>

<template>
  <section v-if="answers.silence && session.shown" class="silence" aria-label="Why silent?">
    <template v-if="answers.silence.stops.length">
      <h2>Why silent?</h2>
      <p class="first">{{ answers.silence.stops[0]!.what }}</p>
      <button
        v-if="answers.silence.stops[0]!.repair"
        class="plain boxed"
        @click="
          session.commit(answers.silence.stops[0]!.repair!.label, answers.silence.stops[0]!.repair!.commands)
        "
      >
        {{ answers.silence.stops[0]!.repair!.label }}
      </button>
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
    <p v-else class="heard">
      Nothing stops it{{
        answers.silence.output === null || answers.silence.levelDb === null
          ? '.'
          : `: ${nameOf(session.shown, answers.silence.output)} gets it at ${levelText(answers.silence.levelDb)} dB${answers.silence.levelDb < FAINT_DB ? ', which is too soft to hear' : ''}.`
      }}
    </p>
  </section>
</template>

<style scoped>
.silence {
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
}
h2 {
  font-size: 13px;
  margin: 0 0 4px;
  color: var(--caution);
}
p {
  margin: 0 0 6px;
  font-size: 13px;
}
.first {
  font-size: 14px;
}
.heard {
  margin: 0;
  color: var(--ink-soft);
}
</style>
