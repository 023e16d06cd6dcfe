<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue';
import { arrange } from '@core/operations/pins';
import { nameOf } from '@core/session/lookup';
import { deskOrder } from '@core/surface/faded';
import { reachOf } from '@core/surface/reaches/registry';
import type { Arrangement } from '@core/surface/use/cost';
import type { Proposal } from '@core/surface/use/proposal';
import { usesOf, type Use } from '@core/surface/use/uses';
import { groupsOf, pinsOf, windowState } from '@core/surface/window';
import { useSession } from '@/session/session';
import { ask } from '@/session/sync/api';
import { useNotices } from '@/ui/notices';
import { Plot, type PlotAxis, type PlotLine } from '@/ui/plot';
import { say } from './texts';
import type { UseAnswer, UseQuestion } from './use.worker';
import UseWorker from './use.worker?worker';
import { useSurface } from './useSurface';

/** What the last hours cost in presses with this desk, and what another order of it would have cost. */
const surface = useSurface();
const session = useSession();
const notices = useNotices();
const HOURS = [1, 4, 12, 48, 168] as const;
const hours = ref<number>(12);
const spans = HOURS.map((value) => ({ title: say('lastHours', { n: value }), value }));
const uses = shallowRef<readonly Use[] | null>(null);
async function load() {
  if (!session.id) return;
  try {
    const { uses: kept } = await ask<{ uses: readonly Use[] }>(
      'GET',
      `/sessions/${session.id}/uses?hours=${hours.value}`,
    );
    const since = Date.now() - hours.value * 3_600_000;
    const touched = surface.touches.uses.filter((u) => u.at >= since);
    uses.value = usesOf([], [...kept, ...touched]);
  } catch (error) {
    notices.refused(error);
  }
}
onMounted(load);

/** The desk as it stands: the joined one, or while units are apart the first of them with faders. */
const today = computed<Arrangement | null>(() => {
  const context = surface.context(session.document);
  const group = context && groupsOf(context).find((g) => g.width > 0);
  if (!context || !group) return null;
  const { left, right } = pinsOf(context, group);
  const { reach } = windowState(context, surface.shown, group.key);
  const kind = reachOf(reach.id);
  const all = deskOrder(context.session);
  // What comes and goes with the song, or with what is picked, is no order of its own.
  const order = kind.timed || kind.id === 'picked' ? all : kind.list(context, reach);
  return { width: group.width, left, right, order, all, bankBy: surface.desk.bankBy };
});
/** Looking for something better takes seconds after a long day: it is done away from the page. */
const worker = new UseWorker();
const proposal = shallowRef<Proposal | null>(null);
let serial = 0;
worker.onmessage = ({ data }: MessageEvent<UseAnswer>) => {
  if (data.serial === serial) proposal.value = data.proposal;
};
onBeforeUnmount(() => worker.terminate());
// It is asked anew where the desk or its order is another, not with every edit.
watch(
  () => (uses.value && today.value ? JSON.stringify([uses.value, today.value]) : ''),
  (asked) => {
    if (!asked) return void (proposal.value = null);
    const [of, arrangement] = JSON.parse(asked) as [readonly Use[], Arrangement];
    worker.postMessage({ serial: ++serial, uses: of, today: arrangement } satisfies UseQuestion);
  },
  { immediate: true },
);
const better = computed(
  () => proposal.value !== null && proposal.value.cost.presses < proposal.value.today.presses,
);
const named = (id: string) => (session.document ? nameOf(session.document, id) : id);
/** The ten strips that were reached for most. */
const most = computed(() =>
  [...(proposal.value?.today.byStrip ?? [])].sort((a, b) => b[1].uses - a[1].uses).slice(0, 10),
);
const x = computed<PlotAxis>(() => ({ name: say('presses'), min: 0, format: (v) => v.toFixed(0) }));
const y = computed<PlotAxis>(() => ({
  name: say('strip'),
  kind: 'category',
  names: most.value.map(([id]) => named(id)),
  inverse: true,
  room: 110,
}));
const lines = computed<readonly PlotLine[]>(() => [
  {
    name: say('today'),
    kind: 'bars',
    colour: 'caution',
    thick: 7,
    points: most.value.map(([, c], i) => [i, c.presses] as const),
  },
  ...(better.value
    ? [
        {
          name: say('proposed'),
          kind: 'bars' as const,
          thick: 7,
          points: most.value.map(
            ([id], i) => [i, proposal.value!.cost.byStrip.get(id)?.presses ?? 0] as const,
          ),
        },
      ]
    : []),
]);
const list = (ids: readonly string[]) => ids.map(named).join(', ');
const pinned = computed(() => {
  const { arrangement } = proposal.value!;
  return [...arrangement.left, ...arrangement.right];
});
const reordered = computed(
  () => proposal.value!.arrangement.order.join('\n') !== today.value!.order.join('\n'),
);
/** A key of the desk that brings the order up: a free user key, where no key of a unit does it already. */
const freeKey = computed(() => {
  const keys = surface.desk.units.flatMap((u) =>
    (surface.profile(u.profile)?.controls ?? []).filter((c) => c.kind === 'key'),
  );
  if (keys.some((c) => c.role === 'reachLaidOut')) return null;
  const taken = new Set(surface.desk.userKeys.filter((k) => k.layer === 1).map((k) => k.key));
  return keys.find((c) => c.user !== null && !taken.has(c.user))?.user ?? null;
});
function apply() {
  const { arrangement } = proposal.value!;
  const order = reordered.value ? arrangement.order : null;
  session.perform((s) => arrange(s, say('byUse'), arrangement.left, arrangement.right, order));
  if (!order) return;
  if (freeKey.value !== null)
    surface.setDesk({
      userKeys: [...surface.desk.userKeys, { key: freeKey.value, layer: 1, action: 'reachLaidOut' }],
    });
  const unit = surface.windows[0]?.group.units[0]?.id;
  // The same key leads back: it is pushed only where something else is shown.
  if (surface.windows[0]?.reach.id === 'laidOut') surface.press('reachLaidOut', unit);
  surface.press('reachLaidOut', unit);
}
</script>

<template>
  <section class="d-flex flex-column ga-2">
    <h2>{{ say('use') }}</h2>
    <v-select v-model="hours" :items="spans" :aria-label="say('use')" @update:model-value="load" />
    <p v-if="!today" class="soft">{{ say('noUnitYetAddOne') }}</p>
    <p v-else-if="!uses?.length" class="soft">{{ say('nothingUsedYet') }}</p>
    <p v-else-if="!proposal" class="soft" role="status">{{ say('counting') }}</p>
    <template v-else>
      <p class="ma-0">
        {{ say('usesCost', { uses: uses.length, presses: proposal.today.presses }) }}
        {{
          better
            ? say('proposalSaves', {
                presses: proposal.cost.presses,
                saved: proposal.today.presses - proposal.cost.presses,
              })
            : say('nothingCheaper')
        }}
      </p>
      <Plot :title="say('pressesOfTheTen')" :x="x" :y="y" :lines="lines" :height="40 + most.length * 24" />
      <template v-if="better">
        <p v-if="pinned.length" class="ma-0">
          <b>{{ say('pinsProposed') }}</b> {{ list(pinned) }}
        </p>
        <p v-if="reordered" class="ma-0">
          <b>{{ say('orderProposed') }}</b> {{ list(proposal.arrangement.order.slice(0, 24)) }}
        </p>
        <p v-if="reordered && freeKey !== null" class="soft ma-0">
          {{ say('userKeyProposed', { n: freeKey }) }}
        </p>
        <v-btn color="primary" @click="apply">{{ say('layDeskOut') }}</v-btn>
      </template>
    </template>
    <v-btn size="small" variant="text" @click="load">{{ say('lookAgain') }}</v-btn>
  </section>
</template>
