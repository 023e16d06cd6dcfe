import type { Hertz } from '../base/units';
import { valueOf, type Params } from './description';
import { restableCut, sectionFloats } from './filter';
import { frequency } from './parameters';

const lowCut = frequency('keyLowCut', 'Key low cut', 20, 2000, 20, { group: 'Key' });
const highCut = frequency('keyHighCut', 'Key high cut', 200, 20000, 20000, { group: 'Key', step: 10 });

/** The cuts through which a keyed processor hears its key; at their ends they pass all. */
export const KEY_CUTS = [lowCut, highCut] as const;

/** Their two filter sections, for the engine. */
export const keyCutSections = (params: Params, sampleRate: Hertz) => ({
  keyLowCut: sectionFloats(restableCut('low', valueOf(lowCut, params), lowCut.min, sampleRate)),
  keyHighCut: sectionFloats(restableCut('high', valueOf(highCut, params), highCut.max, sampleRate)),
});
