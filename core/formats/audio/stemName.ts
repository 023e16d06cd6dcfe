import type { Depth } from './samples';
import type { Hertz } from '../../base/units';

/** What is hashed by SHA-256 before a stem's samples: the hash of both names it. */
export const stemHead = (rate: Hertz, channels: number, depth: Depth): string =>
  `zonula-pcm ${rate} ${channels}${depth === 'f32' ? '' : ` ${depth}`}\n`;
