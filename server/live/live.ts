import type { Server as HttpServer } from 'node:http';
import Joi from 'joi';
import { Server, type Socket } from 'socket.io';
import type { PreampState } from '../../core/devices/preamp';
import { commandSchema } from '../../core/session/commands/schema';
import type { Change } from '../../core/session/history';

/** What reaches every window that has a session open. */
export interface Live {
  committed(session: string, change: Change): void;
  deleted(session: string): void;
  /** Tells every window what is known of an input of the preamplifier. */
  preamp(state: PreampState): void;
  close(): Promise<void>;
}

const joinSchema = Joi.object({ session: Joi.string().guid().required() });
const liveSchema = Joi.object({
  /** A drag: one hand, one gesture. */
  gesture: Joi.string().max(100).required(),
  /** What the drag stands at; null when it has ended. */
  commands: Joi.array().items(commandSchema).max(500).allow(null).required(),
});

/** Messages a second that one window may send: faster than any display draws. */
const MOST_PER_SECOND = 400;

/**
 * Sockets carry what need not be kept (drags) and tell of what was kept (commits). A message that is not of the protocol is
 * answered with `refused`, and changes nothing.
 */
export function liveSync(
  http: HttpServer,
  allowed: (origin: string | undefined, host: string | undefined) => boolean,
): Live {
  const io = new Server(http, {
    path: '/socket',
    maxHttpBufferSize: 1 << 20,
    serveClient: false,
    allowRequest: (req, done) => done(null, allowed(req.headers.origin, req.headers.host)),
  });
  io.on('connection', (socket: Socket) => {
    let room: string | null = null;
    let window = 0;
    let count = 0;
    const refuse = (message: string) => socket.emit('refused', { error: { code: 'format', message } });
    const tooFast = () => {
      const now = Math.floor(Date.now() / 1000);
      if (now !== window) {
        window = now;
        count = 0;
      }
      return ++count > MOST_PER_SECOND;
    };
    socket.on('join', (raw: unknown, done?: unknown) => {
      const { value, error } = joinSchema.validate(raw);
      if (error) return refuse(`The message \`join\` is not understood: ${error.message}.`);
      if (room) void socket.leave(room);
      room = (value as { session: string }).session;
      void socket.join(room);
      if (typeof done === 'function') done({ ok: true });
    });
    socket.on('live', (raw: unknown) => {
      if (tooFast()) return;
      const { value, error } = liveSchema.validate(raw, { convert: false });
      if (error) return refuse(`The message \`live\` is not understood: ${error.message}.`);
      if (!room) return refuse('Join a session before you send drags.');
      socket.to(room).emit('live', { ...(value as object), from: socket.id });
    });
    socket.onAny((event: string) => {
      if (event !== 'join' && event !== 'live') refuse(`There is no message \`${event.slice(0, 40)}\`.`);
    });
    socket.on('disconnecting', () => {
      if (room) socket.to(room).emit('gone', { from: socket.id });
    });
  });
  return {
    committed: (session, change) => void io.to(session).emit('commit', change),
    preamp: (state) => void io.emit('preamp', state),
    deleted: (session) => void io.to(session).emit('deleted'),
    close: () => new Promise((resolve) => void io.close(() => resolve())),
  };
}
