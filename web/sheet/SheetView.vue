<script setup lang="ts">
import { computed } from 'vue';
import { useSession } from '@/session/session';
import { useStemImport } from '@/session/stems/stemImport';
import DropZone from '@/ui/DropZone.vue';
import SheetGrid from './SheetGrid.vue';

/** The Sheet, or how to begin where there is nothing on it yet. WAV files dropped on it become strips. */
const session = useSession();
const stems = useStemImport();
const empty = computed(() => !session.document?.strips.some((s) => s.kind === 'source'));
</script>

<template>
  <DropZone
    class="view flex-1-1-0 min-h-0 d-flex flex-column on-sheet"
    text="Let go to add these files as strips"
    @files="stems.bring"
  >
    <SheetGrid v-if="!empty" />
    <v-empty-state
      v-else
      headline="This session has no stems yet"
      title="Drop WAV files here, many at once."
      text="Names, families and colours are taken from the file names; you can change them all later. PCM of 16, 24 or 32 bits, or 32-bit float; mono or stereo; any common sample rate."
    >
      <template #actions>
        <v-btn variant="flat" color="primary" @click="stems.choose">Choose WAV files…</v-btn>
      </template>
    </v-empty-state>
  </DropZone>
</template>
