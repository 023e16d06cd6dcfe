import type { ErrorRequestHandler, RequestHandler, Response } from 'express';
import { BaseError } from 'sequelize';
import { Refusal } from '../../core/session/refusal';
import { Stale } from '../sessions';

/** The one shape of every error that the API gives. */
export interface ApiError {
  readonly error: {
    readonly code: string;
    readonly message: string;
    readonly things?: readonly string[];
    readonly missed?: unknown;
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
    return { status: 409, body: { error: { code: 'stale', message: error.message, missed: error.missed } } };
  if (error instanceof BadRequest)
    return { status: error.status, body: { error: { code: error.code, message: error.message } } };
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

/** Whether an error means that the database cannot be reached, now or any more. */
export function isDatabaseDown(error: unknown): boolean {
  if (!(error instanceof BaseError))
    return /Connection terminated|ECONNREFUSED|ECONNRESET/.test(String((error as Error)?.message));
  if (/^SequelizeConnection|^SequelizeHostNot/.test(error.name)) return true;
  const code = (error as { original?: { code?: string } }).original?.code;
  // 57P01..57P03: the server is shutting down or starting up; class 08: connection exceptions (PostgreSQL, appendix A).
  return (
    (code !== undefined && /^(57P0|08|ECONN)/.test(code)) || /Connection terminated|ECONN/.test(error.message)
  );
}

export const handleErrors: ErrorRequestHandler = (error, req, res, next) => {
  if (res.headersSent) return next(error);
  const { status, body } = errorAnswer(error);
  if (status === 500) console.error(`${req.method} ${req.path}:`, error);
  drain(req, res, () => res.status(status).json(body));
};

/** Lets an upload run out before it is answered, so that the answer arrives; a very long one is cut off. */
function drain(req: Parameters<RequestHandler>[0], res: Response, answer: () => void) {
  if (req.readableEnded || req.destroyed || !req.readable) return answer();
  let left = 512 * 2 ** 20;
  req.on('data', (piece: Buffer) => {
    left -= piece.length;
    if (left < 0) {
      res.set('Connection', 'close');
      answer();
      req.destroy();
    }
  });
  req.once('end', answer);
  req.resume();
}

export const notFound: RequestHandler = (req) => {
  throw new BadRequest(404, 'unknown', `There is nothing at ${req.originalUrl}.`);
};
