// What a session gives, computed frame by frame as docs/session-format.md says and by nothing else: no plan, no blocks, no
// latency, no code of the engine's or of the core's. Of inserts it knows `gain`; all others it takes for wires.
import type { Lane, Session, Strip, Vca } from '../../core/session/types';

const JUMP = 120;

type Law = 'level' | 'even' | 'step';
const dB = (level: number | null) => (level === null ? 0 : 10 ** (level / 20));

const LEVELS: readonly (readonly [number, number])[] = [
  [0, -80],
  [0.1, -40],
  [0.3, -24],
  [0.5, -12],
  [0.75, 0],
  [1, 12],
];
const TRAVELS = LEVELS.map(([t, l]) => [l, t] as const);
/** Straight between points. */
function between(points: readonly (readonly [number, number])[], x: number): number {
  if (x <= points[0]![0]) return points[0]![1];
  for (let i = 1; i < points.length; i++) {
    const [x0, y0] = points[i - 1]!;
    const [x1, y1] = points[i]!;
    if (x <= x1) return y0 + ((y1 - y0) * (x - x0)) / (x1 - x0);
  }
  return points[points.length - 1]![1];
}
const travelOf = (law: Law, v: number | null) =>
  law !== 'level' ? v! : v === null ? 0 : between(TRAVELS, v);
const valueAt = (law: Law, t: number) => (law !== 'level' ? t : t <= 0 ? null : between(LEVELS, t));

/** A lane's value; `left` is the value that leads to a time, where two points stand at it. */
function read(law: Law, lane: Lane, time: number, left: boolean): number | null {
  let passed = 0;
  while (passed < lane.length && (left ? lane[passed]![0] < time : lane[passed]![0] <= time)) passed++;
  const next = lane[passed];
  const last = lane[passed - 1];
  if (!last) return lane[0]![1];
  if (!next || law === 'step') return last[1];
  if (last[0] === time) return last[1];
  if (next[0] === time && left) return next[1];
  const share = (time - last[0]) / (next[0] - last[0]);
  const from = travelOf(law, last[1]);
  return last[1] === next[1] ? last[1] : valueAt(law, from + (travelOf(law, next[1]) - from) * share);
}

/** A gain as a function of time. */
type Gain = (time: number, left: boolean) => number;

/** Runs a gain over time, its jumps faded over 120 frames. @param jumps seconds at which it may leap */
function overTime(gain: Gain, jumps: readonly number[], frames: number, rate: number): Float64Array {
  const out = Float64Array.from({ length: frames }, (_, n) => gain(n / rate, false));
  for (const time of new Set(jumps)) {
    if (time === 0) continue;
    const by = gain(time, false) - gain(time, true);
    if (by === 0) continue;
    for (let n = Math.ceil(time * rate - 1e-6); n < Math.min(frames, time * rate + JUMP); n++) {
      const x = (n - time * rate) / JUMP;
      out[n]! -= by * (1 - x + (8 * Math.sin(2 * Math.PI * x) - Math.sin(4 * Math.PI * x)) / (12 * Math.PI));
    }
  }
  return out;
}

const panned = (law: number, p: number): [number, number] => {
  const t = (p + 1) / 2;
  const three: [number, number] = [Math.cos((t * Math.PI) / 2), Math.sin((t * Math.PI) / 2)];
  if (law === -3) return three;
  if (law === -6) return [1 - t, t];
  if (law === -4.5) return [Math.sqrt(Math.max(0, three[0]) * (1 - t)), Math.sqrt(three[1] * t)];
  return [Math.min(1, 2 - 2 * t), Math.min(1, 2 * t)];
};
const balanced = (p: number): [number, number] => [
  p > 0 ? Math.cos((p * Math.PI) / 2) : 1,
  p < 0 ? Math.cos((p * Math.PI) / 2) : 1,
];

type Sides = [Float64Array, Float64Array?];

/** @param stems channels of each source @returns what gives a strip's signal after its pan, as it leaves: a list of channels */
export function modelled(
  session: Session,
  stems: Readonly<Record<string, readonly Float32Array[]>>,
  frames: number,
): (goal: string) => Float64Array[] {
  const rate = session.sampleRate;
  const strips = new Map(session.strips.map((s) => [s.id, s]));
  const memory = new Map<string, Record<'input' | 'pre' | 'post', Sides>>();

  const reads = (owner: Strip | Vca) => owner.automation !== 'off';
  const holders = (id: string): Vca[] => {
    const direct = session.vcas.filter((v) => v.members.includes(id));
    return [...new Set([...direct, ...direct.flatMap((v) => holders(v.id))])];
  };
  const value = (law: Law, lane: Lane | undefined, follows: boolean, else_: number | null): Gain =>
    ((time: number, left: boolean) => (lane && follows ? read(law, lane, time, left) : else_)) as Gain;
  const times = (...lanes: (Lane | undefined)[]) => lanes.flatMap((l) => (l ?? []).map(([t]) => t));

  const muted = (s: Strip) => {
    const all = [s, ...holders(s.id)];
    const each = all.map((o) => value('step', o.lanes.mute, reads(o), o.mute ? 1 : 0));
    return {
      open: ((t, left) => (each.some((m) => m(t, left) === 1) ? 0 : 1)) as Gain,
      times: times(...all.filter(reads).map((o) => o.lanes.mute)),
    };
  };
  const copy = (x: Sides): Sides => x.map((c) => Float64Array.from(c!)) as Sides;
  const times_ = (x: Float64Array, g: Float64Array) => x.map((v, n) => v * g[n]!);

  const taps = (id: string): Record<'input' | 'pre' | 'post', Sides> => {
    const known = memory.get(id);
    if (known) return known;
    const s = strips.get(id)!;
    const two = s.channels === 2;
    const silence = () => new Float64Array(frames);
    const sum: Sides = two ? [silence(), silence()] : [silence()];
    for (const [c, ch] of (stems[id] ?? []).entries()) for (let n = 0; n < frames; n++) sum[c]![n]! += ch[n]!;
    for (const from of session.strips) {
      if (from.out.to === id) add(sum, leaving(from, s.channels, null));
      for (const x of from.sends) if (x.to === id) add(sum, leaving(from, s.channels, x));
    }
    const g = dB(s.trimDb) * (s.invert ? -1 : 1);
    for (let n = 0; n < frames; n++) {
      if (!two) {
        sum[0][n]! *= g;
        continue;
      }
      let [l, r] = [sum[0][n]! * g, sum[1]![n]! * g];
      if (s.swap) [l, r] = [r, l];
      const [m, d] = [(l + r) / 2, (s.width * (l - r)) / 2];
      sum[0][n] = m + d;
      sum[1]![n] = m - d;
    }
    const input = copy(sum);
    inserts(s, 'pre', sum);
    const pre = copy(sum);
    const mute = muted(s);
    const vcas = holders(id);
    const levels = [s, ...vcas].map((o) => value('level', o.lanes.fader, reads(o), o.faderDb));
    const fader: Gain = (t, left) =>
      mute.open(t, left) * levels.reduce((p, l) => p * dB(l(t, left) as number | null), 1);
    apply(sum, fader, [...mute.times, ...times(...[s, ...vcas].filter(reads).map((o) => o.lanes.fader))]);
    inserts(s, 'post', sum);
    if (two) {
      const p = value('even', s.lanes.pan, reads(s), s.pan);
      sum.forEach((ch, c) => {
        const over = overTime((t, left) => balanced(p(t, left))[c]!, times(s.lanes.pan), frames, rate);
        for (let n = 0; n < frames; n++) ch![n]! *= over[n]!;
      });
    }
    const found = { input, pre, post: sum };
    memory.set(id, found);
    return found;
  };

  const apply = (x: Sides, gain: Gain, jumps: readonly number[]) => {
    const over = overTime(gain, jumps, frames, rate);
    for (const ch of x) for (let n = 0; n < frames; n++) ch![n]! *= over[n]!;
  };
  const inserts = (s: Strip, place: 'pre' | 'post', x: Sides) => {
    for (const i of s.inserts.filter((k) => k.place === place && k.type === 'gain')) {
      const level = value('even', i.lanes.gain, reads(s), i.params.gain ?? 0);
      const on = value('step', i.lanes.on, reads(s), i.on ? 1 : 0);
      const wet: Gain = (t, left) => on(t, left) * i.mix;
      const g = overTime((t, left) => dB(level(t, left)), times(i.lanes.gain), frames, rate);
      const w = overTime(wet, times(i.lanes.on), frames, rate);
      for (const ch of x) for (let n = 0; n < frames; n++) ch![n]! *= 1 + (g[n]! - 1) * w[n]!;
    }
  };
  /** A strip's signal on its way by a send, or by its out where that is null. */
  const leaving = (s: Strip, channels: number, x: Strip['sends'][number] | null): Sides => {
    const from = copy(taps(s.id)[x ? x.tap : 'post']);
    const mute = muted(s);
    const [sp, xp] = [
      value('even', s.lanes.pan, reads(s), s.pan),
      value('even', x?.lanes.pan, reads(s), x?.pan ?? 0),
    ];
    const on = x ? value('step', x.lanes.on, reads(s), x.on ? 1 : 0) : () => (s.out.on ? 1 : 0);
    const level = x ? value('level', x.lanes.level, reads(s), x.levelDb) : () => 0;
    const gains = (side: 0 | 1): Gain => {
      return (t, left) => {
        let g = mute.open(t, left) * on(t, left) * dB(level(t, left));
        if (s.channels === 1) {
          if (channels === 1) return g;
          if (!x || x.tap === 'post') g *= panned(session.panLaw, sp(t, left))[side];
          if (x)
            g *= x.tap === 'post' ? balanced(xp(t, left))[side] : panned(session.panLaw, xp(t, left))[side];
          return g;
        }
        return g * (x ? balanced(xp(t, left))[side] : 1);
      };
    };
    const jumps = [...mute.times, ...times(s.lanes.pan, x?.lanes.pan, x?.lanes.level, x?.lanes.on)];
    const l = overTime(gains(0), jumps, frames, rate);
    const r = overTime(gains(1), jumps, frames, rate);
    if (s.channels === 1)
      return channels === 1 ? [times_(from[0], l)] : [times_(from[0], l), times_(from[0], r)];
    const [a, b] = [times_(from[0], l), times_(from[1]!, r)];
    return channels === 2 ? [a, b] : [a.map((v, n) => (v + b[n]!) / 2)];
  };
  const add = (sum: Sides, more: Sides) => {
    sum.forEach((ch, c) => {
      for (let n = 0; n < frames; n++) ch![n]! += more[c]![n]!;
    });
  };

  return (goal) => {
    const s = strips.get(goal)!;
    const to = s.channels === 2 || s.out.to === null ? s.channels : strips.get(s.out.to)!.channels;
    const on = s.kind !== 'output' || s.out.on;
    return leaving({ ...s, out: { ...s.out, on } }, to, null) as Float64Array[];
  };
}
