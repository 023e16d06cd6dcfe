import { insertAt, isAutomated, ownAt, sendValuesAt, vcaAt, vcaAutomated, type When } from '../automation/at';
import { lanesBut, onlyLanes } from '../automation/lane';
import { follows } from '../session/mode';
import { holdersOf, levelUnder } from '../groups/vca';
import { gainOf } from '../levels/decibels';
import { edgeGains } from '../routing/edgeGains';
import { inputMatrix } from '../levels/inputMatrix';
import { balance } from '../levels/pan';
import { processorOf } from '../processors/registry';
import { inOneRow } from './engineParams';
import type { LatencyOf, StripLatency } from '../routing/latency';
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
  /** Lanes that it follows. */
  readonly lanes: readonly Lane[];
  /** Frames by which the signal that it works on lies behind the stems. */
  readonly behind: Samples;
  /** All else that its values depend on: where these are the same, it is as it was. */
  readonly inputs: readonly unknown[];
}

const NONE: Lanes = {};
const followed = (strip: Strip, lanes: Lanes): Lanes => (follows(strip.automation) ? lanes : NONE);
const own = (strip: Strip, ...controls: readonly string[]): Lanes =>
  isAutomated(strip) ? onlyLanes(strip.lanes, ...controls) : NONE;

const recipe = (
  key: string,
  lanes: readonly Lanes[],
  behind: Samples,
  inputs: readonly unknown[],
  make: Recipe['make'],
): Recipe => ({ key, make, behind, inputs, lanes: lanes.flatMap((list) => Object.values(list)) });

export const keyOf = {
  input: (strip: Strip) => `${strip.id}/input`,
  send: (strip: Strip, send: Send) => `${strip.id}/send/${send.id}/${send.tap}`,
  insert: (strip: Strip, insert: Insert) => `${strip.id}/insert/${insert.id}`,
  mix: (strip: Strip, insert: Insert) => `${strip.id}/insert/${insert.id}/mix`,
  fader: (strip: Strip) => `${strip.id}/fader`,
  pan: (strip: Strip) => `${strip.id}/pan`,
  out: (strip: Strip, to: Id) => `${strip.id}/out/${to}`,
  capture: (strip: Strip) => `${strip.id}/capture`,
};

function sendRecipe(facts: PlanFacts, strip: Strip, send: Send): Recipe {
  const { panLaw } = facts.session;
  const { tap } = send;
  const { channels } = strip;
  const to = facts.strips.get(send.to)!;
  const heard = facts.audible.has(strip.id);
  return recipe(
    keyOf.send(strip, send),
    [own(strip, 'mute', ...(tap === 'post' ? ['pan'] : [])), followed(strip, send.lanes)],
    facts.late.get(strip.id)![tap],
    [panLaw, to.channels, heard, channels, strip.pan, strip.mute, tap, send.levelDb, send.pan, send.on],
    (when) => {
      const now = ownAt(strip, when);
      const x = sendValuesAt(strip, send, when);
      const [l, r] = edgeGains(panLaw, { channels, pan: now.pan }, to.channels, {
        tap,
        levelDb: x.levelDb,
        pan: x.pan,
      });
      const on = x.on && heard && !now.mute ? 1 : 0;
      return [l * on, r * on];
    },
  );
}

function* insertRecipes(facts: PlanFacts, strip: Strip, insert: Insert, from: Samples): Generator<Recipe> {
  const { session } = facts;
  const lanes = followed(strip, insert.lanes);
  yield recipe(
    keyOf.insert(strip, insert),
    [lanesBut(lanes, 'on', 'mix')],
    from,
    [session.tempo, insert.params],
    (when) => inOneRow(processorOf(insert.type).engineParams(insertAt(strip, insert, when).params, session)),
  );
  yield recipe(
    keyOf.mix(strip, insert),
    [onlyLanes(lanes, 'on', 'mix')],
    from,
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
    [passes, strip.faderDb, strip.mute, ...vcas],
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
function leavingRecipe(facts: PlanFacts, key: string, strip: Strip, to: Channels, on: boolean): Recipe {
  const { panLaw } = facts.session;
  const { channels } = strip;
  const heard = facts.audible.has(strip.id);
  return recipe(
    key,
    [own(strip, 'pan', 'mute')],
    facts.late.get(strip.id)!.post,
    [panLaw, to, on, heard, channels, strip.pan, strip.mute],
    (when) => {
      const now = ownAt(strip, when);
      const [l, r] = edgeGains(panLaw, { channels, pan: now.pan }, to, null);
      const open = on && heard && !now.mute ? 1 : 0;
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
  let from = late.input;
  for (const stage of stagesOf(strip))
    switch (stage.at) {
      case 'input': {
        const matrix = inputMatrix(strip);
        yield recipe(keyOf.input(strip), [], from, [strip.channels, ...matrix], () =>
          strip.channels === 2 ? matrix : [matrix[0]],
        );
        break;
      }
      case 'tap':
        for (const send of strip.sends) if (send.tap === stage.tap) yield sendRecipe(facts, strip, send);
        break;
      case 'insert':
        yield* insertRecipes(facts, strip, stage.insert, from);
        from += facts.latencyOf(stage.insert, facts.session.sampleRate);
        break;
      case 'fader':
        yield faderRecipe(facts, strip);
        break;
      case 'pan':
        if (strip.channels === 2)
          yield recipe(keyOf.pan(strip), [own(strip, 'pan')], from, [strip.pan], (when) =>
            balance(ownAt(strip, when).pan),
          );
        break;
      case 'out': {
        const { out } = strip;
        if (out.to !== null) {
          const { channels } = facts.strips.get(out.to)!;
          yield leavingRecipe(facts, keyOf.out(strip, out.to), strip, channels, out.on);
        }
        const channels = facts.captured.get(strip.id);
        if (channels !== undefined)
          yield leavingRecipe(
            facts,
            keyOf.capture(strip),
            strip,
            channels,
            strip.kind !== 'output' || out.on,
          );
      }
    }
}

/** Values of a run as it stands: where lanes move it, at the first point of the first of them. */
export function standingValues({ lanes: [first], make }: Recipe): readonly number[] {
  // Where lanes move it, one of their values is as good as any.
  return make(first ? { time: first[0]![0], side: 'after' } : null);
}
