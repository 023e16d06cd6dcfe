import { holdersOf } from '../groups/vca';
import type { Session, Strip } from '../session/types';
import type { Id, Seconds } from '../base/units';
import { assemble, drawingOf, planFacts, type Assembled, type CompileOptions } from './compile';
import type { Curve, CurveDrawing } from './curve';
import { recipesOf, standingValues, type PlanFacts, type Recipe } from './parameters';
import type { PlacedRun } from './parameterTable';
import type { Plan, PlanSteering } from './plan';
import { sameShape } from './shape';

/** A run that lanes move, and how far it is drawn. */
interface Moving {
  readonly run: PlacedRun;
  readonly drawing: CurveDrawing;
  /** The curve that the engine was given. */
  given: Omit<Curve, 'at'> | null;
}

type CurveChange = PlanSteering['curves'][number];
type RunChange = PlanSteering['runs'][number];

const sameList = (a: readonly unknown[], b: readonly unknown[]) =>
  a === b || (a.length === b.length && a.every((x, i) => x === b[i]));
/** Whether two recipes differ in the points of their lanes at most. */
const sameButPoints = (a: Recipe, b: Recipe) =>
  a.behind === b.behind && sameList(a.controls, b.controls) && sameList(a.inputs, b.inputs);
const sameRecipe = (a: Recipe, b: Recipe) => sameButPoints(a, b) && sameList(a.lanes, b.lanes);

/**
 * The plan of a session that is being edited while it plays. What differs in parameters alone is told by the places of those
 * parameters; curves are drawn where they are needed first, and the rest in pieces as there is time.
 */
export class LivePlan {
  private assembled: Assembled;
  private session: Session;
  private readonly moving = new Map<number, Moving>();
  /** Runs whose curve is not whole yet. */
  private readonly unfinished = new Set<Moving>();

  /**
   * @param before the plan that this one takes the place of: what it has drawn is not drawn anew where it is the same
   * @throws Refusal `cycle`, or `unknown` for a processor that there is not
   */
  constructor(
    session: Session,
    private readonly options: CompileOptions = {},
    before: LivePlan | null = null,
  ) {
    this.session = session;
    this.assembled = assemble(session, options);
    const sameRate = before?.session.sampleRate === session.sampleRate;
    const drawn = new Map(
      [...((sameRate && before?.moving.values()) || [])].map(({ run, drawing }) => [
        run.recipe.key,
        { recipe: run.recipe, drawing },
      ]),
    );
    for (const strip of this.assembled.runs.values())
      for (const run of strip.values()) this.follow(run, drawn.get(run.recipe.key));
  }

  /** The plan with the curves that are drawn, to be given to the engine; later curves are told by steering. */
  give(): Plan {
    const curves: Curve[] = [];
    for (const [at, entry] of this.moving) {
      entry.given = entry.drawing.curve;
      if (entry.given) curves.push({ at, ...entry.given });
    }
    return { ...this.assembled.plan, curves };
  }

  /** @param was what there is of the same run in another state */
  private follow(
    run: PlacedRun,
    was?: { readonly recipe: Recipe; readonly drawing: CurveDrawing },
  ): Moving | null {
    const before = this.moving.get(run.at);
    if (before) this.unfinished.delete(before);
    const known = was && sameButPoints(was.recipe, run.recipe) ? was.drawing : null;
    const drawing =
      known && sameList(was!.recipe.lanes, run.recipe.lanes)
        ? known
        : drawingOf(run, this.session.sampleRate, known);
    if (!drawing) {
      this.moving.delete(run.at);
      return null;
    }
    const entry: Moving = { run, drawing, given: null };
    this.moving.set(run.at, entry);
    if (!drawing.whole) this.unfinished.add(entry);
    return entry;
  }

  /** Whether all curves are drawn from end to end. */
  get whole(): boolean {
    return this.unfinished.size === 0;
  }

  /**
   * Draws curves that are not drawn yet where they are needed: in a span of the song, or anywhere.
   * @param late asked after each piece that was drawn: whether it is to stop; it goes on from there when it is asked again
   * @returns what the engine has to be told, and whether the span is drawn
   */
  draw(
    from: Seconds,
    to: Seconds,
    late: () => boolean = () => false,
  ): { readonly told: PlanSteering; readonly done: boolean } {
    const curves: CurveChange[] = [];
    let stopped = false;
    let left = this.unfinished.size;
    for (const entry of this.unfinished) {
      const done = entry.drawing.draw(from, to, () => (stopped = late()));
      if (entry.drawing.whole) this.unfinished.delete(entry);
      this.tell(entry, curves);
      left--;
      if (!done || (stopped && left > 0)) return { told: { runs: [], curves }, done: false };
    }
    return { told: { runs: [], curves }, done: true };
  }
  private tell(entry: Moving, curves: CurveChange[]) {
    const { curve } = entry.drawing;
    if (curve === entry.given) return;
    entry.given = curve;
    curves.push({ at: entry.run.at, curve });
  }

  /**
   * Brings the plan to another state of the session, of the same shape and the same captures.
   * @param near the span of the song in which changed curves are drawn at once
   * @returns what the engine has to be told
   * @throws Error where the shape is another: a new plan is needed then
   */
  steer(session: Session, near: readonly [from: Seconds, to: Seconds]): PlanSteering {
    const before = this.session;
    if (!sameShape(before, session, this.options.latencyOf))
      throw new Error('The session has another shape: it needs a new plan.');
    const was = this.assembled.facts;
    const facts = planFacts(session, this.options, was);
    this.session = session;
    this.assembled = { ...this.assembled, facts };
    const runs: RunChange[] = [];
    const curves: CurveChange[] = [];
    const everywhere =
      before.panLaw !== session.panLaw || before.tempo !== session.tempo || this.solosMoved(was, facts);
    session.strips.forEach((strip, i) => {
      if (everywhere || strip !== before.strips[i] || this.heldOtherwise(before, session, strip.id))
        this.bring(facts, strip, near, runs, curves);
    });
    return { runs, curves };
  }

  private solosMoved(was: PlanFacts, now: PlanFacts): boolean {
    if (was.audible === now.audible) return false;
    if (was.audible.size !== now.audible.size) return true;
    for (const id of now.audible) if (!was.audible.has(id)) return true;
    return false;
  }
  private heldOtherwise(before: Session, now: Session, strip: Id): boolean {
    return before.vcas !== now.vcas && !sameList(holdersOf(before, strip), holdersOf(now, strip));
  }

  private bring(
    facts: PlanFacts,
    strip: Strip,
    [from, to]: readonly [from: Seconds, to: Seconds],
    runs: RunChange[],
    curves: CurveChange[],
  ) {
    const placed = this.assembled.runs.get(strip.id)!;
    for (const recipe of recipesOf(facts, strip)) {
      const run = placed.get(recipe.key)!;
      const before = run.recipe;
      if (sameRecipe(before, recipe)) continue;
      run.recipe = recipe;
      const values = standingValues(recipe);
      if (!sameList(values, run.values)) {
        run.values = values;
        runs.push({ at: run.at, values });
        for (let i = 0; i < values.length; i++) this.assembled.plan.targets[run.at + i] = values[i]!;
      }
      if (recipe.lanes.length === 0 && before.lanes.length === 0) continue;
      const known = this.moving.get(run.at);
      const entry = this.follow(run, known && { recipe: before, drawing: known.drawing });
      if (!entry) {
        if (known?.given) {
          curves.push({ at: run.at, curve: null });
          // What a curve moved has to be put back where it stands.
          if (!runs.some((r) => r.at === run.at)) runs.push({ at: run.at, values });
        }
        continue;
      }
      entry.given = known?.given ?? null;
      entry.drawing.draw(from, to);
      if (entry.drawing.whole) this.unfinished.delete(entry);
      this.tell(entry, curves);
      if (entry.drawing.curve === null && !runs.some((r) => r.at === run.at))
        runs.push({ at: run.at, values });
    }
  }
}
