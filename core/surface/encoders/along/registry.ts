import type { AlongKind } from './along';
import { input } from './input';
import { insert } from './insert';
import { inserts } from './inserts';
import { panning } from './panning';
import { sends } from './sends';

/** Everything of a strip that can lie along the encoders. */
export const alongs: readonly AlongKind[] = [input, inserts, insert, sends, panning];
const byId = new Map(alongs.map((a) => [a.id, a]));
/** The kind of an id; one insert where there is none. */
export const alongOf = (id: string): AlongKind => byId.get(id) ?? insert;
