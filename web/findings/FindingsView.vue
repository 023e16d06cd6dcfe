<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { ruleTitle } from '@core/routing/findings/findings';
import type { Finding } from '@core/routing/findings/finding';
import { nameOf } from '@core/session/lookup';
import { useCommands } from '@/commands/commands';
import ChangePreview from '@/session/ChangePreview.vue';
import { useFindings } from './useFindings';
import { useOverview } from '@/audio/overview';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';

const findings = useFindings();
const session = useSession();
const overview = useOverview();
const transport = useTransport();
const pick = usePick();
const commands = useCommands();
const router = useRouter();
const previewed = ref<string | null>(null);

const SEVERITY = { fault: 'Faults', risk: 'Risks', note: 'Notes' } as const;
const SURE = {
  certain: 'certain',
  measured: 'measured',
  likely: 'likely',
  possible: 'depends on what is meant',
} as const;
const groups = computed(() =>
  (['fault', 'risk', 'note'] as const)
    .map((severity) => ({
      severity,
      title: SEVERITY[severity],
      list: findings.open.filter((f) => f.severity === severity),
    }))
    .filter((g) => g.list.length),
);
const isStrip = (id: string) => session.strip(id) !== undefined;
async function show(f: Finding, id?: string) {
  const strips = (id ? [id] : f.where).filter(isStrip);
  await router.push({ name: 'sheet' });
  pick.set(strips);
  if (strips[0]) pick.focus = { strip: strips[0], row: 'cap' };
}
</script>

<template>
  <main class="view flex-1-1-0 overflow-y-auto py-5 px-8">
    <header>
      <h1>Findings</h1>
      <p class="soft">
        What is wrong with the routing, or likely so. Looked at anew whenever the session changes.
        <span v-if="overview.stale && transport.length > 0">
          Clipping is measured when the session has been printed in the background{{
            transport.rolling ? ', after playing stops' : ''
          }}.
        </span>
      </p>
    </header>
    <v-empty-state
      v-if="!findings.open.length && !findings.busy"
      headline="Nothing to find"
      text="Every strip reaches an output by one way, every return is wet, every VCA counts once."
    />
    <section v-for="g in groups" :key="g.severity" :aria-label="g.title">
      <h2 class="mt-4" :class="g.severity">
        {{ g.title }} <span class="mono soft">{{ g.list.length }}</span>
      </h2>
      <article
        v-for="f in g.list"
        :key="f.key"
        class="d-flex ga-5 pt-2 pe-0 pb-2 ps-3 border-t"
        :class="f.severity"
      >
        <div class="say flex-1-1-0 min-w-0">
          <b class="small">{{ ruleTitle(f.rule) }}</b>
          <span class="soft small ms-2">{{ SURE[f.sure] }}</span>
          <p class="what">{{ f.what }}</p>
          <p class="soft">{{ f.why }}</p>
          <p class="row wrap ga-1">
            <v-btn
              v-for="id in f.where.slice(0, 6)"
              :key="id"
              variant="outlined"
              size="x-small"
              class="chip small"
              :title="isStrip(id) ? 'Show it on the Sheet' : 'See what this VCA does'"
              @click="isStrip(id) ? show(f, id) : commands.run('vcaEffect', { vca: id })"
              >{{ nameOf(session.document!, id) }}</v-btn
            >
            <v-btn
              v-if="f.where.filter(isStrip).length > 1"
              size="x-small"
              class="chip small"
              @click="show(f)"
              >Pick all {{ f.where.filter(isStrip).length }}</v-btn
            >
          </p>
          <div v-if="previewed === f.key && f.repair" class="would mt-2 py-1 px-2 on-sheet">
            <span class="soft">It would change:</span>
            <ChangePreview :commands="f.repair.commands" />
          </div>
        </div>
        <div class="do flex-0-0 d-flex flex-column ga-1">
          <template v-if="f.repair">
            <v-btn class="wraps" variant="flat" color="primary" @click="findings.mend(f)">{{
              f.repair.label
            }}</v-btn>
            <v-btn
              variant="outlined"
              :aria-expanded="previewed === f.key"
              @click="previewed = previewed === f.key ? null : f.key"
              >{{ previewed === f.key ? 'Hide what it changes' : 'What would it change?' }}</v-btn
            >
          </template>
          <p v-else class="soft small">No single step mends this.</p>
          <v-btn @click="findings.letStand(f)">Let it stand</v-btn>
        </div>
      </article>
    </section>
    <v-expansion-panels v-if="findings.closed.length" class="closed-list">
      <v-expansion-panel :title="`${findings.closed.length} let stand`" bg-color="transparent">
        <v-expansion-panel-text>
          <article
            v-for="f in findings.closed"
            :key="f.key"
            class="closed d-flex ga-5 pt-2 pe-0 pb-2 ps-3 border-t align-center"
          >
            <p class="say soft flex-1-1-0 min-w-0">{{ f.what }}</p>
            <v-btn variant="outlined" @click="findings.letStand(f, false)">Look at it again</v-btn>
          </article>
        </v-expansion-panel-text>
      </v-expansion-panel>
    </v-expansion-panels>
    <p v-if="session.undoLabel" class="soft small">
      Every repair is one step back: {{ commands.keysOf('undo') }} undoes “{{ session.undoLabel }}”.
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
h2.fault {
  color: var(--alert);
}
h2.risk {
  color: var(--caution);
}
article {
  border-left: 3px solid var(--rule);
}
article.fault {
  border-left-color: var(--alert);
}
article.risk {
  border-left-color: var(--caution);
}
.what {
  font-size: 15px;
}
.chip {
  height: 24px;
}
.do {
  width: 250px;
}
.do .wraps {
  padding: 4px 10px;
}
</style>
