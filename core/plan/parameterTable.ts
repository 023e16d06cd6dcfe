import type { Id } from '../base/units';
import { recipesOf, standingValues, type PlanFacts, type Recipe } from './parameters';
import type { ParamRun } from './plan';
import type { Strip } from '../session/types';

/** A run of parameters at its place in a plan's table. */
export interface PlacedRun {
  readonly at: number;
  recipe: Recipe;
  values: readonly number[];
}

/** The table of a plan's parameters as it grows: each run is placed where the first operation asks for it. */
export class ParameterTable {
  readonly targets: number[] = [];
  readonly runs: ParamRun[] = [];
  /** Runs of each strip, by name. */
  readonly placed = new Map<Id, Map<string, PlacedRun>>();
  private readonly recipes = new Map<Id, ReadonlyMap<string, Recipe>>();

  constructor(private readonly facts: PlanFacts) {}

  /** @param key a name of `keyOf` @returns the place of the run's first value */
  at(strip: Strip, key: string): number {
    let runs = this.placed.get(strip.id);
    if (!runs) this.placed.set(strip.id, (runs = new Map()));
    const known = runs.get(key);
    if (known) return known.at;
    let recipes = this.recipes.get(strip.id);
    if (!recipes) {
      recipes = new Map([...recipesOf(this.facts, strip)].map((r) => [r.key, r]));
      this.recipes.set(strip.id, recipes);
    }
    const recipe = recipes.get(key)!;
    const values = standingValues(recipe);
    const at = this.targets.length;
    for (const value of values) this.targets.push(value);
    this.runs.push({ key, at, count: values.length, steps: recipe.steps });
    runs.set(key, { at, recipe, values });
    return at;
  }
}
