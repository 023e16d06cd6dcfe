import type {
  INSERT,
  LINK,
  LAYOUT,
  LINK_PARTS,
  PIN,
  OUT,
  SECTION,
  SEND,
  SESSION,
  STRIP,
  TEMPO,
  VCA,
} from './fields/tables';
import type { Values } from './fields/shape';

export type { Channels } from '../base/units';
export type { PanLaw } from '../levels/pan';
export type { Lane, LanePoint, Lanes } from './fields/shape';

/*
 * What a session is made of. Fields, with what each holds, stand in `fields/tables.ts`; docs/session-format.md says what the
 * numbers mean.
 */

/** A processor in a strip's chain, before or after its fader. */
export interface Insert extends Values<typeof INSERT> {}
export interface Send extends Values<typeof SEND> {}
/** Where a strip's dry path goes. `to` is null on an output strip: it leaves the session. */
export interface Out extends Values<typeof OUT> {}
export interface Strip extends Values<typeof STRIP> {}
/** A fader that carries no audio: its decibels are added to those of its members. */
export interface Vca extends Values<typeof VCA> {}
/** Strips that are moved together, in both directions: what is done to one is done to all. */
export interface Link extends Values<typeof LINK> {}
/** Kept at an edge of the control surfaces. */
export interface Pin extends Values<typeof PIN> {}
export interface Layout extends Values<typeof LAYOUT> {}
export interface Section extends Values<typeof SECTION> {}
export interface Tempo extends Values<typeof TEMPO> {}
/** The whole session, immutable: see docs/session-format.md. */
export interface Session extends Values<typeof SESSION> {
  readonly format: 'zonula-session';
  readonly version: 1;
}

export type StripKind = Strip['kind'];
export type Tap = Send['tap'];
export type Place = Insert['place'];
/** What a strip does with its lanes: nothing, follows them, or follows them and writes what a hand does. */
export type AutomationMode = Strip['automation'];
/** What a link moves together. */
export type LinkPart = (typeof LINK_PARTS)[number];
