<script setup lang="ts">
import { mdiCheck } from '@mdi/js';
import { nextTick, ref, watch } from 'vue';
import KeyHint from './KeyHint.vue';
import { useMenu, type MenuItem } from './menu';

/** The menu that was asked for, where it was asked for. */
const menus = useMenu();
const list = ref<{ $el: HTMLElement } | null>(null);
watch(
  () => menus.menu,
  async (menu) => {
    if (!menu) return;
    await nextTick();
    setTimeout(
      () =>
        list.value?.$el.querySelector<HTMLElement>('[role^="menuitem"]:not([aria-disabled="true"])')?.focus(),
      0,
    );
  },
);
function choose(item: MenuItem) {
  menus.close();
  item.run();
}
</script>

<template>
  <v-menu
    :model-value="menus.menu !== null"
    :target="menus.menu ? [menus.menu.x, menus.menu.y] : undefined"
    max-height="60vh"
    @update:model-value="$event || menus.close()"
  >
    <v-list v-if="menus.menu" ref="list" role="menu" :aria-label="menus.menu.title" min-width="190">
      <v-list-subheader :title="menus.menu.title" />
      <v-list-item
        v-for="item in menus.menu.items"
        :key="item.label"
        :role="item.checked === undefined ? 'menuitem' : 'menuitemradio'"
        :aria-checked="item.checked"
        :aria-disabled="item.disabled || undefined"
        :disabled="item.disabled"
        :base-color="item.danger ? 'error' : undefined"
        @click="choose(item)"
      >
        <template #prepend>
          <span class="check d-inline-flex"><v-icon v-if="item.checked" :icon="mdiCheck" size="14" /></span>
        </template>
        {{ item.label }}
        <template v-if="item.keys" #append><KeyHint :keys="item.keys" class="ms-4" /></template>
      </v-list-item>
    </v-list>
  </v-menu>
</template>

<style scoped>
.check {
  width: 16px;
}
.v-list-subheader {
  min-height: 22px;
  font-size: 12px;
  padding: 0 12px !important;
  color: var(--ink-soft);
}
</style>
