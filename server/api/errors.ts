import type { ErrorRequestHandler, RequestHandler } from 'express';
import { BaseError } from 'sequelize';
import { Refusal } from '../../core/base/refusal';
import { TooMany } from '../access/access';
import { NoRoom } from '../files/room';
import { Stale } from '../sessions/commit';
import { log, pathKind } from '../log';

/** The one shape of every error that the API gives. */
export interface ApiError {
  readonly error: {
    readonly code: string;
    readonly message: string;
    readonly things?: readonly string[];
    readonly missed?: unknown;
    /** The session's own revision, where an edit was made on an older one. */
    readonly revision?: number;
  };
}

const STATUS: Partial<Record<Refusal['rule'], number>> = { unknown: 404, size: 413 };

/** An error made by the request itself, not by a rule of the session. */
export class BadRequest extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

export function errorAnswer(error: unknown): { readonly status: number; readonly body: ApiError } {
  if (error instanceof Refusal)
    return {
      status: STATUS[error.rule] ?? 422,
      body: { error: { code: error.rule, message: error.message, things: error.things } },
    };
  if (error instanceof Stale)
    return {
      status: 409,
      body: {
        error: { code: 'stale', message: error.message, missed: error.missed, revision: error.revision },
      },
    };
  if (error instanceof BadRequest)
    return { status: error.status, body: { error: { code: error.code, message: error.message } } };
  if (error instanceof TooMany)
    return { status: 429, body: { error: { code: 'often', message: error.message } } };
  if (error instanceof NoRoom || isFull(error))
    return {
      status: 507,
      body: {
        error: {
          code: 'room',
          message: error instanceof NoRoom ? error.message : new NoRoom().message,
        },
      },
    };
  const data = dataProblem(error);
  if (data) return { status: 422, body: { error: { code: 'format', message: data } } };
  if (isDatabaseDown(error))
    return {
      status: 503,
      body: {
        error: {
          code: 'database',
          message: 'The database does not answer. Edits are kept in the page and sent when it is back.',
        },
      },
    };
  const { status, type, message } = error as { status?: number; type?: string; message?: string };
  if (type === 'entity.too.large')
    return {
      status: 413,
      body: { error: { code: 'size', message: 'The request is larger than is accepted here.' } },
    };
  if (type === 'entity.parse.failed')
    return {
      status: 400,
      body: { error: { code: 'format', message: `The request is not JSON: ${message}` } },
    };
  if (status !== undefined && status >= 400 && status < 500)
    return {
      status,
      body: { error: { code: 'request', message: message ?? 'The request is not understood.' } },
    };
  return {
    status: 500,
    body: {
      error: {
        code: 'internal',
        message: 'Something went wrong in the server; its log says what. Nothing was changed.',
      },
    },
  };
}

const databaseCode = (error: unknown) =>
  (error as { original?: { code?: string } } | null)?.original?.code ??
  (error as { code?: string } | null)?.code;

/** Whether an error means that a disk, or the database's part of it, is full. 53100: disk_full (PostgreSQL, appendix A). */
export function isFull(error: unknown): boolean {
  const code = databaseCode(error);
  return code === '53100' || code === 'ENOSPC' || code === 'EDQUOT';
}

/**
 * What the database says of data that it can never keep, whatever the time (class 22, data exceptions; 54000, limits): sending
 * it again does not help. Null for every other error.
 */
function dataProblem(error: unknown): string | null {
  if (!(error instanceof BaseError)) return null;
  const code = databaseCode(error);
  return code !== undefined && /^(22|54)/.test(code)
    ? `This cannot be kept: the database says “${error.message}”.`
    : null;
}

/** What is said of a connection that broke, by the database's client and by the pool. */
const AWAY = /Connection terminated|Connection ended|ECONN|EPIPE|not queryable|connection manager was closed/;

/** Whether an error means that the database cannot be reached, now or any more. */
export function isDatabaseDown(error: unknown): boolean {
  const code = databaseCode(error);
  const own = error instanceof BaseError;
  if (own && /^SequelizeConnection|^SequelizeHostNot/.test(error.name)) return true;
  const message = String((error as Error | null)?.message);
  // What the database's client says by itself bears a severity; others have codes of their own.
  if (!own && !(error as { severity?: string } | null)?.severity) return AWAY.test(message);
  // 57P01..57P03: the server is shutting down or starting up; classes 08: connections, 53: resources, 40 and 55: others were in
  // the way (PostgreSQL 15, appendix A). All of them pass.
  return (code !== undefined && /^(57P0|08|53|40|55|ECONN|EPIPE)/.test(code)) || AWAY.test(message);
}

/** Whether the one who asked has gone before it was answered. */
const hasGone = (req: Parameters<RequestHandler>[0], error: unknown) =>
  req.socket.destroyed || (error as { code?: string } | null)?.code === 'ECONNRESET' || req.destroyed;

/**
 * Answers at once, whatever of the request is still to come. The rest of it is passed over, so that the connection is of use again
 * for what comes behind (RFC 9112, 9.3); a very long rest is not waited for.
 */
export const handleErrors: ErrorRequestHandler = (error, req, res, next) => {
  if (res.headersSent) return next(error);
  if (!req.complete && hasGone(req, error)) return void res.destroy();
  const { status, body } = errorAnswer(error);
  if (status === 500)
    log.error({ err: error, method: req.method, path: pathKind(req.path) }, 'A request failed.');
  if (status === 503 || status === 507) res.set('Retry-After', '2');
  if (!req.complete) {
    req.unpipe();
    req.resume();
    res.once('finish', () => setTimeout(() => req.complete || req.socket.destroy(), PASSED_OVER_MS).unref());
  }
  res.status(status).json(body);
};
/** How long the rest of a refused request is passed over to keep its connection. */
const PASSED_OVER_MS = 60_000;

export const notFound: RequestHandler = (req) => {
  throw new BadRequest(404, 'unknown', `There is nothing at ${req.originalUrl}.`);
};
