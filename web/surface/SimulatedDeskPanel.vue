<script setup lang="ts">
import { storeToRefs } from 'pinia';
import { useDrag } from '@/ui/drag';
import { useSurface } from './useSurface';
import { say } from './texts';

const surface = useSurface();
// The ref itself: the desk is the same object when it has moved, which a computed value would not pass on.
const { desk } = storeToRefs(surface);

// Pixels from the top of a fader's slot to its bottom.
const SLOT = 220;
/** The number of the strip whose control an event is on. */
const positionOf = (e: Event) =>
  Number((e.currentTarget as Element).closest('[data-position]')!.getAttribute('data-position'));

const fader = useDrag({
  begin(e) {
    const position = positionOf(e);
    desk.value.touch(position, true);
    return { position, from: desk.value.strips[position]!.fader };
  },
  move: (e, { start, note }) =>
    desk.value.move(
      note.position,
      note.from + ((start.clientY - e.clientY) / SLOT) * 16383 * (e.shiftKey ? 0.1 : 1),
    ),
  end: ({ note }) => desk.value.touch(note.position, false),
});
let letGo: ReturnType<typeof setTimeout> | null = null;
function key(e: KeyboardEvent, position: number) {
  const step =
    e.key === 'ArrowUp'
      ? 1
      : e.key === 'ArrowDown'
        ? -1
        : e.key === 'PageUp'
          ? 8
          : e.key === 'PageDown'
            ? -8
            : 0;
  if (!step) return;
  e.preventDefault();
  e.stopPropagation();
  // A key is a hand that takes hold, moves, and lets go when it has rested.
  desk.value.touch(position, true);
  desk.value.move(position, desk.value.strips[position]!.fader + step * (e.shiftKey ? 16 : 96));
  if (letGo) clearTimeout(letGo);
  letGo = setTimeout(() => desk.value.touch(position, false), 500);
}
function turn(e: WheelEvent | KeyboardEvent, position: number) {
  const steps =
    e instanceof WheelEvent
      ? e.deltaY < 0
        ? 1
        : -1
      : e.key === 'ArrowRight' || e.key === 'ArrowUp'
        ? 1
        : e.key === 'ArrowLeft' || e.key === 'ArrowDown'
          ? -1
          : 0;
  if (!steps) return;
  e.preventDefault();
  e.stopPropagation();
  desk.value.turn(position, steps);
}
const knob = useDrag({
  begin: (e) => ({ position: positionOf(e), y: e.clientY }),
  move(e, { note }) {
    const steps = Math.trunc((note.y - e.clientY) / 4);
    note.y -= steps * 4;
    if (steps) desk.value.turn(note.position, steps);
  },
  end() {},
});
/** What a lit key looks like, as on the Sheet. */
const LIT = { pick: 'picked', mute: 'alert', solo: 'caution' } as const;
const WIDE: readonly [string, string, string][] = [
  ['bankLeft', say('bank'), say('bankLeft')],
  ['bankRight', say('bank2'), say('bankRight')],
  ['nudgeLeft', say('nudge'), say('nudgeLeft')],
  ['nudgeRight', say('nudge2'), say('nudgeRight')],
  ['insert', say('insert'), say('insertsPickedStripEncoders')],
  ['pageLeft', say('page2'), say('pageLeft')],
  ['pageRight', say('page3'), say('pageRight')],
  ['play', say('play'), say('play')],
  ['stop', say('stop'), say('stop')],
];
</script>

<template>
  <section class="bg-sheet border-thin pa-4" :aria-label="say('simulatedDesk')">
    <header class="d-flex ga-2 align-baseline mb-3">
      <b>{{ surface.profile.name }}</b>
      <v-chip class="caution" :text="say('simulated')" />
      <span class="soft">{{ say('speaksSameMidiBytesAs') }}</span>
    </header>
    <p
      class="page mono mt-0 mx-0 mb-2 py-1 px-2 bg-well text"
      data-part="page"
      role="status"
      :aria-label="say('whatTheEncodersSteer')"
    >
      {{ desk.page }}
    </p>
    <div class="strips d-flex flex-wrap ga-2">
      <div
        v-for="(s, i) in desk.strips"
        :key="i"
        class="strip flex-1-1-0 d-flex flex-column align-center ga-2"
        :class="{ 'opacity-40': !surface.shownStrips[i] }"
        :data-position="i"
      >
        <div
          class="display mono w-100 bg-well py-1 px-1 d-flex flex-column text"
          :style="{ borderTopColor: s.colour }"
        >
          <span data-part="name">{{ s.name || '·' }}</span>
          <span class="soft" data-part="value">{{ s.value }}</span>
        </div>
        <div
          class="encoder ns-drag d-flex align-end w-100 justify-center bg-raised pa-1"
          role="slider"
          tabindex="0"
          :aria-label="
            say('encoderIInsert', {
              i: i + 1,
              insert: desk.buttons.insert ? s.name || say('nothing') : say('pan'),
            })
          "
          :aria-valuenow="s.ring"
          aria-valuemin="0"
          aria-valuemax="127"
          :aria-valuetext="desk.buttons.insert ? s.value : undefined"
          :title="say('insertDragWheelArrows', { insert: desk.buttons.insert ? s.name : say('panTitle') })"
          v-on="knob.on"
          @wheel="turn($event, i)"
          @keydown="turn($event, i)"
        >
          <i
            v-for="n in 11"
            :key="n"
            :class="{ lit: s.ring > 0 && Math.round(((s.ring - 1) / 126) * 10) === n - 1 }"
          />
        </div>
        <div class="d-flex ga-1">
          <v-btn
            v-for="role in ['pick', 'mute', 'solo'] as const"
            :key="role"
            :variant="s.lights[role] ? 'flat' : 'outlined'"
            :color="s.lights[role] ? LIT[role] : undefined"
            size="x-small"
            :aria-pressed="s.lights[role]"
            :aria-label="say(role, { position: i + 1 })"
            @click="desk.push(role, i)"
          >
            {{ role === 'pick' ? say('p') : role === 'mute' ? 'M' : 'S' }}
          </v-btn>
        </div>
        <div
          class="slot ns-drag position-relative"
          role="slider"
          tabindex="0"
          :aria-label="say('faderI', { i: i + 1 })"
          :aria-valuenow="s.fader"
          aria-valuemin="0"
          aria-valuemax="16383"
          :aria-valuetext="`${s.name} ${s.value}`"
          :style="{ height: `${SLOT + 24}px` }"
          v-on="fader.on"
          @keydown="key($event, i)"
        >
          <i class="groove position-absolute bg-well top-0 bottom-0 my-2" />
          <i
            class="cap position-absolute"
            :class="{ touched: s.touched }"
            :style="{ top: `${(1 - s.fader / 16383) * SLOT}px`, '--strip': s.colour }"
          />
        </div>
      </div>
      <div class="wide d-flex flex-column ga-2">
        <v-btn
          v-for="[role, text, label] in WIDE"
          :key="role"
          variant="outlined"
          :aria-label="label"
          :color="desk.buttons[role] ? 'primary' : undefined"
          @click="desk.push(role)"
        >
          {{ text }}
        </v-btn>
      </div>
    </div>
    <p class="soft hint mt-3 mx-0 mb-0 text">
      {{ say('pickStripP') }} <b>{{ say('insert') }}</b> {{ say('laysInsertsAlongEncodersOne') }}
      <b>{{ say('page') }}</b> {{ say('goesThroughInsertsParameters') }}
    </p>
  </section>
</template>

<style scoped>
.page {
  min-height: 26px;
}
.strip {
  min-width: 56px;
  max-width: 110px;
}
.display {
  border-top: 4px solid;
  min-height: 46px;
}
.encoder {
  gap: 2px;
  height: 26px;
}
.encoder i {
  flex: 1;
  height: 8px;
  background: var(--rule);
}
.encoder i.lit {
  background: var(--signal);
  height: 16px;
}
.slot {
  width: 56px;
}
.groove {
  left: 26px;
  width: 3px;
}
.cap {
  inset: 0 10px auto;
  height: 24px;
  background: linear-gradient(var(--raised) 0 11px, var(--strip) 11px 13px, var(--raised) 13px);
  border: 1px solid var(--ink-soft);
  transition: top 60ms linear;
}
.cap.touched {
  border-color: var(--signal);
  transition: none;
}
.wide {
  width: 104px;
}
@media (max-width: 920px) {
  .wide {
    flex-flow: row wrap;
    width: 100%;
  }
}
.wide .v-btn {
  height: 36px;
}
</style>
