<script setup lang="ts">
import { LINK_PARTS } from '@core/session/defaults';
import { nameOf } from '@core/session/lookup';
import type { LinkPatch } from '@core/session/commands/types';
import type { Link, LinkPart } from '@core/session/types';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { LINK_PART_NAMES } from './linkParts';

/** Links with what they move, to be switched, changed and dissolved. */
defineProps<{ links: readonly Link[] }>();
const session = useSession();
const pick = usePick();
const set = (l: Link, what: string, patch: LinkPatch) =>
  session.commit(`${what} of link ${l.name}`, [{ type: 'link.set', id: l.id, patch }]);
const toggled = (l: Link, part: LinkPart) =>
  l.parts.includes(part) ? l.parts.filter((p) => p !== part) : [...l.parts, part];
</script>

<template>
  <div v-for="l in links" :key="l.id" class="link">
    <div class="row">
      <button
        class="plain name"
        :title="l.members.map((m) => nameOf(session.shown!, m)).join(', ')"
        @click="pick.set(l.members)"
      >
        ⛓ {{ l.name || l.id }} <span class="soft">{{ l.members.length }}</span>
      </button>
      <button class="plain boxed" :aria-pressed="l.on" @click="set(l, 'switch', { on: !l.on })">
        {{ l.on ? 'On' : 'Off' }}
      </button>
      <button
        class="plain"
        :aria-label="`Dissolve the link ${l.name}`"
        @click="session.commit(`dissolve link ${l.name}`, [{ type: 'link.remove', id: l.id }])"
      >
        ✕
      </button>
    </div>
    <div class="parts" role="group" :aria-label="`What ${l.name} moves`">
      <button
        v-for="p in LINK_PARTS"
        :key="p"
        class="plain part"
        :aria-pressed="l.parts.includes(p)"
        @click="set(l, 'parts', { parts: toggled(l, p) })"
      >
        {{ LINK_PART_NAMES[p] }}
      </button>
      <button class="plain part" :aria-pressed="l.keeps" @click="set(l, 'values', { keeps: !l.keeps })">
        {{ l.keeps ? 'differences kept' : 'all alike' }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.link {
  font-size: 13px;
  padding: 2px 0 6px;
}
.row {
  display: flex;
  align-items: center;
  gap: 6px;
}
.name {
  flex: 1;
  text-align: left;
  padding: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.part {
  font-size: 12px;
  min-height: 24px;
  padding: 0 6px;
  border: 1px dashed var(--rule);
  color: var(--ink-soft);
}
.part[aria-pressed='true'] {
  border: 1px solid var(--signal);
  color: var(--signal);
}
.boxed[aria-pressed='true'] {
  border-color: var(--signal);
  color: var(--signal);
}
</style>
