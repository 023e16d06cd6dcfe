import type { Insert, Session } from '../../core/session/types';
import { LivePlan } from '../../core/plan/livePlan';
import { Bench, sine } from './run';
import { above } from './spectrum';
import { sessionWith } from './through';

/** The frame at which it is moved, at every rate. */
const AT = 188 * 128;
export type Processed = Partial<Insert> & Pick<Insert, 'type'>;
const RATE = 48000;
/** A tone of 100 Hz that sets in softly, so that no later copy of its beginning is taken for a click; at 48 kHz where nothing else is said. */
export const tone = (rate = RATE) => {
  const wave = sine(100, rate, 300 * 128, 0.5).map((v, i) => v * Math.min(1, i / 4800) ** 3);
  return { a: [wave, wave], k: [wave, wave] };
};
const usual = tone();
/** The highest of what lies above 4 kHz around the move. */
const highest = (audio: Float32Array, rate = RATE) =>
  above(audio, 4000, rate)
    .subarray(2000, -2000)
    .reduce((m, v) => Math.max(m, Math.abs(v)), 0);
export const db = (x: number) => 20 * Math.log10(x + 1e-12);
const peakOf = (audio: Float32Array) => db(audio.reduce((m, v) => Math.max(m, Math.abs(v)), 0));

/** An insert whose control stands at a value; `on` and `mix` are controls as well. */
export const put = (insert: Processed, control: string, v: number): Processed =>
  control === 'on'
    ? { ...insert, on: v === 1 }
    : control === 'mix'
      ? { ...insert, mix: v }
      : { ...insert, params: { ...insert.params, [control]: v } };

/** What is played around a move by hand from one insert's settings to another's. */
function steered(from: Processed, to: Processed, rate: number): Float32Array {
  const of = (one: Processed) => sessionWith([one], 2, rate);
  const bench = new Bench(of(from), rate === RATE ? usual : tone(rate), { capture: ['a'] });
  const before = bench.run(188).a![0]!.slice(-4000);
  bench.engine.steer(new LivePlan(of(from), { capture: ['a'] }).steer(of(to), [0, 10]));
  return Float32Array.of(...before, ...bench.run(72).a![0]!.subarray(0, 8000));
}

/**
 * What is left above 4 kHz where sessions follow each other while they play, so many blocks after one another, in dBFS.
 * @param captured the strip that is heard; the tone lasts for 110 blocks from the first change
 */
export function clicksOfChanges(sessions: readonly Session[], captured: string, apart = 35): number {
  const [first, ...others] = sessions;
  const rate = first!.sampleRate;
  const bench = new Bench(first!, rate === RATE ? usual : tone(rate), { capture: [captured] });
  const heard: Float32Array[] = [bench.run(188)[captured]![0]!.slice(-4000)];
  for (const next of others) {
    bench.change(next);
    heard.push(bench.run(apart)[captured]![0]!);
  }
  heard.push(bench.run(30)[captured]![0]!);
  const all = new Float32Array(heard.reduce((n, part) => n + part.length, 0));
  heard.reduce((at, part) => (all.set(part, at), at + part.length), 0);
  return db(highest(all, rate));
}

/** What is played around a move of a control from one value to another: by a lane that jumps, and by hand. */
function moved(insert: Processed, control: string, from: number, to: number, rate: number) {
  const of = (one: Processed) => sessionWith([one], 2, rate);
  const lane: Insert['lanes'] = {
    [control]: [
      [0, from],
      [AT / rate, from],
      [AT / rate, to],
    ],
  };
  const sound = rate === RATE ? usual : tone(rate);
  const laned = new Bench(of({ ...put(insert, control, from), lanes: lane }), sound, { capture: ['a'] });
  const byLane = laned.run(260).a![0]!.subarray(AT - 4000, AT + 8000);
  const byHand = steered(put(insert, control, from), put(insert, control, to), rate);
  return [byLane, byHand] as const;
}

/** What a control leaves above 4 kHz when it goes from one value to another, by a lane and by hand, in dBFS. */
export function clicks(insert: Processed, control: string, from: number, to: number, rate = RATE) {
  const [byLane, byHand] = moved(insert, control, from, to, rate);
  return [db(highest(byLane, rate)), db(highest(byHand, rate))] as const;
}
/** What is left there when all settings of a processor are exchanged by hand, in dBFS. */
export const clicksBetween = (from: Processed, to: Processed) => db(highest(steered(from, to, RATE)));
/** What a control leaves, in dB under full scale, or under the highest sample where that is louder. */
export function clicksUnder(insert: Processed, control: string, from: number, to: number, rate = RATE) {
  const under = (audio: Float32Array) => db(highest(audio, rate)) - Math.max(0, peakOf(audio));
  const [byLane, byHand] = moved(insert, control, from, to, rate);
  return [under(byLane), under(byHand)] as const;
}

/** What a processor leaves there by itself, where nothing moves, in dBFS. */
export function still(insert: Processed, rate = RATE): number {
  const sound = rate === RATE ? usual : tone(rate);
  const bench = new Bench(sessionWith([insert], 2, rate), sound, { capture: ['a'] });
  return db(highest(bench.run(260).a![0]!.subarray(AT - 4000, AT + 8000), rate));
}
