import { keyScope } from '@/commands/keyScopes';
import type { Feature } from '@/commands/feature';
import { sheetActions } from './actions';

/** The Sheet: one column a strip, one row a decision. */
export const sheet: Feature = {
  actions: sheetActions,
  keys: [
    keyScope('sheet', 'On the Sheet', {
      left: ['To the strip at the left', 'ArrowLeft'],
      right: ['To the strip at the right', 'ArrowRight'],
      up: ['To the row above', 'ArrowUp', 'Shift+ArrowUp'],
      down: ['To the row below', 'ArrowDown', 'Shift+ArrowDown'],
      rangeLeft: ['Pick a range to the left', 'Shift+ArrowLeft'],
      rangeRight: ['Pick a range to the right', 'Shift+ArrowRight'],
      first: ['To the first strip', 'Home'],
      last: ['To the last strip', 'End', 'Shift+End'],
      pick: ['Pick the strip, or not', 'X'],
      enter: ['Type a value, rename, open', 'Enter'],
      more: ['Step up by 0.5 dB, with Shift by 0.1', '+', '='],
      less: ['Step down by 0.5 dB, with Shift by 0.1', '-', '_'],
      default: ['Back to the default', 'Backspace'],
      remove: ['Remove a send, an insert, a strip', 'Delete'],
      tap: ['Tap of a send: post, pre, input', 'F'],
      switch: ['Bypass an insert, switch a send', 'B'],
      panLeft: ['Pan of a send, to the left', '<'],
      panRight: ['Pan of a send, to the right', '>'],
      carryLeft: ['Move an insert to the strip at the left', 'Alt+ArrowLeft'],
      carryRight: ['Move an insert to the strip at the right', 'Alt+ArrowRight'],
      carryUp: ['Move an insert up', 'Alt+ArrowUp'],
      carryDown: ['Move an insert down', 'Alt+ArrowDown'],
      copyLeft: ['Copy an insert to the left', 'Alt+Shift+ArrowLeft'],
      copyRight: ['Copy an insert to the right', 'Alt+Shift+ArrowRight'],
      copyUp: ['Copy an insert up', 'Alt+Shift+ArrowUp'],
      copyDown: ['Copy an insert down', 'Alt+Shift+ArrowDown'],
      menu: ['Menu of the cell', 'Shift+F10', 'ContextMenu'],
    }),
  ],
};
