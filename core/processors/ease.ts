import { BLOCK } from '../base/block';
import type { Hertz } from '../base/units';
import { shareOf } from './description';

/** Milliseconds of each of the two filters through which what is turned down follows a control that leaps. Our own value. */
export const EASE_MS = 1;
/** Milliseconds for which it does after the last leap, at least. Our own value: longer than what a key's cuts take to settle. */
const EASED_MS = 30;
/** Blocks in which the filters let go after that: see engine/assembly/ease.ts. */
const LETS_GO = 5;

/** What a processor's page says of it. */
export const EASED =
  'Where one of its controls leaps, or moves faster than a decibel in 20 blocks of 128 frames, what it turns down follows through two more one-pole filters of 1 ms each, which set off as fast as it went; 30 ms after the last of it they let go, over five blocks, by t⁵ (126 − 420t + 540t² − 315t³ + 70t⁴). So no control brings about a click, however short attack and release are. Slower lanes, and all that the signal brings about, are not touched by it.';

/** What the engine needs to know of it. */
export const easeNumbers = (sampleRate: Hertz) => ({
  ease: shareOf(EASE_MS, sampleRate),
  easeBlocks: LETS_GO + Math.ceil(((EASED_MS / 1000) * sampleRate) / BLOCK),
});
