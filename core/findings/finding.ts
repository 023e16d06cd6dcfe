import type { Session, Strip, Vca } from '../session/types';
import type { Decibels, Id } from '../base/units';
import type { PairMeasure, StemMeasure } from '../metering/stemMeasure';
import type { Repair } from '../routing/repair';

/** `fault`: something does not work; `risk`: it works, and likely not as meant; `note`: worth knowing. */
export type Severity = 'fault' | 'risk' | 'note';
/** `certain`: follows from the document; `measured`: from a print; `likely`, `possible`: depends on what is meant. */
export type Sureness = 'certain' | 'measured' | 'likely' | 'possible';

export interface Finding {
  /** The same for the same thing at the same place, so that a dismissal is kept. */
  readonly key: string;
  readonly rule: string;
  readonly severity: Severity;
  readonly sure: Sureness;
  /** What is the matter, in a sentence. */
  readonly what: string;
  /** Why it matters, in a sentence. */
  readonly why: string;
  /** Strips and VCAs that it is about, the first one first. */
  readonly where: readonly Id[];
  readonly repair: Repair | null;
}

/** What a print has measured of the stems: by strip, and of pairs of strips. */
export interface Stems {
  readonly strips: ReadonlyMap<Id, StemMeasure>;
  readonly pairs: readonly PairMeasure[];
}
/** Peaks that a print has measured, by strip: after fader and inserts, linear. */
export type Peaks = ReadonlyMap<Id, number>;

/** What the rules look at; computed once for all of them. */
export interface Context {
  /** The session with nothing soloed: a solo is passing, and hides nothing of the routing. */
  readonly session: Session;
  readonly soloed: { readonly strips: readonly Strip[]; readonly vcas: readonly Vca[] };
  readonly strips: ReadonlyMap<Id, Strip>;
  readonly peaks: Peaks | null;
  readonly stems: Stems | null;
  /** Strips from which a signal finds an output by outs and sends that are on. */
  readonly reachesOutput: ReadonlySet<Id>;
  /** Strips that key a processor which is on. */
  readonly keys: ReadonlySet<Id>;
  readonly effective: (strip: Strip) => Decibels;
}

/** One kind of finding. Adding one is one file that gives this, and one line in the list of rules. */
export interface Rule {
  readonly id: string;
  /** Its name, as a heading. */
  readonly title: string;
  find(context: Context): Iterable<Omit<Finding, 'rule' | 'key'> & { readonly key?: string }>;
}

export const named = (s: { readonly name: string; readonly id: Id }): string => s.name || s.id;

/** Names in a sentence: `A, B and C`, the rest counted. */
export function listed(names: readonly string[], most = 3): string {
  if (names.length <= most)
    return names.length < 2 ? (names[0] ?? '') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
  return `${names.slice(0, most - 1).join(', ')} and ${names.length - most + 1} more`;
}
