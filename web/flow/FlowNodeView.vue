<script setup lang="ts">
import { Handle, Position } from '@vue-flow/core';
import KindShape from '@/ui/KindShape.vue';
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
    class="node"
    :class="[
      data.node.kind,
      { picked: data.picked, traced: data.traced, silent: data.silent, barred: data.barred },
    ]"
    :style="{ '--family': data.node.colour }"
    :title="data.findings || data.node.name"
  >
    <Handle
      v-if="data.node.kind !== 'source' && data.node.kind !== 'family'"
      type="target"
      :position="Position.Left"
    />
    <span class="name text-truncate strong">{{ data.node.name }}</span>
    <span class="mono level tiny soft">{{
      data.node.kind === 'family' ? say('levelStrips', { level: data.node.level }) : data.node.level
    }}</span>
    <KindShape :kind="data.node.kind" class="kind" />
    <i v-if="data.findings" class="finding position-absolute text-center caution" aria-hidden="true">!</i>
    <Handle v-if="data.node.kind !== 'output'" type="source" :position="Position.Right" />
  </div>
</template>

<style scoped>
.node {
  position: relative;
  width: 148px;
  height: 34px;
  padding: 2px 8px 2px 12px;
  background: var(--raised);
  border: 1px solid var(--rule);
  border-left: 5px solid var(--family);
  color: var(--ink);
  font-size: 12px;
  line-height: 15px;
  display: flex;
  flex-direction: column;
  cursor: pointer;
}
.kind {
  position: absolute;
  right: 10px;
  bottom: 4px;
  width: 26px;
}
.family {
  box-shadow:
    3px 3px 0 -1px var(--raised),
    3px 3px 0 0 var(--rule);
}
.silent .name,
.silent .level {
  opacity: 0.55;
}
.picked {
  background: var(--picked);
  color: var(--on-picked);
}
.picked .level {
  color: inherit;
}
.traced {
  border-color: var(--signal);
  border-left-color: var(--family);
  outline: 2px solid var(--signal);
}
.barred {
  opacity: 0.3;
}
.finding {
  right: 8px;
  top: 2px;
  width: 16px;
  height: 16px;
  line-height: 16px;
  font-style: normal;
  font-weight: 700;
  border: 1px solid var(--caution);
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
