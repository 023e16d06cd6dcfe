import type { Insert, Link, Out, Section, Send, Session, Strip, Tempo, Vca } from '../types';
import type { Id } from '../units';

/** Fields of a strip that are set directly. */
export type StripPatch = Partial<
  Pick<
    Strip,
    | 'name'
    | 'family'
    | 'colour'
    | 'trimDb'
    | 'invert'
    | 'swap'
    | 'width'
    | 'faderDb'
    | 'pan'
    | 'mute'
    | 'solo'
    | 'soloSafe'
    | 'hidden'
    | 'pair'
    | 'preamp'
    | 'automation'
    | 'lanes'
  >
>;
export type SendPatch = Partial<Omit<Send, 'id'>>;
export type InsertPatch = Partial<Pick<Insert, 'place' | 'on' | 'mix' | 'key' | 'lanes'>> & {
  readonly params?: Readonly<Record<string, number>>;
};
export type LinkPatch = Partial<Omit<Link, 'id'>>;
export type VcaPatch = Partial<Omit<Vca, 'id' | 'members'>>;
export type SessionPatch = Partial<Pick<Session, 'name' | 'panLaw' | 'monitor' | 'dismissed'>> & {
  readonly tempo?: Tempo;
};

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
