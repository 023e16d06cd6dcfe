import type { LinkPart } from '@core/session/types';
import { say } from './texts';

export const linkPartNames = (): Readonly<Record<LinkPart, string>> => ({
  fader: say('levelAndTrim'),
  pan: say('panAndWidth'),
  mute: say('mute'),
  solo: say('solo'),
  sends: say('sends3'),
  inserts: say('inserts'),
  automation: say('automation'),
});
