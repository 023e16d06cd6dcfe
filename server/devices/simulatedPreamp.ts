import { createSocket, type Socket } from 'node:dgram';
import { preampMessage, PREAMP, readPreampMessage } from '../../core/devices/preamp';
import { decodeOsc, encodeOsc } from '../../core/wire/osc';
import { log } from '../log';

export interface SimulatedPreampOptions {
  /** Milliseconds until it answers, at least and at most. */
  readonly delay?: readonly [number, number];
  /** Share of messages that it does not hear. */
  readonly loss?: number;
  /** Inputs that never answer, as if their cable were out. */
  readonly dead?: readonly number[];
}

export interface SimulatedPreamp {
  readonly port: number;
  close(): Promise<void>;
}

/**
 * A simulated remote preamplifier of 24 inputs. It speaks OSC over UDP on a socket of its own, answers slowly and sometimes not
 * at all, and has gain in steps: what it confirms is what it has set, which need not be what was asked.
 */
export async function startSimulatedPreamp(options: SimulatedPreampOptions = {}): Promise<SimulatedPreamp> {
  const [least, most] = options.delay ?? [80, 700];
  const loss = options.loss ?? 0.15;
  const dead = new Set(options.dead ?? []);
  const socket: Socket = createSocket('udp4');
  const timers = new Set<NodeJS.Timeout>();
  socket.on('error', (error) => log.warn({ err: error }, "A preamplifier's socket failed."));
  socket.on('message', (bytes, from) => {
    const message = decodeOsc(bytes);
    const wish = message && readPreampMessage(message);
    if (!wish || wish.input < 1 || wish.input > PREAMP.inputs || dead.has(wish.input)) return;
    if (Math.random() < loss) return;
    const value =
      typeof wish.value === 'number'
        ? Math.max(
            PREAMP.gainMin,
            Math.min(PREAMP.gainMax, Math.round(wish.value / PREAMP.gainStep) * PREAMP.gainStep),
          )
        : wish.value;
    const timer = setTimeout(
      () => {
        timers.delete(timer);
        socket.send(encodeOsc(preampMessage(wish.input, wish.field, value)), from.port, from.address);
      },
      least + Math.random() * (most - least),
    );
    timers.add(timer);
  });
  await new Promise<void>((done) => socket.bind(0, '127.0.0.1', done));
  return {
    port: socket.address().port,
    close: () =>
      new Promise((done) => {
        for (const t of timers) clearTimeout(t);
        socket.close(() => done());
      }),
  };
}
