import type { LinkPart } from '@core/session/types';

export const LINK_PART_NAMES: Readonly<Record<LinkPart, string>> = {
  fader: 'level and trim',
  pan: 'pan and width',
  mute: 'mute',
  solo: 'solo',
  sends: 'sends',
  inserts: 'inserts',
  automation: 'automation',
};
