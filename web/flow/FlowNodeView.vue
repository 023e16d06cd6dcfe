<script setup lang="ts">
import { Handle, Position } from '@vue-flow/core';
import KindShape from '@/ui/KindShape.vue';
import StripIcon from '@/ui/StripIcon.vue';
import type { FlowNode } from './flowModel';
import { say } from './texts';

export interface FlowNodeData {
  readonly node: FlowNode;
  readonly picked: boolean;
  readonly traced: boolean;
  readonly silent: boolean;
  /** While a connection is drawn: it would make a loop here. */
  readonly barred: boolean;
  readonly findings: string;
}
defineProps<{ data: FlowNodeData }>();
</script>

<template>
  <div
    class="node position-relative d-flex flex-column border-thin small cursor-pointer"
    :class="[
      data.node.kind,
      data.picked ? 'picked bg-picked' : 'bg-raised',
      { traced: data.traced, silent: data.silent, barred: data.barred },
    ]"
    :style="{ '--family': data.node.colour }"
    :title="data.findings || data.node.name"
  >
    <Handle
      v-if="data.node.kind !== 'source' && data.node.kind !== 'family'"
      type="target"
      :position="Position.Left"
    />
    <span class="text-truncate font-weight-semibold" :class="{ 'opacity-60': data.silent }"
      ><StripIcon :icon="data.node.icon" :size="13" class="me-1" />{{ data.node.name }}</span
    >
    <span class="mono tiny" :class="[data.picked ? '' : 'soft', { 'opacity-60': data.silent }]">{{
      data.node.kind === 'family' ? say('levelStrips', { level: data.node.level }) : data.node.level
    }}</span>
    <KindShape :kind="data.node.kind" class="kind position-absolute bottom-0 right-0 me-2 mb-1" />
    <i
      v-if="data.findings"
      class="finding position-absolute top-0 right-0 text-center caution"
      aria-hidden="true"
      >!</i
    >
    <Handle v-if="data.node.kind !== 'output'" type="source" :position="Position.Right" />
  </div>
</template>

<style scoped>
.node {
  width: 148px;
  height: 34px;
  padding: 2px 8px 2px 12px;
  border-left: 5px solid var(--family) !important;
  line-height: 15px;
}
.kind {
  width: 26px;
}
.family {
  box-shadow:
    3px 3px 0 -1px var(--raised),
    3px 3px 0 0 var(--rule);
}
.traced {
  outline: 2px solid var(--signal);
}
.barred {
  opacity: 0.3;
}
.finding {
  margin: 2px 8px;
  width: 16px;
  font: 700 12px / 16px var(--text);
  border: 1px solid;
}
.node :deep(.vue-flow__handle) {
  width: 10px;
  height: 18px;
  min-width: 0;
  border: 1px solid var(--ink-soft);
  border-radius: 0;
  background: var(--ground);
}
.node :deep(.vue-flow__handle:hover) {
  background: var(--signal);
}
</style>
