<script setup lang="ts">
import { useActions } from '@/commands/actions';
import { keyShown } from '@/commands/keys';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';

withDefaults(defineProps<{ hint?: string }>(), {
  hint: 'Click names to pick strips: Shift for a range, Ctrl one by one, or drag across. Drag a cell up or down to change it, along its row to paint it.',
});
const pick = usePick();
const session = useSession();
const actions = useActions();
const open = (title: string, items: Parameters<typeof actions.openMenu>[1], e: MouseEvent) =>
  actions.openMenu(title, items, e.currentTarget as Element);
const settingsItems = () =>
  itemsOf([
    'copySettings',
    'pasteSettings',
    'pasteParts',
    'presets',
    'link',
    'bypass',
    'compare',
    'resetStrips',
  ]);
const more = () =>
  itemsOf([
    'trace',
    'ripple',
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
    'hide',
    'remove',
  ]);
const itemsOf = (ids: readonly string[]) =>
  ids
    .map((id) => actions.byId.get(id)!)
    .filter(
      (a) =>
        (a.id !== 'dissolve' || pick.picked.every((id) => session.strip(id)?.kind === 'submix')) &&
        (a.id !== 'hear' || a.enabled!()),
    )
    .map((a) => ({
      label: a.title,
      keys: keyShown(actions.keysOf(a.id)),
      danger: a.id === 'remove',
      run: a.run,
    }));
const routable = () => pick.picked.filter((id) => session.strip(id)?.kind !== 'output');
</script>

<template>
  <div class="foot" role="toolbar" aria-label="What can be done with the picked strips">
    <div v-if="pick.picked.length" class="picked-bar">
      <b>{{ pick.picked.length }} picked</b>
      <button class="plain" @click="actions.gatherPicked">
        Gather <kbd>{{ keyShown(actions.keysOf('gather')) }}</kbd>
      </button>
      <button class="plain" @click="actions.returnPicked">
        Return <kbd>{{ keyShown(actions.keysOf('return')) }}</kbd>
      </button>
      <button class="plain" @click="actions.vcaPicked">
        VCA <kbd>{{ keyShown(actions.keysOf('vca')) }}</kbd>
      </button>
      <button class="plain" @click="open('Family and colour', actions.colourItems(pick.picked), $event)">
        Colour…
      </button>
      <button class="plain" :disabled="!routable().length" @click="actions.openDialog('sends')">
        Sends…
      </button>
      <button
        class="plain"
        :disabled="!routable().length"
        @click="open('Out', actions.outItems(routable()), $event)"
      >
        Out…
      </button>
      <button class="plain" @click="open('Settings', settingsItems(), $event)">Settings…</button>
      <button class="plain" @click="open('Pick more', actions.pickItems(), $event)">Pick…</button>
      <button class="plain" @click="open('More', more(), $event)">More…</button>
      <button class="plain" aria-label="Pick none" @click="pick.none">✕</button>
    </div>
    <div v-else class="hint soft">
      {{ hint }}
    </div>
  </div>
</template>

<style scoped>
.foot {
  height: 38px;
  flex: none;
  display: flex;
  align-items: stretch;
  background: var(--sheet);
  border-top: 1px solid var(--rule);
}
.picked-bar {
  display: flex;
  align-items: center;
  gap: 2px;
  padding: 0 24px 0 14px;
  background: var(--picked);
  color: var(--on-picked);
  clip-path: polygon(0 0, calc(100% - 12px) 0, 100% 12px, 100% 100%, 0 100%);
  white-space: nowrap;
}
.picked-bar b {
  margin-right: 8px;
}
.picked-bar .plain:hover:not(:disabled) {
  color: inherit;
  text-decoration: underline;
}
.picked-bar kbd {
  color: inherit;
  border-color: color-mix(in srgb, var(--on-picked) 45%, transparent);
}
.hint {
  align-self: center;
  padding: 0 14px;
  font-size: 12px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
