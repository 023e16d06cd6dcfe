<script setup lang="ts">
import { computed } from 'vue';
import { levelText } from '@core/levels/decibels';
import type { Strip } from '@core/session/types';
import { kindWord } from '@/session/words';
import { say } from './texts';

/** A strip's name in full, over columns that are too narrow for names. */
const props = defineProps<{ strip: Strip; x: number; width: number; room: number; top: number }>();
/** Pixels that it may be wide. */
const WIDEST = 260;
const left = computed(() => Math.max(0, Math.min(props.x + props.width / 2 - 60, props.room - WIDEST)));
const flags = computed(() =>
  [props.strip.mute && say('muted'), props.strip.solo && say('soloed')].filter((f) => f).join(', '),
);
</script>

<template>
  <div
    class="named position-absolute pointer-events-none small py-1 px-2"
    :style="{
      ...{ left: `${left}px`, top: `${top + 2}px`, maxWidth: `${WIDEST}px`, zIndex: 4 },
      ...{ background: 'var(--raised)', border: '1px solid var(--rule)' },
      borderTop: `3px solid ${strip.colour || 'var(--rule)'}`,
    }"
    aria-hidden="true"
  >
    <b class="d-block text-truncate">{{ strip.name || strip.id }}</b>
    <span class="soft">{{ `${kindWord(strip.kind)}, ` }}</span><span class="mono"
      >{{ levelText(strip.faderDb) }} dB</span
    ><span v-if="flags" class="soft">, {{ flags }}</span>
  </div>
</template>
