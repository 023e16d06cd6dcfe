<script setup lang="ts">
import { computed } from 'vue';
import { useActions } from '@/commands/actions';
import { keyShown } from '@/commands/keys';
import { useFindings } from '@/findings/useFindings';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import AsideEdits from '@/session/AsideEdits.vue';

const session = useSession();
const settings = useSettings();
const actions = useActions();
const findings = useFindings();
const saved = computed(() => {
  if (session.syncState === 'away')
    return {
      text: `Not saved: ${session.unsent} ${session.unsent === 1 ? 'edit is' : 'edits are'} kept here until the server is back`,
      bad: true,
    };
  if (session.syncState === 'full')
    return {
      text: `Not saved: the disk is full; ${session.unsent} ${session.unsent === 1 ? 'edit waits' : 'edits wait'} here until there is room`,
      bad: true,
    };
  return { text: session.unsent ? 'Saving…' : 'Saved', bad: false };
});
</script>

<template>
  <header class="top">
    <RouterLink :to="{ name: 'sessions' }" class="home" title="All sessions" aria-label="All sessions"
      >‹</RouterLink
    >
    <b class="session" :title="session.document?.name">{{ session.document?.name }}</b>
    <nav aria-label="Views">
      <RouterLink :to="{ name: 'sheet' }" exact-active-class="at">Sheet</RouterLink>
      <RouterLink :to="{ name: 'flow' }" exact-active-class="at">Flow</RouterLink>
      <RouterLink :to="{ name: 'automation' }" exact-active-class="at">Automation</RouterLink>
      <RouterLink :to="{ name: 'surface' }" exact-active-class="at">Surface</RouterLink>
      <RouterLink :to="{ name: 'findings' }" exact-active-class="at"
        >Findings
        <span v-if="findings.open.length" class="count mono" :class="findings.open[0]!.severity">{{
          findings.open.length
        }}</span></RouterLink
      >
      <RouterLink :to="{ name: 'print' }" exact-active-class="at">Print</RouterLink>
    </nav>
    <span class="space" />
    <button class="plain find" @click="actions.palette = true">
      Find strip or action <kbd>{{ keyShown(actions.keysOf('palette')) }}</kbd>
    </button>
    <button
      class="plain history"
      :disabled="session.undoLabel === null"
      :title="session.undoLabel ? `Undo: ${session.undoLabel}` : 'Nothing to undo'"
      @click="session.undo()"
    >
      <span aria-hidden="true">↶</span> <span class="what">{{ session.undoLabel ?? 'undo' }}</span>
    </button>
    <button
      class="plain history redo"
      :disabled="session.redoLabel === null"
      :title="session.redoLabel ? `Redo: ${session.redoLabel}` : 'Nothing to redo'"
      @click="session.redo()"
    >
      <span aria-hidden="true">↷</span><span class="offscreen">Redo {{ session.redoLabel }}</span>
    </button>
    <span class="saved" :class="{ bad: saved.bad }" role="status" :title="saved.text">{{ saved.text }}</span>
    <AsideEdits />
    <button
      class="plain"
      :aria-label="settings.theme === 'night' ? 'Day theme' : 'Night theme'"
      :title="settings.theme === 'night' ? 'Day' : 'Night'"
      @click="actions.byId.get('theme')!.run()"
    >
      {{ settings.theme === 'night' ? '☀' : '☾' }}
    </button>
    <button class="plain" aria-label="Shortcuts" title="Shortcuts" @click="actions.shortcuts = true">
      ?
    </button>
    <button
      v-if="$route.name === 'sheet' || $route.name === 'flow'"
      class="plain"
      :aria-pressed="settings.inspector"
      aria-label="Inspector"
      title="Inspector"
      @click="settings.inspector = !settings.inspector"
    >
      {{ settings.inspector ? '⟩' : '⟨' }}
    </button>
  </header>
</template>

<style scoped>
.top {
  height: 40px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 0 10px 0 4px;
  border-bottom: 1px solid var(--rule);
  background: var(--ground);
  white-space: nowrap;
}
.home {
  padding: 0 8px;
  font-size: 20px;
  color: var(--ink-soft);
  text-decoration: none;
}
.session {
  font-size: 16px;
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
}
nav {
  display: flex;
  align-self: stretch;
  margin-left: 16px;
}
nav a {
  display: flex;
  align-items: center;
  padding: 0 14px;
  color: var(--ink-soft);
  text-decoration: none;
  border-bottom: 2px solid transparent;
}
nav a:hover {
  color: var(--ink);
}
nav a.at {
  color: var(--ink);
  border-bottom-color: var(--signal);
}
.count {
  margin-left: 6px;
  padding: 0 5px;
  font-size: 11px;
  border: 1px solid var(--rule);
  color: var(--ink);
}
.count.fault {
  border-color: var(--alert);
}
.count.risk {
  border-color: var(--caution);
}
.space {
  flex: 1;
}
.find {
  color: var(--ink-soft);
}
.history {
  max-width: 220px;
  display: flex;
  align-items: center;
  gap: 4px;
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
}
.redo {
  font-size: 15px;
}
.saved {
  color: var(--ink-soft);
  font-size: 13px;
  padding: 0 6px;
  max-width: 300px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.saved.bad {
  color: var(--caution);
}
</style>
