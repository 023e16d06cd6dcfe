<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { ruleTitle } from '@core/findings/findings';
import type { Finding } from '@core/findings/finding';
import { nameOf } from '@core/session/lookup';
import { useCommands } from '@/commands/commands';
import ChangePreview from '@/session/ChangePreview.vue';
import { useFindings } from './useFindings';
import { useOverview } from '@/audio/overview';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';
import { say } from './texts';

const findings = useFindings();
const session = useSession();
const overview = useOverview();
const transport = useTransport();
const pick = usePick();
const commands = useCommands();
const router = useRouter();
const previewed = ref<string | null>(null);

const SEVERITY = { fault: say('faults'), risk: say('risks'), note: say('notes') } as const;
const TONES = { fault: 'text-error', risk: 'caution', note: '' } as const;
const SURE = {
  certain: say('certain'),
  measured: say('measured'),
  likely: say('likely'),
  possible: say('dependsMeant'),
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
              class="small"
              :title="isStrip(id) ? say('showSheet') : say('seeVcaDoes')"
              @click="isStrip(id) ? show(f, id) : commands.run('vcaEffect', { vca: id })"
              >{{ nameOf(session.document!, id) }}</v-btn
            >
            <v-btn v-if="f.where.filter(isStrip).length > 1" size="x-small" class="small" @click="show(f)">{{
              say('pickAllWhere', { where: f.where.filter(isStrip).length })
            }}</v-btn>
          </p>
          <div v-if="previewed === f.key && f.repair" class="would mt-2 py-1 px-2 bg-sheet">
            <span class="soft">{{ say('itWouldChange') }}</span>
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
              >{{ previewed === f.key ? say('hideWhatItChanges') : say('whatWouldItChange') }}</v-btn
            >
          </template>
          <p v-else class="soft small">{{ say('noSingleStepMends') }}</p>
          <v-btn @click="findings.letStand(f)">{{ say('letItStand') }}</v-btn>
        </div>
      </article>
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
.do {
  width: 250px;
}
.do .wraps {
  padding: 4px 10px;
}
</style>
