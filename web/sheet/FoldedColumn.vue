<script setup lang="ts">
import { computed } from 'vue';
import { fitName } from '@core/naming/fitName';
import type { Strip } from '@core/session/types';
import KindShape from '@/ui/KindShape.vue';
import type { Row } from './rows/kind';
import { say } from './texts';

/** A band of strips that is folded: one column with their count, one meter and one total. */
const props = defineProps<{
  label: string;
  colour: string;
  strips: readonly Strip[];
  x: number;
  width: number;
  rows: readonly Row[];
  picked: boolean;
  lit: boolean;
}>();
const emit = defineEmits<{ open: []; pick: [event: MouseEvent] }>();
const cap = computed(() => props.rows.find((r) => r.kind === 'cap')!);
const lines = computed(() => fitName(props.label, Math.max(4, Math.floor((props.width - 4) / 6.6)), 2));
const muted = computed(() => props.strips.filter((s) => s.mute).length);
</script>

<template>
  <div
    class="folded position-absolute top-0 bottom-0 border-e overflow-hidden"
    :class="{ picked, lit }"
    :style="{ left: `${x}px`, width: `${width}px`, '--family': colour }"
    role="row"
    :aria-label="say('labelFoldedStripsStrips', { label, strips: strips.length })"
    @pointerdown.stop
    @dblclick.stop="emit('open')"
  >
    <div
      class="cap position-absolute left-0 right-0 pt-1 px-1 d-flex flex-column align-center cursor-pointer small"
      role="gridcell"
      :style="{ top: `${cap.y}px`, height: `${cap.height}px` }"
      :title="say('stripsClickPickThemDouble', { strips: strips.map((s) => s.name || s.id).join(', ') })"
      @click="emit('pick', $event)"
    >
      <KindShape kind="family" class="kind" />
      <span v-for="(line, l) in lines" :key="l" class="name font-weight-semibold">{{ line }}</span>
      <span class="mono position-absolute bottom-0 tiny">{{ strips.length }}</span>
    </div>
    <span
      v-if="muted"
      class="mono muted position-absolute left-0 right-0 text-center tiny soft"
      :style="{ top: `${rows.find((r) => r.kind === 'buttons')?.y ?? 0}px` }"
      >{{ muted }} M</span
    >
  </div>
</template>

<style scoped>
.folded {
  background: color-mix(in srgb, var(--family) 7%, transparent);
  contain: strict;
}
.cap {
  line-height: 12.5px;
}
.kind {
  width: calc(100% - 4px);
}
.muted {
  line-height: 28px;
}
.picked .cap {
  background: linear-gradient(225deg, transparent 7px, var(--picked) 7.5px);
  color: var(--on-picked);
}
.lit {
  box-shadow:
    inset 1px 0 0 var(--signal),
    inset -1px 0 0 var(--signal);
}
</style>
