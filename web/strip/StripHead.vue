<script setup lang="ts">
import { computed } from 'vue';
import { FAMILIES } from '@core/naming/lexicon';
import type { StripPatch } from '@core/edits/commands';
import { usePick } from '@/session/pick';
import * as rules from '@/session/rules';
import { useSession } from '@/session/session';
import ColourPick from '@/ui/ColourPick.vue';
import StripIcon from '@/ui/StripIcon.vue';
import { useCommands } from '@/commands/commands';
import { kindWord } from '@/session/words';
import { iconWord } from './iconWords';
import { say } from './texts';

/** Name, colour, icon and family of the strip that is shown. */
const session = useSession();
const commands = useCommands();
const pick = usePick();
const strip = computed(() => (pick.shown ? session.strip(pick.shown) : undefined));
const families = computed(() => [
  ...(FAMILIES.some((f) => f.name === strip.value!.family)
    ? []
    : [{ title: strip.value!.family || say('noFamily'), value: strip.value!.family }]),
  ...FAMILIES.map((f) => ({ title: f.name, value: f.name })),
]);
const set = (what: string, patch: StripPatch) =>
  session.commit(`${what} ${strip.value!.name || strip.value!.id}`, [
    { type: 'strip.set', id: strip.value!.id, patch },
  ]);
async function rename(e: Event) {
  const name = (e.target as HTMLInputElement).value.trim();
  if (name !== strip.value!.name && (await rules.keeps(rules.name, name))) set(say('rename'), { name });
}
const setFamily = (family: string) =>
  set(say('familyWord'), {
    family,
    colour: FAMILIES.find((f) => f.name === family)?.colour ?? strip.value!.colour,
  });
</script>

<template>
  <div v-if="strip">
    <header class="row">
      <v-text-field
        class="name"
        variant="plain"
        :model-value="strip.name"
        :placeholder="strip.id"
        :rules="rules.name"
        :aria-label="say('nameOfTheStrip')"
        @keydown.enter="($event.target as HTMLInputElement).blur()"
        @keydown.stop
        @change="rename"
      />
      <span class="soft small"
        >{{ kindWord(strip.kind) }}, {{ strip.channels === 1 ? say('mono') : say('stereo') }}</span
      >
    </header>
    <div class="row family my-1 mx-0">
      <ColourPick
        :colour="strip.colour"
        :swatches="FAMILIES.map((f) => f.colour)"
        @pick="(colour) => set(say('colourWord'), { colour })"
      />
      <v-btn
        class="icon"
        variant="outlined"
        :aria-label="
          strip.icon === 'none' ? say('chooseIcon') : say('iconIs', { icon: iconWord(strip.icon) })
        "
        :title="say('chooseIcon')"
        @click="commands.run('icon', { strips: [strip.id] })"
        ><StripIcon v-if="strip.icon !== 'none'" :icon="strip.icon" :size="18" /><span v-else class="soft">{{
          say('iconShort')
        }}</span></v-btn
      >
      <v-select
        :model-value="strip.family"
        :items="families"
        :aria-label="say('family')"
        @update:model-value="setFamily"
      />
    </div>
  </div>
  <p v-else class="soft">{{ say('pickStripSeeStagesSends') }}</p>
</template>

<style scoped>
header .name {
  font-size: 16px;
  font-weight: 600;
}
header span {
  white-space: nowrap;
}
</style>
