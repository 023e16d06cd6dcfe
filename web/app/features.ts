import { answers } from '@/answers/feature';
import { automation } from '@/automation/feature';
import type { Feature } from '@/commands/feature';
import { findings } from '@/findings/feature';
import { flow } from '@/flow/feature';
import { inserts } from '@/inserts/feature';
import { machines } from '@/machines/feature';
import { meters } from '@/meters/feature';
import { sessions } from '@/sessions/feature';
import { sheet } from '@/sheet/feature';
import { strip } from '@/strip/feature';
import { surface } from '@/surface/feature';
import { page } from './feature';

/** What the page of a session is made of. The order is that of the palette, of panels under one tab and of bars. */
export const FEATURES: readonly Feature[] = [
  page,
  inserts,
  strip,
  automation,
  answers,
  meters,
  sheet,
  flow,
  surface,
  findings,
  sessions,
  machines,
];
