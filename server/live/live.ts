import type { IncomingMessage, Server as HttpServer } from 'node:http';
import type { ObjectSchema } from 'joi';
import { Server, type Socket } from 'socket.io';
import type { PreampState } from '../../core/devices/preamp';
import { suffices, type Role } from '../../core/base/role';
import type { Command } from '../../core/edits/commands';
import type { Change } from '../../core/edits/history';
import type { Who } from '../access/gate';
import { mayKeep } from '../access/routes';
import { BadRequest } from '../api/errors';
import { log } from '../log';
import type { OscStandIns } from '../osc/standIns';
import { WINDOW_MESSAGES, type Asked, type Playing } from './messages';

/** Follows what windows say and what is kept, as a window does. */
export interface Watcher {
  joined?(session: string): void;
  live?(session: string, from: string, drag: string, commands: readonly Command[] | null): void;
  playing?(session: string, from: string, standing: Playing): void;
  gone?(session: string, from: string): void;
  committed?(session: string, change: Change): void;
  deleted?(session: string): void;
}

/** What reaches every window that has a session open. */
export interface Live {
  /** @returns ends it */
  watch(watcher: Watcher): () => void;
  /** Shows in every window where a hand stands that is not a window's; null ends it. */
  hand(session: string, from: string, drag: string, commands: readonly Command[] | null): void;
  /** Says that somebody has come who is no window: who plays tells where it stands. */
  greet(session: string, from: string): void;
  /** Asks a window that plays. @returns whether it is there */
  ask(session: string, from: string, asked: Asked): boolean;
  committed(session: string, change: Change): void;
  deleted(session: string): void;
  /** Tells every window what is known of an input of the preamplifier. */
  preamp(state: PreampState): void;
  /** Answers at another server as well. */
  attach(http: HttpServer): void;
  /** Cuts the lines of a device that was taken off, or has another role. */
  cut(device: string): void;
  close(): Promise<void>;
}

/** Messages a second that one window may send: faster than any display draws. */
const MOST_PER_SECOND = 400;
/** Letters of a refusal: it may name what came, which may be very long. */
const MOST_TOLD = 300;

/** What one window may say: each message with its shape, who may say it, and what it does. */
interface Message<T> {
  readonly least: Role;
  readonly shape: ObjectSchema<T>;
  /** @returns why it is refused, or what the sender is told, where it asked to be */
  handle(value: T): string | object;
}
const message = <T>(
  least: Role,
  shape: ObjectSchema<T>,
  handle: (value: T) => string | object,
): Message<unknown> => ({
  least,
  shape,
  handle,
});

/** Lets so many messages through in any second. */
function perSecond(most: number): () => boolean {
  let window = 0;
  let count = 0;
  return () => {
    const now = Math.floor(Date.now() / 1000);
    if (now !== window) {
      window = now;
      count = 0;
    }
    return ++count <= most;
  };
}

const endsDrag = (value: unknown) =>
  typeof value === 'object' && value !== null && 'commands' in value && value.commands === null;

/** Passes a request on to the window that plays. */
function askPlayer(io: Server, room: string, from: string, { to, ...asked }: Asked): boolean {
  // No window is reached that has another session open.
  if (!io.sockets.adapter.rooms.get(room)?.has(to)) return false;
  io.to(to).emit('transport', { ...asked, from });
  return true;
}

/** Who has opened a socket, as was found when it was let in. */
const whoOf = (socket: Socket): Who => (socket.request as IncomingMessage & { who: Who }).who;

function listen(
  io: Server,
  socket: Socket,
  watchers: ReadonlySet<Watcher>,
  standIns: OscStandIns | undefined,
): void {
  const who = whoOf(socket);
  let room: string | null = null;
  const slowEnough = perSecond(MOST_PER_SECOND);
  const fewEnds = perSecond(MOST_PER_SECOND);
  const messages = new Map<unknown, Message<unknown>>([
    [
      'join',
      message('listen', WINDOW_MESSAGES.join.shape, ({ session }) => {
        if (room) void socket.leave(room);
        room = session;
        void socket.join(room);
        // Whoever plays tells the newcomer where it stands.
        socket.to(room).emit('joined', { from: socket.id });
        for (const w of watchers) w.joined?.(session);
        return { ok: true };
      }),
    ],
    [
      'live',
      message('hands', WINDOW_MESSAGES.live.shape, (value) => {
        if (!room) return 'Join a session before you send drags.';
        // What may not be kept is not shown either.
        if (value.commands) mayKeep(who.role)(value.commands as readonly Command[]);
        socket.to(room).emit('live', { ...value, from: socket.id });
        for (const w of watchers)
          w.live?.(room, socket.id, value.drag, value.commands as readonly Command[] | null);
        return { ok: true };
      }),
    ],
    [
      'playing',
      message('mix', WINDOW_MESSAGES.playing.shape, (value) => {
        if (!room) return 'Join a session before you play it.';
        socket.to(room).emit('playing', { ...value, from: socket.id });
        for (const w of watchers) w.playing?.(room, socket.id, value);
        return { ok: true };
      }),
    ],
    [
      'transport',
      message('hands', WINDOW_MESSAGES.transport.shape, (asked) =>
        room
          ? { ok: askPlayer(io, room, socket.id, asked) }
          : 'Join a session before you ask for anything of it.',
      ),
    ],
    [
      'oscStandIn',
      message('hands', WINDOW_MESSAGES.oscStandIn.shape, ({ plug, say }) => {
        if (!standIns) return 'There is no OSC here.';
        if (plug) standIns.plug(socket.id, (messages) => void socket.emit('oscStandIn', { messages }));
        else if (say) return standIns.say(socket.id, say) ?? { ok: true };
        else standIns.unplug(socket.id);
        return { ok: true };
      }),
    ],
  ]);
  const refuse = (why: string) =>
    socket.emit('refused', { error: { code: 'format', message: why.slice(0, MOST_TOLD) } });

  /**
   * Everything that a window sends comes by here and goes no further: nothing of it is ever raised as an event of the socket,
   * whatever it calls itself (`error`, a number), and nothing that goes wrong with it reaches the process.
   */
  socket.use(([event, ...args]: readonly unknown[]) => {
    try {
      // That a drag has ended is told even by a window that is too fast: the others would show it for ever.
      if (!slowEnough() && !(endsDrag(args[0]) && fewEnds())) return;
      const known = messages.get(event);
      if (!known) return void refuse(`There is no message \`${String(event)}\`.`);
      if (!suffices(who.role ?? 'listen', known.least))
        return void refuse(
          'This machine may not do that: its role is set at the machine that Zonula runs on.',
        );
      const { value, error } = known.shape.validate(args[0], { convert: false });
      if (error) return void refuse(`The message \`${String(event)}\` is not understood: ${error.message}.`);
      const answer = known.handle(value);
      const told = args.at(-1);
      if (typeof answer === 'string') refuse(answer);
      else if (typeof told === 'function') told(answer);
    } catch (error) {
      if (error instanceof BadRequest) return void refuse(error.message);
      log.error({ err: error }, 'A message of a window could not be handled.');
      refuse('The message could not be handled; the log of the server says why.');
    }
  });
  socket.on('error', (error: Error) => log.warn({ err: error }, 'A socket failed.'));
  socket.on('disconnecting', () => {
    standIns?.unplug(socket.id);
    if (!room) return;
    socket.to(room).emit('gone', { from: socket.id });
    for (const w of watchers) w.gone?.(room, socket.id);
  });
}

/**
 * Sockets carry what need not be kept (drags) and tell of what was kept (commits). A message that is not of the protocol is
 * answered with `refused`, and changes nothing.
 */
export function liveSync(
  http: HttpServer,
  /** @returns who asks; null where that one may not */
  allowed: (req: IncomingMessage) => Promise<Who | null>,
  standIns?: OscStandIns,
): Live {
  const io = new Server(http, {
    path: '/socket',
    maxHttpBufferSize: 1 << 20,
    serveClient: false,
    allowRequest: (req, done) =>
      void allowed(req).then(
        (who) => {
          Object.assign(req, { who });
          done(null, who !== null);
        },
        () => done(null, false),
      ),
  });
  const watchers = new Set<Watcher>();
  io.on('connection', (socket) => listen(io, socket, watchers, standIns));
  return {
    watch(watcher) {
      watchers.add(watcher);
      return () => void watchers.delete(watcher);
    },
    hand: (session, from, drag, commands) => void io.to(session).emit('live', { drag, commands, from }),
    greet: (session, from) => void io.to(session).emit('joined', { from }),
    ask: (session, from, asked) => askPlayer(io, session, from, asked),
    committed(session, change) {
      io.to(session).emit('commit', change);
      for (const w of watchers) w.committed?.(session, change);
    },
    preamp: (state) => void io.emit('preamp', state),
    deleted(session) {
      io.to(session).emit('deleted');
      for (const w of watchers) w.deleted?.(session);
    },
    attach(server) {
      const before = new Set(server.listeners('close'));
      io.engine.attach(server as never, { path: '/socket' });
      // When that server closes its sockets close; those of the others, and the engine, stay.
      for (const listener of server.listeners('close'))
        if (!before.has(listener)) server.off('close', listener as () => void);
    },
    cut(device) {
      for (const socket of io.sockets.sockets.values())
        if (whoOf(socket).device === device) socket.disconnect(true);
    },
    close: () => new Promise((resolve) => void io.close(() => resolve())),
  };
}
