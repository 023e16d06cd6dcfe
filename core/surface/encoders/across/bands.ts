import { EQUALIZER_BANDS } from '../../../processors/equalizer';
import { isVca } from '../../faded';
import { firstOf } from '../firstOf';
import { parameterBinding } from '../bindings';
import type { AcrossKind } from './across';

const bands = EQUALIZER_BANDS.map(({ id, name }) => ({ id, name }));
const of = (what: 'frequency' | 'gain'): AcrossKind['bind'] =>
  function bind({ desk }, faded, choice) {
    if (isVca(faded)) return null;
    const insert = firstOf(desk, faded, 'equalizer');
    const parameter = EQUALIZER_BANDS.find((b) => b.id === choice)?.[what];
    return insert && parameter ? parameterBinding(faded, insert, parameter) : null;
  };

export const bandFrequency: AcrossKind = {
  id: 'bandFrequency',
  name: "Frequency of an equalizer's band",
  word: 'Freq',
  about:
    "One band's frequency of each strip's equalizer; with *second* held its Q or slope. The choice goes through the bands.",
  choices: () => bands,
  bind: of('frequency'),
};
export const bandGain: AcrossKind = {
  id: 'bandGain',
  name: "Gain of an equalizer's band",
  word: 'Gain',
  about:
    "One band's gain of each strip's equalizer; with *second* held its switch. The choice goes through the bands that have a gain.",
  choices: () => EQUALIZER_BANDS.filter((b) => b.gain).map(({ id, name }) => ({ id, name })),
  bind: of('gain'),
};
