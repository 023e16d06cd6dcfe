import { createSocket } from 'node:dgram';
import {
  preampMessage,
  readPreampMessage,
  unconfirmed,
  type PreampField,
  type PreampSettings,
  type PreampState,
} from '../../core/devices/preamp';
import { decodeOsc, encodeOsc } from '../../core/wire/osc';
import { log } from '../log';

export interface PreampBridgeOptions {
  readonly port: number;
  /** Milliseconds after which an unanswered wish is sent again. */
  readonly again?: number;
  /** How often it is sent before the device counts as silent. */
  readonly tries?: number;
  /** Told whenever something is asked, confirmed or given up. */
  readonly changed: (state: PreampState) => void;
}

export interface PreampBridge {
  /** Asks for an input's settings; what was asked before and is not confirmed is forgotten. */
  ask(settings: PreampSettings): PreampState;
  states(): readonly PreampState[];
  close(): Promise<void>;
}

interface Input {
  state: PreampState;
  tries: number;
  timer: NodeJS.Timeout | null;
  /** Fields that were answered since they were asked for. */
  readonly heard: Set<PreampField>;
}

/** Asks a preamplifier for settings, again until it confirms them, and keeps what was asked apart from what it said. */
export async function connectPreamp(options: PreampBridgeOptions): Promise<PreampBridge> {
  const again = options.again ?? 1000;
  const tries = options.tries ?? 6;
  const inputs = new Map<number, Input>();
  // By the clock, so that what is told after a restart follows what was told before.
  let last = 0;
  const next = () => (last = Math.max(last + 1, Date.now()));
  function change(input: Input, patch: Partial<PreampState>) {
    input.state = { ...input.state, ...patch, order: next() };
  }
  const socket = createSocket('udp4');

  function send(input: Input) {
    for (const field of unconfirmed(input.state))
      socket.send(
        encodeOsc(preampMessage(input.state.input, field, input.state.asked[field])),
        options.port,
        '127.0.0.1',
      );
    input.tries++;
    input.timer = setTimeout(() => {
      input.timer = null;
      if (unconfirmed(input.state).length === 0) return;
      if (input.tries < tries) return send(input);
      const answered = unconfirmed(input.state).every((f) => input.heard.has(f));
      change(input, { state: answered ? 'settled' : 'silent' });
      options.changed(input.state);
    }, again);
  }

  socket.on('error', (error) => log.warn({ err: error }, "A preamplifier's socket failed."));
  socket.on('message', (bytes) => {
    const message = decodeOsc(bytes);
    const answer = message && readPreampMessage(message);
    const input = answer && inputs.get(answer.input);
    if (!answer || !input) return;
    const { field, value } = answer;
    input.heard.add(field);
    change(input, { confirmed: { ...input.state.confirmed, [field]: value } });
    const open = unconfirmed(input.state);
    if (open.length === 0) {
      if (input.timer) clearTimeout(input.timer);
      input.timer = null;
      change(input, { state: 'settled' });
    } else if (!input.timer && input.tries < tries) {
      // An answer to an earlier wish may come last; what the device has set now is asked for once more.
      change(input, { state: 'waiting' });
      send(input);
    }
    options.changed(input.state);
  });
  await new Promise<void>((done) => socket.bind(0, '127.0.0.1', done));

  return {
    ask(settings) {
      const known = inputs.get(settings.input);
      if (
        known &&
        JSON.stringify(known.state.asked) === JSON.stringify(settings) &&
        known.state.state !== 'silent'
      )
        return known.state;
      if (known?.timer) clearTimeout(known.timer);
      const confirmed = known?.state.confirmed ?? {};
      const input: Input = {
        state: { input: settings.input, asked: settings, confirmed, state: 'waiting', order: next() },
        tries: 0,
        timer: null,
        heard: new Set(),
      };
      if (unconfirmed(input.state).length === 0) change(input, { state: 'settled' });
      inputs.set(settings.input, input);
      if (input.state.state === 'waiting') send(input);
      options.changed(input.state);
      return input.state;
    },
    states: () => [...inputs.values()].map((i) => i.state),
    close: () =>
      new Promise((done) => {
        for (const i of inputs.values()) if (i.timer) clearTimeout(i.timer);
        socket.close(() => done());
      }),
  };
}
