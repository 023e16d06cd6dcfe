<script setup lang="ts">
import { nextTick, ref, watch } from 'vue';
import type { MenuItem, OpenMenu } from './menu';

const props = defineProps<{ menu: OpenMenu | null }>();
const emit = defineEmits<{ close: [] }>();
const list = ref<HTMLElement | null>(null);
watch(
  () => props.menu,
  async (menu) => {
    if (!menu) return;
    await nextTick();
    setTimeout(() => list.value?.querySelector<HTMLButtonElement>('button:not(:disabled)')?.focus(), 0);
  },
);
function key(e: KeyboardEvent) {
  e.stopPropagation();
  if (e.key === 'Escape') emit('close');
  if (e.key !== 'ArrowDown' && e.key !== 'ArrowUp') return;
  e.preventDefault();
  const buttons = [...(list.value?.querySelectorAll<HTMLButtonElement>('button:not(:disabled)') ?? [])];
  const at = buttons.indexOf(document.activeElement as HTMLButtonElement);
  buttons[(at + (e.key === 'ArrowDown' ? 1 : -1) + buttons.length) % buttons.length]?.focus();
}
function choose(item: MenuItem) {
  emit('close');
  item.run();
}
</script>

<template>
  <v-menu
    :model-value="menu !== null"
    :target="menu ? [menu.x, menu.y] : undefined"
    :transition="false"
    @update:model-value="$event || emit('close')"
  >
    <div v-if="menu" ref="list" class="panel pop" role="menu" :aria-label="menu.title" @keydown="key">
      <div class="title soft">{{ menu.title }}</div>
      <button
        v-for="item in menu.items"
        :key="item.label"
        class="menu-item"
        :class="{ danger: item.danger }"
        :role="item.checked === undefined ? 'menuitem' : 'menuitemradio'"
        :aria-checked="item.checked"
        :disabled="item.disabled"
        @click="choose(item)"
      >
        <span
          ><span class="check">{{ item.checked ? '✓' : '' }}</span
          >{{ item.label }}</span
        >
        <kbd v-if="item.keys">{{ item.keys }}</kbd>
      </button>
    </div>
  </v-menu>
</template>

<style scoped>
.pop {
  min-width: 190px;
  max-height: 60vh;
  overflow-y: auto;
  padding: 4px 0;
  font-size: 13px;
}
.title {
  padding: 2px 12px 4px;
  font-size: 12px;
}
.check {
  display: inline-block;
  width: 16px;
}
</style>
