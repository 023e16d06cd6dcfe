<script setup lang="ts">
import { computed } from 'vue';
import { processorOf } from '../../../core/processors/registry';
import { valueOf, type Parameter } from '../../../core/processors/description';
import type { Command, InsertPatch } from '../../../core/session/commands/types';
import type { Insert, Strip } from '../../../core/session/types';
import { usePick } from '../../stores/pick';
import { useSession } from '../../stores/session';
import ParameterSlider from '../ParameterSlider.vue';

const props = defineProps<{ strip: Strip; insert: Insert }>();
const session = useSession();
const pick = usePick();
const processor = computed(() => processorOf(props.insert.type));

const patch = (p: InsertPatch): readonly Command[] => [
  { type: 'insert.set', strip: props.strip.id, id: props.insert.id, patch: p },
];
const param = (p: Parameter, value: number) => patch({ params: { ...props.insert.params, [p.id]: value } });
const label = (what: string) => `${what} of ${processor.value.name}, ${props.strip.name || props.strip.id}`;
const gesture = computed(() => `insert ${props.insert.id}`);
const decimals = (p: Parameter) => Math.max(0, -Math.floor(Math.log10(p.step)));
const text = (p: Parameter) => `${valueOf(p, props.insert.params).toFixed(decimals(p))} ${p.unit}`;
const read = (t: string) => {
  const n = Number(t.replace(',', '.').replace(/[^\d.+-]/g, ''));
  return t.trim() === '' || Number.isNaN(n) ? undefined : n;
};
function remove() {
  session.commit(label('remove'), [{ type: 'insert.remove', strip: props.strip.id, id: props.insert.id }]);
  pick.insert = null;
}
</script>

<template>
  <section class="editor" :aria-label="`${processor.name} of ${strip.name}`">
    <header>
      <b>{{ processor.name }}</b>
      <span class="soft">{{ insert.place === 'pre' ? 'before the fader' : 'after the fader' }}</span>
      <button class="plain" aria-label="Close the editor" @click="pick.insert = null">✕</button>
    </header>
    <div class="row">
      <button
        class="plain boxed"
        :aria-pressed="insert.on"
        :class="{ primary: insert.on }"
        @click="session.commit(label(insert.on ? 'bypass' : 'switch on'), patch({ on: !insert.on }))"
      >
        {{ insert.on ? 'On' : 'Bypassed' }}
      </button>
      <button
        class="plain boxed"
        @click="session.commit(label('place'), patch({ place: insert.place === 'pre' ? 'post' : 'pre' }))"
      >
        Move {{ insert.place === 'pre' ? 'after' : 'before' }} the fader
      </button>
    </div>
    <ParameterSlider
      v-for="p in processor.parameters"
      :key="p.id"
      :label="p.name"
      :value="valueOf(p, insert.params)"
      :min="p.min"
      :max="p.max"
      :default="p.default"
      :step="p.step"
      :law="p.law"
      :text="text(p)"
      :read="read"
      @live="session.live(gesture, param(p, $event))"
      @land="session.land(gesture, label(p.name), param(p, $event))"
      @settle="session.settle(`${gesture} ${p.id}`, label(p.name), param(p, $event))"
      @typed="session.commit(label(p.name), param(p, $event ?? p.default))"
    />
    <ParameterSlider
      label="Mix"
      :value="insert.mix * 100"
      :min="0"
      :max="100"
      :default="100"
      :step="1"
      :text="`${Math.round(insert.mix * 100)} %`"
      :read="read"
      @live="session.live(gesture, patch({ mix: $event / 100 }))"
      @land="session.land(gesture, label('mix'), patch({ mix: $event / 100 }))"
      @settle="session.settle(`${gesture} mix`, label('mix'), patch({ mix: $event / 100 }))"
      @typed="session.commit(label('mix'), patch({ mix: ($event ?? 100) / 100 }))"
    />
    <p v-if="strip.kind === 'return' && insert.mix < 1" class="caution">
      On a return the dry signal comes by its own path already: a mix below 100 % doubles it.
    </p>
    <button class="plain danger" @click="remove">Remove this insert</button>
  </section>
</template>

<style scoped>
.editor {
  border-top: 1px solid var(--rule);
  padding-top: 8px;
  margin-top: 8px;
}
header {
  display: flex;
  gap: 8px;
  align-items: baseline;
  font-size: 13px;
}
header .plain {
  margin-left: auto;
}
.row {
  display: flex;
  gap: 6px;
  margin: 6px 0;
  font-size: 13px;
}
.caution {
  color: var(--caution);
  font-size: 13px;
  margin: 6px 0;
}
</style>
