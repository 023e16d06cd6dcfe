<script setup lang="ts">
import type { IconId } from '@core/naming/iconIds';
import { ICON_PATHS } from './stripIcons';

/** A strip's icon; nothing where it has none. The name beside it says what it is. */
withDefaults(defineProps<{ icon: IconId; size?: number }>(), { size: 14 });
</script>

<template>
  <v-icon
    v-if="icon !== 'none'"
    class="strip-icon flex-0-0"
    :icon="ICON_PATHS[icon]"
    :size="size"
    :data-icon="icon"
    aria-hidden="true"
  />
</template>
