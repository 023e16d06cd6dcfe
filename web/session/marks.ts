import { defineStore } from 'pinia';
import { computed, shallowReactive } from 'vue';
import type { Id } from '@core/base/units';

/** Rows of each strip that are lit, by the strip's id; a space between the rows' keys. */
export type Lit = ReadonlyMap<string, string>;
interface Marks {
  /** What a traced signal passes. */
  readonly lit: Lit;
  /** What is said of strips: each a sentence. */
  readonly words: ReadonlyMap<Id, readonly string[]>;
  /** Shares of real time that inserts take, by `strip insert`, where that has been measured. */
  readonly costs: ReadonlyMap<string, number>;
  /** Inserts that are switched off for the ear alone, by `strip insert`. */
  readonly dry: ReadonlySet<string>;
  /** Units of the desk, from 1, under whose faders each strip lies now. */
  readonly units: ReadonlyMap<Id, readonly number[]>;
  /** Numbers beside the titles of views, by the view's name. */
  readonly badges: ReadonlyMap<string, { readonly count: number; readonly tone: string }>;
}
const NONE: Marks = {
  lit: new Map(),
  words: new Map(),
  costs: new Map(),
  units: new Map(),
  dry: new Set(),
  badges: new Map(),
};

/** What features have to say of strips, so that views show it without knowing whence it comes. */
export const useMarks = defineStore('marks', () => {
  const from = shallowReactive<{ [K in keyof Marks]?: () => Marks[K] }>({});
  /** Says where a mark comes from. */
  const mark = <K extends keyof Marks>(what: K, get: () => Marks[K]) => {
    (from as Record<K, () => Marks[K]>)[what] = get;
  };
  return {
    mark,
    lit: computed(() => from.lit?.() ?? NONE.lit),
    words: computed(() => from.words?.() ?? NONE.words),
    costs: computed(() => from.costs?.() ?? NONE.costs),
    dry: computed(() => from.dry?.() ?? NONE.dry),
    units: computed(() => from.units?.() ?? NONE.units),
    badges: computed(() => from.badges?.() ?? NONE.badges),
  };
});
