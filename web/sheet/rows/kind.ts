import type { VNodeArrayChildren } from 'vue';
import type { ControlRef } from '@core/automation/control';
import type { Command } from '@core/edits/commands';
import type { ValueCell } from '@core/operations/cells';
import type { Insert, Session, Strip } from '@core/session/types';
import type { Decibels } from '@core/base/units';
import type { MenuItem, MenuPlace } from '@/ui/menu';
import type { SheetTools } from './tools';

/** The name of a kind of row; `rows.ts` lists the kinds. */
export type RowName = string;

/** A row of the Sheet: a decision that every strip has. */
export interface Row {
  /** `send:plate`, `rail:vca-choir`, `pre:0`, `level` … */
  readonly key: string;
  readonly kind: RowName;
  readonly label: string;
  readonly y: number;
  readonly height: number;
  /** VCA of a rail, destination of a send row. */
  readonly ref?: string;
  /** Place of an insert row; its number, or that of a rail's VCA. */
  readonly place?: Insert['place'];
  readonly index?: number;
}
export type NewRow = Omit<Row, 'y' | 'kind'>;

/** Where a VCA's rail runs over a strip: `knot` it is held, `via` held through another VCA, `line` passed by. */
export type RailMark = 'knot' | 'via' | 'line' | 'none';

/** What a column knows of its strip: what its cells are drawn and spoken from. */
export interface Column {
  readonly strip: Strip;
  readonly name: string;
  readonly number: number;
  readonly width: number;
  /** Characters that fit across it. */
  readonly characters: number;
  readonly rails: readonly RailMark[];
  readonly rows: readonly Row[];
  readonly effective: Decibels;
  /** Whether VCAs hold it, so that own and effective level may differ. */
  readonly held: boolean;
  readonly audible: boolean;
  readonly picked: boolean;
  readonly outName: string;
  readonly editedInsert: string | null;
  /** Its inserts that are off for the ear alone. */
  readonly dry: readonly string[];
  /** Whether the preamplifier that it comes by has confirmed what was asked; null where it has none. */
  readonly preamp: 'settled' | 'open' | null;
  /** Units of the desk under whose faders it lies, `1 2`; empty where it lies under none. */
  readonly units: string;
  /** Its controls that are being written. */
  readonly writing: readonly ControlRef[] | null;
}

/** A cell: a strip's decision. */
export interface Spot {
  readonly strip: string;
  readonly row: Row;
}
/** A place on the Sheet, in pixels inside the cell. */
export interface Hit extends Spot {
  readonly x: number;
  readonly y: number;
  readonly width: number;
}

/** What a press puts into strips, and painting goes on with. */
export interface Stroke {
  readonly label: string;
  commands(ids: readonly string[]): readonly Command[];
  /** Where what was made has a level: its edit with another one. */
  at?(command: Command, value: number | null): Command;
}
/** What a press on a cell begins. */
export interface Press {
  /** Not told apart yet, painting along the row, picking, or moving what is picked. */
  readonly mode: 'open' | 'paint' | 'pick' | 'move';
  readonly stroke?: Stroke;
  /** What it does where the hand does not move. */
  readonly clicked?: () => void;
}
/** What a press that has moved turns out to be. */
export type Turn = 'value' | 'paint' | 'carry' | 'done';

/** Own lanes of what a cell shows: whether there are any, and whether one is being written. */
export interface LaneState {
  readonly has: boolean;
  readonly writes: boolean;
}

/** One kind of row: how it is drawn, spoken, pressed, dragged, painted, typed, asked for its menu. */
export interface RowKind {
  readonly kind: RowName;
  /** The name under which rows of this kind are folded; those without one always stand. */
  readonly fold?: string | ((row: NewRow) => string);
  /** Pixels of a row at a step of the zoom where it is not as near; null where it says nothing there. */
  readonly far?: number | null;
  readonly middle?: number | null;
  /** The rows of this kind that a session has. A height of 0 takes what is left. */
  rows(session: Session): readonly NewRow[];
  /** What of a column a cell is drawn and spoken from: where all of it is as it was, the cell is left as it is. */
  sees(column: Column, row: Row): readonly unknown[];
  draw(column: Column, row: Row): VNodeArrayChildren;
  speak(column: Column, row: Row): string;
  lanes?(column: Column, row: Row): LaneState | null;
  /** The value that its cells show, where they show one. */
  value?(row: Row): ValueCell;
  /** What its cells are called in the history. */
  called?(row: Row): string;

  // — hands —
  /** @param group what a change on this strip acts on */
  press?(t: SheetTools, hit: Hit, e: PointerEvent, group: readonly string[]): Press;
  turn?(t: SheetTools, spot: Spot, e: PointerEvent, across: boolean): Turn;
  /** A value after a move of so many pixels up. */
  moved?(now: number | null, pixels: number, row: Row): number | null;
  /** Gives strips what the pressed one has. */
  paint?(session: Session, from: Spot, to: readonly string[]): readonly Command[];

  // — keys —
  enter?(t: SheetTools, spot: Spot, at: MenuPlace): unknown;
  step?(t: SheetTools, spot: Spot, way: 1 | -1, fine: boolean): unknown;
  /** Back to the default. @param alone this strip, not what is picked with it */
  reset?(t: SheetTools, spot: Spot, alone?: boolean): unknown;
  /** Whether a double-click here returns the default; everywhere where it is left out. */
  resets?(hit: Hit): boolean;
  remove?(t: SheetTools, spot: Spot): unknown;
  /** Further keys, by the names that the Sheet's scope gives them. */
  readonly keys?: Readonly<Record<string, (t: SheetTools, spot: Spot) => unknown>>;

  /** Its menu: a title and lines; null where something else was opened. */
  menu?(t: SheetTools, spot: Spot, at: MenuPlace): { title: string; items: readonly MenuItem[] } | null;
}

/** Room in the level row above the fader's top, and below its bottom for the number. */
export const LEVEL_TOP = 12;
export const LEVEL_FOOT = 26;

/** Insert of a strip that stands in a row. */
export const insertAt = (strip: Strip, row: Pick<Row, 'place' | 'index'>) =>
  strip.inserts.filter((i) => i.place === row.place)[row.index ?? 0];

/** The state of a set of lanes. @param control one of them; all where it is left out */
export function laneState(
  column: Column,
  part: ControlRef['part'],
  id: string | null,
  lanes: object,
  control?: string,
): LaneState {
  return {
    has: control ? control in lanes : Object.keys(lanes).length > 0,
    writes:
      column.writing?.some(
        (r) => r.part === part && r.id === id && (control === undefined || r.control === control),
      ) ?? false,
  };
}
