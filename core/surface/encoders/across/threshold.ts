import { processorOf } from '../../../processors/registry';
import { isVca } from '../../faded';
import { parameterBinding } from '../bindings';
import { firstOf } from '../firstOf';
import type { AcrossKind } from './across';

export const threshold: AcrossKind = {
  id: 'threshold',
  name: 'Threshold of the compressors',
  word: 'Thresh',
  about: "The threshold of each strip's compressor; with *second* held its ratio.",
  bind({ desk }, faded) {
    const insert = isVca(faded) ? undefined : firstOf(desk, faded, 'compressor');
    const parameter = processorOf('compressor').parameters.find((p) => p.id === 'threshold');
    return insert && parameter && !isVca(faded) ? parameterBinding(faded, insert, parameter) : null;
  },
};
