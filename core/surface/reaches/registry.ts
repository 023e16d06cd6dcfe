import { all } from './all';
import { family } from './family';
import { fan } from './fan';
import { laidOut } from './laidOut';
import { loop } from './loop';
import { material } from './material';
import { path } from './path';
import { picked } from './picked';
import { playhead } from './playhead';
import type { ReachKind } from './reach';

/** Every reach there is. */
export const reaches: readonly ReachKind[] = [
  all,
  material,
  loop,
  playhead,
  picked,
  path,
  fan,
  family,
  laidOut,
];
const byId = new Map(reaches.map((r) => [r.id, r]));
/** The reach of an id; *all* where there is none. */
export const reachOf = (id: string): ReachKind => byId.get(id) ?? all;
