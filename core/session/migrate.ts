import { filled } from './fields/shape';
import { SESSION } from './fields/tables';
import { Refusal } from '../base/refusal';
import type { Session } from './types';

/** The version of the format that this program writes. */
export const FORMAT_VERSION = 1;

/** @throws Refusal `version` where a later program wrote it, naming both versions */
export function checkVersion(version: unknown): void {
  if (typeof version === 'number' && version > FORMAT_VERSION)
    throw new Refusal(
      'version',
      `This session is of format version ${version}; this Zonula reads up to version ${FORMAT_VERSION}. Open it with a newer Zonula.`,
    );
}

/**
 * A document as this program knows it, from one that an earlier program kept: fields that it was written without have their
 * defaults. One that has them all is returned as it is. The format has had one version so far, and has grown by fields.
 * @throws Refusal `version` where a later program wrote it
 */
export function migrate(document: Session): Session {
  checkVersion(document.version);
  return filled(SESSION, document);
}
