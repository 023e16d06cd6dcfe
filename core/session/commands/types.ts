import type { Fields, Settable, Values } from '../fields/shape';
import type { INSERT, LINK, SEND, SESSION, STRIP, VCA } from '../fields/tables';
import type { Insert, Link, Send, Session, Strip, Vca } from '../types';
import type { fields as insertAdd } from './kinds/insertAdd';
import type { fields as insertRemove } from './kinds/insertRemove';
import type { fields as insertSet } from './kinds/insertSet';
import type { fields as linkAdd } from './kinds/linkAdd';
import type { fields as linkRemove } from './kinds/linkRemove';
import type { fields as linkSet } from './kinds/linkSet';
import type { fields as sectionsSet } from './kinds/sectionsSet';
import type { fields as sendAdd } from './kinds/sendAdd';
import type { fields as sendRemove } from './kinds/sendRemove';
import type { fields as sendSet } from './kinds/sendSet';
import type { fields as sessionSet } from './kinds/sessionSet';
import type { fields as stripAdd } from './kinds/stripAdd';
import type { fields as stripOut } from './kinds/stripOut';
import type { fields as stripRemove } from './kinds/stripRemove';
import type { fields as stripSet } from './kinds/stripSet';
import type { fields as stripsOrder } from './kinds/stripsOrder';
import type { fields as vcaAdd } from './kinds/vcaAdd';
import type { fields as vcaMembers } from './kinds/vcaMembers';
import type { fields as vcaRemove } from './kinds/vcaRemove';
import type { fields as vcaSet } from './kinds/vcaSet';

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
  readonly 'session.set': typeof sessionSet;
  readonly 'sections.set': typeof sectionsSet;
  readonly 'strip.add': typeof stripAdd;
  readonly 'strip.remove': typeof stripRemove;
  readonly 'strip.set': typeof stripSet;
  readonly 'strip.out': typeof stripOut;
  readonly 'strips.order': typeof stripsOrder;
  readonly 'send.add': typeof sendAdd;
  readonly 'send.remove': typeof sendRemove;
  readonly 'send.set': typeof sendSet;
  readonly 'insert.add': typeof insertAdd;
  readonly 'insert.remove': typeof insertRemove;
  readonly 'insert.set': typeof insertSet;
  readonly 'vca.add': typeof vcaAdd;
  readonly 'vca.remove': typeof vcaRemove;
  readonly 'vca.set': typeof vcaSet;
  readonly 'vca.members': typeof vcaMembers;
  readonly 'link.add': typeof linkAdd;
  readonly 'link.remove': typeof linkRemove;
  readonly 'link.set': typeof linkSet;
}
/** Every edit there is. Plain data: it can be logged, sent, replayed and undone. */
export type Command = {
  [T in keyof Holds]: { readonly type: T } & Values<Holds[T]>;
}[keyof Holds];

export type CommandType = Command['type'];
