import { isMuted } from '../groups/vca';
import { gainOf } from '../levels/decibels';
import { edgeGains } from '../routing/edgeGains';
import { inputMatrix } from '../levels/inputMatrix';
import { balance } from '../levels/pan';
import type { Timebase } from '../processors/description';
import { processorOf } from '../processors/registry';
import type { Insert, Strip, Tap } from '../session/types';
import type { Id, Samples } from '../base/units';
import { signalGraph, type Edge } from '../session/graph';
import { stagesOf } from '../routing/stages';
import { signalOrder } from '../session/order';
import { named, type Context, type Finding, type Rule } from './finding';

/** Gains from a signal's left and right to an output's: [ll, rl, lr, rr], and what came over it on the way. */
interface Copy {
  readonly delay: Samples;
  readonly m: readonly [number, number, number, number];
  /** Whether a level-dependent processor stands on the way: a parallel path by design. */
  readonly dependent: boolean;
}
type Copies = readonly Copy[];

/** A copy 18 dB weaker changes the level by about a decibel. */
const FAINT = 10 ** (-18 / 20);
/** Copies closer than this are heard as a colour, not as an echo; common practice, no published source. */
const FUSED_SECONDS = 0.03;
/** Copies of other delays beyond these many are left out. */
const MOST = 6;
/** Ways out of one strip beyond these many are held against the strongest alone, not each against each. */
const MOST_WAYS = 8;
/** Meetings of one strip at one output that are told; what is wrong with the rest is the same. */
const MOST_TOLD = 12;

const times = (b: Copy['m'], a: Copy['m']): Copy['m'] => [
  b[0] * a[0] + b[1] * a[2],
  b[0] * a[1] + b[1] * a[3],
  b[2] * a[0] + b[3] * a[2],
  b[2] * a[1] + b[3] * a[3],
];
const zero = (m: Copy['m']) => m[0] === 0 && m[1] === 0 && m[2] === 0 && m[3] === 0;

function inSeries(a: Copies, b: Copies): Copies {
  if (a.length === 1 && b.length === 1)
    return [
      {
        delay: a[0]!.delay + b[0]!.delay,
        m: times(b[0]!.m, a[0]!.m),
        dependent: a[0]!.dependent || b[0]!.dependent,
      },
    ];
  return joined(
    a.flatMap((x) =>
      b.map((y) => ({
        delay: x.delay + y.delay,
        m: times(y.m, x.m),
        dependent: x.dependent || y.dependent,
      })),
    ),
  );
}
function joined(copies: Copies): Copies {
  if (copies.length < 2) return copies;
  const at = new Map<Samples, Copy>();
  for (const c of copies) {
    const k = at.get(c.delay);
    at.set(
      c.delay,
      k
        ? {
            delay: c.delay,
            m: [k.m[0] + c.m[0], k.m[1] + c.m[1], k.m[2] + c.m[2], k.m[3] + c.m[3]],
            dependent: k.dependent && c.dependent,
          }
        : c,
    );
  }
  return [...at.values()].slice(0, MOST);
}

const scaled = (g: number): Copy['m'] => [g, 0, 0, g];

function insertCopies(insert: Insert, stereo: boolean, timebase: Timebase): Copies | null {
  const processor = processorOf(insert.type);
  if (!insert.on || insert.mix === 0) return null;
  const direct = processor.direct(insert.params, timebase);
  const dry: Copy = { delay: 0, m: scaled(1 - insert.mix), dependent: false };
  if (direct === null) return insert.mix === 1 ? [] : [dry];
  const g = insert.mix * direct.gain;
  const wet: Copy = {
    delay: direct.delay,
    m:
      direct.matrix && stereo
        ? [g * direct.matrix[0], g * direct.matrix[1], g * direct.matrix[2], g * direct.matrix[3]]
        : scaled(g),
    dependent: processor.levelDependent,
  };
  return insert.mix === 1 ? [wet] : joined([dry, wet]);
}

const timesSides = (copies: Copies, l: number, r: number): Copies =>
  copies.map((c) => ({ ...c, m: [c.m[0] * l, c.m[1] * l, c.m[2] * r, c.m[3] * r] as const }));

/** From a strip's input to its taps. */
function inside(c: Context, strip: Strip): Record<Tap, Copies> {
  const m = inputMatrix(strip);
  const stereo = strip.channels === 2;
  const input: Copies = [{ delay: 0, m: stereo ? m : [m[0], 0, 0, 0], dependent: false }];
  const taps = { input, pre: input, post: input };
  let now = input;
  // The fader's gain waits for the next stage: where no insert stands between, it and the balance are one step.
  let gain = 1;
  const settle = (l: number, r: number) => {
    if (l !== 1 || r !== 1) now = timesSides(now, l, r);
    gain = 1;
  };
  for (const stage of stagesOf(strip))
    switch (stage.at) {
      case 'insert': {
        settle(gain, gain);
        const copies = insertCopies(stage.insert, stereo, c.session);
        if (copies) now = inSeries(now, copies);
        break;
      }
      case 'fader':
        gain = gainOf(c.effective(strip));
        break;
      case 'pan': {
        const [l, r] = stereo && strip.pan !== 0 ? balance(strip.pan) : [1, 1];
        settle(gain * l, gain * r);
        break;
      }
      case 'tap':
        taps[stage.tap] = now;
        break;
      // The input's matrix stands in `m`; an out is no copy of its own.
      case 'input':
      case 'out':
    }
  return taps;
}

function edgeCopy(c: Context, strip: Strip, edge: Edge): Copy {
  const to = c.strips.get(edge.to)!.channels;
  const [l, r] = edgeGains(c.session.panLaw, strip, to, edge.kind === 'send' ? edge.send : null);
  const m: Copy['m'] =
    strip.channels === 1 ? [l, 0, to === 2 ? r : 0, 0] : to === 2 ? [l, 0, 0, r] : [l, r, 0, 0];
  return { delay: 0, m, dependent: false };
}

function one(a: Copy, b: Copy, c: Copy): Copies {
  const m = times(c.m, times(b.m, a.m));
  return zero(m) ? [] : [{ delay: a.delay + c.delay, m, dependent: a.dependent || c.dependent }];
}

/** Level of a copy for a signal that is the same on both sides, by power over the output's sides. */
const size = (copy: Copy) => Math.sqrt((copy.m[0] + copy.m[1]) ** 2 + (copy.m[2] + copy.m[3]) ** 2);
/** Of the loudest of copies. */
const reach = (copies: Copies) => copies.reduce((most, c) => Math.max(most, size(c)), 0);
const db = (x: number) => 20 * Math.log10(x);

/** Where two ways out of one strip bring the same signal to one output. */
interface Meeting {
  readonly strip: Strip;
  readonly output: Strip;
  readonly strong: { readonly edge: Edge; readonly copy: Copy };
  readonly weak: { readonly edge: Edge; readonly copy: Copy };
}

const meetings = new WeakMap<Context, readonly Meeting[]>();

/** Whether copies by two of the edges arrive within so many frames of each other. */
function meetInTime(edges: readonly Edge[], down: ReadonlyMap<Id, Copies>, within: Samples): boolean {
  const delays: number[] = [];
  for (const edge of edges) {
    const onward = edge.kind === 'key' || !edge.on ? undefined : down.get(edge.to);
    if (!onward) continue;
    for (const c of onward) if (delays.some((d) => Math.abs(d - c.delay) <= within)) return true;
    for (const c of onward) delays.push(c.delay);
  }
  return false;
}

/** All meetings of a session: backwards from each output, the copies by which a signal at each strip's input arrives. */
function meetingsOf(c: Context): readonly Meeting[] {
  const known = meetings.get(c);
  if (known) return known;
  const found: Meeting[] = [];
  const { leaving } = signalGraph(c.session);
  const order = signalOrder(c.session);
  const most = FUSED_SECONDS * c.session.sampleRate;
  const taps = new Map<Id, Record<Tap, Copies>>();
  const tapsOf = (s: Strip) => {
    let t = taps.get(s.id);
    if (!t) taps.set(s.id, (t = inside(c, s)));
    return t;
  };
  for (const output of c.session.strips) {
    if (output.kind !== 'output' || isMuted(c.session, output) || !output.out.on) continue;
    const down = new Map<Id, Copies>([[output.id, tapsOf(output).post]]);
    for (let i = order.length - 1; i >= 0; i--) {
      const strip = c.strips.get(order[i]!)!;
      if (strip.id === output.id || isMuted(c.session, strip)) continue;
      // Nothing comes from before a source, so that only ways which meet in time are of interest.
      if (
        strip.kind === 'source' &&
        strip.inserts.length === 0 &&
        !meetInTime(leaving.get(strip.id)!, down, most)
      )
        continue;
      const ways: { edge: Edge; copies: Copies }[] = [];
      for (const edge of leaving.get(strip.id)!) {
        if (edge.kind === 'key' || !edge.on) continue;
        const onward = down.get(edge.to);
        if (!onward || onward.length === 0) continue;
        const own = tapsOf(strip)[edge.kind === 'send' ? edge.tap : 'post'];
        if (own.length === 0) continue;
        const over = edgeCopy(c, strip, edge);
        const way =
          own.length === 1 && onward.length === 1
            ? one(own[0]!, over, onward[0]!)
            : inSeries(inSeries(own, [over]), onward).filter((x) => !zero(x.m));
        if (way.length) ways.push({ edge, copies: way });
      }
      if (ways.length === 0) continue;
      down.set(strip.id, ways.length === 1 ? ways[0]!.copies : joined(ways.flatMap((w) => w.copies)));
      const many = ways.length > MOST_WAYS;
      if (many) ways.sort((a, b) => reach(b.copies) - reach(a.copies));
      let told = 0;
      for (let a = 0; a < (many ? 1 : ways.length); a++)
        for (let b = a + 1; b < ways.length && told < MOST_TOLD; b++)
          for (const x of ways[a]!.copies)
            for (const y of ways[b]!.copies) {
              if (Math.abs(x.delay - y.delay) > most) continue;
              const [sx, sy] = [size(x), size(y)];
              if (Math.min(sx, sy) < FAINT * Math.max(sx, sy)) continue;
              const first = sx >= sy;
              if (many) told++;
              found.push({
                strip,
                output,
                strong: first ? { edge: ways[a]!.edge, copy: x } : { edge: ways[b]!.edge, copy: y },
                weak: first ? { edge: ways[b]!.edge, copy: y } : { edge: ways[a]!.edge, copy: x },
              });
            }
    }
  }
  meetings.set(c, found);
  return found;
}

const way = (c: Context, e: Edge) =>
  e.kind === 'out' ? 'its out' : `its send to ${named(c.strips.get(e.to)!)}`;

/** Turns the send of a meeting off: the weaker one, or the one that is a send. */
function without(c: Context, m: Meeting): Finding['repair'] {
  const edge = [m.weak.edge, m.strong.edge].find((e) => e.kind === 'send');
  return edge
    ? {
        label: `Switch the send to ${named(c.strips.get(edge.to)!)} off`,
        commands: [{ type: 'send.set', strip: m.strip.id, id: edge.id, patch: { on: false } }],
      }
    : null;
}

export const doubled: Rule = {
  id: 'doubled',
  title: 'The same signal by two ways',
  *find(c) {
    const told = new Set<string>();
    for (const m of meetingsOf(c)) {
      const { strong, weak } = m;
      if (strong.copy.delay !== weak.copy.delay) continue;
      const below = db(size(weak.copy) / size(strong.copy));
      const key = `${m.strip.id} ${m.output.id} ${[strong.edge.id, weak.edge.id].sort().join(' ')}`;
      if (told.has(key)) continue;
      told.add(key);
      const both: Copy = {
        ...strong.copy,
        m: strong.copy.m.map((v, i) => v + weak.copy.m[i]!) as unknown as Copy['m'],
      };
      const by = db(size(both) / size(strong.copy));
      const parallel = strong.copy.dependent !== weak.copy.dependent;
      yield {
        key,
        severity: parallel ? 'note' : 'risk',
        sure: parallel ? 'possible' : Math.abs(below) < 1 ? 'certain' : 'likely',
        what: `${named(m.strip)} reaches ${named(m.output)} twice, by ${way(c, strong.edge)} and by ${way(c, weak.edge)}: it is ${
          by === -Infinity
            ? 'cancelled'
            : `${Math.abs(by).toFixed(1)} dB ${by < 0 ? 'softer' : 'louder'} for it`
        }.`,
        why: parallel
          ? 'That is how parallel compression works; below the threshold it is the same signal added to itself.'
          : 'Two equal signals add to 6 dB more: a level that no fader shows.',
        where: [m.strip.id, strong.edge.to, weak.edge.to, m.output.id],
        repair: without(c, m),
      };
    }
  },
};

export const comb: Rule = {
  id: 'comb',
  title: 'The same signal at two times',
  *find(c) {
    const told = new Set<string>();
    for (const m of meetingsOf(c)) {
      const { strong, weak } = m;
      const apart = Math.abs(strong.copy.delay - weak.copy.delay) / c.session.sampleRate;
      if (apart === 0) continue;
      const g = size(weak.copy) / size(strong.copy);
      const key = `${m.strip.id} ${m.output.id} ${[strong.edge.id, weak.edge.id].sort().join(' ')}`;
      if (told.has(key)) continue;
      told.add(key);
      const notch = 1 / (2 * apart);
      const depth = g > 0.999 ? 'to silence' : `by ${Math.abs(db(1 - g)).toFixed(0)} dB`;
      yield {
        key,
        severity: 'risk',
        sure: 'likely',
        what: `${named(m.strip)} reaches ${named(m.output)} by ${way(c, strong.edge)} and, ${(apart * 1000).toFixed(1)} ms apart, by ${way(c, weak.edge)}.`,
        why: `The two make a comb: ${notch < 1000 ? `${notch.toFixed(0)} Hz` : `${(notch / 1000).toFixed(1)} kHz`} and its odd multiples are turned down ${depth}.`,
        where: [m.strip.id, strong.edge.to, weak.edge.to, m.output.id],
        repair: without(c, m),
      };
    }
  },
};
