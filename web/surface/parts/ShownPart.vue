<script setup lang="ts">
import { computed } from 'vue';
import type { Control } from '@core/surface/profile/profile';
import type { SimulatedUnit } from '../simulatedUnit';
import StripIcon from '@/ui/StripIcon.vue';
import { say } from '../texts';

/** What a stand-in only shows: a display, a coloured light, a picture, a meter. */
const props = defineProps<{ unit: SimulatedUnit; control: Control }>();
const seen = computed(() => props.unit.of(props.control.id));
const whole = computed(() => {
  const { control: c } = props;
  if (c.kind !== 'display' || c.position !== null) return undefined;
  return c.shows === 'page' ? say('whatTheEncodersSteer') : say('whatTheWindowShows');
});
const style = computed(() =>
  props.control.kind === 'colour'
    ? { background: seen.value.colour === '#000000' ? 'var(--well)' : seen.value.colour }
    : { '--at': `${(seen.value.value / 127) * 100}%` },
);
</script>

<template>
  <span
    v-if="control.kind === 'display'"
    class="display mono position-absolute bg-well"
    :role="whole ? 'status' : undefined"
    :aria-label="whole"
    :data-part="control.shows"
    :data-position="control.position"
    :data-row="control.over === 'encoder' ? control.row : undefined"
    >{{ seen.text }}</span
  >
  <span
    v-else-if="control.kind === 'icon'"
    class="position-absolute d-flex align-center justify-center bg-well"
    data-part="icon"
    :data-position="control.position"
    :data-row="control.over === 'encoder' ? control.row : undefined"
    ><StripIcon :icon="seen.icon"
  /></span>
  <i v-else class="position-absolute" :class="{ meter: control.kind === 'meter' }" :style="style" />
</template>

<style scoped>
.display {
  line-height: 1.1;
  padding: 0 1px;
  white-space: pre;
  overflow: hidden;
}
.meter {
  background: linear-gradient(var(--signal), var(--signal)) bottom / 100% var(--at) no-repeat var(--well);
}
</style>
