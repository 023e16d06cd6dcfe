import type { Fields, Settable } from '../fields/shape';
import type { INSERT, LINK, SEND, SESSION, STRIP, VCA } from '../fields/tables';
import type { Insert, Link, Out, Section, Send, Session, Strip, Vca } from '../types';
import type { Id } from '../units';

type Patch<T, F extends Fields> = Partial<Pick<T, Settable<F> & keyof T>>;
/** Fields of a strip that are set directly: those that its table does not call fixed. */
export type StripPatch = Patch<Strip, typeof STRIP>;
export type SendPatch = Patch<Send, typeof SEND>;
export type InsertPatch = Patch<Insert, typeof INSERT>;
export type LinkPatch = Patch<Link, typeof LINK>;
export type VcaPatch = Patch<Vca, typeof VCA>;
export type SessionPatch = Patch<Session, typeof SESSION>;

/** Every edit there is. Plain data: it can be logged, sent, replayed and undone. */
export type Command =
  | { readonly type: 'session.set'; readonly patch: SessionPatch }
  | { readonly type: 'sections.set'; readonly sections: readonly Section[] }
  | { readonly type: 'strip.add'; readonly strip: Strip; readonly at: number }
  | { readonly type: 'strip.remove'; readonly id: Id }
  | { readonly type: 'strip.set'; readonly id: Id; readonly patch: StripPatch }
  | { readonly type: 'strip.out'; readonly id: Id; readonly out: Out }
  | { readonly type: 'strips.order'; readonly order: readonly Id[] }
  | { readonly type: 'send.add'; readonly strip: Id; readonly send: Send; readonly at: number }
  | { readonly type: 'send.remove'; readonly strip: Id; readonly id: Id }
  | { readonly type: 'send.set'; readonly strip: Id; readonly id: Id; readonly patch: SendPatch }
  | { readonly type: 'insert.add'; readonly strip: Id; readonly insert: Insert; readonly at: number }
  | { readonly type: 'insert.remove'; readonly strip: Id; readonly id: Id }
  | { readonly type: 'insert.set'; readonly strip: Id; readonly id: Id; readonly patch: InsertPatch }
  | { readonly type: 'vca.add'; readonly vca: Vca; readonly at: number }
  | { readonly type: 'vca.remove'; readonly id: Id }
  | { readonly type: 'vca.set'; readonly id: Id; readonly patch: VcaPatch }
  | { readonly type: 'vca.members'; readonly id: Id; readonly members: readonly Id[] }
  | { readonly type: 'link.add'; readonly link: Link; readonly at: number }
  | { readonly type: 'link.remove'; readonly id: Id }
  | { readonly type: 'link.set'; readonly id: Id; readonly patch: LinkPatch };

export type CommandType = Command['type'];
