import { insertAt, isAutomated, ownAt, sendValuesAt, vcaAt, vcaAutomated, type When } from '../automation/at';
import { lanesBut, onlyLanes } from '../automation/lane';
import { follows } from '../session/mode';
import { holdersOf, levelUnder } from '../groups/vca';
import { gainOf } from '../levels/decibels';
import { edgeGains } from '../routing/edgeGains';
import { inputMatrix } from '../levels/inputMatrix';
import { balance } from '../levels/pan';
import { processorOf } from '../processors/registry';
import { actingOf, inOneRow, stepsOf, type Acting } from './engineParams';
import { insertLatencyIn, type LatencyOf, type StripLatency } from '../routing/latency';
import { stagesOf } from '../routing/stages';
import type { Channels, Insert, Lane, Lanes, Send, Session, Strip } from '../session/types';
import type { Id, Samples } from '../base/units';

/** What the parameters of all strips depend on beside the strips themselves. */
export interface PlanFacts {
  readonly session: Session;
  readonly strips: ReadonlyMap<Id, Strip>;
  readonly latencyOf: LatencyOf;
  readonly late: ReadonlyMap<Id, StripLatency>;
  /** Strips that pass sound under the solos. */
  readonly audible: ReadonlySet<Id>;
  /** Strips that key an insert. */
  readonly keying: ReadonlySet<Id>;
  /** Channels with which what is captured leaves, by strip. */
  readonly captured: ReadonlyMap<Id, Channels>;
}

/** A run of parameters: how its values come about, and what moves them. */
export interface Recipe {
  /** Its name, the same in every plan of a session. */
  readonly key: string;
  /** Its values at a time; as they were put where no time is given. As many, whatever the settings. */
  readonly make: (when: When | null) => readonly number[];
  /** Lanes that it follows, and the controls that each of them moves. */
  readonly lanes: readonly Lane[];
  readonly controls: readonly string[];
  /** Frames by which the signal that it works on lies behind the stems. */
  readonly behind: Samples;
  /** Which of its values are set at once: see `ParamRun`. */
  readonly steps: readonly number[];
  /** Whether a processor is told them, so that they jump as numbers and not as gains do. */
  readonly told: boolean;
  /** All else that its values depend on: where these are the same, it is as it was. */
  readonly inputs: readonly unknown[];
}

const NONE: Lanes = {};
const NO_STEPS: readonly number[] = [];
const followed = (strip: Strip, lanes: Lanes): Lanes => (follows(strip.automation) ? lanes : NONE);
const own = (strip: Strip, ...controls: readonly string[]): Lanes =>
  isAutomated(strip) ? onlyLanes(strip.lanes, ...controls) : NONE;

const recipe = (
  key: string,
  lanes: readonly Lanes[],
  behind: Samples,
  inputs: readonly unknown[],
  make: Recipe['make'],
  steps: readonly number[] = NO_STEPS,
  told = false,
): Recipe => ({
  key,
  make,
  behind,
  inputs,
  steps,
  told,
  lanes: lanes.flatMap((list) => Object.values(list)),
  controls: lanes.flatMap((list) => Object.keys(list)),
});

export const keyOf = {
  input: (strip: Strip) => `${strip.id}/input`,
  send: (strip: Strip, send: Send) => `${strip.id}/send/${send.id}/${send.tap}`,
  insert: (strip: Strip, insert: Insert) => `${strip.id}/insert/${insert.id}`,
  /** Those of an insert's numbers that act at one place in it. */
  acting: (strip: Strip, insert: Insert, { from, where }: Acting) =>
    from === 0 ? keyOf.insert(strip, insert) : `${keyOf.insert(strip, insert)}/${where}`,
  mix: (strip: Strip, insert: Insert) => `${strip.id}/insert/${insert.id}/mix`,
  fader: (strip: Strip) => `${strip.id}/fader`,
  pan: (strip: Strip) => `${strip.id}/pan`,
  out: (strip: Strip, to: Id) => `${strip.id}/out/${to}`,
  capture: (strip: Strip) => `${strip.id}/capture`,
};

/** Whether a strip is muted, by itself or by a VCA that holds it: both silence all that leaves it. */
function mutingOf(facts: PlanFacts, strip: Strip) {
  const vcas = holdersOf(facts.session, strip.id);
  return {
    lanes: [
      own(strip, 'mute'),
      ...vcas.filter(vcaAutomated).map((v) => onlyLanes(v.lanes, 'mute')),
    ] as readonly Lanes[],
    inputs: [strip.mute, ...vcas.flatMap((v) => [v.id, v.mute])] as readonly unknown[],
    at: (when: When | null) => ownAt(strip, when).mute || vcas.some((v) => vcaAt(v, when).mute),
  };
}

function sendRecipe(facts: PlanFacts, strip: Strip, send: Send): Recipe {
  const { panLaw } = facts.session;
  const { tap } = send;
  const { channels } = strip;
  const to = facts.strips.get(send.to)!;
  const heard = facts.audible.has(strip.id);
  const muting = mutingOf(facts, strip);
  return recipe(
    keyOf.send(strip, send),
    [own(strip, ...(tap === 'post' ? ['pan'] : [])), ...muting.lanes, followed(strip, send.lanes)],
    // What waits for later paths waits before its gain.
    facts.late.get(send.to)!.input,
    [panLaw, to.channels, heard, channels, strip.pan, tap, send.levelDb, send.pan, send.on, ...muting.inputs],
    (when) => {
      const now = ownAt(strip, when);
      const x = sendValuesAt(strip, send, when);
      const [l, r] = edgeGains(panLaw, { channels, pan: now.pan }, to.channels, {
        tap,
        levelDb: x.levelDb,
        pan: x.pan,
      });
      const on = x.on && heard && !muting.at(when) ? 1 : 0;
      return [l * on, r * on];
    },
  );
}

function* insertRecipes(facts: PlanFacts, strip: Strip, insert: Insert): Generator<Recipe> {
  const { session } = facts;
  const { input, output } = insertLatencyIn(facts.late.get(strip.id)!, insert.id);
  const lanes = followed(strip, insert.lanes);
  const processor = processorOf(insert.type);
  const steps = stepsOf(processor, session);
  for (const part of actingOf(processor, session)) {
    const { where, from, to } = part;
    const behind = { start: input, middle: Math.round((input + output) / 2), end: output }[where];
    yield recipe(
      keyOf.acting(strip, insert, part),
      [lanesBut(lanes, 'on', 'mix')],
      behind,
      [session.tempo, insert.params],
      (when) =>
        inOneRow(processor.engineParams(insertAt(strip, insert, when).params, session)).slice(from, to),
      steps.filter((i) => i >= from && i < to).map((i) => i - from),
      true,
    );
  }
  yield recipe(
    keyOf.mix(strip, insert),
    [onlyLanes(lanes, 'on', 'mix')],
    // The processed signal and the dry one, which waits for it, meet where it leaves.
    output,
    [insert.on, insert.mix],
    (when) => {
      const now = insertAt(strip, insert, when);
      return [now.on ? now.mix : 0];
    },
  );
}

function faderRecipe(facts: PlanFacts, strip: Strip): Recipe {
  // A strip that keys a processor goes on keying when something else is soloed.
  const passes = facts.audible.has(strip.id) || facts.keying.has(strip.id);
  const vcas = holdersOf(facts.session, strip.id);
  return recipe(
    keyOf.fader(strip),
    [own(strip, 'fader', 'mute'), ...vcas.filter(vcaAutomated).map((v) => v.lanes)],
    facts.late.get(strip.id)!.pre,
    [passes, strip.faderDb, strip.mute, ...vcas.flatMap((v) => [v.id, v.faderDb, v.mute])],
    (when) => {
      const now = ownAt(strip, when);
      const level = levelUnder(
        now.faderDb,
        vcas.map((v) => vcaAt(v, when)),
      );
      return [now.mute || !passes ? 0 : gainOf(level)];
    },
  );
}

/** Gains by which a strip leaves for so many channels. */
function leavingRecipe(
  facts: PlanFacts,
  key: string,
  strip: Strip,
  to: Channels,
  on: boolean,
  behind: Samples,
): Recipe {
  const { panLaw } = facts.session;
  const { channels } = strip;
  const heard = facts.audible.has(strip.id);
  const muting = mutingOf(facts, strip);
  return recipe(
    key,
    [own(strip, 'pan'), ...muting.lanes],
    behind,
    [panLaw, to, on, heard, channels, strip.pan, ...muting.inputs],
    (when) => {
      const now = ownAt(strip, when);
      const [l, r] = edgeGains(panLaw, { channels, pan: now.pan }, to, null);
      const open = on && heard && !muting.at(when) ? 1 : 0;
      return [l * open, r * open];
    },
  );
}

/**
 * Every parameter of a strip, in the order of its stages. Which there are, and how many values each has, follows from the
 * strip's shape alone: see `sameShape`.
 */
export function* recipesOf(facts: PlanFacts, strip: Strip): Generator<Recipe> {
  const late = facts.late.get(strip.id)!;
  for (const stage of stagesOf(strip))
    switch (stage.at) {
      case 'input': {
        const matrix = inputMatrix(strip);
        yield recipe(keyOf.input(strip), [], late.input, [strip.channels, ...matrix], () =>
          strip.channels === 2 ? matrix : [matrix[0]],
        );
        break;
      }
      case 'tap':
        for (const send of strip.sends) if (send.tap === stage.tap) yield sendRecipe(facts, strip, send);
        break;
      case 'insert':
        yield* insertRecipes(facts, strip, stage.insert);
        break;
      case 'fader':
        yield faderRecipe(facts, strip);
        break;
      case 'pan':
        if (strip.channels === 2)
          yield recipe(keyOf.pan(strip), [own(strip, 'pan')], late.post, [strip.pan], (when) =>
            balance(ownAt(strip, when).pan),
          );
        break;
      case 'out': {
        const { out } = strip;
        if (out.to !== null) {
          const { channels } = facts.strips.get(out.to)!;
          const { input } = facts.late.get(out.to)!;
          yield leavingRecipe(facts, keyOf.out(strip, out.to), strip, channels, out.on, input);
        }
        const channels = facts.captured.get(strip.id);
        if (channels !== undefined)
          yield leavingRecipe(
            facts,
            keyOf.capture(strip),
            strip,
            channels,
            strip.kind !== 'output' || out.on,
            late.post,
          );
      }
    }
}

/** Values of a run as it stands: where lanes move it, at the first point of the first of them. */
export function standingValues({ lanes: [first], make }: Recipe): readonly number[] {
  // Where lanes move it, one of their values is as good as any.
  return make(first ? { time: first[0]![0], side: 'after' } : null);
}
