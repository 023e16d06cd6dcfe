<script setup lang="ts">
import { useIntervalFn, useNow } from '@vueuse/core';
import { toDataURL } from 'qrcode';
import { computed, ref, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import { ROLES, type Role } from '@core/base/role';
import { ask, toPairing } from '@/session/sync/api';
import ConfirmDialog from '@/ui/ConfirmDialog.vue';
import { useNotices } from '@/ui/notices';
import type { Device, MachinesState } from './state';
import { say } from './texts';

/** Other machines: whether they can reach Zonula, by what code they are let in, and which have been. */
const notices = useNotices();
const router = useRouter();
const state = shallowRef<MachinesState | null>(null);
const open = ref(false);
const busy = ref(false);
const role = ref<Role>('hands');
const leaving = ref<Device | null>(null);
const now = useNow({ interval: 1000 });

async function look() {
  try {
    state.value = await ask<MachinesState>('GET', '/access');
    // Of a stranger it is nobody's business.
    if (!state.value.role) toPairing();
    if (!busy.value) open.value = state.value.studio?.open === true;
  } catch {
    // It is asked again in a moment.
  }
}
useIntervalFn(() => void look(), 2000, { immediateCallback: true });
/** Does something, says why where it cannot, and shows how it is then. */
async function act(what: () => Promise<unknown>) {
  busy.value = true;
  try {
    await what();
  } catch (error) {
    notices.refused(error);
  } finally {
    busy.value = false;
    await look();
  }
}
const putOpen = () => act(() => ask('PUT', '/access', { open: open.value }));
const showCode = () => act(() => ask('POST', '/access/code', { role: role.value }));
const endCode = () => act(() => ask('DELETE', '/access/code'));
const change = (d: Device, patch: { role?: Role; name?: string }) =>
  act(() => ask('PUT', `/access/devices/${d.id}`, patch));
function takeOff() {
  const { id } = leaving.value!;
  leaving.value = null;
  void act(() => ask('DELETE', `/access/devices/${id}`));
}
async function leave() {
  await act(() => ask('POST', '/access/leave'));
  await router.push('/pair');
}

const studio = computed(() => state.value?.studio ?? null);
const addresses = computed(() => [...(studio.value?.http ?? []), ...(studio.value?.https ?? [])]);
const chosen = ref<string | null>(null);
const code = computed(() => {
  const shown = state.value?.code;
  return shown && shown.until > now.value.getTime() ? shown : null;
});
/** Where the picture leads: who may mix needs the safe line, on which it can play. */
const address = computed(() => {
  if (chosen.value && addresses.value.includes(chosen.value)) return chosen.value;
  const { http = [], https = [] } = studio.value ?? {};
  return (code.value?.role === 'mix' ? https[0] : http[0]) ?? addresses.value[0] ?? '';
});
const link = computed(() =>
  code.value && address.value ? `${address.value}/pair#code=${code.value.code}` : '',
);
const picture = ref('');
watch(link, async (to) => (picture.value = to ? await toDataURL(to, { margin: 2, scale: 5 }) : ''), {
  immediate: true,
});
const minutes = computed(() =>
  code.value ? Math.max(1, Math.round((code.value.until - now.value.getTime()) / 60_000)) : 0,
);
const roles = ROLES.toReversed().map((value) => ({ title: say(`short_${value}`), value }));
const when = (iso: string) =>
  new Date(iso).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
</script>

<template>
  <main class="overflow-y-auto px-6 py-4" style="height: 100vh">
    <div class="mx-auto" style="max-width: 920px">
      <header class="row border-b pb-3 ga-3">
        <v-btn variant="text" to="/">{{ say('sessions') }}</v-btn>
        <h1>{{ say('otherMachines') }}</h1>
      </header>

      <template v-if="state && !state.own">
        <p class="my-4">
          {{ say('youAre', { name: state.name ?? '', role: say(`role_${state.role ?? 'listen'}`) }) }}
        </p>
        <v-btn variant="outlined" @click="leave">{{ say('leave') }}</v-btn>
      </template>

      <template v-else-if="state">
        <section class="my-4" :aria-label="say('openTitle')">
          <h2>{{ say('openTitle') }}</h2>
          <p class="soft my-2">{{ say('openAbout') }}</p>
          <v-switch
            v-model="open"
            :label="say('letIn')"
            :loading="busy"
            :disabled="studio?.forced"
            hide-details
            density="compact"
            color="primary"
            @update:model-value="putOpen"
          />
          <p v-if="studio?.forced" class="soft">{{ say('forced') }}</p>
          <template v-if="studio?.open">
            <p class="mt-3 mb-1">{{ say('answersAt') }}</p>
            <ul class="plain-list pa-0 ma-0">
              <li v-for="a in studio.http" :key="a">
                <b class="mono">{{ a }}</b> {{ say('plainFor') }}
              </li>
              <li v-for="a in studio.https" :key="a">
                <b class="mono">{{ a }}</b> {{ say('secureFor') }}
              </li>
            </ul>
            <p v-if="studio.selfMade && studio.https.length" class="soft my-2">{{ say('selfMade') }}</p>
            <p v-if="studio.problem" role="alert" class="my-2">
              {{ say('problem', { why: studio.problem }) }}
            </p>
          </template>
        </section>

        <section class="my-4 border-t pt-4" :aria-label="say('codeTitle')">
          <h2>{{ say('codeTitle') }}</h2>
          <p v-if="!studio?.open" class="soft my-2">{{ say('notOpened') }}</p>
          <template v-else>
            <v-radio-group v-model="role" :label="say('roleOf')" hide-details density="compact" class="my-2">
              <v-radio v-for="r in roles" :key="r.value" :value="r.value" :label="say(`role_${r.value}`)" />
            </v-radio-group>
            <div class="d-flex ga-2">
              <v-btn variant="flat" color="primary" @click="showCode">{{
                say(code ? 'otherCode' : 'showCode')
              }}</v-btn>
              <v-btn v-if="code" variant="outlined" @click="endCode">{{ say('endCode') }}</v-btn>
            </div>
            <div v-if="code" class="d-flex ga-4 my-4 align-center" role="status">
              <img
                v-if="picture"
                :src="picture"
                :alt="say('qrOf', { address: link })"
                width="180"
                height="180"
              />
              <div>
                <p class="soft ma-0">{{ say('codeIs') }} ({{ say(`short_${code.role}`) }})</p>
                <p class="mono ma-0" style="font-size: 44px; letter-spacing: 4px">
                  {{ code.code.slice(0, 3) }} {{ code.code.slice(3) }}
                </p>
                <p class="soft">{{ say('codeHow', { minutes }) }}</p>
                <v-select
                  v-if="addresses.length > 1"
                  :model-value="address"
                  :items="addresses"
                  :aria-label="say('address')"
                  hide-details
                  density="compact"
                  @update:model-value="chosen = $event"
                />
              </div>
            </div>
          </template>
        </section>

        <section class="my-4 border-t pt-4" :aria-label="say('devicesTitle')">
          <h2>{{ say('devicesTitle') }}</h2>
          <p v-if="!state.devices?.length" class="soft my-2">{{ say('noDevices') }}</p>
          <v-table v-else density="compact">
            <thead>
              <tr>
                <th scope="col">{{ say('name') }}</th>
                <th scope="col">{{ say('roleOf') }}</th>
                <th scope="col">{{ say('seen') }}</th>
                <th scope="col"></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="d in state.devices" :key="d.id">
                <td>
                  {{ d.name }}
                  <span v-if="d.address" class="soft tiny">{{ say('osc', { address: d.address }) }}</span>
                </td>
                <td>
                  <v-select
                    :model-value="d.role"
                    :items="roles"
                    :aria-label="say('roleOfDevice', { name: d.name })"
                    hide-details
                    density="compact"
                    @update:model-value="change(d, { role: $event })"
                  />
                </td>
                <td class="mono">{{ when(d.seenAt) }}</td>
                <td class="text-end">
                  <v-btn
                    size="small"
                    variant="outlined"
                    :aria-label="say('takeOff', { name: d.name })"
                    @click="leaving = d"
                    >{{ say('takeOffWord') }}</v-btn
                  >
                </td>
              </tr>
            </tbody>
          </v-table>
        </section>
      </template>
      <ConfirmDialog
        v-if="leaving"
        :title="say('takeOff', { name: leaving.name })"
        :text="say('takeOffAsk', { name: leaving.name })"
        :done="say('takeOffWord')"
        @confirm="takeOff"
        @close="leaving = null"
      />
    </div>
  </main>
</template>
