<script setup lang="ts">
import { mdiClose, mdiLink } from '@mdi/js';
import { LINK_PARTS } from '@core/session/defaults';
import { nameOf } from '@core/session/lookup';
import type { LinkPatch } from '@core/edits/commands';
import type { Link, LinkPart } from '@core/session/types';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { linkPartNames } from './linkParts';
import { say } from './texts';

/** Links with what they move, to be switched, changed and dissolved. */
defineProps<{ links: readonly Link[] }>();
const session = useSession();
const pick = usePick();
const NAMES = linkPartNames();
const set = (l: Link, what: string, patch: LinkPatch) =>
  session.commit(say('whatOfLinkName', { what, name: l.name }), [{ type: 'link.set', id: l.id, patch }]);
const toggled = (l: Link, part: LinkPart) =>
  l.parts.includes(part) ? l.parts.filter((p) => p !== part) : [...l.parts, part];
</script>

<template>
  <div v-for="l in links" :key="l.id" class="text pb-1">
    <div class="row">
      <v-btn
        class="name long space"
        :prepend-icon="mdiLink"
        :title="l.members.map((m) => nameOf(session.shown!, m)).join(', ')"
        @click="pick.set(l.members)"
        >{{ l.name || l.id }} <span class="soft">{{ l.members.length }}</span></v-btn
      >
      <v-btn variant="outlined" :aria-pressed="l.on" @click="set(l, say('switch'), { on: !l.on })">{{
        l.on ? say('onTitle') : say('offTitle')
      }}</v-btn>
      <v-btn
        :icon="mdiClose"
        :aria-label="say('dissolveTheLinkName', { name: l.name })"
        :title="say('dissolveTitle')"
        @click="
          session.commit(say('dissolveLinkName', { name: l.name }), [{ type: 'link.remove', id: l.id }])
        "
      />
    </div>
    <div class="row wrap parts ga-1" role="group" :aria-label="say('whatNameMoves', { name: l.name })">
      <v-btn
        v-for="p in LINK_PARTS"
        :key="p"
        variant="outlined"
        size="x-small"
        :aria-pressed="l.parts.includes(p)"
        @click="set(l, say('linkParts'), { parts: toggled(l, p) })"
        >{{ NAMES[p] }}</v-btn
      >
      <v-btn
        variant="outlined"
        size="x-small"
        :aria-pressed="l.keeps"
        @click="set(l, say('linkValues'), { keeps: !l.keeps })"
        >{{ l.keeps ? say('differencesKept') : say('allAlike') }}</v-btn
      >
    </div>
  </div>
</template>

<style scoped>
.parts [aria-pressed='false'] {
  border-style: dashed;
  color: var(--ink-soft);
}
</style>
