<script setup lang="ts">
import { nextTick, useTemplateRef } from 'vue';
import { useCommands } from '@/commands/commands';
import { usePick } from '@/session/pick';
import type { KeptMeter } from '@/session/settings';
import { useKept } from './kept';
import KeptMeterTile from './KeptMeterTile.vue';
import { say } from './texts';

/** The meters that stay in view while others are moved, in every view. */
const kept = useKept();
const pick = usePick();
const commands = useCommands();
const tray = useTemplateRef<HTMLElement>('tray');

function open({ strip, insert }: KeptMeter) {
  pick.only(strip);
  pick.focus = { strip, row: 'cap' };
  if (insert !== undefined) pick.insert = { strip, id: insert };
}
const focus = (i: number) => (tray.value?.children[i] as HTMLElement | undefined)?.focus();
async function key(one: KeptMeter, i: number, e: KeyboardEvent) {
  const what = commands.keyIn('kept', e);
  if (what === 'open') open(one);
  else if (what === 'left') focus(i - 1);
  else if (what === 'right') focus(i + 1);
  else if (what === 'drop') {
    kept.drop(one);
    await nextTick();
    focus(Math.min(i, kept.shown.length - 1));
  } else return;
  e.preventDefault();
  e.stopPropagation();
}
</script>

<template>
  <div
    v-if="kept.shown.length"
    ref="tray"
    class="flex-0-0 d-flex border-t overflow-x-auto"
    role="list"
    :aria-label="say('metersKeptInView')"
  >
    <KeptMeterTile
      v-for="(one, i) in kept.shown"
      :key="`${one.strip} ${one.insert ?? ''}`"
      :kept="one"
      role="listitem"
      tabindex="0"
      @keydown="key(one, i, $event)"
      @open="open(one)"
      @drop="kept.drop(one)"
    />
  </div>
</template>
