import { keyScope } from '@/commands/keyScopes';
import type { Feature } from '@/commands/feature';
import { sheetActions } from './actions';
import { say } from './texts';

/** The Sheet: one column a strip, one row a decision. */
export const sheet: Feature = {
  actions: sheetActions,
  keys: () => [
    keyScope('sheet', say('onTheSheet'), {
      left: [say('stripLeft'), 'ArrowLeft'],
      right: [say('stripRight'), 'ArrowRight'],
      up: [say('toTheRowAbove'), 'ArrowUp', 'Shift+ArrowUp'],
      down: [say('toTheRowBelow'), 'ArrowDown', 'Shift+ArrowDown'],
      rangeLeft: [say('pickRangeLeft'), 'Shift+ArrowLeft'],
      rangeRight: [say('pickRangeRight'), 'Shift+ArrowRight'],
      first: [say('toTheFirstStrip'), 'Home'],
      last: [say('toTheLastStrip'), 'End', 'Shift+End'],
      pick: [say('pickStripNot'), 'X'],
      enter: [say('typeValueRenameOpen'), 'Enter'],
      more: [say('stepUp05Db'), '+', '='],
      less: [say('stepDown05Db'), '-', '_'],
      default: [say('backToTheDefault'), 'Backspace'],
      remove: [say('removeSendInsertStrip'), 'Delete'],
      tap: [say('tapSendPostPreInput'), 'F'],
      switch: [say('bypassInsertSwitchSend'), 'B'],
      panLeft: [say('panSendLeft'), '<'],
      panRight: [say('panSendRight'), '>'],
      carryLeft: [say('moveInsertStripLeft'), 'Alt+ArrowLeft'],
      carryRight: [say('moveInsertStripRight'), 'Alt+ArrowRight'],
      carryUp: [say('moveAnInsertUp'), 'Alt+ArrowUp'],
      carryDown: [say('moveAnInsertDown'), 'Alt+ArrowDown'],
      copyLeft: [say('copyInsertLeft'), 'Alt+Shift+ArrowLeft'],
      copyRight: [say('copyInsertRight'), 'Alt+Shift+ArrowRight'],
      copyUp: [say('copyAnInsertUp'), 'Alt+Shift+ArrowUp'],
      copyDown: [say('copyAnInsertDown'), 'Alt+Shift+ArrowDown'],
      menu: [say('menuOfTheCell'), 'Shift+F10', 'ContextMenu'],
    }),
  ],
};
