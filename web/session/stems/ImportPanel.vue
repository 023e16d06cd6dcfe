<script setup lang="ts">
import { computed, useTemplateRef, watch } from 'vue';
import FilePick from '@/ui/FilePick.vue';
import { AUDIO_FILES } from './audioNames';
import { useStemImport } from './stemImport';
import { say } from '../texts';

/** Files on their way into the session, and what has become of each. */
const stems = useStemImport();
const picker = useTemplateRef('picker');
const folder = useTemplateRef('folder');
watch(
  () => stems.choosing,
  () => picker.value?.choose(),
);
watch(
  () => stems.choosingFolder,
  () => folder.value?.choose(),
);
const left = computed(() => {
  if (stems.left === null) return '';
  const seconds = Math.ceil(stems.left);
  return seconds < 60
    ? say('secondsLeft', { seconds })
    : say('minutesLeft', { minutes: Math.floor(seconds / 60), seconds: seconds % 60 });
});
</script>

<template>
  <FilePick ref="picker" :label="say('wavFiles')" :accept="AUDIO_FILES" multiple @files="stems.bring" />
  <FilePick ref="folder" :label="say('folderOfFiles')" accept="" multiple folder @files="stems.bring" />
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
    <p v-if="stems.busy" class="left soft mono ma-0 px-4 py-1" aria-live="off">
      {{ Math.floor(stems.share * 100) }} %<template v-if="left">, {{ left }}</template>
    </p>
    <v-list class="jobs overflow-y-auto" bg-color="transparent">
      <v-list-item v-for="(job, i) in stems.jobs" :key="i" :title="job.name">
        <p v-if="job.reason" class="text-error ma-0">{{ job.reason }}</p>
        <v-btn v-if="job.cut && !stems.busy" variant="outlined" @click="stems.bringCut(i)">{{
          say('takeWhatIsThere')
        }}</v-btn>
        <template #append>
          <span v-if="job.state === 'reading'" class="soft">{{ say('looksThrough') }}</span>
          <span v-else-if="job.state === 'sending'" class="mono">{{ Math.round(job.share * 100) }} %</span>
          <span v-else-if="job.known">{{ say('wasThere') }}</span>
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
