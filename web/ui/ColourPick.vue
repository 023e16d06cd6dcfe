<script setup lang="ts">
import { defineAsyncComponent, ref } from 'vue';
import { say } from './texts';

/** A colour as a swatch; a click opens the picker, and what is picked is taken when it closes. */
const props = defineProps<{ colour: string; swatches: readonly string[] }>();
const emit = defineEmits<{ pick: [colour: string] }>();
const open = ref(false);
// It is large, and seldom opened.
const Picker = defineAsyncComponent(() =>
  import('vuetify/components/VColorPicker').then((m) => m.VColorPicker),
);
const picked = ref(props.colour);
function toggle(now: boolean) {
  open.value = now;
  if (now) picked.value = props.colour;
  else if (picked.value.toLowerCase() !== props.colour.toLowerCase())
    emit('pick', picked.value.slice(0, 7).toLowerCase());
}
</script>

<template>
  <v-menu :model-value="open" :close-on-content-click="false" @update:model-value="toggle">
    <template #activator="{ props: activator }">
      <v-btn
        v-bind="activator"
        class="swatch pa-1"
        variant="outlined"
        :aria-label="say('colour')"
        :title="say('colour')"
      >
        <i class="d-block" :style="{ background: colour }" />
      </v-btn>
    </template>
    <Picker
      v-model="picked"
      :modes="['hex']"
      mode="hex"
      show-swatches
      :swatches="[[...swatches.slice(0, 4)], [...swatches.slice(4, 8)], [...swatches.slice(8, 12)]]"
      width="260"
    />
  </v-menu>
</template>

<style scoped>
.swatch {
  min-width: 32px;
}
i {
  width: 24px;
  height: 20px;
}
</style>
