<script setup lang="ts">
import { FAMILIES } from '@core/naming/lexicon';
import type { Band } from '@/session/columns';
import { useDrag } from '@/ui/drag';

/** A thin map of all columns by their bands: it shows where the view stands, and jumps. */
const props = defineProps<{
  label: string;
  /** The id of what it scrolls. */
  zone: string;
  bands: readonly Band[];
  edges: readonly number[];
  from: number;
  share: number;
  /** Columns that lie under a unit of the desk: from, and how many. */
  hands?: readonly { readonly from: number; readonly count: number }[];
}>();
const emit = defineEmits<{ go: [share: number] }>();

function at(e: PointerEvent) {
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect();
  emit('go', Math.max(0, Math.min(1, (e.clientX - box.left) / box.width)));
}
const drag = useDrag({
  begin(e) {
    at(e);
    return true;
  },
  move: at,
  end() {},
});
const colour = (b: Band) =>
  FAMILIES.find((f) => f.name === b.label)?.colour ?? (b.colour || 'var(--ink-soft)');
function key(e: KeyboardEvent) {
  const middle = props.from + props.share / 2;
  if (e.key === 'ArrowLeft') emit('go', middle - props.share / 4);
  else if (e.key === 'ArrowRight') emit('go', middle + props.share / 4);
  else return;
  e.preventDefault();
  e.stopPropagation();
}
</script>

<template>
  <div
    class="map position-absolute bg-sheet cursor-pointer"
    role="scrollbar"
    aria-orientation="horizontal"
    :aria-controls="zone"
    :aria-label="label"
    :aria-valuenow="Math.round((from / Math.max(0.001, 1 - share)) * 100)"
    aria-valuemin="0"
    aria-valuemax="100"
    tabindex="0"
    v-on="drag.on"
    @keydown="key"
  >
    <i
      v-for="b in bands"
      :key="b.key"
      class="band position-absolute opacity-70"
      :style="{
        left: `${(edges[b.from]! / edges.at(-1)!) * 100}%`,
        width: `calc(${((edges[b.from + b.count]! - edges[b.from]!) / edges.at(-1)!) * 100}% - 2px)`,
        background: colour(b),
      }"
    />
    <i
      v-for="u in hands ?? []"
      :key="`hands ${u.from}`"
      class="hands position-absolute"
      :style="{
        left: `${(edges[u.from]! / edges.at(-1)!) * 100}%`,
        width: `calc(${((edges[u.from + u.count]! - edges[u.from]!) / edges.at(-1)!) * 100}% - 2px)`,
      }"
    />
    <i
      class="view position-absolute top-0 bottom-0"
      :style="{ left: `${from * 100}%`, width: `${share * 100}%` }"
    />
  </div>
</template>

<style scoped>
.map {
  height: 14px;
  touch-action: none;
}
.band {
  top: 5px;
  height: 4px;
}
.hands {
  bottom: 0;
  height: 3px;
  background: var(--signal);
}
.view {
  margin: 1px 0;
  border: 1px solid var(--ink);
  background: color-mix(in srgb, var(--ink) 12%, transparent);
}
</style>
