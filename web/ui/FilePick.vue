<script setup lang="ts">
import { onMounted, useTemplateRef } from 'vue';

/** Lets files be chosen: nothing to see; `choose` opens the browser's own dialog. */
const props = defineProps<{ label: string; accept: string; multiple?: boolean; folder?: boolean }>();
const emit = defineEmits<{ files: [files: File[]] }>();
const input = useTemplateRef('input');
const choose = () => input.value?.click();
onMounted(() => {
  const own = (input.value as unknown as { $el: HTMLElement } | null)?.$el.querySelector('input');
  if (props.folder && own) own.webkitdirectory = true;
});
defineExpose({ choose });
function chosen(given: File | File[] | null | undefined) {
  const files = given ? [given].flat() : [];
  if (files.length) emit('files', files);
}
</script>

<template>
  <v-file-input
    ref="input"
    class="offscreen"
    :model-value="[]"
    :label="label"
    :aria-label="label"
    :accept="accept"
    :multiple="multiple"
    tabindex="-1"
    prepend-icon=""
    :clearable="false"
    hide-details
    @update:model-value="chosen"
  />
</template>
