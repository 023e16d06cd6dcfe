import { ServerResponse, type IncomingMessage } from 'node:http';
import cookieSession from 'cookie-session';
import type { Request, RequestHandler } from 'express';
import Keygrip from 'keygrip';
import { suffices, type Role } from '../../core/base/role';
import { BadRequest } from '../api/errors';
import { leastFor } from '../api/openapi';
import type { Access } from './access';

/** Who asks: the machine itself, one that was let in, or a stranger. */
export type Who =
  | { readonly own: true; readonly device: null; readonly role: 'mix' }
  | { readonly own: false; readonly device: string; readonly role: Role }
  | { readonly own: false; readonly device: null; readonly role: null };
const ITSELF: Who = { own: true, device: null, role: 'mix' };
const STRANGER: Who = { own: false, device: null, role: null };

const plain = (address: string | undefined) => (address ?? '').replace(/^::ffff:/i, '');
const isItself = (address: string | undefined) => ['127.0.0.1', '::1'].includes(plain(address));
/** Whether somebody sits at the machine that Zonula runs on: whose words came by the loopback, and to it. */
export const sitsHere = ({ socket }: IncomingMessage): boolean =>
  isItself(socket.remoteAddress) && isItself(socket.localAddress);

/** Days after which a machine has to be let in anew. */
const DAYS = 90;
export const COOKIE = 'zonula';

declare module 'express-serve-static-core' {
  interface Request {
    who?: Who;
  }
}

/** What stands between other machines and the session. */
export function gate(access: Access) {
  let signed: { plain: RequestHandler; secure: RequestHandler } | null = null;
  const make = (secure: boolean) =>
    cookieSession({
      // By this name a browser takes it over a line that is safe alone, and for this host alone (RFC 6265bis, 4.1.3).
      name: secure ? `__Host-${COOKIE}` : COOKIE,
      keys: new Keygrip([...access.keys], 'sha256'),
      httpOnly: true,
      sameSite: 'strict',
      secure,
      maxAge: DAYS * 86_400_000,
    });
  /** Reads the cookie of a request, and writes it with the answer where it has changed. */
  async function cookies(req: Request, res: ServerResponse): Promise<void> {
    await access.ready;
    signed ??= { plain: make(false), secure: make(true) };
    const read = req.socket && 'encrypted' in req.socket ? signed.secure : signed.plain;
    await new Promise<void>(
      (done, fail) =>
        void read(req, res as never, (error?: unknown) => (error ? fail(error as Error) : done())),
    );
  }
  /** @param res what the cookie may be written with; a socket has none */
  async function who(req: IncomingMessage, res = new ServerResponse(req)): Promise<Who> {
    if (sitsHere(req)) return ITSELF;
    await cookies(req as Request, res);
    const { device: id, at } = (req as Request).session ?? {};
    // The browser lets go of it by then; nobody else may keep it for longer either.
    const fresh = typeof at === 'number' && Date.now() - at < DAYS * 86_400_000;
    const device = fresh ? access.find(id) : null;
    return device ? { own: false, device: device.id, role: device.role } : STRANGER;
  }
  /** Lets through to the API who may do what is asked for. */
  const api: RequestHandler = async (req, res, next) => {
    req.who = await who(req, res);
    const least = leastFor(req.method, req.path);
    if (least === 'none' || req.who.own) return next();
    if (req.who.role === null)
      throw new BadRequest(401, 'stranger', 'This machine has not been let in yet, or was taken off.');
    if (least === 'own')
      throw new BadRequest(403, 'role', 'That is done at the machine that Zonula runs on.');
    if (!suffices(req.who.role, least))
      throw new BadRequest(
        403,
        'role',
        `This machine was let in to ${req.who.role === 'listen' ? 'listen' : 'lay hands on the mix'}: its role is changed at the machine that Zonula runs on.`,
      );
    next();
  };
  return { who, api };
}
export type Gate = ReturnType<typeof gate>;
