import type { Session } from '../../../session/types';
import type { EncoderState } from '../../state';
import type { AcrossKind } from './across';
import { bandFrequency, bandGain } from './bands';
import { level } from './level';
import { pan } from './pan';
import { preampGain } from './preampGain';
import { send } from './send';
import { threshold } from './threshold';
import { trim } from './trim';
import { width } from './width';

/** Everything that can lie across the encoders, one strip each. */
export const acrosses: readonly AcrossKind[] = [
  pan,
  trim,
  width,
  send,
  preampGain,
  bandFrequency,
  bandGain,
  threshold,
  level,
];
const byId = new Map(acrosses.map((a) => [a.id, a]));
/** The kind of an id; pan where there is none. */
export const acrossOf = (id: string): AcrossKind => byId.get(id) ?? pan;

/** What is chosen of a kind: what was chosen last, while that is there, else the first. */
export function choiceOf(session: Session, kind: AcrossKind, state: EncoderState) {
  const all = kind.choices?.(session) ?? [];
  const at = Math.max(
    0,
    all.findIndex((c) => c.id === state.choice[kind.id]),
  );
  return { all, at, now: all[at] };
}
