<script setup lang="ts">
import { computed } from 'vue';
import { knotRadius } from './bundles';
import type { FlowEdge } from './flowModel';

/** A send that is bundled: across from its source to the line of its destination, and a knot there. Full is post-fader, open pre-fader, a square the input. */
defineOptions({ inheritAttrs: false });
const props = defineProps<{
  id: string;
  sourceX: number;
  sourceY: number;
  data: { readonly edge: FlowEdge; readonly x: number };
  label?: unknown;
}>();
const r = computed(() => knotRadius(props.data.edge));
const open = computed(() => props.data.edge.tap !== 'post');
</script>

<template>
  <g style="outline: none" tabindex="-1" role="button" :aria-label="String(label)" :data-edge="id">
    <path
      class="leg"
      fill="none"
      stroke="var(--line)"
      stroke-opacity="0.5"
      pointer-events="none"
      :d="`M${sourceX} ${sourceY}H${data.x}`"
    />
    <g
      class="knot"
      pointer-events="all"
      stroke="var(--line)"
      stroke-width="1.5"
      :fill="open ? 'var(--sheet)' : 'var(--line)'"
    >
      <title>{{ label }}</title>
      <circle fill="transparent" stroke="none" :cx="data.x" :cy="sourceY" r="7" />
      <rect
        v-if="data.edge.tap === 'input'"
        :x="data.x - r"
        :y="sourceY - r"
        :width="2 * r"
        :height="2 * r"
      />
      <circle v-else :cx="data.x" :cy="sourceY" :r="r" />
    </g>
  </g>
</template>
