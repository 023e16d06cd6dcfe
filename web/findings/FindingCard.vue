<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { ruleTitle } from '@core/findings/findings';
import type { Finding } from '@core/findings/finding';
import { nameOf } from '@core/session/lookup';
import { useCommands } from '@/commands/commands';
import ChangePreview from '@/session/ChangePreview.vue';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { EDGES, useFindings } from './useFindings';
import { say } from './texts';

/** A finding: what is the matter, where, and what mends it. In a list of its kind it does not say again what all of them say. */
const props = defineProps<{ finding: Finding; inKind?: boolean }>();
const f = computed(() => props.finding);
const findings = useFindings();
const session = useSession();
const pick = usePick();
const commands = useCommands();
const router = useRouter();
const previewed = ref(false);
const SURE = {
  certain: say('certain'),
  measured: say('measured'),
  likely: say('likely'),
  possible: say('dependsMeant'),
} as const;
const isStrip = (id: string) => session.strip(id) !== undefined;
async function show(of: Finding, id?: string) {
  const strips = (id ? [id] : of.where).filter(isStrip);
  await router.push({ name: 'sheet' });
  pick.set(strips);
  if (strips[0]) pick.focus = { strip: strips[0], row: 'cap' };
}
</script>

<template>
  <article
    class="d-flex ga-5 pt-2 pe-0 pb-2 ps-3 border-t"
    :style="{ borderLeft: EDGES[f.severity] }"
    :data-finding="f.rule"
  >
    <div class="say flex-1-1-0 min-w-0">
      <b v-if="!inKind" class="small">{{ ruleTitle(f.rule) }}</b>
      <span class="soft small ms-2">{{ SURE[f.sure] }}</span>
      <p class="what">{{ f.what }}</p>
      <p v-if="!inKind" class="soft">{{ f.why }}</p>
      <p class="row wrap ga-1">
        <v-btn
          v-for="id in f.where.slice(0, 6)"
          :key="id"
          variant="outlined"
          size="x-small"
          class="small"
          :title="isStrip(id) ? say('showSheet') : say('seeVcaDoes')"
          @click="isStrip(id) ? show(f, id) : commands.run('vcaEffect', { vca: id })"
          >{{ nameOf(session.document!, id) }}</v-btn
        >
        <v-btn v-if="f.where.filter(isStrip).length > 1" size="x-small" class="small" @click="show(f)">{{
          say('pickAllWhere', { where: f.where.filter(isStrip).length })
        }}</v-btn>
      </p>
      <div v-if="previewed && f.repair" class="would mt-2 py-1 px-2 bg-sheet">
        <span class="soft">{{ say('itWouldChange') }}</span>
        <ChangePreview :commands="f.repair.commands" />
      </div>
    </div>
    <div class="do flex-0-0 d-flex flex-column ga-1" style="width: 250px">
      <template v-if="f.repair">
        <v-btn class="wraps" variant="flat" color="primary" @click="findings.mend(f)">{{
          f.repair.label
        }}</v-btn>
        <v-btn variant="outlined" :aria-expanded="previewed" @click="previewed = !previewed">{{
          previewed ? say('hideWhatItChanges') : say('whatWouldItChange')
        }}</v-btn>
      </template>
      <p v-else class="soft small">{{ say('noSingleStepMends') }}</p>
      <v-btn @click="findings.letStand(f)">{{ say('letItStand') }}</v-btn>
    </div>
  </article>
</template>

<style scoped>
.what {
  font-size: 15px;
}
.do .wraps {
  padding: 4px 10px;
}
</style>
