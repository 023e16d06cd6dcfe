import { keyScope } from '@/commands/keyScopes';
import type { Feature } from '@/commands/feature';

/** The session as a diagram. */
export const flow: Feature = {
  // The layout's worker is large: it is fetched while nothing is asked for, so that the view opens at once.
  setup: () => setTimeout(() => void import('./layout').then((layout) => layout.warmUp()), 2500),
  keys: [
    keyScope('flow', 'On a node of the Flow', {
      only: ['Pick it alone', 'Enter'],
      toggle: ['Pick it, or not', 'X'],
      fold: ['Fold or open its family', 'F'],
      left: ['To the next node at the left', 'ArrowLeft'],
      right: ['To the next node at the right', 'ArrowRight'],
      up: ['To the next node above', 'ArrowUp'],
      down: ['To the next node below', 'ArrowDown'],
    }),
  ],
};
