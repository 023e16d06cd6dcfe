<script setup lang="ts">
import { mdiArrowLeft, mdiPlay, mdiRepeat, mdiSkipPrevious, mdiStop } from '@mdi/js';
import { useElementSize, useEventListener, useMediaQuery } from '@vueuse/core';
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import { acrosses } from '@core/surface/encoders/across/registry';
import { alongs } from '@core/surface/encoders/along/registry';
import { keyRole } from '@core/surface/keys/registry';
import { reachRole } from '@core/surface/keys/reach';
import { reaches } from '@core/surface/reaches/registry';
import { MOST_TOUCHED, touchDesk } from '@core/surface/stands/touchDesk';
import type { IconId } from '@core/naming/iconIds';
import { barText } from '@core/session/time';
import { useTransport } from '@/audio/transport';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import StripIcon from '@/ui/StripIcon.vue';
import TouchEncoder from '../parts/TouchEncoder.vue';
import TouchFader from '../parts/TouchFader.vue';
import TouchKey from '../parts/TouchKey.vue';
import { say } from '../texts';
import { useSurface } from '../useSurface';
import HandsTiles from './HandsTiles.vue';
import { useAwake } from './useAwake';

/** A touch desk that fills the screen: it plays nothing itself, and steers the window that does. */
const props = defineProps<{ id: string }>();
const session = useSession();
const transport = useTransport();
const pick = usePick();
const surface = useSurface();
useAwake();

const failed = ref<string | null>(null);
watch(
  () => props.id,
  async (id) => {
    failed.value = null;
    pick.none();
    await transport.detach();
    try {
      await session.open(id);
      document.title = say('handsTitle', { name: session.document?.name ?? '' });
      transport.attachRemote();
    } catch (error) {
      failed.value = (error as Error).message;
    }
  },
  { immediate: true },
);
onBeforeUnmount(() => {
  void transport.detach();
  session.close();
});

// — what is there of the desk: as many faders as there is room for —
const body = ref<HTMLElement | null>(null);
const portrait = useMediaQuery('(orientation: portrait)');
const { width } = useElementSize(body);
const COLUMN = 96;
const TILES = 340;
const count = computed(() => {
  const room = portrait.value ? width.value : width.value - TILES;
  return Math.max(1, Math.min(MOST_TOUCHED, Math.floor(room / COLUMN)));
});
watch(count, (n) => surface.pass(touchDesk(n)), { immediate: true });
const UNIT = 'unit-1';
const device = computed(() => surface.simulated.get(UNIT) ?? null);
const slots = computed(() => surface.slots[UNIT] ?? []);
interface Place {
  readonly k: number;
  readonly id: string | null;
  readonly name: string;
  readonly colour: string;
  readonly icon: IconId;
  readonly vca: boolean;
}
const places = computed<readonly Place[]>(() =>
  Array.from({ length: count.value }, (_, k) => {
    const id = slots.value[k] ?? null;
    const vca = session.now?.vcas.find((v) => v.id === id);
    const strip = id === null ? undefined : session.strip(id);
    return {
      k,
      id,
      name: strip?.name ?? vca?.name ?? id ?? '',
      colour: strip?.colour ?? vca?.colour ?? 'var(--rule)',
      icon: strip?.icon ?? vca?.icon ?? 'none',
      vca: vca !== undefined,
    };
  }),
);
const fader = (k: number) => surface.field?.faders[UNIT]?.[k] ?? null;
const encoder = (k: number) => surface.field?.encoders[UNIT]?.[`encoder${k}`] ?? null;
const isAlong = computed(() => surface.field?.turnedAway.has(UNIT) ?? false);
const encoderName = (p: Place) => (isAlong.value ? (encoder(p.k)?.name ?? '') : p.name);

const STRIP_KEYS = [
  { role: 'mute', word: 'M', tone: 'alert' },
  { role: 'solo', word: 'S', tone: 'caution' },
  { role: 'pick', word: 'P', tone: 'picked' },
  { role: 'mode', word: 'A', tone: 'caution' },
] as const;
const word = (role: string) => keyRole(role)?.word ?? role;
const nameOf = (role: string) => keyRole(role)?.name ?? role;
const MODES = ['modeOff', 'modeRead', 'modeTouch', 'modeLatch', 'modeWrite', 'modeTrim'] as const;
const HELD = ['fine', 'second', 'default', 'picked', 'all'] as const;
const BANK = ['bankLeft', 'nudgeLeft', 'nudgeRight', 'bankRight'] as const;
const PAGE = ['pageLeft', 'pageRight', 'flip', 'lock', 'sendsAcross'] as const;

const cap = (id: string) => `${id[0]!.toUpperCase()}${id.slice(1)}`;
const functions = [
  ...acrosses.map((a) => ({ title: a.name, value: `across${cap(a.id)}` })),
  ...alongs.map((a) => ({ title: a.name, value: `along${cap(a.id)}` })),
].filter((f) => keyRole(f.value));
const steered = computed(() => {
  const { mode, across, along } = surface.shown.encoders;
  return mode === 'across' ? `across${cap(across)}` : `along${cap(along)}`;
});
const asList = reaches.map((r) => ({ title: r.name, value: r.id }));

// — the line —
const { playing } = session;
/** Where it breaks nothing is moved, and what fingers were doing is taken back: it comes back to the truth. */
const epoch = ref(0);
watch(
  () => playing.connected,
  (is, was) => {
    surface.tap = is ? null : () => true;
    if (is || !was) return;
    surface.dropAll();
    // Whatever a finger has hold of is let go of: it has to be taken hold of anew.
    epoch.value++;
  },
  { immediate: true, flush: 'sync' },
);
onBeforeUnmount(() => (surface.tap = null));
const status = computed(() =>
  !playing.connected ? say('lineGone') : playing.other ? say('otherPlays') : say('nobodyPlays'),
);
// Nothing of the page is moved by a finger that misses.
useEventListener(document, 'contextmenu', (e) => e.preventDefault());
</script>

<template>
  <main
    ref="body"
    class="d-flex flex-column ga-1 pa-1 overflow-hidden"
    style="
      height: 100dvh;
      user-select: none;
      -webkit-user-select: none;
      overscroll-behavior: none;
      touch-action: manipulation;
    "
  >
    <p v-if="failed" class="caution pa-4" role="alert">{{ say('couldNotOpen', { why: failed }) }}</p>
    <p v-else-if="!session.document" class="soft pa-4" role="status">{{ say('openingSession') }}</p>
    <template v-else>
      <header class="d-flex ga-1 align-center">
        <v-btn
          :icon="mdiArrowLeft"
          height="44"
          width="44"
          :to="`/session/${id}`"
          :aria-label="say('handsBack')"
        />
        <v-btn
          :icon="transport.rolling ? mdiStop : mdiPlay"
          height="44"
          width="64"
          variant="outlined"
          :disabled="!playing.connected"
          :aria-label="transport.rolling ? say('stop') : say('play')"
          @click="transport.toggle"
        />
        <v-btn
          :icon="mdiSkipPrevious"
          height="44"
          width="44"
          :disabled="!playing.connected"
          :aria-label="say('toStart')"
          @click="transport.locate(0)"
        />
        <v-btn
          :icon="mdiRepeat"
          height="44"
          width="44"
          :color="transport.looping ? 'primary' : undefined"
          :aria-pressed="transport.looping"
          :disabled="!playing.connected"
          :aria-label="say('loop')"
          @click="transport.toggleLoop"
        />
        <span class="mono" data-testid="bars">{{ barText(transport.position, session.document.tempo) }}</span>
        <v-slider
          class="flex-1-1-0"
          :model-value="transport.position"
          :max="transport.length || 1"
          :step="0.1"
          :disabled="!playing.connected"
          :aria-label="say('placeInSong')"
          hide-details
          @end="transport.locate($event)"
        />
        <v-btn
          height="44"
          variant="text"
          :disabled="!session.undoLabel || !playing.connected"
          @click="session.undo()"
          >{{ say('undo') }}</v-btn
        >
        <v-btn
          height="44"
          variant="text"
          :disabled="!session.redoLabel || !playing.connected"
          @click="session.redo()"
          >{{ say('redo') }}</v-btn
        >
      </header>
      <p class="small ma-0 px-1" :class="playing.connected ? 'soft' : 'caution'" role="status">
        {{ status }} <span class="mono ms-4">{{ surface.field?.page.text }}</span>
      </p>
      <div
        :key="epoch"
        class="d-flex ga-1 flex-1-1-0 min-h-0"
        :class="portrait ? 'flex-column' : 'flex-row'"
        :inert="!playing.connected"
        :style="{ opacity: playing.connected ? 1 : 0.4 }"
      >
        <HandsTiles :style="portrait ? { flex: '0 1 34%' } : { flex: `0 0 ${TILES}px` }" />
        <section
          v-if="device"
          class="d-flex flex-column ga-1 flex-1-1-0 min-w-0 min-h-0"
          :aria-label="say('handsOn')"
        >
          <div class="d-flex flex-wrap ga-1">
            <v-select
              class="flex-1-1-0"
              :model-value="surface.windows[0]?.reach.id"
              :items="asList"
              :aria-label="say('reach')"
              style="min-width: 130px; --v-input-control-height: 44px"
              @update:model-value="surface.press(reachRole($event), UNIT)"
            />
            <TouchKey v-for="r in BANK" :id="r" :key="r" :unit="device" :word="word(r)" :label="nameOf(r)" />
          </div>
          <div class="d-flex flex-wrap ga-1">
            <v-select
              class="flex-1-1-0"
              :model-value="steered"
              :items="functions"
              :aria-label="say('encodersSteer')"
              style="min-width: 130px; --v-input-control-height: 44px"
              @update:model-value="surface.press($event, UNIT)"
            />
            <TouchKey v-for="r in PAGE" :id="r" :key="r" :unit="device" :word="word(r)" :label="nameOf(r)" />
          </div>
          <div class="d-flex flex-wrap ga-1" role="group" :aria-label="say('modesOfPicked')">
            <TouchKey
              v-for="r in MODES"
              :id="r"
              :key="r"
              :unit="device"
              :with="pick.picked.length ? 'picked' : undefined"
              :word="word(r)"
              :label="nameOf(r)"
            />
            <TouchKey v-for="r in HELD" :id="r" :key="r" :unit="device" :word="word(r)" :label="nameOf(r)" />
          </div>
          <div class="d-flex ga-1 flex-1-1-0 min-h-0">
            <div
              v-for="p in places"
              :key="p.k"
              class="d-flex flex-column ga-1 flex-1-1-0 min-w-0 min-h-0"
              :data-place="p.k"
            >
              <TouchEncoder
                :id="`encoder${p.k}`"
                :unit="device"
                :label="say('encoderI', { i: p.k + 1, what: encoder(p.k)?.label ?? say('nothing') })"
                :name="encoderName(p)"
                :text="encoder(p.k)?.text ?? ''"
                :travel="encoder(p.k)?.travel ?? 0"
              />
              <div class="d-flex flex-wrap ga-1">
                <TouchKey
                  v-for="key in STRIP_KEYS"
                  :id="`${key.role}${p.k}`"
                  :key="key.role"
                  :unit="device"
                  :word="key.word"
                  :tone="key.tone"
                  :label="`${nameOf(key.role)} ${p.name || say('nothing')}`"
                />
              </div>
              <div class="small text-center text-truncate" :style="{ borderTop: `3px solid ${p.colour}` }">
                <StripIcon :icon="p.icon" :size="16" class="me-1" />{{ p.name || '–' }}
              </div>
              <div class="small text-center mono">{{ fader(p.k)?.text ?? '' }}</div>
              <TouchFader
                :id="`fader${p.k}`"
                :unit="device"
                :label="say('faderI', { i: p.k + 1, what: fader(p.k)?.label ?? say('nothing') })"
                :text="fader(p.k)?.text ?? ''"
                :colour="p.colour"
                :vca="p.vca"
              />
            </div>
          </div>
        </section>
      </div>
    </template>
  </main>
</template>
