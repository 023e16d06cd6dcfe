<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { ruleTitle } from '@core/routing/findings/findings';
import type { Finding } from '@core/routing/findings/finding';
import { nameOf } from '@core/session/lookup';
import { useActions } from '@/commands/actions';
import ChangePreview from '@/session/ChangePreview.vue';
import { useFindings } from './useFindings';
import { useAnswers } from '@/answers/answers';
import { useOverview } from '@/audio/overview';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { useTransport } from '@/audio/transport';

const findings = useFindings();
const session = useSession();
const overview = useOverview();
const transport = useTransport();
const pick = usePick();
const actions = useActions();
const answers = useAnswers();
const settings = useSettings();
const router = useRouter();
const previewed = ref<string | null>(null);
const showClosed = ref(false);

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
async function askVca(id: string) {
  await router.push({ name: 'sheet' });
  settings.inspector = true;
  answers.askVca(id);
}
async function show(f: Finding, id?: string) {
  const strips = (id ? [id] : f.where).filter(isStrip);
  await router.push({ name: 'sheet' });
  pick.set(strips);
  if (strips[0]) pick.focus = { strip: strips[0], row: 'cap' };
}
</script>

<template>
  <main class="view">
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
    <p v-if="!findings.open.length && !findings.busy" class="fine">
      Nothing to find: every strip reaches an output by one way, every return is wet, every VCA counts once.
    </p>
    <section v-for="g in groups" :key="g.severity" :aria-label="g.title">
      <h2 :class="g.severity">
        {{ g.title }} <span class="mono soft">{{ g.list.length }}</span>
      </h2>
      <article v-for="f in g.list" :key="f.key" :class="f.severity">
        <div class="say">
          <span class="rule">{{ ruleTitle(f.rule) }}</span>
          <span class="sure soft">{{ SURE[f.sure] }}</span>
          <p class="what">{{ f.what }}</p>
          <p class="soft">{{ f.why }}</p>
          <p class="where">
            <button
              v-for="id in f.where.slice(0, 6)"
              :key="id"
              class="plain boxed chip"
              :title="isStrip(id) ? 'Show it on the Sheet' : 'See what this VCA does'"
              @click="isStrip(id) ? show(f, id) : askVca(id)"
            >
              {{ nameOf(session.document!, id) }}
            </button>
            <button v-if="f.where.filter(isStrip).length > 1" class="plain chip" @click="show(f)">
              Pick all {{ f.where.filter(isStrip).length }}
            </button>
          </p>
          <div v-if="previewed === f.key && f.repair" class="would">
            <span class="soft">It would change:</span>
            <ChangePreview :commands="f.repair.commands" />
          </div>
        </div>
        <div class="do">
          <template v-if="f.repair">
            <button class="plain primary" @click="findings.mend(f)">{{ f.repair.label }}</button>
            <button
              class="plain boxed"
              :aria-expanded="previewed === f.key"
              @click="previewed = previewed === f.key ? null : f.key"
            >
              {{ previewed === f.key ? 'Hide what it changes' : 'What would it change?' }}
            </button>
          </template>
          <p v-else class="soft small">No single step mends this.</p>
          <button class="plain" @click="findings.letStand(f)">Let it stand</button>
        </div>
      </article>
    </section>
    <section v-if="findings.closed.length" aria-label="Let stand">
      <h2>
        <button class="plain" :aria-expanded="showClosed" @click="showClosed = !showClosed">
          {{ showClosed ? '▾' : '▸' }} {{ findings.closed.length }} let stand
        </button>
      </h2>
      <template v-if="showClosed">
        <article v-for="f in findings.closed" :key="f.key" class="closed">
          <div class="say">
            <p class="what">{{ f.what }}</p>
          </div>
          <div class="do">
            <button class="plain boxed" @click="findings.letStand(f, false)">Look at it again</button>
          </div>
        </article>
      </template>
    </section>
    <p v-if="session.undoLabel" class="soft small">
      Every repair is one step back: {{ actions.keysOf('undo') }} undoes “{{ session.undoLabel }}”.
    </p>
  </main>
</template>

<style scoped>
.view {
  flex: 1;
  overflow-y: auto;
  padding: 20px 32px;
}
header,
section,
.fine {
  max-width: 980px;
}
h1 {
  font-size: 22px;
  margin: 0;
}
header p {
  margin: 2px 0 12px;
}
h2 {
  font-size: 15px;
  margin: 16px 0 4px;
}
h2.fault {
  color: var(--alert);
}
h2.risk {
  color: var(--caution);
}
article {
  display: flex;
  gap: 20px;
  padding: 10px 0 10px 12px;
  border-top: 1px solid var(--rule);
  border-left: 3px solid var(--rule);
}
article.fault {
  border-left-color: var(--alert);
}
article.risk {
  border-left-color: var(--caution);
}
.say {
  flex: 1;
  min-width: 0;
}
.say p {
  margin: 2px 0;
}
.rule {
  font-size: 12px;
  font-weight: 600;
}
.sure {
  font-size: 12px;
  margin-left: 10px;
}
.what {
  font-size: 15px;
}
.where {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-top: 6px !important;
}
.chip {
  min-height: 24px;
  font-size: 12px;
}
.would {
  margin-top: 8px;
  padding: 6px 10px;
  background: var(--sheet);
}
.do {
  width: 250px;
  flex: none;
  display: flex;
  flex-direction: column;
  gap: 6px;
  align-items: stretch;
}
.do .plain {
  padding: 4px 10px;
}
.small {
  font-size: 12px;
}
.closed {
  align-items: center;
}
.closed .what {
  font-size: 13px;
  color: var(--ink-soft);
}
.fine {
  font-size: 16px;
}
</style>
