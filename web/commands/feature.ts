import { defineAsyncComponent, type Component } from 'vue';
import type { InsertRef } from '@core/operations/inserts';
import type { KeyScope } from './keyScopes';
import { say } from './texts';

/** What an action acts on where it is not what is picked: each names what it takes. */
export interface Given {
  readonly strips?: readonly string[];
  readonly insert?: string | null;
  readonly refs?: readonly InsertRef[];
  readonly vca?: string;
  /** What the things are called, for the history. */
  readonly name?: string;
  readonly processor?: string;
}

export const ACTION_GROUPS = [
  'Transport',
  'Strips',
  'Settings',
  'Automation',
  'Answers',
  'Edit',
  'Surface',
  'View',
] as const;

/** What a group of actions is called. */
export const groupTitle = (group: (typeof ACTION_GROUPS)[number]): string => say(`group${group}`);

/** Something that can be done: by key, from the palette, from menus. */
export interface Action {
  readonly id: string;
  readonly title: string;
  /** Keys as `keyName` writes them; empty where it has none at first. */
  readonly keys: string;
  readonly group: (typeof ACTION_GROUPS)[number];
  readonly enabled?: () => boolean;
  /** Asked for by other features alone, with what it acts on: neither listed nor on a key. */
  readonly inner?: boolean;
  readonly run: (given?: Given) => unknown;
}

/** A part that is fetched when it is needed: `lazy(() => import('./X.vue'))`. */
export interface Lazy {
  readonly fetch: () => Promise<{ default: Component }>;
  /** The same, as something that can be drawn at once. */
  readonly component: Component;
}
export const lazy = (fetch: Lazy['fetch']): Lazy => ({ fetch, component: defineAsyncComponent(fetch) });

/** A view of the session: the router, the top line, the palette and the keys follow from it. */
export interface View {
  readonly name: string;
  readonly title: string;
  /** Below `/session/:id/`; empty for the first one. */
  readonly path: string;
  readonly keys: string;
  readonly component: () => Promise<unknown>;
  /** What stands around it: the inspector at its right, the bar of what is picked at its foot. */
  readonly around?: readonly ('inspector' | 'picks')[];
  /** What the bar says while nothing is picked. */
  readonly hint?: string;
}

/** What the inspector shows under a tab; several features may share one. */
export interface Panel {
  readonly tab: 'strip' | 'meters' | 'trace' | 'ripple' | 'session' | 'load';
  readonly component: Component | Lazy;
  /** Its place among those under the same tab; 0 where it is left out. */
  readonly rank?: number;
}

/** What a feature brings to the page. `app/features.ts` lists them all; views stand in `app/views.ts`. */
export interface Feature {
  /** Called once, when a session is opened first. */
  readonly setup?: () => void;
  /** Called once, when the page has its stores. */
  readonly actions?: () => readonly Action[];
  /** Dialogs by name; each is given what it was opened with, and closes by emitting `close`. */
  readonly dialogs?: Readonly<Record<string, Lazy>>;
  readonly panels?: readonly Panel[];
  /** Bars at the foot of the views with picks, each there when it has something to say. */
  readonly bars?: readonly Component[];
  /** Rows at the foot of every view, each there when it has something to show. */
  readonly trays?: readonly Component[];
  /** Keys of a part of the page that holds the keyboard: they are listed and can be changed like all others. */
  readonly keys?: () => readonly KeyScope[];
}

let all: readonly Feature[] = [];
let allViews: readonly View[] = [];
/** Says once, before the first session is opened, what the page is made of. */
export const setFeatures = (features: readonly Feature[]): void => {
  all = features;
};
export const features = (): readonly Feature[] => all;
/** Says once, at the start, which views a session has. */
export const setViews = (views: readonly View[]): void => {
  allViews = views;
};
export const views = (): readonly View[] => allViews;

const isLazy = (part: Component | Lazy): part is Lazy => 'fetch' in part;
export const drawn = (part: Component | Lazy): Component => (isLazy(part) ? part.component : part);
/** Fetches beforehand what may be needed: so that a dialog or a view opens at once. */
export async function fetchAll(): Promise<void> {
  const parts = all.flatMap((f) => [
    ...Object.values(f.dialogs ?? {}),
    ...(f.panels ?? []).map((p) => p.component),
  ]);
  for (const part of parts) if (isLazy(part)) await part.fetch();
  for (const view of allViews) await view.component();
}
