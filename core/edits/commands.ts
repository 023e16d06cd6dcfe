import type { Fields, Settable, Values } from '../session/fields/shape';
import type { INSERT, LINK, SEND, SESSION, STRIP, VCA } from '../session/fields/tables';
import type { Insert, Link, Send, Session, Strip, Vca } from '../session/types';
import type { CommandKind } from './kind';
import { insertAdd, type fields as insertAddFields } from './kinds/insertAdd';
import { insertRemove, type fields as insertRemoveFields } from './kinds/insertRemove';
import { insertSet, type fields as insertSetFields } from './kinds/insertSet';
import { linkAdd, type fields as linkAddFields } from './kinds/linkAdd';
import { linkRemove, type fields as linkRemoveFields } from './kinds/linkRemove';
import { linkSet, type fields as linkSetFields } from './kinds/linkSet';
import { sectionsSet, type fields as sectionsSetFields } from './kinds/sectionsSet';
import { sendAdd, type fields as sendAddFields } from './kinds/sendAdd';
import { sendRemove, type fields as sendRemoveFields } from './kinds/sendRemove';
import { sendSet, type fields as sendSetFields } from './kinds/sendSet';
import { sessionSet, type fields as sessionSetFields } from './kinds/sessionSet';
import { stripAdd, type fields as stripAddFields } from './kinds/stripAdd';
import { stripOut, type fields as stripOutFields } from './kinds/stripOut';
import { stripRemove, type fields as stripRemoveFields } from './kinds/stripRemove';
import { stripSet, type fields as stripSetFields } from './kinds/stripSet';
import { stripsOrder, type fields as stripsOrderFields } from './kinds/stripsOrder';
import { vcaAdd, type fields as vcaAddFields } from './kinds/vcaAdd';
import { vcaMembers, type fields as vcaMembersFields } from './kinds/vcaMembers';
import { vcaRemove, type fields as vcaRemoveFields } from './kinds/vcaRemove';
import { vcaSet, type fields as vcaSetFields } from './kinds/vcaSet';

type Patch<T, F extends Fields> = Partial<Pick<T, Settable<F> & keyof T>>;
/** Fields of a strip that are set directly: those that its table does not call fixed. */
export type StripPatch = Patch<Strip, typeof STRIP>;
export type SendPatch = Patch<Send, typeof SEND>;
export type InsertPatch = Patch<Insert, typeof INSERT>;
export type LinkPatch = Patch<Link, typeof LINK>;
export type VcaPatch = Patch<Vca, typeof VCA>;
export type SessionPatch = Patch<Session, typeof SESSION>;

/** What each kind of edit holds: see `kinds/`. */
interface Holds {
  readonly 'session.set': typeof sessionSetFields;
  readonly 'sections.set': typeof sectionsSetFields;
  readonly 'strip.add': typeof stripAddFields;
  readonly 'strip.remove': typeof stripRemoveFields;
  readonly 'strip.set': typeof stripSetFields;
  readonly 'strip.out': typeof stripOutFields;
  readonly 'strips.order': typeof stripsOrderFields;
  readonly 'send.add': typeof sendAddFields;
  readonly 'send.remove': typeof sendRemoveFields;
  readonly 'send.set': typeof sendSetFields;
  readonly 'insert.add': typeof insertAddFields;
  readonly 'insert.remove': typeof insertRemoveFields;
  readonly 'insert.set': typeof insertSetFields;
  readonly 'vca.add': typeof vcaAddFields;
  readonly 'vca.remove': typeof vcaRemoveFields;
  readonly 'vca.set': typeof vcaSetFields;
  readonly 'vca.members': typeof vcaMembersFields;
  readonly 'link.add': typeof linkAddFields;
  readonly 'link.remove': typeof linkRemoveFields;
  readonly 'link.set': typeof linkSetFields;
}
/** Every edit there is. Plain data: it can be logged, sent, replayed and undone. */
export type Command = {
  [T in keyof Holds]: { readonly type: T } & Values<Holds[T]>;
}[keyof Holds];

export type CommandType = Command['type'];

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
