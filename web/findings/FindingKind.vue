<script setup lang="ts">
import { computed, ref } from 'vue';
import { ruleTitle } from '@core/findings/findings';
import type { Finding } from '@core/findings/finding';
import FindingCard from './FindingCard.vue';
import { EDGES, useFindings } from './useFindings';
import { say } from './texts';

/** Findings of one kind as one entry: all are mended, or let stand, at once or one by one. */
const props = defineProps<{ rule: string; list: readonly Finding[] }>();
const findings = useFindings();
const open = ref(false);
const mendable = computed(() => props.list.filter((f) => f.repair));
const first = computed(() => props.list[0]!);
</script>

<template>
  <div class="border-t" :style="{ borderLeft: EDGES[first.severity] }" :data-kind="rule">
    <div class="d-flex ga-5 pt-2 pe-0 pb-2 ps-3">
      <div class="flex-1-1-0 min-w-0">
        <b>{{ ruleTitle(rule) }}</b>
        <span class="mono soft ms-2">{{ list.length }}</span>
        <p class="soft">{{ first.why }}</p>
        <v-btn variant="outlined" size="x-small" class="small" :aria-expanded="open" @click="open = !open">{{
          open ? say('hideAllOfThem') : say('showAllOfThem', { list: list.length })
        }}</v-btn>
      </div>
      <div class="flex-0-0 d-flex flex-column ga-1" style="width: 250px">
        <v-btn
          v-if="mendable.length"
          variant="flat"
          color="primary"
          @click="findings.mendAll(mendable, ruleTitle(rule))"
          >{{ say('mendAll', { mendable: mendable.length }) }}</v-btn
        >
        <p v-else class="soft small">{{ say('noSingleStepMends') }}</p>
        <v-btn @click="findings.letAllStand(list, ruleTitle(rule))">{{ say('letAllStand') }}</v-btn>
      </div>
    </div>
    <div v-if="open" class="ps-6">
      <FindingCard v-for="f in list" :key="f.key" :finding="f" in-kind />
    </div>
  </div>
</template>
