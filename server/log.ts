import pino from 'pino';
import type { RequestHandler } from 'express';
import { LOG_LEVELS, type LogLevel } from './environment';

const asked = process.env.ZONULA_LOG as LogLevel | undefined;

/** An error without what it carries beside its words: a database's errors hold the values that were written. */
const plainError = (e: unknown) =>
  e instanceof Error
    ? { type: e.name, message: e.message, stack: e.stack, code: (e as { code?: unknown }).code }
    : { message: String(e) };

/**
 * What the server writes down, a line of JSON each, on the error output. Names of sessions and stems, what they hold and addresses
 * of databases are in none of them.
 */
export const log = pino(
  {
    serializers: { err: plainError },
    level: asked && LOG_LEVELS.includes(asked) ? asked : 'warn',
    base: null,
    timestamp: pino.stdTimeFunctions.isoTime,
  },
  pino.destination({ dest: 2, sync: true }),
);

/** A path without what it names: ids, addresses of stems, names of files. */
export const pathKind = (path: string): string =>
  path
    .split('/')
    .map((part) => (/^[a-z][a-z-]*$/.test(part) || part === '' ? part : ':id'))
    .join('/');

/** One line a request, at `info`: how it was asked, for what kind of thing, with what answer, and how long it took. */
export const logRequests: RequestHandler = (req, res, next) => {
  if (!log.isLevelEnabled('info')) return next();
  const begun = performance.now();
  const path = pathKind(req.path);
  res.on('close', () =>
    log.info(
      { method: req.method, path, status: res.statusCode, ms: Math.round(performance.now() - begun) },
      'request',
    ),
  );
  next();
};
