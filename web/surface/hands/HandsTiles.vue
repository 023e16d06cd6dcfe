<script setup lang="ts">
import { computed, ref } from 'vue';
import { bandsOf, columnsOf, stripsIn } from '@/session/columns';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import type { Grouping } from '@/session/settings';
import KindShape from '@/ui/KindShape.vue';
import { say } from '../texts';

/** Strips as tiles: a tap picks one, a tap while another is held adds it, a finger across them picks all that it comes by. */
const session = useSession();
const pick = usePick();
const GROUPINGS = ['family', 'kind', 'colour', 'session'] as const;
const grouping = ref<Grouping>('family');
const groupings = GROUPINGS.map((value) => ({ title: say(`tilesBy_${value}`), value }));
const bands = computed(() => {
  if (!session.shown) return [];
  const { sources, landing } = columnsOf(session.shown, grouping.value, new Set());
  return [sources, landing].flatMap((columns) =>
    bandsOf(columns).map((b) => ({
      key: b.key,
      label: b.label,
      colour: b.colour,
      strips: columns.slice(b.from, b.from + b.count).flatMap(stripsIn),
    })),
  );
});

/** Fingers that are down, with the tile of each. */
const fingers = new Map<number, string>();
const tileAt = (x: number, y: number) =>
  (document.elementFromPoint(x, y)?.closest('[data-tile]') as HTMLElement | null)?.dataset.tile ?? null;
function down(e: PointerEvent) {
  const id = (e.target as Element).closest<HTMLElement>('[data-tile]')?.dataset.tile;
  if (e.button !== 0 || id === undefined) return;
  // While one is held, taps add, or take away what was picked.
  if (fingers.size) pick.toggle(id);
  else if (pick.picked.length === 1 && pick.picked[0] === id) pick.none();
  else pick.only(id);
  fingers.set(e.pointerId, id);
  (e.currentTarget as Element).setPointerCapture(e.pointerId);
}
function move(e: PointerEvent) {
  const was = fingers.get(e.pointerId);
  if (was === undefined) return;
  const id = tileAt(e.clientX, e.clientY);
  if (id === null || id === was) return;
  fingers.set(e.pointerId, id);
  pick.set([...new Set([...pick.picked, was, id])]);
}
const up = (e: PointerEvent) => fingers.delete(e.pointerId);
function key(e: KeyboardEvent, id: string) {
  if (e.key !== 'Enter' && e.key !== ' ') return;
  e.preventDefault();
  if (e.shiftKey || e.ctrlKey) pick.toggle(id);
  else pick.only(id);
}
const tile = (id: string, colour: string) => ({
  minHeight: '48px',
  minWidth: '104px',
  maxWidth: '160px',
  touchAction: 'pan-y',
  borderInlineStart: `6px solid ${colour}`,
  outline: pick.chosen.has(id) ? '2px solid var(--picked)' : undefined,
  outlineOffset: '-2px',
});
</script>

<template>
  <section class="d-flex flex-column min-h-0 min-w-0" :aria-label="say('strips')">
    <div class="d-flex ga-2 align-center">
      <v-select
        v-model="grouping"
        :items="groupings"
        :aria-label="say('groupedBy')"
        style="min-height: 44px"
      />
      <v-btn height="44" variant="outlined" :disabled="!pick.picked.length" @click="pick.none">{{
        say('pickNone', { n: pick.picked.length })
      }}</v-btn>
    </div>
    <div
      class="overflow-y-auto flex-1-1-0 min-h-0"
      style="overscroll-behavior: contain"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="up"
    >
      <p v-if="!bands.length" class="soft">{{ say('noStripsYet') }}</p>
      <div v-for="band in bands" :key="band.key">
        <div
          v-if="grouping === 'colour' && band.colour"
          class="mt-1"
          :style="{ height: '6px', background: band.colour }"
          aria-hidden="true"
        />
        <div v-else class="soft small mt-1">{{ band.label }}</div>
        <div
          class="d-flex flex-wrap ga-1"
          role="listbox"
          aria-multiselectable="true"
          :aria-label="band.label"
        >
          <div
            v-for="s in band.strips"
            :key="s.id"
            class="bg-raised d-flex align-center ga-1 px-2 flex-1-1-0"
            role="option"
            tabindex="0"
            :aria-selected="pick.chosen.has(s.id)"
            :data-tile="s.id"
            :style="tile(s.id, s.colour)"
            @keydown="key($event, s.id)"
          >
            <KindShape :kind="s.kind" /><span class="text-truncate">{{ s.name || s.id }}</span>
          </div>
        </div>
      </div>
    </div>
  </section>
</template>
