import type { Id } from './units';

/** The rules that a session keeps; each refusal names one of them. */
export type Rule =
  | 'unknown'
  | 'duplicate'
  | 'dangling'
  | 'cycle'
  | 'range'
  | 'kind'
  | 'in-use'
  | 'format'
  | 'version'
  | 'order'
  | 'audio'
  | 'cut'
  | 'size';

/**
 * A typed no. The same text serves the API, the command line and the screen: it names the rule and the thing.
 */
export class Refusal extends Error {
  constructor(
    readonly rule: Rule,
    message: string,
    readonly things: readonly Id[] = [],
  ) {
    super(message);
    this.name = 'Refusal';
  }
}
