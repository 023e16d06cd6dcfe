import { Refusal } from '../session/refusal';
import type { Processor } from './description';
import { compressor } from './compressor';
import { delay } from './delay';
import { reverb } from './reverb';

/** Every processor there is. */
export const processors: readonly Processor[] = [reverb, compressor, delay];

const byType = new Map(processors.map((p) => [p.type, p]));

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
