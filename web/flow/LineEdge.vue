<script setup lang="ts">
import { getBezierPath, type EdgeProps } from '@vue-flow/core';
import { computed } from 'vue';

/** A line from a node to another. */
defineOptions({ inheritAttrs: false });
const props = defineProps<EdgeProps>();
const path = computed(() => getBezierPath(props)[0]);
</script>

<template>
  <g style="outline: none" tabindex="-1" role="button" :aria-label="String(label)" :data-edge="id">
    <title>{{ label }}</title>
    <path class="vue-flow__edge-interaction" fill="none" stroke-opacity="0" stroke-width="16" :d="path" />
    <path class="vue-flow__edge-path" :style="style" :d="path" />
  </g>
</template>
