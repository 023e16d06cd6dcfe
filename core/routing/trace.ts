import { decibelsOf, powerSum } from '../levels/decibels';
import { holdersOf, isMuted } from '../groups/vca';
import { processorOf } from '../processors/registry';
import { nameOf, stripMap, stripOf } from '../session/lookup';
import type { Session, Strip, Tap } from '../session/types';
import type { Decibels, Id, Samples } from '../base/units';
import { reach, signalGraph, type Edge } from '../session/graph';
import { insertLatency, insertLatencyIn, latencies, type LatencyOf } from './latency';
import { signalOrder } from '../session/order';
import { responseAt } from './response';
import {
  add,
  powerOf,
  REFERENCE_HERTZ,
  silence,
  testSignal,
  throughBalance,
  throughEdge,
  throughFader,
  throughInput,
  throughInsert,
  type Arrival,
  type Signal,
} from './signal';
import { audibleStrips } from './solo';
import { stagesUntil, type StripStage } from './stages';

export type StageKind = 'input' | 'insert' | 'fader' | 'pan' | 'send' | 'out';

/** One step of a path: what it does to the level, and where the level stands after it. */
export interface Stage {
  readonly strip: Id;
  readonly kind: StageKind;
  /** Insert or send. */
  readonly id?: Id;
  readonly label: string;
  /** Change of level by the stage, by power over both sides. */
  readonly gainDb: Decibels;
  /** Level after the stage. */
  readonly leftDb: Decibels;
  readonly rightDb: Decibels;
  /** Frames by which the signal lies behind the stems after the stage, waiting for later paths included. */
  readonly latency: Samples;
  /** Frames of intended delay that the stage adds. */
  readonly delay: Samples;
  /** Why nothing passes here. */
  readonly stops?: string;
}

export interface Path {
  readonly strips: readonly Id[];
  /** Outs and sends along the way; ids of edges. */
  readonly edges: readonly Id[];
  readonly stages: readonly Stage[];
  /** Direct copies that arrive by this path alone. */
  readonly arrivals: readonly Arrival[];
  /** Level that arrives by this path alone: direct and spread, by power. */
  readonly leftDb: Decibels;
  readonly rightDb: Decibels;
  /** Whether a processor has spread the signal in time, so that it has no single gain. */
  readonly spread: boolean;
  /** Whether a processor on the way depends on level: the gains hold below its threshold. */
  readonly levelDependent: boolean;
}

export interface Trace {
  readonly from: Id;
  readonly to: Id;
  /** Paths, the loudest first; those where nothing passes last. */
  readonly paths: readonly Path[];
  /** How many paths there are in all; `paths` holds no more than the limit. */
  readonly count: number;
  /** Every direct copy that arrives, those of one delay and the same filters added. */
  readonly arrivals: readonly Arrival[];
  /**
   * Sum of the direct copies that come first, on each side: what an impulse shows where it is first heard, or, where filters
   * are on the way, what arrives then at REFERENCE_HERTZ. Without an intended delay they come at once.
   */
  readonly leftDb: Decibels;
  readonly rightDb: Decibels;
  /** Sum of the powers of all paths. */
  readonly powerLeftDb: Decibels;
  readonly powerRightDb: Decibels;
  /** Keyed inserts on the way from strips that this one reaches by a key. */
  readonly keys: readonly { readonly strip: Id; readonly insert: Id }[];
}

/** More paths than this are counted, not listed. */
export const MOST_PATHS = 200;

const passes = (e: Edge) => e.kind !== 'key';

/**
 * Where on a strip a signal that came in stands: at a tap, or after its pan. Each stage is told to `record`.
 */
function along(
  session: Session,
  strip: Strip,
  start: Signal,
  until: Tap,
  record: (stage: Omit<Stage, 'gainDb' | 'leftDb' | 'rightDb' | 'latency'>, signal: Signal) => void,
): Signal {
  let s = start;
  for (const stage of stagesUntil(strip, until)) {
    const passed = passStage(session, strip, stage, s);
    s = passed.signal;
    if (passed.told) record({ strip: strip.id, delay: 0, ...passed.told }, s);
  }
  return s;
}

/** What a stage says of itself where it says anything; a stage that does nothing says nothing. */
type ToldStage = Pick<Stage, 'kind' | 'label'> & Partial<Pick<Stage, 'id' | 'delay' | 'stops'>>;

/** A signal after one stage of a strip, and what is told of it. */
function passStage(
  session: Session,
  strip: Strip,
  stage: StripStage,
  s: Signal,
): { readonly signal: Signal; readonly told?: ToldStage } {
  switch (stage.at) {
    case 'input': {
      const changes: string[] = [];
      if (strip.trimDb !== 0) changes.push('trim');
      if (strip.invert) changes.push('polarity');
      if (strip.channels === 2 && strip.swap) changes.push('swap');
      if (strip.channels === 2 && strip.width !== 1) changes.push('width');
      const signal = throughInput(strip, s);
      if (!changes.length) return { signal };
      const stops = strip.trimDb === null ? { stops: 'The trim is at silence.' } : {};
      return { signal, told: { kind: 'input', label: changes.join(', '), ...stops } };
    }
    case 'insert': {
      const { insert } = stage;
      const processor = processorOf(insert.type);
      const key = insert.key === null ? '' : `, keyed by ${nameOf(session, insert.key)}`;
      const delay = insert.on && insert.mix > 0 ? (processor.direct(insert.params, session)?.delay ?? 0) : 0;
      return {
        signal: throughInsert(insert, s, session),
        told: {
          kind: 'insert',
          id: insert.id,
          label: `${processor.name}${key}${insert.on ? '' : ', bypassed'}`,
          delay,
        },
      };
    }
    case 'fader': {
      const holders = holdersOf(session, strip.id);
      const down = holders.find((v) => v.faderDb === null);
      // A muted VCA is told where the strip is left, as its own mute is.
      const stops =
        strip.faderDb === null
          ? 'The fader is at silence.'
          : down
            ? `The VCA ${down.name || down.id} is at silence.`
            : undefined;
      const label = holders.length ? `fader with ${holders.map((v) => v.name || v.id).join(', ')}` : 'fader';
      return {
        signal: throughFader(session, strip, s),
        told: { kind: 'fader', label, ...(stops ? { stops } : {}) },
      };
    }
    case 'pan':
      if (strip.channels === 1 || strip.pan === 0) return { signal: s };
      return { signal: throughBalance(strip, s), told: { kind: 'pan', label: 'pan' } };
    case 'tap':
    case 'out':
      return { signal: s };
  }
}

const nothing = () => {};
const levelOf = (s: Signal) => {
  const { left, right } = powerOf(s);
  return s.channels === 1 ? { left, right: left } : { left, right };
};
/** One number for the level of both sides, by power. */
const loudness = (s: Signal) => {
  const { left, right } = powerOf(s);
  return s.channels === 1 ? left : Math.sqrt((left ** 2 + right ** 2) / 2);
};

/**
 * What a strip, traced to itself or to another one, gives: at each strip's input the sum over all paths from `from`.
 * @returns for every strip that is reached, the signal at its input
 */
export function inputsFrom(session: Session, from: Id): ReadonlyMap<Id, Signal> {
  const strips = stripMap(session);
  const audible = audibleStrips(session);
  const { leaving } = signalGraph(session);
  const inputs = new Map<Id, Signal>([[from, testSignal(strips.get(from)!.channels)]]);
  for (const id of signalOrder(session)) {
    const input = inputs.get(id);
    if (!input) continue;
    const strip = strips.get(id)!;
    if (isMuted(session, strip) || !audible.has(id)) continue;
    const taps = new Map<Tap, Signal>();
    for (const edge of leaving.get(id)!) {
      if (edge.kind === 'key' || !edge.on) continue;
      const tap = edge.kind === 'send' ? edge.tap : 'post';
      if (!taps.has(tap)) taps.set(tap, along(session, strip, input, tap, nothing));
      const to = strips.get(edge.to)!;
      const arriving = throughEdge(
        session.panLaw,
        strip,
        to.channels,
        edge.kind === 'send' ? edge.send : null,
        taps.get(tap)!,
      );
      const known = inputs.get(edge.to);
      inputs.set(edge.to, known ? add(known, arriving) : arriving);
    }
  }
  return inputs;
}

/** What a strip delivers of a signal at its input; nothing where it is muted or silenced by a solo. */
export function delivered(session: Session, id: Id, input: Signal): Signal {
  const strip = stripOf(session, id);
  if (
    isMuted(session, strip) ||
    !audibleStrips(session).has(id) ||
    (strip.kind === 'output' && !strip.out.on)
  )
    return silence(strip.channels);
  return along(session, strip, input, 'post', nothing);
}

/** Why nothing leaves a strip by this edge; undefined where something does. */
function gate(
  session: Session,
  strip: Strip,
  edge: Edge | null,
  audible: ReadonlySet<Id>,
): string | undefined {
  if (strip.mute) return `${strip.name || strip.id} is muted.`;
  const vca = holdersOf(session, strip.id).find((v) => v.mute);
  if (vca) return `The VCA ${vca.name || vca.id} is muted.`;
  if (!audible.has(strip.id)) return `${strip.name || strip.id} is silenced by a solo.`;
  if (edge === null)
    return strip.out.on ? undefined : `The output ${strip.name || strip.id} is switched off.`;
  if (edge.on) {
    if (edge.kind === 'send' && edge.send.levelDb === null) return 'The send is at silence.';
    return undefined;
  }
  return edge.kind === 'out' ? 'The dry path is off.' : 'The send is off.';
}

/**
 * All paths of a signal from a strip's input to where another one leaves, with gain, latency and level at every stage,
 * and their sum.
 * @throws Refusal `unknown` for an id that is no strip
 */
export function trace(
  session: Session,
  from: Id,
  to: Id,
  options: { readonly most?: number; readonly latencyOf?: LatencyOf } = {},
): Trace {
  const first = stripOf(session, from);
  stripOf(session, to);
  const most = options.most ?? MOST_PATHS;
  const strips = stripMap(session);
  const graph = signalGraph(session);
  const audible = audibleStrips(session);
  const reached = new Set([from, ...reach(session, [from], 'downstream', passes)]);
  // Strips between the two: what the signal reaches, and from where it goes on to the end.
  const leads = new Set(reached.has(to) ? [to] : []);
  for (const todo = [...leads]; todo.length;)
    for (const e of graph.entering.get(todo.pop()!)!)
      if (passes(e) && reached.has(e.from) && !leads.has(e.from)) {
        leads.add(e.from);
        todo.push(e.from);
      }
  const latencyOf = options.latencyOf ?? insertLatency;
  const late = latencies(session, latencyOf);

  const edgesFrom = (id: Id) =>
    id === to ? [] : graph.leaving.get(id)!.filter((e) => passes(e) && leads.has(e.to));
  const counts = new Map<Id, number>([[to, 1]]);
  const order = signalOrder(session);
  for (let i = order.length - 1; i >= 0; i--) {
    const id = order[i]!;
    if (id !== to && leads.has(id))
      counts.set(
        id,
        edgesFrom(id).reduce((n, e) => n + (counts.get(e.to) ?? 0), 0),
      );
  }

  const paths: Path[] = [];
  const walk = (
    strip: Strip,
    input: Signal,
    soFar: Omit<Path, 'arrivals' | 'leftDb' | 'rightDb' | 'spread'>,
  ): void => {
    const last = strip.id === to;
    for (const edge of last ? [null] : edgesFrom(strip.id)) {
      if (paths.length >= most) return;
      const stages: Stage[] = [...soFar.stages];
      const here = late.get(strip.id)!;
      let latency = here.input;
      let before = loudness(input);
      const record = (stage: Omit<Stage, 'gainDb' | 'leftDb' | 'rightDb' | 'latency'>, s: Signal) => {
        const level = levelOf(s);
        const now = loudness(s);
        if (stage.kind === 'insert') {
          const insert = strip.inserts.find((i) => i.id === stage.id)!;
          latency = insertLatencyIn(here, insert.id).output;
        }
        stages.push({
          ...stage,
          gainDb: stage.stops ? null : before > 0 ? decibelsOf(now / before) : null,
          leftDb: decibelsOf(level.left),
          rightDb: decibelsOf(level.right),
          latency,
        });
        before = now;
      };
      const tap: Tap = edge?.kind === 'send' ? edge.tap : 'post';
      const tapped = along(session, strip, input, tap, record);
      const dependent = [...stagesUntil(strip, tap)].some(
        (stage) =>
          stage.at === 'insert' &&
          stage.insert.on &&
          stage.insert.mix > 0 &&
          processorOf(stage.insert.type).levelDependent,
      );
      const levelDependent = soFar.levelDependent || dependent;
      const stops = gate(session, strip, edge, audible);
      if (edge === null) {
        const end = stops ? silence(strip.channels) : tapped;
        if (stops) record({ strip: strip.id, kind: 'out', label: 'out', delay: 0, stops }, end);
        const level = levelOf(end);
        paths.push({
          strips: [...soFar.strips, strip.id],
          edges: soFar.edges,
          stages,
          arrivals: end.channels === 1 ? end.direct.map((a) => ({ ...a, right: a.left })) : end.direct,
          leftDb: decibelsOf(level.left),
          rightDb: decibelsOf(level.right),
          spread: end.spread.left > 0 || end.spread.right > 0,
          levelDependent,
        });
        continue;
      }
      const goal = strips.get(edge.to)!;
      const arriving = stops
        ? silence(goal.channels)
        : throughEdge(session.panLaw, strip, goal.channels, edge.kind === 'send' ? edge.send : null, tapped);
      latency = late.get(goal.id)!.input;
      const goalName = goal.name || goal.id;
      record(
        edge.kind === 'send'
          ? {
              strip: strip.id,
              kind: 'send',
              id: edge.id,
              label: `send to ${goalName}, ${tap === 'input' ? 'from the input' : `${tap}-fader`}`,
              delay: 0,
              ...(stops ? { stops } : {}),
            }
          : {
              strip: strip.id,
              kind: 'out',
              label: `out to ${goalName}`,
              delay: 0,
              ...(stops ? { stops } : {}),
            },
        arriving,
      );
      walk(goal, arriving, {
        strips: [...soFar.strips, strip.id],
        edges: [...soFar.edges, edge.id],
        stages,
        levelDependent,
      });
    }
  };
  if (leads.has(from))
    walk(first, testSignal(first.channels), { strips: [], edges: [], stages: [], levelDependent: false });
  const strength = (p: Path) => powerSum([p.leftDb, p.rightDb]) ?? -Infinity;
  paths.sort((a, b) => strength(b) - strength(a));

  const at = inputsFrom(session, from).get(to);
  const end = at ? delivered(session, to, at) : silence(1);
  const sides = (a: Arrival): Arrival => (end.channels === 1 ? { ...a, right: a.left } : a);
  const arrivals = end.direct.map(sides);
  const earliest = (side: 'left' | 'right') => {
    const heard = arrivals.filter((a) => a[side] !== 0);
    const first = Math.min(...heard.map((a) => a.delay));
    return heard.filter((a) => a.delay === first);
  };
  const atReference = (side: 'left' | 'right') =>
    responseAt(earliest(side), side, REFERENCE_HERTZ, session.sampleRate);
  const power = levelOf(end);
  return {
    from,
    to,
    paths,
    count: leads.has(from) ? counts.get(from)! : 0,
    arrivals,
    leftDb: decibelsOf(atReference('left')),
    rightDb: decibelsOf(atReference('right')),
    // Powers of single paths, where the list is whole; a sum of sums where it is not.
    powerLeftDb: paths.length < most ? powerSum(paths.map((p) => p.leftDb)) : decibelsOf(power.left),
    powerRightDb: paths.length < most ? powerSum(paths.map((p) => p.rightDb)) : decibelsOf(power.right),
    keys: session.strips.flatMap((s) =>
      s.inserts.flatMap((i) => (i.key !== null && reached.has(i.key) ? [{ strip: s.id, insert: i.id }] : [])),
    ),
  };
}
