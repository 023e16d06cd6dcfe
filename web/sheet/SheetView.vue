<script setup lang="ts">
import { computed } from 'vue';
import { useSession } from '@/session/session';
import { useStemImport } from '@/session/stems/stemImport';
import DropZone from '@/ui/DropZone.vue';
import SheetGrid from './SheetGrid.vue';
import { say } from './texts';

/** The Sheet, or how to begin where there is nothing on it yet. WAV files dropped on it become strips. */
const session = useSession();
const stems = useStemImport();
const empty = computed(() => !session.document?.strips.some((s) => s.kind === 'source'));
</script>

<template>
  <DropZone
    class="view flex-1-1-0 min-h-0 d-flex flex-column bg-sheet"
    :text="say('letGoAddTheseFiles')"
    @files="stems.bring"
  >
    <SheetGrid v-if="!empty" />
    <v-empty-state
      v-else
      :headline="say('sessionHasNoStemsYet')"
      :title="say('dropWavFilesHereMany')"
      :text="say('namesFamiliesColoursTakenFrom')"
    >
      <template #actions>
        <v-btn variant="flat" color="primary" @click="stems.choose">{{ say('chooseWavFiles') }}</v-btn>
        <v-btn variant="outlined" @click="stems.chooseFolder">{{ say('chooseFolder') }}</v-btn>
      </template>
    </v-empty-state>
  </DropZone>
</template>
