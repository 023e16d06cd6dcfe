import { Refusal } from '../base/refusal';
import type { Processor } from './description';
import { chorus } from './chorus';
import { compressor } from './compressor';
import { crusher } from './crusher';
import { deEsser } from './deEsser';
import { delay } from './delay';
import { dynamicEqualizer } from './dynamicEqualizer';
import { equalizer } from './equalizer';
import { gainProcessor } from './gain';
import { gate } from './gate';
import { limiter } from './limiter';
import { pitchShift } from './pitchShift';
import { reverb } from './reverb';
import { saturation } from './saturation';
import { stereoTool } from './stereoTool';

/** Every processor there is, in the order in which it is offered: level and spectrum first, then colour, then space. */
export const processors: readonly Processor[] = [
  equalizer,
  dynamicEqualizer,
  compressor,
  gate,
  deEsser,
  limiter,
  gainProcessor,
  stereoTool,
  saturation,
  crusher,
  pitchShift,
  reverb,
  delay,
  chorus,
];

const byType = new Map(processors.map((p) => [p.type, p]));

/** The number by which plans name a processor to the engine: its place in the list, from 1. */
export const engineCodeOf = (processor: Processor): number => processors.indexOf(processor) + 1;

/** @throws Refusal `unknown` with the types that there are */
export function processorOf(type: string): Processor {
  const found = byType.get(type);
  if (!found)
    throw new Refusal(
      'unknown',
      `There is no processor \`${type}\`. There are: ${processors.map((p) => p.type).join(', ')}.`,
      [type],
    );
  return found;
}
