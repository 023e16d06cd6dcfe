<script setup lang="ts">
import { computed, ref } from 'vue';
import { newDesk, PICKUPS, FIRSTS, type Unit } from '@core/surface/desk/desk';
import { deviceOf, withoutProfile } from '@core/surface/stands/keyboard';
import { standIns } from '@core/surface/stands/stands';
import { useCommands } from '@/commands/commands';
import { useDialogs } from '@/commands/dialogs';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { useNotices } from '@/ui/notices';
import { saveFile } from '@/ui/saveFile';
import { say } from './texts';
import { useLearning } from './useLearning';
import { useSurface } from './useSurface';

/** The desk of the studio: which one, its units and how each is reached, and how they work together. */
const surface = useSurface();
const learning = useLearning();
const settings = useSettings();
const session = useSession();
const notices = useNotices();
const commands = useCommands();
const dialogs = useDialogs();
const profiles = computed(() => surface.profiles.map((p) => ({ title: p.name, value: p.id })));
/** What can be added: a device by its profile, or a stand-in that has to be learned. */
const addable = computed(() => [
  ...profiles.value,
  ...withoutProfile.map((p) => ({ title: say('toBeLearned', { name: p.name }), value: p.id })),
]);
const profilesFor = (u: Unit) =>
  u.profile === '' ? [{ title: say('noneYetLearn'), value: '' }, ...profiles.value] : profiles.value;
/** A profile that is this studio's own can be changed, and made anew for a second device of its kind. */
const own = (u: Unit) => {
  const found = surface.profile(u.profile);
  return found && !found.simulated ? found : undefined;
};
async function duplicate(u: Unit) {
  const found = own(u);
  if (!found) return;
  const id = learning.freshId(found.name);
  try {
    await surface.keepProfile({ ...found, id, name: say('copyOf', { name: found.name }) });
    setProfile(u, id);
  } catch (error) {
    notices.refused(error);
  }
}
function saveProfile(u: Unit) {
  const found = own(u);
  if (found)
    saveFile(
      `${found.name.replace(/[^\p{L}\p{N} _-]+/gu, '_')}.surface.json`,
      'application/json',
      `${JSON.stringify(found, null, 2)}\n`,
    );
}
const desks = computed(() => surface.kept.map((d) => ({ title: d.name, value: d.id })));
const profile = ref(standIns[0]!.id);

/** A desk of three simulated units: sixteen faders and 32 encoders. */
function three() {
  const [, faders, encoders] = standIns;
  surface.add(newDesk('desk', say('threeUnits'), [faders!, faders!, encoders!]));
}
const one = () => surface.add(newDesk('desk', say('oneUnit'), [standIns[0]!]));
function add() {
  const stand = deviceOf(profile.value);
  if (stand) {
    const id = surface.addUnit(stand, { type: 'simulated', device: stand.id });
    return surface.setUnit(id, { profile: '' });
  }
  const of = surface.profile(profile.value);
  if (of) surface.addUnit(of);
}

const SIMULATED = 'simulated';
/** Ports as they can be chosen: two of one name are told apart by their number. */
function named(ports: readonly MIDIPort[]) {
  const seen = new Map<string, number>();
  return ports.map((p) => {
    const name = p.name ?? say('midiPort');
    const nth = seen.get(name) ?? 0;
    seen.set(name, nth + 1);
    return { title: nth ? `${name} (${nth + 1})` : name, value: `${nth} ${p.name ?? ''}` };
  });
}
const inputs = computed(() => [
  { title: say('simulated'), value: SIMULATED },
  ...named(surface.ports.ports.inputs),
]);
const outputs = computed(() => named(surface.ports.ports.outputs));
function setProfile(u: Unit, profile: string) {
  surface.setUnit(u.id, { profile });
  if (u.connection.type === 'midi')
    settings.portProfiles = { ...settings.portProfiles, [u.connection.input]: profile };
}
const split = (value: string) => ({
  nth: Number(value.split(' ')[0]),
  name: value.slice(value.indexOf(' ') + 1),
});
const inputOf = (u: Unit) =>
  u.connection.type === 'midi' ? `${u.connection.nth} ${u.connection.input}` : SIMULATED;
const outputOf = (u: Unit) =>
  u.connection.type === 'midi' && u.connection.output !== null
    ? `${u.connection.nth} ${u.connection.output}`
    : null;
/** What a unit's port is not there any more is kept in the list, so that it can be seen what it waits for. */
const inputsFor = (u: Unit) =>
  inputs.value.some((i) => i.value === inputOf(u))
    ? inputs.value
    : [
        ...inputs.value,
        {
          title: say('nameAway', { name: u.connection.type === 'midi' ? u.connection.input : '' }),
          value: inputOf(u),
        },
      ];
function setInput(u: Unit, value: string) {
  if (value === SIMULATED) return surface.setUnit(u.id, { connection: { type: 'simulated', device: null } });
  const { nth, name } = split(value);
  // A device mostly answers by a port of the same name.
  const output = surface.ports.ports.outputs.some((p) => p.name === name) ? name : null;
  const before = settings.portProfiles[name];
  surface.setUnit(u.id, {
    connection: { type: 'midi', input: name, output, nth },
    ...(before !== undefined && surface.profile(before) ? { profile: before } : {}),
  });
}
function setOutput(u: Unit, value: string | null) {
  if (u.connection.type !== 'midi') return;
  surface.setUnit(u.id, {
    connection: { ...u.connection, output: value === null ? null : split(value).name },
  });
}
const state = (u: Unit) =>
  u.profile === ''
    ? say('notLearnedYet')
    : !surface.profile(u.profile)
      ? say('profileGone')
      : u.connection.type === 'midi' && !surface.ports.there.has(u.id)
        ? say(surface.ports.elsewhere.has(u.id) ? 'heldElsewhere' : 'notThere')
        : '';

const pickups = [
  { title: say('asProfileSays'), value: 'profile' },
  ...PICKUPS.map((value) => ({ title: say(`pickup_${value}`), value })),
];
const firsts = FIRSTS.map((value) => ({ title: say(`first_${value}`), value }));

const file = ref<File | null>(null);
async function read(chosen: File | File[] | null) {
  const from = Array.isArray(chosen) ? chosen[0] : chosen;
  if (!from) return;
  try {
    const raw = JSON.parse(await from.text()) as { format?: unknown };
    if (raw.format === 'zonula-desk') {
      const { validDesk } = await import('@core/surface/desk/validDesk');
      surface.add(validDesk(raw));
    } else {
      const { validProfile } = await import('@core/surface/profile/validProfile');
      const read = validProfile({ ...raw, simulated: false });
      await surface.keepProfile(read);
      profile.value = read.id;
      notices.done(say('profileKept', { name: read.name }));
    }
  } catch (error) {
    notices.refused(error instanceof SyntaxError ? say('fileNoJson', { name: from.name }) : error);
  } finally {
    file.value = null;
  }
}
const save = () =>
  saveFile(
    `${surface.desk.name.replace(/[^\p{L}\p{N} _-]+/gu, '_')}.desk.json`,
    'application/json',
    `${JSON.stringify(surface.desk, null, 2)}\n`,
  );

const actions = computed(() => [
  { title: say('free'), value: '' },
  ...commands.list.map((a) => ({ title: a.title, value: a.id })),
]);
const layer = ref<1 | 2>(1);
const userKeys = computed(() =>
  [
    ...new Set(
      surface.desk.units.flatMap((u) =>
        (surface.profile(u.profile)?.controls ?? []).flatMap((c) =>
          c.kind === 'key' && c.user !== null ? [c.user] : [],
        ),
      ),
    ),
  ].sort((a, b) => a - b),
);
const userAction = (key: number) =>
  surface.desk.userKeys.find((k) => k.key === key && k.layer === layer.value)?.action ?? '';
function setUserKey(key: number, action: string) {
  const rest = surface.desk.userKeys.filter((k) => !(k.key === key && k.layer === layer.value));
  surface.setDesk({ userKeys: action ? [...rest, { key, layer: layer.value, action }] : rest });
}
</script>

<template>
  <div class="d-flex flex-column ga-3">
    <section class="d-flex flex-column ga-2">
      <h2>{{ say('desk') }}</h2>
      <v-select
        v-if="desks.length > 1"
        :model-value="surface.desk.id"
        :items="desks"
        :aria-label="say('deskUse')"
        @update:model-value="surface.chosen = $event"
      />
      <v-text-field
        :model-value="surface.desk.name"
        :aria-label="say('deskName')"
        maxlength="80"
        @update:model-value="$event && surface.setDesk({ name: $event })"
      />
      <div class="d-flex flex-wrap ga-1">
        <v-btn variant="outlined" size="small" @click="three">{{ say('threeSimulatedUnits') }}</v-btn>
        <v-btn variant="outlined" size="small" @click="one">{{ say('oneSimulatedUnit') }}</v-btn>
        <v-btn variant="outlined" size="small" :href="`/session/${session.id}/hands`" target="_blank">{{
          say('touchDeskLink')
        }}</v-btn>
        <v-btn variant="outlined" size="small" @click="save">{{ say('saveDesk') }}</v-btn>
        <v-btn
          v-if="desks.length > 1"
          variant="outlined"
          size="small"
          @click="surface.remove(surface.desk.id)"
          >{{ say('removeDesk') }}</v-btn
        >
      </div>
      <v-file-input
        v-model="file"
        accept=".json,application/json"
        :label="say('readDeskOrProfile')"
        prepend-icon=""
        @update:model-value="read"
      />
    </section>
    <section class="d-flex flex-column ga-2">
      <h2>{{ say('units') }}</h2>
      <p class="soft ma-0">{{ say('keysHeldByShift') }}</p>
      <p v-if="!surface.desk.units.length" class="soft">{{ say('noUnitYetAddOne') }}</p>
      <div v-for="(u, i) in surface.desk.units" :key="u.id" class="border-thin pa-2 d-flex flex-column ga-1">
        <div class="d-flex ga-1 align-center">
          <b class="flex-1-1-0 text-truncate">{{ u.name }}</b>
          <v-chip v-if="u.connection.type === 'simulated'" class="caution" :text="say('simulated')" />
          <v-btn
            size="x-small"
            :aria-label="say('moveUnitLeft', { name: u.name })"
            :disabled="i === 0"
            @click="surface.moveUnit(u.id, -1)"
            >←</v-btn
          >
          <v-btn
            size="x-small"
            :aria-label="say('moveUnitRight', { name: u.name })"
            :disabled="i === surface.desk.units.length - 1"
            @click="surface.moveUnit(u.id, 1)"
            >→</v-btn
          >
          <v-btn
            size="x-small"
            :aria-label="say('removeUnit', { name: u.name })"
            @click="surface.removeUnit(u.id)"
            >×</v-btn
          >
        </div>
        <p v-if="state(u)" class="caution ma-0">{{ state(u) }}</p>
        <v-btn v-if="surface.ports.elsewhere.has(u.id)" size="small" @click="surface.ports.takeOver(u.id)">{{
          say('takeOverHere')
        }}</v-btn>
        <v-select
          :model-value="u.profile"
          :items="profilesFor(u)"
          :aria-label="say('profileOfUnit', { name: u.name })"
          @update:model-value="setProfile(u, $event)"
        />
        <div class="d-flex flex-wrap ga-1">
          <v-btn v-if="!own(u)" size="x-small" variant="outlined" @click="learning.start(u.id)">{{
            say('learn')
          }}</v-btn>
          <template v-else>
            <v-btn size="x-small" variant="outlined" @click="learning.edit(own(u)!, u.id)">{{
              say('changeProfile')
            }}</v-btn>
            <v-btn size="x-small" variant="outlined" @click="duplicate(u)">{{ say('duplicate') }}</v-btn>
            <v-btn size="x-small" variant="outlined" @click="saveProfile(u)">{{ say('saveProfile') }}</v-btn>
          </template>
        </div>
        <v-select
          :model-value="inputOf(u)"
          :items="inputsFor(u)"
          :aria-label="say('portOfUnit', { name: u.name })"
          @update:model-value="setInput(u, $event)"
        />
        <v-select
          v-if="u.connection.type === 'midi'"
          :model-value="outputOf(u)"
          :items="outputs"
          :placeholder="say('backTo')"
          clearable
          :aria-label="say('outputOfUnit', { name: u.name })"
          @update:model-value="setOutput(u, $event)"
        />
        <span class="soft">{{ say('fadersWithoutMotors') }}</span>
        <v-select
          :model-value="u.pickup"
          :items="pickups"
          :aria-label="say('fadersWithoutMotors')"
          @update:model-value="surface.setUnit(u.id, { pickup: $event })"
        />
      </div>
      <div class="d-flex ga-1">
        <v-select v-model="profile" :items="addable" :aria-label="say('profileHowItSpeaks')" />
        <v-btn variant="outlined" @click="add">{{ say('addUnit') }}</v-btn>
      </div>
      <p v-if="!surface.ports.offered" class="soft">{{ say('browserOffersNoMidiPorts') }}</p>
      <v-btn v-else-if="!surface.ports.access" variant="outlined" @click="surface.ports.look">{{
        say('lookForMidiDevices')
      }}</v-btn>
      <p v-else-if="!surface.ports.ports.inputs.length" class="soft">{{ say('noMidiDevicePluggedPlug') }}</p>
    </section>
    <section class="d-flex flex-column ga-2">
      <h2>{{ say('howItWorks') }}</h2>
      <v-checkbox
        :model-value="surface.desk.bankBy === 'eight'"
        :label="say('bankByEight')"
        @update:model-value="surface.setDesk({ bankBy: $event ? 'eight' : 'width' })"
      />
      <v-checkbox
        :model-value="surface.desk.follows"
        :label="say('pageFollowsHands')"
        @update:model-value="surface.setDesk({ follows: $event ?? false })"
      />
      <span class="soft">{{ say('equalizerFirst') }}</span>
      <v-select
        :model-value="surface.desk.equalizer"
        :items="firsts"
        :aria-label="say('equalizerFirst')"
        @update:model-value="surface.setDesk({ equalizer: $event })"
      />
      <span class="soft">{{ say('compressorFirst') }}</span>
      <v-select
        :model-value="surface.desk.compressor"
        :items="firsts"
        :aria-label="say('compressorFirst')"
        @update:model-value="surface.setDesk({ compressor: $event })"
      />
      <v-btn variant="outlined" @click="dialogs.show('layouts', {})">{{ say('pinsAndLayouts') }}</v-btn>
    </section>
    <section v-if="userKeys.length" class="d-flex flex-column ga-2">
      <h2>{{ say('userKeys') }}</h2>
      <v-btn-toggle v-model="layer" mandatory :aria-label="say('layer')">
        <v-btn :value="1">{{ say('layerN', { n: 1 }) }}</v-btn>
        <v-btn :value="2">{{ say('layerN', { n: 2 }) }}</v-btn>
      </v-btn-toggle>
      <div v-for="n in userKeys" :key="n">
        <span class="soft">{{ say('userKeyN', { n }) }}</span>
        <v-autocomplete
          :model-value="userAction(n)"
          :items="actions"
          :aria-label="say('userKeyN', { n })"
          @update:model-value="setUserKey(n, $event ?? '')"
        />
      </div>
    </section>
  </div>
</template>
