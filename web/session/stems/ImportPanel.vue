<script setup lang="ts">
import { useTemplateRef, watch } from 'vue';
import FilePick from '@/ui/FilePick.vue';
import { useStemImport } from './stemImport';
import { say } from '../texts';

/** Files on their way into the session, and what has become of each. */
const stems = useStemImport();
const picker = useTemplateRef('picker');
watch(
  () => stems.choosing,
  () => picker.value?.choose(),
);
</script>

<template>
  <FilePick ref="picker" :label="say('wavFiles')" accept=".wav,audio/wav" multiple @files="stems.bring" />
  <v-card
    v-if="stems.jobs.length"
    class="import position-absolute d-flex flex-column"
    role="status"
    :aria-label="say('filesComingIn')"
  >
    <v-card-title class="row">
      <b v-if="stems.busy">{{ say('addingJobsFile', { jobs: stems.jobs.length }, stems.jobs.length) }}</b>
      <b v-else>{{ say('doneCameRefusedRefused', { done: stems.done, refused: stems.refused.length }) }}</b>
      <v-spacer />
      <v-btn v-if="stems.busy" variant="outlined" @click="stems.stop">{{ say('cancel') }}</v-btn>
      <v-btn v-else variant="outlined" @click="stems.clear">{{ say('close') }}</v-btn>
    </v-card-title>
    <v-progress-linear :model-value="stems.share * 100" :aria-label="say('progress')" />
    <v-list class="jobs overflow-y-auto" bg-color="transparent">
      <v-list-item v-for="job in stems.jobs" :key="job.name" :title="job.name">
        <p v-if="job.reason" class="text-error">{{ job.reason }}</p>
        <template #append>
          <span v-if="job.state === 'sending'" class="mono">{{ Math.round(job.share * 100) }} %</span>
          <span v-else-if="job.state === 'done'">{{ say('cameIn') }}</span>
          <span v-else-if="job.state === 'waiting'" class="soft">{{ say('waits') }}</span>
        </template>
      </v-list-item>
    </v-list>
  </v-card>
</template>

<style scoped>
.import {
  right: 16px;
  bottom: 72px;
  width: 360px;
  max-height: 50vh;
  z-index: 20;
}
</style>
