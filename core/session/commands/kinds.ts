import { insertAdd } from './kinds/insertAdd';
import { insertRemove } from './kinds/insertRemove';
import { insertSet } from './kinds/insertSet';
import { linkAdd } from './kinds/linkAdd';
import { linkRemove } from './kinds/linkRemove';
import { linkSet } from './kinds/linkSet';
import { sectionsSet } from './kinds/sectionsSet';
import { sendAdd } from './kinds/sendAdd';
import { sendRemove } from './kinds/sendRemove';
import { sendSet } from './kinds/sendSet';
import { sessionSet } from './kinds/sessionSet';
import { stripAdd } from './kinds/stripAdd';
import { stripOut } from './kinds/stripOut';
import { stripRemove } from './kinds/stripRemove';
import { stripSet } from './kinds/stripSet';
import { stripsOrder } from './kinds/stripsOrder';
import { vcaAdd } from './kinds/vcaAdd';
import { vcaMembers } from './kinds/vcaMembers';
import { vcaRemove } from './kinds/vcaRemove';
import { vcaSet } from './kinds/vcaSet';
import type { CommandKind } from './kind';
import type { Command } from './types';

/** Every kind of edit, by its type. */
export const COMMANDS: { readonly [T in Command['type']]: CommandKind<T> } = {
  'session.set': sessionSet,
  'sections.set': sectionsSet,
  'strip.add': stripAdd,
  'strip.remove': stripRemove,
  'strip.set': stripSet,
  'strip.out': stripOut,
  'strips.order': stripsOrder,
  'send.add': sendAdd,
  'send.remove': sendRemove,
  'send.set': sendSet,
  'insert.add': insertAdd,
  'insert.remove': insertRemove,
  'insert.set': insertSet,
  'vca.add': vcaAdd,
  'vca.remove': vcaRemove,
  'vca.set': vcaSet,
  'vca.members': vcaMembers,
  'link.add': linkAdd,
  'link.remove': linkRemove,
  'link.set': linkSet,
};
export const kindOf = (command: Command): CommandKind => COMMANDS[command.type] as CommandKind;
