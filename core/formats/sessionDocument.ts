import { checkCounts } from '../edits/counts';
import { checkSession } from '../edits/invariants';
import { checkVersion } from '../session/migrate';
import { Refusal } from '../base/refusal';
import type { Session } from '../session/types';
import { sessionSchema } from './sessionSchema';

/**
 * Reads session.json: fills in the defaults and holds the document against every rule.
 * @throws Refusal `format` naming the field's path, `version` for a later format, or the rule of the session it breaks
 */
export function readSessionDocument(text: string): Session {
  let raw: unknown;
  try {
    raw = JSON.parse(text);
  } catch (error) {
    throw new Refusal('format', `session.json is not JSON: ${(error as Error).message}`);
  }
  return validSession(raw);
}

/** The same for a document that is parsed already. */
export function validSession(raw: unknown): Session {
  if (typeof raw !== 'object' || raw === null || Array.isArray(raw))
    throw new Refusal('format', 'session.json does not hold a session: it must be one JSON object.');
  const { format, version } = raw as { format?: unknown; version?: unknown };
  if (format !== 'zonula-session')
    throw new Refusal(
      'format',
      'session.json is not a Zonula session: its `format` is not "zonula-session".',
    );
  checkVersion(version);
  checkCounts(raw);
  const { value, error } = sessionSchema.validate(raw, { convert: false, abortEarly: true });
  if (error) {
    const detail = error.details[0]!;
    throw new Refusal('format', `session.json: ${fieldPath(detail.path)}: ${detail.message}`, [
      fieldPath(detail.path),
    ]);
  }
  const session = value as Session;
  checkSession(session);
  return session;
}

const fieldPath = (path: readonly (string | number)[]) =>
  path.map((p, i) => (typeof p === 'number' ? `[${p}]` : i === 0 ? p : `.${p}`)).join('') || '(the document)';

/** Characters beyond which a document is written without line breaks: lanes of many points would grow to four times their size. */
const READABLE = 1 << 20;

/** A session as the text of session.json, which is read back to the same session. */
export function writeSessionDocument(session: Session): string {
  const close = JSON.stringify(session);
  return `${close.length > READABLE ? close : JSON.stringify(session, null, 2)}\n`;
}
