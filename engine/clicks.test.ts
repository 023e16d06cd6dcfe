import { describe, expect, it } from 'vitest';
import { processors } from '../core/processors/registry';
import type { Insert } from '../core/session/types';
import { LivePlan } from '../core/plan/livePlan';
import { Bench, sine } from './testing/run';
import { above } from './testing/spectrum';
import { sessionWith } from './testing/through';

const RATE = 48000;
const AT = 188 * 128;
// A tone of 100 Hz that sets in softly, so that no later copy of its beginning is taken for a click.
const tone = sine(100, RATE, 300 * 128, 0.5).map((v, i) => v * Math.min(1, i / 4800) ** 3);
const stems = { a: [tone, tone], k: [tone, tone] };
/** The highest of what lies above 4 kHz around the move. */
const highest = (audio: Float32Array) =>
  above(audio, 4000, RATE)
    .subarray(2000, -2000)
    .reduce((m, v) => Math.max(m, Math.abs(v)), 0);
const db = (x: number) => 20 * Math.log10(x + 1e-12);

/** What a control leaves above 4 kHz when it goes from one value to another, by a lane and by hand, in dBFS. */
function clicks(insert: Partial<Insert> & Pick<Insert, 'type'>, control: string, from: number, to: number) {
  const put = (v: number): Partial<Insert> & Pick<Insert, 'type'> =>
    control === 'on'
      ? { ...insert, on: v === 1 }
      : control === 'mix'
        ? { ...insert, mix: v }
        : { ...insert, params: { ...insert.params, [control]: v } };
  const lane: Insert['lanes'] = {
    [control]: [
      [0, from],
      [AT / RATE, from],
      [AT / RATE, to],
    ],
  };
  const laned = new Bench(sessionWith([{ ...put(from), lanes: lane }]), stems, { capture: ['a'] });
  const byLane = laned.run(260).a![0]!.subarray(AT - 4000, AT + 8000);
  const bench = new Bench(sessionWith([put(from)]), stems, { capture: ['a'] });
  const before = bench.run(188).a![0]!.slice(-4000);
  const plan = new LivePlan(sessionWith([put(from)]), { capture: ['a'] });
  bench.engine.steer(plan.steer(sessionWith([put(to)]), [0, 10]));
  const byHand = Float32Array.of(...before, ...bench.run(72).a![0]!.subarray(0, 8000));
  return [db(highest(byLane)), db(highest(byHand))] as const;
}

/** Processors whose every control is held to it. */
const HELD = [
  'equalizer',
  'compressor',
  'gate',
  'deEsser',
  'limiter',
  'gain',
  'stereo',
  'delay',
  'chorus',
  'reverb',
  'saturation',
  'pitch',
];
/** A gate that opens within half a millisecond is heard to do so: that is its attack, not its control. */
const AT_REST: Readonly<Record<string, Record<string, number>>> = { gate: { attack: 20 } };

describe.each(processors.filter((p) => HELD.includes(p.type)).map((p) => [p.type, p] as const))(
  '%s',
  (type, p) => {
    it('does not click, whatever control goes from one end to the other, by a lane or by hand', () => {
      const moves: [string, number, number][] = [
        ['on', 1, 0],
        ['on', 0, 1],
        ...(p.mixes ? ([['mix', 1, 0]] as [string, number, number][]) : []),
      ];
      for (const q of p.parameters) {
        if (q.latent) continue;
        if (q.choices && q.choices.length > 2)
          for (let i = 0; i < q.choices.length; i++) moves.push([q.id, i, (i + 1) % q.choices.length]);
        else moves.push([q.id, q.min, q.max], [q.id, q.max, q.min]);
      }
      for (const [control, from, to] of moves) {
        // Bands that are off by themselves are switched on, so that there is something to be heard.
        const group = p.parameters.find((q) => q.id === control)?.group;
        const on = p.parameters.filter((q) => q.id.endsWith('On') && q.group === group && q.id !== control);
        const params = { ...AT_REST[type], ...Object.fromEntries(on.map((q) => [q.id, 1])) };
        for (const level of clicks({ type, params }, control, from, to))
          expect(level, `${control}: ${from} to ${to}`).toBeLessThan(-70);
      }
    });
  },
);

// Rounding and holding make what lies above 4 kHz by themselves: a leap may leave no more than the noisier of its two ends does.
describe('bits and rate', () => {
  const still = (params: Insert['params'], more: Partial<Insert> = {}) => {
    const bench = new Bench(sessionWith([{ type: 'crusher', params, ...more }]), stems, { capture: ['a'] });
    return db(highest(bench.run(260).a![0]!.subarray(AT - 4000, AT + 8000)));
  };
  const all = { bits: 12, rate: 48000, dither: 0 };
  it.each([
    ['bits', 24, 1],
    ['bits', 1, 24],
    ['bits', 16, 12],
    ['bits', 8, 9],
    ['rate', 48000, 500],
    ['rate', 500, 48000],
    ['rate', 8000, 11025],
    ['dither', 0, 1],
    ['dither', 1, 0],
  ] as const)('%s from %d to %d leaves no more above 4 kHz than it does when it stands', (id, from, to) => {
    const params = { ...all, ...(id === 'rate' ? { bits: 24 } : {}) };
    const ends = [from, to].map((v) => still({ ...params, [id]: v }));
    for (const level of clicks({ type: 'crusher', params }, id, from, to))
      expect(level).toBeLessThan(Math.max(-70, ...ends) + 1);
  });
  it.each([
    ['on', 1, 0],
    ['on', 0, 1],
    ['mix', 1, 0],
    ['mix', 0, 1],
  ] as const)('%s from %d to %d likewise', (id, from, to) => {
    const most = Math.max(-70, still(all));
    for (const level of clicks({ type: 'crusher', params: all }, id, from, to))
      expect(level).toBeLessThan(most + 1);
  });
});
