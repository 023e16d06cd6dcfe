import { defineStore } from 'pinia';
import { computed, onScopeDispose, ref, shallowReactive, shallowRef, triggerRef, watch } from 'vue';
import type { SurfaceProfile } from '@core/surface/profile';
import simulatedProfile from '@core/surface/profiles/simulatedDesk.json';
import {
  feedback,
  moveWindow,
  receive,
  SURFACE_START,
  surfaceStrips,
  windowOf,
  type SurfaceAction,
  type SurfaceState,
} from '@core/surface/surface';
import { Paced } from '@/ui/pace';
import { ask } from '@/session/sync/api';
import { useNotices } from '@/ui/notices';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';
import { SimulatedDesk } from './simulatedDesk';
import { say } from './texts';

/** One way to a device: the simulated desk, or a pair of MIDI ports. */
interface Connection {
  readonly id: string;
  readonly name: string;
  readonly profile: SurfaceProfile;
  state: SurfaceState;
  send(bytes: readonly number[]): void;
  close(): void;
}

export interface MidiLine {
  readonly way: 'in' | 'out';
  readonly device: string;
  readonly bytes: string;
}

const hex = (bytes: readonly number[]) => bytes.map((b) => b.toString(16).padStart(2, '0')).join(' ');
/** Milliseconds between two answers to devices. */
const ANSWER_MS = 4;
/** Lines of the MIDI monitor. */
const MONITOR = 60;

/** The control surfaces of this window: each speaks MIDI bytes to the state machine of core. */
export const useSurface = defineStore('surface', () => {
  const session = useSession();
  const pick = usePick();
  const transport = useTransport();
  const notices = useNotices();
  const profile = simulatedProfile as SurfaceProfile;
  const newDesk = () =>
    new SimulatedDesk(profile, (bytes) => {
      hear(simulated, bytes);
      // What a hand has moved by itself is shown too.
      triggerRef(desk);
    });
  const desk = shallowRef(newDesk());
  const connections = shallowReactive<Connection[]>([]);
  const monitor = shallowRef<readonly MidiLine[]>([]);
  const first = ref(0);

  const simulated: Connection = {
    id: 'simulated',
    name: profile.name,
    profile,
    state: SURFACE_START,
    send(bytes) {
      desk.value.receive(bytes);
      triggerRef(desk);
    },
    close() {},
  };
  connections.push(simulated);

  function note(way: MidiLine['way'], device: string, bytes: readonly number[]) {
    if (bytes.length) monitor.value = [...monitor.value, { way, device, bytes: hex(bytes) }].slice(-MONITOR);
  }

  /** Bytes that come from a device. */
  function hear(connection: Connection, bytes: readonly number[]) {
    const present = session.present();
    if (!present) return;
    note('in', connection.name, bytes);
    const before = connection.state.first;
    const step = receive(present, connection.state, bytes, connection.profile);
    connection.state = step.state;
    if (step.state.first !== before) first.value = step.state.first;
    for (const action of step.actions) carryOut(connection, action);
    answers.ask();
  }

  function carryOut(connection: Connection, action: SurfaceAction) {
    switch (action.type) {
      case 'live':
        return session.live(`${connection.id} ${action.drag}`, action.commands);
      case 'commit':
        return session.land(`${connection.id} ${action.drag}`, action.label, action.commands);
      case 'settle':
        return session.settle(`${connection.id} ${action.drag}`, action.label, action.commands, true);
      case 'pick':
        return pick.only(action.strip);
      case 'play':
        return void transport.play();
      case 'stop':
        return transport.stop();
    }
  }

  function tell(connection: Connection, bytes: readonly number[]) {
    if (!bytes.length) return;
    note('out', connection.name, bytes);
    connection.send(bytes);
  }

  /** Devices are answered once for all that came of them at a time. */
  const answers = new Paced(() => refresh(), ANSWER_MS);
  onScopeDispose(() => answers.close());

  /** Brings every device to the session as it is now. */
  function refresh() {
    const present = session.present();
    if (!present) return;
    for (const connection of connections) {
      const state: SurfaceState = { ...connection.state, picked: pick.picked, playing: transport.rolling };
      const out = feedback(present, state, connection.profile);
      connection.state = out.state;
      tell(connection, out.bytes);
    }
  }
  watch(
    () => [session.now, pick.picked, transport.rolling],
    () => answers.ask(),
    { flush: 'post' },
  );

  function shift(by: number) {
    if (!session.now) return;
    for (const c of connections)
      c.state = {
        ...c.state,
        first: moveWindow(session.now, c.state.first, by === 1 || by === -1 ? by : by, c.profile),
      };
    first.value = simulated.state.first;
    refresh();
  }
  const bank = (way: 1 | -1) => shift(way * profile.width);
  const nudge = (way: 1 | -1) => shift(way);

  const shownStrips = computed(() =>
    session.now ? windowOf(session.now, { first: first.value }, profile) : [],
  );
  const total = computed(() => (session.now ? surfaceStrips(session.now).length : 0));

  /** Starts anew for another session. */
  function reset() {
    for (const c of connections) c.state = { ...SURFACE_START };
    desk.value = newDesk();
    first.value = 0;
    monitor.value = [];
    refresh();
  }

  const midi = shallowRef<MIDIAccess | null>(null);
  const midiAsked = ref(false);
  const ports = computed(() => {
    void midiAsked.value;
    return {
      inputs: [...(midi.value?.inputs.values() ?? [])],
      outputs: [...(midi.value?.outputs.values() ?? [])],
    };
  });
  const midiOffered = typeof navigator !== 'undefined' && 'requestMIDIAccess' in navigator;

  /** Asks the browser for its MIDI ports. */
  async function askMidi() {
    try {
      midi.value = await navigator.requestMIDIAccess({ sysex: true });
      midiAsked.value = true;
      midi.value.onstatechange = () => triggerRef(midi);
    } catch {
      notices.refused(say('browserGaveNoAccessMidi'));
    }
  }

  const kept = shallowRef<readonly SurfaceProfile[]>([]);
  /** The profiles by which a device can speak: the one that ships, and those that were kept. */
  const profiles = computed(() => [profile, ...kept.value]);
  async function loadProfiles() {
    try {
      const { validProfile } = await import('@core/surface/profile');
      const { profiles } = await ask<{ profiles: unknown[] }>('GET', '/surface-profiles');
      kept.value = profiles.map(validProfile).filter((p) => p.id !== profile.id);
    } catch (error) {
      notices.refused(error);
    }
  }

  /** Connects a device behind MIDI ports. @param given how it speaks */
  async function connect(input: MIDIInput, output: MIDIOutput | null, given: SurfaceProfile = profile) {
    await input.open();
    await output?.open();
    const connection: Connection = {
      id: `midi ${input.id}`,
      name: input.name ?? say('midiDevice'),
      profile: given,
      state: { ...SURFACE_START },
      send: (bytes) => output?.send([...bytes]),
      close: () => {
        input.onmidimessage = null;
        void input.close();
        void output?.close();
      },
    };
    input.onmidimessage = (e) => hear(connection, [...(e.data ?? [])]);
    connections.push(connection);
    refresh();
  }
  function disconnect(id: string) {
    const at = connections.findIndex((c) => c.id === id && c !== simulated);
    if (at >= 0) connections.splice(at, 1)[0]!.close();
  }

  return {
    desk,
    profile,
    profiles,
    loadProfiles,
    connections,
    monitor,
    first,
    total,
    shownStrips,
    bank,
    nudge,
    reset,
    refresh,
    midiOffered,
    midi,
    ports,
    askMidi,
    connect,
    disconnect,
  };
});
