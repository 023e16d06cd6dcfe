import type { Insert, Strip, Tap } from '../session/types';

/** One stage that a strip's signal passes. Trim, polarity, swap and width are one, the input; the meter reads after the pan. */
export type StripStage =
  | { readonly at: 'input' }
  /** Where sends of this tap leave. */
  | { readonly at: 'tap'; readonly tap: Tap }
  | { readonly at: 'insert'; readonly insert: Insert }
  /** The fader with the VCAs that hold the strip. */
  | { readonly at: 'fader' }
  | { readonly at: 'pan' }
  | { readonly at: 'out' };

const INPUT: StripStage = { at: 'input' };
const FADER: StripStage = { at: 'fader' };
const PAN: StripStage = { at: 'pan' };
const OUT: StripStage = { at: 'out' };
const TAPS: Readonly<Record<Tap, StripStage>> = {
  input: { at: 'tap', tap: 'input' },
  pre: { at: 'tap', tap: 'pre' },
  post: { at: 'tap', tap: 'post' },
};
const known = new WeakMap<Strip['inserts'], readonly StripStage[]>();

/**
 * The order of a strip's stages, stated here alone: input, tap input, inserts before the fader, tap pre, fader, inserts
 * after the fader, pan, tap post, out. What asks how a signal fares in a strip folds this list.
 */
export function stagesOf({ inserts }: Pick<Strip, 'inserts'>): readonly StripStage[] {
  let stages = known.get(inserts);
  if (!stages) {
    const chain = (place: Insert['place']) =>
      inserts.filter((i) => i.place === place).map((insert): StripStage => ({ at: 'insert', insert }));
    stages = [INPUT, TAPS.input, ...chain('pre'), TAPS.pre, FADER, ...chain('post'), PAN, TAPS.post, OUT];
    known.set(inserts, stages);
  }
  return stages;
}

/** The stages that lie before one of a strip's taps; an out leaves after the last of them. */
export function* stagesUntil(strip: Pick<Strip, 'inserts'>, until: Tap): Generator<StripStage> {
  for (const stage of stagesOf(strip)) {
    if (stage.at === 'tap' && stage.tap === until) return;
    yield stage;
  }
}

const ORDER = stagesOf({ inserts: [] });
const FADER_AT = ORDER.indexOf(FADER);
/** Whether the fader stands before a tap, so that it moves what leaves there. */
export const followsFader = (tap: Tap): boolean => ORDER.indexOf(TAPS[tap]) > FADER_AT;
/** Whether the fader stands before an insert of a strip. */
export function insertFollowsFader(strip: Pick<Strip, 'inserts'>, insert: Insert): boolean {
  const stages = stagesOf(strip);
  return stages.findIndex((s) => s.at === 'insert' && s.insert === insert) > stages.indexOf(FADER);
}
