<script setup lang="ts">
import { computed } from 'vue';
import { toldTogether } from '@core/findings/kinds';
import { useCommands } from '@/commands/commands';
import FindingCard from './FindingCard.vue';
import FindingKind from './FindingKind.vue';
import { useFindings } from './useFindings';
import { useOverview } from '@/audio/overview';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';
import { say } from './texts';

const findings = useFindings();
const session = useSession();
const overview = useOverview();
const transport = useTransport();
const commands = useCommands();
const SEVERITY = { fault: say('faults'), risk: say('risks'), note: say('notes') } as const;
const TONES = { fault: 'text-error', risk: 'caution', note: '' } as const;
const groups = computed(() =>
  (['fault', 'risk', 'note'] as const)
    .map((severity) => ({
      severity,
      title: SEVERITY[severity],
      list: findings.open.filter((f) => f.severity === severity),
    }))
    .filter((g) => g.list.length)
    .map((g) => ({ ...g, told: toldTogether(g.list) })),
);
</script>

<template>
  <main class="view flex-1-1-0 overflow-y-auto py-5 px-8">
    <header>
      <h1>{{ say('findings') }}</h1>
      <p class="soft">
        {{ say('wrongRoutingLikelySoLooked') }}
        <span v-if="overview.stale && transport.length > 0">
          {{
            say('clippingMeasuredWhenSessionHas', {
              rolling: transport.rolling ? say('afterPlayingStops') : '',
            })
          }}
        </span>
      </p>
    </header>
    <v-empty-state
      v-if="!findings.open.length && !findings.busy"
      :headline="say('nothingToFind')"
      :text="say('everyStripReachesOutputOne')"
    />
    <section v-for="g in groups" :key="g.severity" :aria-label="g.title">
      <h2 class="mt-4" :class="TONES[g.severity]">
        {{ g.title }} <span class="mono soft">{{ g.list.length }}</span>
      </h2>
      <template v-for="t in g.told" :key="t.kind === 'one' ? t.finding.key : t.rule">
        <FindingCard v-if="t.kind === 'one'" :finding="t.finding" />
        <FindingKind v-else :rule="t.rule" :list="t.list" />
      </template>
    </section>
    <v-expansion-panels v-if="findings.closed.length" class="closed-list">
      <v-expansion-panel
        :title="say('closedLetStand', { closed: findings.closed.length })"
        bg-color="transparent"
      >
        <v-expansion-panel-text>
          <article
            v-for="f in findings.closed"
            :key="f.key"
            class="closed d-flex ga-5 pt-2 pe-0 pb-2 ps-3 border-t align-center"
          >
            <p class="say soft flex-1-1-0 min-w-0">{{ f.what }}</p>
            <v-btn variant="outlined" @click="findings.letStand(f, false)">{{ say('lookAtItAgain') }}</v-btn>
          </article>
        </v-expansion-panel-text>
      </v-expansion-panel>
    </v-expansion-panels>
    <p v-if="session.undoLabel" class="soft small">
      {{ say('everyRepairOneStepBack', { keys: commands.keysOf('undo'), undoLabel: session.undoLabel }) }}
    </p>
  </main>
</template>

<style scoped>
header,
section,
.closed-list {
  max-width: 980px;
}
h2 {
  font-size: 15px;
}
</style>
