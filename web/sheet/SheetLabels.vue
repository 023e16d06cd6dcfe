<script setup lang="ts">
import { computed, nextTick, ref } from 'vue';
import { levelText } from '@core/levels/decibels';
import { useCommands } from '@/commands/commands';
import { useAutomation } from '@/session/automation/automation';
import { usePick } from '@/session/pick';
import * as rules from '@/session/rules';
import { useSession } from '@/session/session';
import { useMenu } from '@/ui/menu';
import type { Row } from './rows/kind';
import { levelY } from './rows/level';
import VcaLabel from './VcaLabel.vue';
import ZoomSlider from './ZoomSlider.vue';
import { say } from './texts';

/** What stands at the left of the rows: their names, the VCAs with their faders, the fader's scale. */
defineProps<{ rows: readonly Row[]; width: number }>();
const emit = defineEmits<{ menu: [vca: string, event: MouseEvent] }>();
const session = useSession();
const commands = useCommands();
const automation = useAutomation();
const menu = useMenu();
const pick = usePick();
const hidden = computed(() => session.shown!.strips.filter((s) => s.hidden).length);
const returnLevel = (id: string) => (session.strip(id) ? levelText(session.strip(id)!.faderDb) : '');
const vcaOf = (id: string) => session.now!.vcas.find((v) => v.id === id)!;
const TICKS = [12, 0, -12, -24, -40];
const tickText = (db: number) => (db > 0 ? `+${db}` : `${db}`.replace('-', '−'));

/** Which VCA's rail has a row of its own beside the braid. */
function braid(e: MouseEvent) {
  menu.open(
    say('showRail'),
    session.now!.vcas.map((v) => ({
      label: v.name || v.id,
      checked: v.id === (pick.rail ?? session.now!.vcas[0]?.id),
      run: () => (pick.rail = v.id),
    })),
    e.currentTarget as Element,
  );
}

// — a VCA's name, typed where it stands —
const naming = ref<string | null>(null);
const name = ref('');
async function rename(id: string) {
  name.value = vcaOf(id).name;
  naming.value = id;
  await nextTick();
  document.querySelector<HTMLInputElement>('.vca-name')?.select();
}
async function named() {
  const id = naming.value;
  naming.value = null;
  const typed = name.value.trim();
  if (id && typed && vcaOf(id).name !== typed && (await rules.keeps(rules.name, typed)))
    session.commit(say('renameVcaTyped', { typed }), [{ type: 'vca.set', id, patch: { name: typed } }]);
}
defineExpose({ rename });
</script>

<template>
  <div class="position-absolute top-0 bottom-0 left-0 border-e bg-sheet" :style="{ width: `${width}px` }">
    <div
      v-for="row in rows"
      :key="row.key"
      class="label position-absolute left-0 right-0 d-flex align-center pt-0 pe-1 pb-0 ps-2 small soft"
      :class="row.kind"
      :style="{ top: `${row.y}px`, height: `${row.height}px` }"
    >
      <template v-if="row.kind === 'rail'">
        <input
          v-if="naming === row.ref"
          v-model="name"
          class="field vca-name"
          :aria-label="say('nameOfTheVca')"
          @keydown.enter.stop="named"
          @keydown.esc.stop="naming = null"
          @keydown.stop
          @blur="named"
        />
        <VcaLabel
          v-else
          :vca="vcaOf(row.ref!)"
          :writes="automation.writing.has(row.ref!)"
          @menu="emit('menu', row.ref!, $event)"
        />
      </template>
      <template v-else-if="row.kind === 'level'">
        <span class="text text-truncate flex-1-1-0">{{ say('level') }}</span>
        <span
          v-for="t in TICKS"
          :key="t"
          class="tick mono position-absolute right-0 me-1 tiny"
          :style="{ top: `${levelY(t, row)}px` }"
          >{{ tickText(t) }}</span
        >
        <ZoomSlider class="position-absolute bottom-0" style="left: 6px; right: 6px" />
      </template>
      <v-btn
        v-else-if="row.kind === 'braid'"
        class="name small justify-start"
        :title="say('railsRows')"
        @click="braid"
        >{{ say('braidTitle') }}<span class="mono soft ms-2">{{ session.now!.vcas.length }}</span></v-btn
      >
      <template v-else-if="row.kind === 'cap'">
        <v-btn v-if="hidden" class="name small text-decoration-underline" @click="commands.run('show')">{{
          say('hiddenHidden', { hidden })
        }}</v-btn>
      </template>
      <template v-else>
        <span class="text text-truncate flex-1-1-0" :title="row.label">{{ row.label }}</span>
        <span v-if="row.kind === 'send'" class="mono soft tiny">{{ returnLevel(row.ref!) }}</span>
      </template>
    </div>
  </div>
</template>

<style scoped>
.label {
  border-bottom: 1px solid color-mix(in srgb, var(--rule) 55%, transparent);
}
.label.rail,
.label.send .text {
  color: var(--ink);
}
.label.level {
  align-items: flex-start;
  padding-top: 8px;
}
.tick {
  transform: translateY(-50%);
}
</style>
