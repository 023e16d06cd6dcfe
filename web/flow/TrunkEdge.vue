<script setup lang="ts">
import { trunkPath, type Bundle } from './bundles';

/** The line that the sends into one destination share. */
defineOptions({ inheritAttrs: false });
defineProps<{
  id: string;
  style?: Record<string, string>;
  targetX: number;
  targetY: number;
  data: { readonly bundle: Bundle };
  label?: unknown;
}>();
</script>

<template>
  <g style="outline: none" tabindex="-1" role="button" :aria-label="String(label)" :data-edge="id">
    <title>{{ label }}</title>
    <path
      class="vue-flow__edge-interaction"
      fill="none"
      stroke-opacity="0"
      stroke-width="12"
      :d="trunkPath(data.bundle, { x: targetX, y: targetY })"
    />
    <path
      class="vue-flow__edge-path"
      :style="style"
      :d="trunkPath(data.bundle, { x: targetX, y: targetY })"
    />
    <text
      class="mono"
      font-size="9"
      fill="var(--line)"
      :x="data.bundle.x"
      :y="data.bundle.top - 8"
      text-anchor="middle"
      aria-hidden="true"
    >
      {{ data.bundle.edges.length }}
    </text>
  </g>
</template>
