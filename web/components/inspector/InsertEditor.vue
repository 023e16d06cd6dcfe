<script setup lang="ts">
import { computed } from 'vue';
import { reach } from '../../../core/routing/graph';
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
const UNITS: Partial<Record<Parameter['unit'], string>> = { ratio: ': 1', choice: '' };
const text = (p: Parameter) => {
  const value = valueOf(p, props.insert.params);
  return p.choices
    ? p.choices[Math.round(value)]!
    : `${value.toFixed(decimals(p))} ${UNITS[p.unit] ?? p.unit}`;
};
const sliders = computed(() => processor.value.parameters.filter((p) => !p.choices));
const choices = computed(() => processor.value.parameters.filter((p) => p.choices));
/** Strips that may key it: all but itself and what it feeds. */
const keys = computed(() => {
  const fed = reach(session.shown!, [props.strip.id], 'downstream');
  return session.shown!.strips.filter(
    (s) => s.id !== props.strip.id && s.kind !== 'output' && !fed.has(s.id),
  );
});

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
    <label v-if="processor.takesKey" class="choice"
      ><span>Key</span>
      <select
        class="field"
        :value="insert.key ?? ''"
        @change="
          session.commit(label('key'), patch({ key: ($event.target as HTMLSelectElement).value || null }))
        "
      >
        <option value="">its own signal</option>
        <option v-for="k in keys" :key="k.id" :value="k.id">{{ k.name || k.id }}</option>
      </select></label
    >
    <label v-for="p in choices" :key="p.id" class="choice"
      ><span>{{ p.name }}</span>
      <select
        class="field"
        :value="Math.round(valueOf(p, insert.params))"
        @change="session.commit(label(p.name), param(p, Number(($event.target as HTMLSelectElement).value)))"
      >
        <option v-for="(c, i) in p.choices" :key="c" :value="i">{{ c }}</option>
      </select></label
    >
    <ParameterSlider
      v-for="p in sliders"
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
    <p v-if="strip.kind === 'return' && insert.mix < 1 && processor.ambient" class="caution">
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
.choice {
  display: grid;
  grid-template-columns: 92px 1fr;
  align-items: center;
  font-size: 13px;
  margin: 3px 0;
}
.caution {
  color: var(--caution);
  font-size: 13px;
  margin: 6px 0;
}
</style>
