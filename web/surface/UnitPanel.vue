<script setup lang="ts">
import { computed } from 'vue';
import { keyRole } from '@core/surface/keys/registry';
import type { Unit } from '@core/surface/desk/desk';
import { addressKey, type Control, type SurfaceProfile } from '@core/surface/profile/profile';
import { useSession } from '@/session/session';
import EncoderPart from './parts/EncoderPart.vue';
import FaderPart from './parts/FaderPart.vue';
import KeyPart from './parts/KeyPart.vue';
import ShownPart from './parts/ShownPart.vue';
import { geometryOf } from './parts/scale';
import type { SimulatedUnit } from './simulatedUnit';
import { say } from './texts';
import { useSurface } from './useSurface';

/** One unit of the desk, drawn as its profile says where its controls lie. */
const props = defineProps<{
  unit: Unit;
  profile: SurfaceProfile;
  device: SimulatedUnit;
  /** Pixels of a millimetre. */
  scale: number;
  number: number | null;
}>();
const surface = useSurface();
const session = useSession();
/** What is drawn is the device itself; what its controls mean is said by the profile that was learned of it. */
const geometry = computed(() => geometryOf(props.device.profile));
const meant = computed(
  () =>
    new Map(
      props.profile === props.device.profile
        ? []
        : props.profile.controls.flatMap((c) => ('in' in c ? [[addressKey(c.in), c] as const] : [])),
    ),
);
const unlearned = computed(() => surface.profile(props.unit.profile) === undefined);
const meaning = (c: Control): Control => ('in' in c && meant.value.get(addressKey(c.in))) || c;
const slots = computed(() => surface.slots[props.unit.id] ?? []);
const nameOf = (id: string | null | undefined) =>
  id ? (session.strip(id)?.name ?? session.now?.vcas.find((v) => v.id === id)?.name ?? id) : say('nothing');

interface Part {
  readonly control: Control;
  readonly style: Readonly<Record<string, string>>;
  readonly width: number;
  readonly height: number;
}
const parts = computed<readonly Part[]>(() =>
  props.device.profile.controls.map((control) => {
    const p = geometry.value.places.get(control.id)!;
    const px = (mm: number) => `${Math.round(mm * props.scale)}px`;
    return {
      control,
      width: Math.round(p.width * props.scale),
      height: Math.round(p.height * props.scale),
      style: { left: px(p.x), top: px(p.y), width: px(p.width), height: px(p.height) },
    };
  }),
);
const of = (kind: Control['kind']) => parts.value.filter((p) => p.control.kind === kind);
const faders = computed(() => of('fader'));
const encoders = computed(() => of('encoder'));
const keys = computed(() => of('key'));
const shown = computed(() => [...of('colour'), ...of('icon'), ...of('display'), ...of('meter')]);

/** Letters as large as a display, or a key, has room for. */
const LETTER = 0.61;
const font = (pixels: number, letters: number, most: number) =>
  `${Math.max(8, Math.min(most, pixels / letters / LETTER))}px`;
const fontOf = ({ control, width, height }: Part) =>
  control.kind === 'display'
    ? font(width - 2, control.position === null ? 1 : control.characters, Math.min(12, height - 1))
    : undefined;
const keyFont = ({ control, width }: Part) =>
  font(
    width - 2,
    Math.max(
      ...keyWord(control)
        .split(' ')
        .map((w) => w.length),
    ),
    10,
  );

/** What lies under a fader or an encoder, in words. */
const bindingOf = (drawn: Control) => {
  const c = meaning(drawn);
  if (unlearned.value) return undefined;
  return c.kind === 'fader'
    ? surface.field?.faders[props.unit.id]?.[c.position]
    : surface.field?.encoders[props.unit.id]?.[c.id];
};
function label(c: Control): string {
  const binding = bindingOf(c);
  const what = binding?.label ?? say('nothing');
  if (c.kind === 'fader') return say('faderI', { i: c.position + 1, what });
  if (c.kind !== 'encoder') return '';
  return c.row || props.profile.width === 0
    ? say('encoderIRow', { i: c.position + 1, row: c.row + 1, what })
    : say('encoderI', { i: c.position + 1, what });
}
const text = (c: Control) => bindingOf(c)?.text ?? '';
const keyWord = (drawn: Control) => {
  const c = meaning(drawn);
  if (c.kind !== 'key' || (c === drawn && isLearned.value)) return '';
  return c.role === 'user' ? `F${c.user}` : (WORDS[c.role] ?? keyRole(c.role)?.word ?? '');
};
/** Of a device that was learned, or has yet to be, what it is for is not written on it. */
const isLearned = computed(
  () => props.unit.connection.type === 'simulated' && props.unit.connection.device !== null,
);
const WORDS: Readonly<Record<string, string>> = {
  pick: say('p'),
  mute: 'M',
  solo: 'S',
  mode: 'A',
};
function keyLabel(drawn: Control): string {
  const c = meaning(drawn);
  if (c.kind !== 'key') return '';
  if (c === drawn && isLearned.value) return say('keyNothing', { id: c.id });
  const name = c.role === 'user' ? say('userKeyN', { n: c.user ?? 0 }) : (keyRole(c.role)?.name ?? c.role);
  return c.position === null ? name : `${name} ${c.position + 1}, ${nameOf(slots.value[c.position])}`;
}
function keyTitle(drawn: Control): string {
  const c = meaning(drawn);
  if (c.kind !== 'key') return '';
  if (c === drawn && isLearned.value) return keyLabel(drawn);
  const action = surface.desk.userKeys.find((k) => k.key === c.user && k.layer === surface.shown.layer);
  if (c.role === 'user') return `${keyLabel(drawn)}: ${action?.action ?? say('free')}`;
  return `${keyLabel(drawn)}. ${keyRole(c.role)?.about ?? ''}`;
}
const TONES: Readonly<Record<string, string>> = {
  pick: 'picked',
  mute: 'alert',
  solo: 'caution',
  mode: 'caution',
};
const tone = (c: Control) => (c.kind === 'key' ? (TONES[c.role] ?? 'signal') : 'signal');
const fadedAt = (c: Control) => {
  const id = c.kind === 'fader' && !unlearned.value ? bindingOf(c)?.owner : null;
  return id ? (session.strip(id) ?? session.now?.vcas.find((v) => v.id === id)) : undefined;
};
const isVca = (c: Control) => {
  const found = fadedAt(c);
  return found !== undefined && 'members' in found;
};
const size = computed(() => ({
  width: `${Math.round(geometry.value.width * props.scale)}px`,
  height: `${Math.round(geometry.value.height * props.scale)}px`,
}));
</script>

<template>
  <section class="unit flex-0-0" :aria-label="unit.name" :data-unit="unit.id">
    <header class="d-flex ga-2 align-center">
      <b v-if="number" class="number px-1" :title="say('unitMarkSheet', { n: number })">{{ number }}</b>
      <b class="text-truncate">{{ unit.name }}</b>
      <v-chip v-if="unit.connection.type === 'simulated'" class="caution" :text="say('simulated')" />
    </header>
    <div class="face position-relative bg-sheet" :style="size">
      <ShownPart
        v-for="p in shown"
        :key="p.control.id"
        :unit="device"
        :control="p.control"
        :style="{ ...p.style, fontSize: fontOf(p) }"
      />
      <EncoderPart
        v-for="p in encoders"
        :id="p.control.id"
        :key="p.control.id"
        :unit="device"
        :label="label(p.control)"
        :text="text(p.control)"
        :ends="p.control.kind === 'encoder' && p.control.coding === 'position'"
        :style="p.style"
      />
      <KeyPart
        v-for="p in keys"
        :id="p.control.id"
        :key="p.control.id"
        :unit="device"
        :word="keyWord(p.control)"
        :label="keyLabel(p.control)"
        :title="keyTitle(p.control)"
        :tone="tone(p.control)"
        :style="{ ...p.style, fontSize: keyFont(p) }"
      />
      <FaderPart
        v-for="p in faders"
        :id="p.control.id"
        :key="p.control.id"
        :unit="device"
        :height="p.height"
        :label="label(p.control)"
        :text="text(p.control)"
        :colour="fadedAt(p.control)?.colour ?? 'var(--rule)'"
        :vca="isVca(p.control)"
        :style="p.style"
      />
    </div>
  </section>
</template>

<style scoped>
header {
  height: 26px;
}
.number {
  border: 1px solid var(--signal);
}
.face {
  border: 1px solid var(--rule);
}
</style>
