<script setup lang="ts">
import { computed, ref } from 'vue';
import { setIcons, suggestedIcon, suggestIcons } from '@core/operations/icons';
import { ICON_IDS, type IconId } from '@core/naming/iconIds';
import { iconMatches } from '@core/naming/icons';
import type { Command } from '@core/edits/commands';
import { useSession } from '@/session/session';
import BoxDialog from '@/ui/BoxDialog.vue';
import { useNotices } from '@/ui/notices';
import StripIcon from '@/ui/StripIcon.vue';
import { iconWord } from './iconWords';
import { say } from './texts';

/** An icon for strips, or for a VCA: chosen, as their names suggest, or none. */
const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const notices = useNotices();
const query = ref('');
const doc = computed(() => session.document!);
const owners = computed(() =>
  [...doc.value.strips, ...doc.value.vcas].filter((x) => props.strips.includes(x.id)),
);
const named = computed(() =>
  owners.value.length === 1
    ? owners.value[0]!.name || owners.value[0]!.id
    : say('stripsCounted', { strips: owners.value.length }),
);
const matches = (word: string) => word.toLowerCase().includes(query.value.trim().toLowerCase());
const found = computed(() =>
  ICON_IDS.filter((i) => i !== 'none' && (iconMatches(i, query.value) || matches(iconWord(i)))),
);
const worn = computed(() => new Set(owners.value.map((o) => o.icon)));

function give(what: string, commands: readonly Command[]) {
  if (!commands.length || session.commit(say('namedOf', { what, named: named.value }), commands))
    emit('close');
}
const choose = (icon: IconId) =>
  give(
    say('iconOf', { icon: iconWord(icon).toLowerCase() }),
    setIcons(session.document!, props.strips, icon),
  );
function suggest() {
  if (owners.value.every((o) => suggestedIcon(o) === 'none')) return notices.refused(say('namesSuggestNone'));
  give(say('iconsSuggested'), suggestIcons(session.document!, props.strips));
}
const none = () => give(say('noIconFor'), setIcons(session.document!, props.strips, 'none'));

// Arrows go from icon to icon; up from the first row is back at the field.
const COLUMNS = 6;
const grid = ref<HTMLElement | null>(null);
const STEPS: Readonly<Record<string, number>> = {
  ArrowLeft: -1,
  ArrowRight: 1,
  ArrowUp: -COLUMNS,
  ArrowDown: COLUMNS,
};
function move(e: KeyboardEvent) {
  const step = STEPS[e.key];
  const all = [...(grid.value?.querySelectorAll('button') ?? [])];
  const at = all.indexOf(e.target as HTMLButtonElement);
  if (step === undefined || at < 0) return;
  e.preventDefault();
  const field = grid.value?.parentElement?.querySelector('input');
  if (at + step < 0) field?.focus();
  else all[Math.min(all.length - 1, at + step)]?.focus();
}
const down = () => grid.value?.querySelector('button')?.focus();
</script>

<template>
  <BoxDialog :title="say('iconTitle', { named })" :width="620" @update:model-value="$event || emit('close')">
    <v-text-field
      v-model="query"
      autofocus
      :aria-label="say('findAnIcon')"
      :placeholder="say('findAnIcon')"
      @keydown.enter.prevent.stop="query.trim() && found[0] && choose(found[0])"
      @keydown.down.prevent="down"
    />
    <p v-if="!found.length" class="soft mt-2" role="status">{{ say('noIconIsCalled', { query }) }}</p>
    <div
      ref="grid"
      class="mt-2"
      style="display: grid; grid-template-columns: repeat(6, 1fr); gap: 2px"
      role="group"
      :aria-label="say('icons')"
      @keydown="move"
    >
      <v-btn
        v-for="icon in found"
        :key="icon"
        stacked
        height="58"
        :variant="worn.has(icon) ? 'outlined' : 'text'"
        :aria-pressed="worn.has(icon)"
        :data-icon-choice="icon"
        @click="choose(icon)"
      >
        <StripIcon :icon="icon" :size="26" />
        <span class="small mt-1">{{ iconWord(icon) }}</span>
      </v-btn>
    </div>
    <template #actions>
      <v-btn variant="flat" color="primary" @click="suggest">{{ say('asNamesSuggest') }}</v-btn>
      <v-btn variant="outlined" @click="none">{{ say('noIcon') }}</v-btn>
      <v-btn variant="outlined" @click="emit('close')">{{ say('cancel') }}</v-btn>
    </template>
  </BoxDialog>
</template>
