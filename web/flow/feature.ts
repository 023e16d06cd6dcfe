import { keyScope } from '@/commands/keyScopes';
import type { Feature } from '@/commands/feature';
import { say } from './texts';

/** The session as a diagram. */
export const flow: Feature = {
  // The layout's worker is large: it is fetched while nothing is asked for, so that the view opens at once.
  setup: () => setTimeout(() => void import('./layout').then((layout) => layout.warmUp()), 2500),
  keys: () => [
    keyScope('flow', say('nodeFlow'), {
      only: [say('pickItAlone'), 'Enter'],
      toggle: [say('pickItOrNot'), 'X'],
      fold: [say('foldOpenFamily'), 'F'],
      left: [say('nextNodeLeft'), 'ArrowLeft'],
      right: [say('nextNodeRight'), 'ArrowRight'],
      up: [say('nextNodeAbove'), 'ArrowUp'],
      down: [say('nextNodeBelow'), 'ArrowDown'],
      leaving: [say('linesThatLeave'), 'Ctrl+ArrowRight'],
      coming: [say('linesThatCome'), 'Ctrl+ArrowLeft'],
    }),
  ],
};
