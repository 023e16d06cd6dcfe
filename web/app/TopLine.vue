<script setup lang="ts">
import {
  mdiChevronLeft,
  mdiDockRight,
  mdiHelp,
  mdiMagnify,
  mdiRedo,
  mdiUndo,
  mdiWeatherNight,
  mdiWhiteBalanceSunny,
} from '@mdi/js';
import { computed } from 'vue';
import { useRoute } from 'vue-router';
import { useDisplay } from 'vuetify';
import { useCommands } from '@/commands/commands';
import { views } from '@/commands/feature';
import { keyShown } from '@/commands/keys';
import AsideEdits from '@/session/AsideEdits.vue';
import { useMarks } from '@/session/marks';
import { useSession } from '@/session/session';
import { useInspector } from '@/commands/inspector';
import { useSettings } from '@/session/settings';
import KeyHint from '@/ui/KeyHint.vue';
import { say } from './texts';

const session = useSession();
const settings = useSettings();
const inspector = useInspector();
const commands = useCommands();
const marks = useMarks();
const route = useRoute();
/** How a count beside a view is framed: by the worst that it counts. */
const TONES: Readonly<Record<string, string>> = { fault: 'var(--alert)', risk: 'var(--caution)' };
const { lgAndUp: roomy, smAndDown: narrow } = useDisplay();
const inspected = computed(
  () =>
    views()
      .find((v) => v.name === route.name)
      ?.around?.includes('inspector') ?? false,
);
const saved = computed(() => {
  const edits = session.unsent;
  if (session.syncState === 'away')
    return {
      text: say('notSavedEditsKeptHere', { edits }, session.unsent),
      bad: true,
    };
  if (session.syncState === 'full')
    return {
      text: say('notSavedDiskFullEdits', { edits }, session.unsent),
      bad: true,
    };
  return { text: session.unsent ? say('saving') : say('saved'), bad: false };
});
</script>

<template>
  <header
    class="top flex-0-0 d-flex align-center pt-0 pe-2 pb-0 ps-1 border-b text-no-wrap overflow-hidden"
    :class="{ narrow }"
  >
    <v-btn
      :icon="mdiChevronLeft"
      :to="{ name: 'sessions' }"
      :title="say('allSessions')"
      :aria-label="say('allSessions')"
    />
    <b class="session text-truncate" :title="session.document?.name">{{ session.document?.name }}</b>
    <nav class="d-flex align-self-stretch ms-3" :aria-label="say('views')">
      <v-btn
        v-for="v in views()"
        :key="v.name"
        class="view py-0 px-3 soft"
        :to="{ name: v.name }"
        exact
        :aria-current="$route.name === v.name ? 'page' : undefined"
        >{{ v.title }}
        <v-chip
          v-if="marks.badges.get(v.name)"
          class="count mono ms-1"
          :style="{ borderColor: TONES[marks.badges.get(v.name)!.tone] }"
          :text="String(marks.badges.get(v.name)!.count)"
        />
      </v-btn>
    </nav>
    <v-spacer />
    <v-btn class="soft" :aria-label="say('findStripOrAction')" @click="commands.palette = true">
      <template v-if="roomy"
        >{{ say('findStripOrAction') }}
        <KeyHint :keys="keyShown(commands.keysOf('palette'))" class="key ms-1"
      /></template>
      <v-icon v-else :icon="mdiMagnify" />
    </v-btn>
    <v-btn
      class="history long"
      :prepend-icon="mdiUndo"
      :disabled="session.undoLabel === null"
      :title="
        session.undoLabel ? say('undoUndolabel', { undoLabel: session.undoLabel }) : say('nothingToUndo')
      "
      @click="session.undo()"
    >
      <span class="what" :class="{ offscreen: narrow }">{{ session.undoLabel ?? say('undo') }}</span>
    </v-btn>
    <v-btn
      :icon="mdiRedo"
      :disabled="session.redoLabel === null"
      :title="
        session.redoLabel ? say('redoRedolabel', { redoLabel: session.redoLabel }) : say('nothingToRedo')
      "
      :aria-label="say('redoRedolabel2', { redoLabel: session.redoLabel ?? '' })"
      @click="session.redo()"
    />
    <span
      class="saved px-1 text text-truncate"
      :class="saved.bad ? 'caution' : 'soft'"
      role="status"
      :title="saved.text"
      :data-revision="session.ledger?.revision"
      >{{ saved.text }}</span
    >
    <AsideEdits />
    <v-btn
      :icon="settings.theme === 'night' ? mdiWhiteBalanceSunny : mdiWeatherNight"
      :aria-label="settings.theme === 'night' ? say('dayTheme') : say('nightTheme')"
      :title="settings.theme === 'night' ? say('day') : say('night')"
      @click="settings.otherTheme"
    />
    <v-btn
      :icon="mdiHelp"
      :aria-label="say('shortcuts')"
      :title="say('shortcuts')"
      @click="commands.shortcuts = true"
    />
    <v-btn
      v-if="inspected"
      :icon="mdiDockRight"
      :aria-pressed="inspector.open"
      :aria-label="say('inspector')"
      :title="say('inspector')"
      @click="inspector.toggle"
    />
  </header>
</template>

<style scoped>
.top {
  height: 40px;
  gap: 2px;
}
.session {
  font-size: 16px;
  min-width: 60px;
  max-width: 220px;
}
.view {
  height: 40px;
  border-bottom: 2px solid transparent;
}
.narrow .view {
  padding: 0 6px;
}
.view.v-btn--active {
  color: var(--ink);
  border-bottom-color: var(--signal);
}
.count {
  color: var(--ink);
  border-color: var(--rule);
}
.history {
  max-width: 220px;
  flex-shrink: 1;
  min-width: 32px;
}
.saved {
  min-width: 40px;
  max-width: 300px;
}
</style>
