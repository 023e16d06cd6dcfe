<script setup lang="ts">
import { computed } from 'vue';
import { linksOf } from '@core/operations/links';
import { useMarks } from '@/session/marks';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { stable } from '@/ui/stable';
import FeedList from './FeedList.vue';
import InputStage from './InputStage.vue';
import LinkList from './LinkList.vue';
import SendList from './SendList.vue';
import { feedsOf, stagesOf } from './stages';
import StripSettings from './StripSettings.vue';
import { say } from './texts';

/** Everything of the strip that is shown: its stages, settings, sends, links and feeders. */
const session = useSession();
const pick = usePick();
const marks = useMarks();
const doc = computed(() => session.now!);
const strip = computed(() => (pick.shown ? session.strip(pick.shown) : undefined));
const links = computed(() => (strip.value ? linksOf(doc.value, strip.value.id) : []));
const feeds = stable(
  () => (strip.value ? feedsOf(doc.value, strip.value.id) : []),
  (list) => list.map((f) => `${f.id} ${f.by} ${f.name}`).join('|'),
);
const stages = computed(() =>
  strip.value ? stagesOf(doc.value, strip.value, feeds.value.length, marks.costs) : [],
);
</script>

<template>
  <div v-if="strip">
    <section class="border-t pt-1 mt-2" :aria-label="say('stagesOfTheSignal')">
      <ol class="stages plain-list ma-0 pa-0 text">
        <li v-for="(s, i) in stages" :key="i" :class="s.kind">
          <v-btn
            v-if="s.insert"
            class="name"
            :aria-pressed="pick.insert?.id === s.insert"
            @click="pick.insert = { strip: strip.id, id: s.insert }"
            >{{ s.name }}</v-btn><span v-else>{{ s.name }}</span>
          <span
            v-if="s.key"
            class="text-truncate flex-1-1-0 ms-2 caution small"
            :title="say('keyedByKey', { key: s.key })"
            >⟵ {{ s.key }}</span
          >
          <span class="mono"
            ><span v-if="s.cost !== undefined" class="soft cost tiny" :title="say('measuredLoad')">{{
              say('costLoad', { cost: (s.cost * 100).toFixed(2) })
            }}</span>
            {{ s.level }}</span
          >
        </li>
      </ol>
    </section>
    <StripSettings :strip="strip" />
    <InputStage v-if="strip.kind === 'source'" :strip="strip" />
    <SendList v-if="strip.sends.length" :strip="strip" />
    <section v-if="links.length" class="border-t pt-1 mt-2" :aria-label="say('links')">
      <h2>{{ say('linked') }}</h2>
      <LinkList :links="links" />
    </section>
    <FeedList v-if="feeds.length || strip.kind !== 'source'" :feeds="feeds" />
  </div>
</template>

<style scoped>
.stages li {
  position: relative;
  display: flex;
  justify-content: space-between;
  line-height: 24px;
  padding-left: 22px;
}
.stages li::before {
  content: '';
  position: absolute;
  left: 2px;
  top: 8px;
  width: 7px;
  height: 7px;
  border: 1.5px solid var(--signal);
  border-radius: 50%;
  background: var(--ground);
  z-index: 1;
}
.stages li.tap::before {
  border-radius: 0;
  transform: rotate(45deg);
  background: var(--signal);
}
.stages li.tap {
  font-weight: 600;
}
.stages li:not(:last-child)::after {
  content: '';
  position: absolute;
  left: 6px;
  top: 13px;
  height: 24px;
  border-left: 1px solid var(--signal);
  opacity: 0.6;
}
</style>
