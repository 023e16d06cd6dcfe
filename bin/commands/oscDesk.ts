import { createSocket } from 'node:dgram';
import { emitKeypressEvents } from 'node:readline';
import { Command, InvalidArgumentError } from 'commander';
import {
  STAND_IN,
  STAND_IN_JOINS_S,
  standInJoins,
  standInLines,
  standInPresses,
  standInTold,
  type StandInKey,
} from '../../core/osc/standIn';
import { encodeOsc, isBundle, readOsc, type OscMessage, type OscPacket } from '../../core/wire/osc';
import { write } from './shared';

const KEYS: Readonly<Record<string, StandInKey>> = {
  left: 'left',
  right: 'right',
  up: 'up',
  down: 'down',
  pageup: 'more',
  pagedown: 'less',
  m: 'mute',
  s: 'solo',
  ',': 'bankLeft',
  '.': 'bankRight',
  space: 'play',
  u: 'undo',
  r: 'redo',
};
const HELP =
  'arrows: fader and level, page up and down: more   m s: mute, solo   , .: bank   space: play   u r: undo, redo   q: end';
/** Milliseconds between two pictures. */
const PICTURE_MS = 50;
/** Milliseconds for which what was said last may be answered, where keys came from a file. */
const LAST_ANSWER_MS = 1000;

interface Options {
  readonly host: string;
  readonly port: number;
  readonly pair?: string;
}

async function oscDesk({ host, port, pair }: Options): Promise<void> {
  let desk = STAND_IN;
  let stale = true;
  const socket = createSocket('udp4');
  const send = (messages: readonly OscMessage[]) => {
    for (const m of messages) socket.send(encodeOsc(m), port, host);
  };
  const take = (packet: OscPacket) => {
    if (isBundle(packet)) packet.elements.forEach(take);
    else desk = standInTold(desk, packet);
  };
  socket.on('message', (bytes) => {
    try {
      take(readOsc(bytes));
      stale = true;
    } catch {
      // What is no packet shows nothing.
    }
  });
  // Where nothing listens, the system says so at once: it is asked again.
  socket.on('error', () => {});
  await new Promise<void>((done) => socket.bind(0, () => done()));

  const { stdin, stdout } = process;
  const terminal = stdin.isTTY && stdout.isTTY;
  const draw = () => {
    if (!stale) return;
    stale = false;
    const lines = [...standInLines(desk), '', `Simulated OSC controller. ${HELP}`];
    if (terminal) write(`\x1b[H${lines.map((l) => `${l}\x1b[K`).join('\r\n')}\x1b[J`);
  };
  const joins = () => send(standInJoins());
  if (pair !== undefined) send([{ address: '/pair', args: [pair] }]);
  joins();
  // Until it is answered it asks each second, then so often that it is not forgotten.
  let seconds = 0;
  const asking = setInterval(() => {
    if (!desk.heard || ++seconds % STAND_IN_JOINS_S === 0) joins();
  }, 1000);
  const drawing = setInterval(draw, PICTURE_MS);

  emitKeypressEvents(stdin);
  if (terminal) {
    stdin.setRawMode(true);
    // The terminal's other screen: what stood there comes back.
    write('\x1b[?1049h\x1b[?25l');
  }
  await new Promise<void>((done) => {
    stdin.on('keypress', (text: string | undefined, key: { name?: string; ctrl?: boolean }) => {
      if (key.name === 'q' || (key.ctrl && key.name === 'c')) return done();
      const pressed = KEYS[key.name ?? ''] ?? KEYS[text ?? ''];
      if (!pressed) return;
      const step = standInPresses(desk, pressed);
      desk = step.desk;
      stale = true;
      send(step.says);
    });
    stdin.on('end', () => setTimeout(done, LAST_ANSWER_MS));
    process.once('SIGTERM', done);
    process.once('SIGINT', done);
  });
  clearInterval(asking);
  clearInterval(drawing);
  // What is sent is on its way only when the system says so.
  await new Promise<void>((done) =>
    socket.send(encodeOsc({ address: '/unsubscribe', args: [] }), port, host, () => done()),
  );
  if (terminal) {
    stdin.setRawMode(false);
    write('\x1b[?25h\x1b[?1049l');
  }
  stdin.pause();
  write(`${standInLines(desk).join('\n')}\n`);
  await new Promise<void>((done) => socket.close(() => done()));
}

export const oscDeskCommand = () =>
  new Command('osc-desk')
    .summary('a simulated OSC controller: eight faders in the terminal')
    .description(
      `A simulated OSC controller: eight faders in the terminal, which speak OSC to the running application (docs/osc.md).\n${HELP}`,
    )
    .option('--host <name>', 'where the application is', '127.0.0.1')
    .option(
      '--port <number>',
      'the port that OSC listens on there',
      (text) => {
        const port = Number(text);
        if (!Number.isInteger(port) || port < 1 || port > 65535)
          throw new InvalidArgumentError('--port is a number from 1 to 65535.');
        return port;
      },
      9000,
    )
    .option('--pair <code>', 'the code that the page shows, where the application is on another machine')
    .action((options: Options) => oscDesk(options));
