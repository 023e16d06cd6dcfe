<script setup lang="ts">
import { computed } from 'vue';
import { effectiveLevel, holdersOf } from '@core/groups/vca';
import { levelSpoken, levelText, readLevel } from '@core/levels/decibels';
import { FADER_FLOOR, FADER_TOP } from '@core/levels/faderLaw';
import { panText, readPan } from '@core/levels/pan';
import { FAMILIES } from '@core/naming/lexicon';
import { processorOf } from '@core/processors/registry';
import type { StripPatch } from '@core/session/commands/types';
import { NEW_SEND_DB } from '@core/session/gestures/returns';
import { nameOf } from '@core/session/lookup';
import type { Insert, Send } from '@core/session/types';
import { useActions } from '@/commands/actions';
import { useAnswers, type Panel } from '@/answers/answers';
import { useLoad } from '@/answers/load/load';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import ParameterSlider from '@/session/ParameterSlider.vue';
import { linksOf } from '@core/session/gestures/links';
import InputStage from './InputStage.vue';
import InsertEditor from '@/inserts/InsertEditor.vue';
import LoadPanel from '@/answers/load/LoadPanel.vue';
import LinkList from './LinkList.vue';
import RipplePanel from '@/answers/RipplePanel.vue';
import SessionPanel from '@/sessions/SessionPanel.vue';
import TracePanel from '@/answers/TracePanel.vue';

const emit = defineEmits<{ addStems: [] }>();
const session = useSession();
const pick = usePick();
const actions = useActions();
const answers = useAnswers();
const load = useLoad();
const strip = computed(() => (pick.shown ? session.strip(pick.shown) : undefined));
const doc = computed(() => session.now!);
const TABS: readonly (readonly [Panel, string])[] = [
  ['strip', 'Strip'],
  ['trace', 'Trace'],
  ['ripple', 'Ripple'],
  ['session', 'Session'],
  ['load', 'Load'],
];
const insert = computed(() =>
  pick.insert && pick.insert.strip === strip.value?.id
    ? strip.value.inserts.find((i) => i.id === pick.insert!.id)
    : undefined,
);
const links = computed(() => (strip.value ? linksOf(doc.value, strip.value.id) : []));
const holders = computed(() => (strip.value ? holdersOf(doc.value, strip.value.id) : []));
const effective = computed(() => (strip.value ? effectiveLevel(doc.value, strip.value) : null));
const feeds = computed(() =>
  strip.value
    ? doc.value.strips.flatMap((s) => [
        ...(s.out.to === strip.value!.id ? [{ id: s.id, by: 'out' }] : []),
        ...s.sends.filter((x) => x.to === strip.value!.id).map((x) => ({ id: s.id, by: `${x.tap} send` })),
      ])
    : [],
);

const label = (what: string) => `${what} ${strip.value!.name || strip.value!.id}`;
const set = (what: string, patch: StripPatch) => session.commit(label(what), edit(patch));
const edit = (patch: StripPatch) => [{ type: 'strip.set', id: strip.value!.id, patch } as const];
const sendSet = (x: Send, patch: Partial<Send>) => [
  { type: 'send.set', strip: strip.value!.id, id: x.id, patch } as const,
];

/** An insert as a stage: its key is drawn beside it, and a click opens its editor. */
const stageOf = (i: Insert): Stage => ({
  name: processorOf(i.type).name,
  level: i.on ? (i.mix < 1 ? `${Math.round(i.mix * 100)} %` : '') : 'bypassed',
  cost: load.reading?.inserts.find((x) => x.strip === strip.value?.id && x.insert === i.id)?.share,
  kind: 'stage',
  insert: i.id,
  key: i.key === null ? null : nameOf(doc.value, i.key),
});
interface Stage {
  readonly name: string;
  readonly level: string;
  readonly kind: 'stage' | 'tap';
  readonly insert?: string;
  /** Share of real time that it takes, where that has been measured. */
  readonly cost?: number;
  readonly key?: string | null;
}
/** The strip's own level before trim, VCAs and pan are added, as it builds up from stage to stage. */
const stages = computed(() => {
  const s = strip.value;
  if (!s) return [];
  const list: Stage[] = [];
  list.push({ name: s.kind === 'source' ? 'Stem' : `${feeds.value.length} feeding`, level: '', kind: 'tap' });
  if (s.trimDb !== 0) list.push({ name: 'Trim', level: levelText(s.trimDb), kind: 'stage' });
  for (const i of s.inserts.filter((x) => x.place === 'pre')) list.push(stageOf(i));
  list.push({ name: 'Fader', level: levelText(s.faderDb), kind: 'stage' });
  for (const v of holders.value)
    list.push({ name: `VCA ${v.name}`, level: v.mute ? 'muted' : levelText(v.faderDb), kind: 'stage' });
  if (holders.value.length)
    list.push({ name: 'Effective', level: levelText(effective.value), kind: 'stage' });
  for (const i of s.inserts.filter((x) => x.place === 'post')) list.push(stageOf(i));
  list.push({ name: s.channels === 1 ? 'Pan' : 'Balance', level: panText(s.pan), kind: 'stage' });
  list.push({
    name:
      s.kind === 'output'
        ? 'Leaves the session'
        : s.out.to === null
          ? 'Nowhere'
          : nameOf(doc.value, s.out.to),
    level: s.out.on ? '' : 'dry path off',
    kind: 'tap',
  });
  return list;
});
const readDb = (t: string) => readLevel(t);
</script>

<template>
  <aside class="inspector" aria-label="Inspector">
    <div class="tabs" role="tablist" aria-label="What the inspector shows">
      <button
        v-for="[tab, title] in TABS"
        :key="tab"
        class="plain"
        role="tab"
        :aria-selected="answers.panel === tab"
        @click="answers.panel = tab"
      >
        {{ title }}
      </button>
    </div>
    <SessionPanel v-if="answers.panel === 'session'" @add-stems="emit('addStems')" />
    <LoadPanel v-else-if="answers.panel === 'load'" />
    <TracePanel v-else-if="answers.panel === 'trace'" />
    <RipplePanel v-else-if="answers.panel === 'ripple'" />
    <template v-else-if="strip">
      <header>
        <input
          class="name"
          :value="strip.name"
          :placeholder="strip.id"
          aria-label="Name of the strip"
          @keydown.enter="($event.target as HTMLInputElement).blur()"
          @keydown.stop
          @change="set('rename', { name: ($event.target as HTMLInputElement).value.trim() })"
        />
        <span class="soft">{{ strip.kind }}, {{ strip.channels === 1 ? 'mono' : 'stereo' }}</span>
      </header>
      <div class="family">
        <input
          type="color"
          :value="strip.colour"
          aria-label="Colour"
          @change="set('colour', { colour: ($event.target as HTMLInputElement).value })"
        />
        <select
          class="field"
          :value="strip.family"
          aria-label="Family"
          @change="
            set('family', {
              family: ($event.target as HTMLSelectElement).value,
              colour:
                FAMILIES.find((f) => f.name === ($event.target as HTMLSelectElement).value)?.colour ??
                strip.colour,
            })
          "
        >
          <option v-if="!FAMILIES.some((f) => f.name === strip!.family)" :value="strip.family">
            {{ strip.family || 'No family' }}
          </option>
          <option v-for="f in FAMILIES" :key="f.name" :value="f.name">{{ f.name }}</option>
        </select>
      </div>

      <InsertEditor v-if="insert" :strip="strip" :insert="insert" />

      <section aria-label="Stages of the signal">
        <ol class="stages">
          <li v-for="(s, i) in stages" :key="i" :class="s.kind">
            <button
              v-if="s.insert"
              class="plain stage-name"
              :aria-pressed="pick.insert?.id === s.insert"
              @click="pick.insert = { strip: strip.id, id: s.insert }"
            >
              {{ s.name }}</button><span v-else>{{ s.name }}</span>
            <span v-if="s.key" class="key-in" :title="`Keyed by ${s.key}`">⟵ {{ s.key }}</span>
            <span class="mono"
              ><span v-if="s.cost !== undefined" class="soft cost" title="Measured load"
                >{{ (s.cost * 100).toFixed(2) }} % load</span
              >
              {{ s.level }}</span
            >
          </li>
        </ol>
      </section>

      <section aria-label="Settings">
        <ParameterSlider
          label="Trim"
          :value="strip.trimDb ?? -80"
          :min="-80"
          :max="48"
          :default="0"
          :step="0.1"
          :text="levelText(strip.trimDb)"
          :spoken="levelSpoken(strip.trimDb)"
          :read="readDb"
          gesture="inspector"
          :what="label('trim')"
          :make="(v) => edit({ trimDb: v })"
        />
        <ParameterSlider
          label="Level"
          :value="strip.faderDb ?? FADER_FLOOR"
          :min="FADER_FLOOR"
          :max="FADER_TOP"
          :default="0"
          :step="0.1"
          :text="levelText(strip.faderDb)"
          :spoken="`${levelSpoken(strip.faderDb)}, effective ${levelSpoken(effective)}`"
          :read="readDb"
          :control="{ part: 'strip', owner: strip.id, id: null, control: 'fader' }"
          gesture="inspector"
          :what="label('level')"
          :make="(v) => edit({ faderDb: v })"
        />
        <ParameterSlider
          :label="strip.channels === 1 ? 'Pan' : 'Balance'"
          :value="strip.pan"
          :min="-1"
          :max="1"
          :default="0"
          :step="0.01"
          :text="panText(strip.pan)"
          :read="readPan"
          :control="{ part: 'strip', owner: strip.id, id: null, control: 'pan' }"
          gesture="inspector"
          :what="label('pan')"
          :make="(v) => edit({ pan: v ?? 0 })"
        />
        <ParameterSlider
          v-if="strip.channels === 2"
          label="Width"
          :value="strip.width * 100"
          :min="0"
          :max="200"
          :default="100"
          :step="1"
          :text="`${Math.round(strip.width * 100)} %`"
          :read="(t) => (Number.isNaN(parseFloat(t)) ? undefined : parseFloat(t))"
          gesture="inspector"
          :what="label('width')"
          :make="(v) => edit({ width: (v ?? 100) / 100 })"
        />
        <div class="flags">
          <button
            class="plain boxed"
            :aria-pressed="strip.invert"
            @click="set('polarity of', { invert: !strip.invert })"
          >
            ø Polarity
          </button>
          <button
            v-if="strip.channels === 2"
            class="plain boxed"
            :aria-pressed="strip.swap"
            @click="set('swap', { swap: !strip.swap })"
          >
            ⇄ Swap
          </button>
          <button
            class="plain boxed"
            :aria-pressed="strip.soloSafe"
            @click="set('solo-safe', { soloSafe: !strip.soloSafe })"
          >
            Solo-safe
          </button>
          <button
            v-if="strip.kind !== 'output'"
            class="plain boxed"
            :aria-pressed="strip.out.on"
            @click="
              session.commit(label('dry path of'), [
                { type: 'strip.out', id: strip.id, out: { ...strip.out, on: !strip.out.on } },
              ])
            "
          >
            Dry path
          </button>
        </div>
      </section>

      <InputStage v-if="strip.kind === 'source'" :strip="strip" />

      <section v-if="strip.sends.length" aria-label="Sends">
        <h2>Sends</h2>
        <div v-for="x in strip.sends" :key="x.id" class="send">
          <ParameterSlider
            :label="nameOf(doc, x.to)"
            :value="x.levelDb ?? FADER_FLOOR"
            :min="FADER_FLOOR"
            :max="FADER_TOP"
            :default="NEW_SEND_DB"
            :step="0.1"
            :text="levelText(x.levelDb)"
            :spoken="levelSpoken(x.levelDb)"
            :read="readDb"
            :control="{ part: 'send', owner: strip.id, id: x.id, control: 'level' }"
            gesture="inspector"
            :what="label(`send to ${nameOf(doc, x.to)},`)"
            :make="(v) => sendSet(x, { levelDb: v })"
          />
          <ParameterSlider
            label="its pan"
            :value="x.pan"
            :min="-1"
            :max="1"
            :default="0"
            :step="0.01"
            :text="panText(x.pan)"
            :read="readPan"
            :control="{ part: 'send', owner: strip.id, id: x.id, control: 'pan' }"
            gesture="inspector pan"
            :what="label('pan of a send,')"
            :make="(v) => sendSet(x, { pan: v ?? 0 })"
          />
          <div class="taps">
            <select
              class="field"
              :value="x.tap"
              :aria-label="`Tap of the send to ${nameOf(doc, x.to)}`"
              @change="
                session.commit(
                  label('tap of a send,'),
                  sendSet(x, { tap: ($event.target as HTMLSelectElement).value as Send['tap'] }),
                )
              "
            >
              <option value="post">post-fader</option>
              <option value="pre">pre-fader</option>
              <option value="input">input</option>
            </select>
            <button
              class="plain boxed"
              :aria-pressed="x.on"
              @click="session.commit(label('switch a send,'), sendSet(x, { on: !x.on }))"
            >
              {{ x.on ? 'On' : 'Off' }}
            </button>
            <button
              class="plain"
              :aria-label="`Remove the send to ${nameOf(doc, x.to)}`"
              @click="
                session.commit(label('remove a send,'), [{ type: 'send.remove', strip: strip!.id, id: x.id }])
              "
            >
              ✕
            </button>
          </div>
        </div>
      </section>

      <section v-if="links.length" aria-label="Links">
        <h2>Linked</h2>
        <LinkList :links="links" />
      </section>

      <section v-if="feeds.length" aria-label="What feeds it">
        <h2>Fed by</h2>
        <div class="feeds">
          <button v-for="f in feeds" :key="`${f.id} ${f.by}`" class="plain" @click="actions.reveal(f.id)">
            {{ nameOf(doc, f.id) }} <span class="soft">{{ f.by }}</span>
          </button>
        </div>
      </section>
    </template>
    <p v-else class="none">
      Pick a strip to see its stages, sends and settings here. What belongs to the whole session stands under
      Session.
    </p>
  </aside>
</template>

<style scoped>
.inspector {
  width: 280px;
  flex: none;
  overflow-y: auto;
  background: var(--ground);
  border-left: 1px solid var(--rule);
  padding: 12px 14px;
}
.tabs {
  display: flex;
  gap: 4px;
  margin: -6px 0 8px -8px;
  font-size: 13px;
}
.tabs [aria-selected='true'] {
  font-weight: 600;
  border-bottom: 2px solid var(--signal);
}
.tabs [aria-selected='false'] {
  color: var(--ink-soft);
}
header {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  gap: 8px;
  font-size: 12px;
}
.name {
  font: inherit;
  font-size: 16px;
  font-weight: 600;
  background: none;
  border: 0;
  border-bottom: 1px solid transparent;
  color: inherit;
  width: 100%;
  min-width: 0;
}
.name:hover,
.name:focus {
  border-bottom-color: var(--signal);
  outline: none;
}
header .soft {
  white-space: nowrap;
}
.family {
  display: flex;
  gap: 8px;
  margin: 8px 0;
  font-size: 13px;
}
.family input {
  width: 32px;
  height: 28px;
  padding: 0;
  border: 1px solid var(--rule);
  background: none;
}
section {
  border-top: 1px solid var(--rule);
  padding-top: 6px;
  margin-top: 8px;
}
h2 {
  font-size: 13px;
  margin: 0 0 2px;
}
.stages {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 13px;
}
.stages li {
  position: relative;
  display: flex;
  justify-content: space-between;
  line-height: 24px;
  padding-left: 22px;
}
.stages li::before {
  content: '';
  position: absolute;
  left: 2px;
  top: 8px;
  width: 7px;
  height: 7px;
  border: 1.5px solid var(--signal);
  border-radius: 50%;
  background: var(--ground);
  z-index: 1;
}
.stages li.tap::before {
  border-radius: 0;
  transform: rotate(45deg);
  background: var(--signal);
}
.stages li.tap {
  font-weight: 600;
}
.stages li:not(:last-child)::after {
  content: '';
  position: absolute;
  left: 6px;
  top: 13px;
  height: 24px;
  border-left: 1px solid var(--signal);
  opacity: 0.6;
}
.cost {
  font-size: 11px;
}
.stage-name {
  padding: 0;
  min-width: 24px;
  min-height: 24px;
}
.stage-name[aria-pressed='true'] {
  color: var(--signal);
  border: 0;
}
.key-in {
  flex: 1;
  margin-left: 8px;
  color: var(--caution);
  font-size: 12px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.flags {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 6px;
  font-size: 12px;
}
[aria-pressed='true'] {
  border-color: var(--signal);
  color: var(--signal);
}
.taps {
  display: flex;
  gap: 6px;
  font-size: 12px;
  margin: 0 0 6px 80px;
}
.taps .field {
  min-height: 26px;
  width: auto;
  flex: 1;
}
.feeds {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  font-size: 13px;
}
.feeds .plain {
  padding: 0;
  min-height: 24px;
}
.none {
  color: var(--ink-soft);
  font-size: 13px;
}
</style>
