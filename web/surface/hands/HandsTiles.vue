<script setup lang="ts">
import { computed, ref } from 'vue';
import { bandsOf, columnsOf, stripsIn } from '@/session/columns';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import type { Grouping } from '@/session/settings';
import StripIcon from '@/ui/StripIcon.vue';
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

/**
 * Fingers that are down: the tile of each, and where it began. A finger that goes up or down first scrolls, by hand: a browser that does it
 * takes the next tap for the end of a fling.
 */
interface Finger {
  tile: string;
  readonly x: number;
  readonly y: number;
  readonly top: number;
  way: 'none' | 'picks' | 'scrolls';
}
const fingers = new Map<number, Finger>();
/** Pixels before it is known which way a finger goes. */
const SLACK = 8;
const list = ref<HTMLElement | null>(null);
const tileAt = (x: number, y: number) =>
  (document.elementFromPoint(x, y)?.closest('[data-tile]') as HTMLElement | null)?.dataset.tile ?? null;
function down(e: PointerEvent) {
  const id = (e.target as Element).closest<HTMLElement>('[data-tile]')?.dataset.tile;
  if (e.button !== 0 || id === undefined) return;
  fingers.set(e.pointerId, {
    tile: id,
    x: e.clientX,
    y: e.clientY,
    top: list.value?.scrollTop ?? 0,
    way: 'none',
  });
  (e.currentTarget as Element).setPointerCapture(e.pointerId);
  if (fingers.size < 2) return;
  // While one is held, taps add, or take away what was picked.
  for (const [pointer, other] of fingers)
    if (other.way === 'none' && !joined.has(pointer)) {
      joined.add(pointer);
      if (joined.size === 1) pick.only(other.tile);
      else pick.toggle(other.tile);
    }
}
/** Fingers that have picked already while they are down. */
const joined = new Set<number>();
function move(e: PointerEvent) {
  const f = fingers.get(e.pointerId);
  if (!f) return;
  const [dx, dy] = [e.clientX - f.x, e.clientY - f.y];
  if (f.way === 'none' && Math.max(Math.abs(dx), Math.abs(dy)) > SLACK)
    f.way = Math.abs(dx) >= Math.abs(dy) || fingers.size > 1 ? 'picks' : 'scrolls';
  if (f.way === 'scrolls' && list.value) list.value.scrollTop = f.top - dy;
  if (f.way !== 'picks') return;
  const id = tileAt(e.clientX, e.clientY);
  if (id === null || id === f.tile) return;
  const was = f.tile;
  f.tile = id;
  const goesOn = begun === e.pointerId || joined.has(e.pointerId);
  pick.set([...new Set([...(goesOn ? pick.picked : []), was, id])]);
  begun = e.pointerId;
}
/** The finger that is going across tiles: it begins anew, and adds what it comes by. */
let begun: number | null = null;
function up(e: PointerEvent) {
  const f = fingers.get(e.pointerId);
  if (!f) return;
  fingers.delete(e.pointerId);
  if (begun === e.pointerId) begun = null;
  // One that was held while others tapped has picked with them.
  if (f.way !== 'none' || e.type === 'pointercancel' || joined.has(e.pointerId)) {
    joined.delete(e.pointerId);
    return;
  }
  if (pick.picked.length === 1 && pick.picked[0] === f.tile) pick.none();
  else pick.only(f.tile);
}
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
  touchAction: 'none',
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
        style="--v-input-control-height: 44px"
      />
      <v-btn height="44" variant="outlined" :disabled="!pick.picked.length" @click="pick.none">{{
        say('pickNone', { n: pick.picked.length })
      }}</v-btn>
    </div>
    <div
      ref="list"
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
            class="bg-raised d-flex align-center ga-1 px-1 flex-1-1-0"
            role="option"
            tabindex="0"
            :aria-selected="pick.chosen.has(s.id)"
            :data-tile="s.id"
            :style="tile(s.id, s.colour)"
            @keydown="key($event, s.id)"
          >
            <StripIcon :icon="s.icon" :size="16" />
            <span style="overflow-wrap: anywhere; line-height: 1.15">{{ s.name || s.id }}</span>
          </div>
        </div>
      </div>
    </div>
  </section>
</template>
