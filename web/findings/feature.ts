import type { Feature } from '@/commands/feature';
import { useFindings } from './useFindings';

/** Findings: what is wrong with the routing. They are looked for whatever is on screen. */
export const findings: Feature = { setup: useFindings };
