import { io, type Socket } from 'socket.io-client';
import { onScopeDispose, ref, shallowRef } from 'vue';
import {
  STAND_IN,
  STAND_IN_JOINS_S,
  standInJoins,
  standInMoves,
  standInPresses,
  standInTold,
  type StandInKey,
  type StandInStep,
} from '@core/osc/standIn';
import type { OscMessage } from '@core/wire/osc';

/** A message as it went by. */
export interface OscLine {
  readonly key: number;
  readonly way: 'in' | 'out';
  readonly text: string;
}
const LINES = 40;
const written = ({ address, args }: OscMessage) =>
  [
    address,
    ...args.map((a) => (typeof a === 'number' ? String(Number(a.toPrecision(5))) : JSON.stringify(a))),
  ].join(' ');

/** The simulated OSC controller of this window: the server sends for it, as no page can speak UDP. */
export function useStandIn() {
  const desk = shallowRef(STAND_IN);
  const lines = shallowRef<readonly OscLine[]>([]);
  const plugged = ref(false);
  let socket: Socket | null = null;
  let again: ReturnType<typeof setInterval> | null = null;
  let serial = 0;
  function note(way: OscLine['way'], messages: readonly OscMessage[]) {
    const fresh = messages.map((m) => ({ key: serial++, way, text: written(m) }));
    lines.value = [...fresh.reverse(), ...lines.value].slice(0, LINES);
  }
  function say(messages: readonly OscMessage[]) {
    if (!messages.length) return;
    note('out', messages);
    socket?.emit('oscStandIn', { say: messages });
  }
  function step({ desk: next, says }: StandInStep) {
    desk.value = next;
    say(says);
  }
  function join() {
    socket?.emit('oscStandIn', { plug: true }, () => say(standInJoins()));
  }
  function plug() {
    if (socket) return;
    plugged.value = true;
    socket = io({ path: '/socket', transports: ['websocket'] });
    // It is plugged in anew when the server comes back.
    socket.on('connect', join);
    socket.on('oscStandIn', ({ messages }: { messages: readonly OscMessage[] }) => {
      note('in', messages);
      desk.value = messages.reduce(standInTold, desk.value);
    });
    again = setInterval(() => say(standInJoins()), STAND_IN_JOINS_S * 1000);
  }
  function unplug() {
    if (again) clearInterval(again);
    socket?.close();
    socket = null;
    plugged.value = false;
    desk.value = STAND_IN;
    lines.value = [];
  }
  onScopeDispose(unplug);
  return {
    desk,
    lines,
    plugged,
    plug,
    unplug,
    move: (i: number, travel: number) => step(standInMoves(desk.value, i, travel)),
    press: (key: StandInKey, at = desk.value.at) => step(standInPresses({ ...desk.value, at }, key)),
  };
}
