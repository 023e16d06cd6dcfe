<script setup lang="ts">
import { mdiClose } from '@mdi/js';
import { computed } from 'vue';
import { useRoute } from 'vue-router';
import { useCommands } from '@/commands/commands';
import { views } from '@/commands/feature';
import { keyShown } from '@/commands/keys';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useStripMenus } from '@/session/stripMenus';
import KeyHint from '@/ui/KeyHint.vue';
import { useMenu, type MenuItem } from '@/ui/menu';
import { say } from './texts';

/** What can be done with the picked strips, at the foot of the view. */
const route = useRoute();
/** What the view says while nothing is picked. */
const hint = computed(() => views().find((v) => v.name === route.name)?.hint ?? '');
const pick = usePick();
const session = useSession();
const commands = useCommands();
const menu = useMenu();
const { outItems, familyItems } = useStripMenus();
const open = (title: string, items: readonly MenuItem[], e: MouseEvent) =>
  menu.open(title, items, e.currentTarget as Element);

const DIRECT = [
  ['gather', say('gatherTitle')],
  ['return', say('return')],
  ['vca', 'VCA'],
] as const;
const SETTINGS = [
  'copySettings',
  'pasteSettings',
  'pasteParts',
  'presets',
  'link',
  'bypass',
  'compare',
  'resetStrips',
];
const PICKS = ['pickFamily', 'pickKind', 'pickColour', 'pickFeeds'];
const MORE = [
  'trace',
  'ripple',
  'meters',
  'keepMeters',
  'autoModes',
  'autoShow',
  'returnAs',
  'renameMany',
  'left',
  'right',
  'dissolve',
  'hear',
  'waves',
  'slimPicked',
  'regularPicked',
  'widePicked',
  'soloSafe',
  'dry',
  'pinLeft',
  'pinRight',
  'layouts',
  'hide',
  'remove',
];
const more = () =>
  MORE.filter(
    (id) =>
      (id !== 'dissolve' || pick.picked.every((p) => session.strip(p)?.kind === 'submix')) &&
      (id !== 'hear' || commands.action(id).enabled!()),
  );
const routable = () => pick.picked.filter((id) => session.strip(id)?.kind !== 'output');
</script>

<template>
  <div
    class="foot flex-0-0 d-flex align-stretch bg-sheet border-t overflow-hidden"
    role="toolbar"
    :aria-label="say('canDonePickedStrips')"
  >
    <div
      v-if="pick.picked.length"
      class="picked-bar d-flex align-center flex-wrap pt-0 pe-6 pb-0 ps-3 text-no-wrap"
    >
      <b>{{ say('pickedPicked', { picked: pick.picked.length }) }}</b>
      <v-btn v-for="[id, text] in DIRECT" :key="id" @click="commands.run(id)"
        >{{ text }} <KeyHint class="key ms-1" :keys="keyShown(commands.keysOf(id))"
      /></v-btn>
      <v-btn @click="open(say('familyAndColour'), familyItems(pick.picked), $event)">{{
        say('colour')
      }}</v-btn>
      <v-btn @click="commands.run('icon')">{{ say('iconAsk') }}</v-btn>
      <v-btn :disabled="!routable().length" @click="commands.run('sends')">{{ say('sendsAsk') }}</v-btn>
      <v-btn :disabled="!routable().length" @click="open(say('outTitle'), outItems(routable()), $event)">{{
        say('outAsk')
      }}</v-btn>
      <v-btn @click="open(say('settings'), commands.menuItems(SETTINGS), $event)">{{
        say('settingsAsk')
      }}</v-btn>
      <v-btn @click="open(say('pickMore'), commands.menuItems(PICKS), $event)">{{ say('pick') }}</v-btn>
      <v-btn @click="open(say('more'), commands.menuItems(more()), $event)">{{ say('moreAsk') }}</v-btn>
      <v-btn :icon="mdiClose" :aria-label="say('pickNone')" :title="say('pickNone')" @click="pick.none" />
    </div>
    <div v-else class="hint soft text-truncate align-self-center py-0 px-3 small">{{ hint }}</div>
  </div>
</template>

<style scoped>
.foot {
  min-height: 38px;
}
.picked-bar {
  gap: 2px;
  background: var(--picked);
  color: var(--on-picked);
  clip-path: polygon(0 0, calc(100% - 12px) 0, 100% 12px, 100% 100%, 0 100%);
}
.picked-bar b {
  margin-right: 8px;
}
.picked-bar .v-btn:hover {
  color: inherit;
  text-decoration: underline;
}
</style>
