import { describe, expect, it } from 'vitest';
import { latencies, type LatencyOf } from '../core/routing/latency';
import { newInsert, newSend, newSession, newStrip } from '../core/session/defaults';
import type { Session } from '../core/session/types';
import { impulse, play } from './testing/run';

/** A processor that says that it is late: the reverb, dry, whose dry signal the engine holds back by as much. */
const lateBy: LatencyOf = (insert) => insert.params.preDelay ?? 0;
const late = (id: string, frames: number) =>
  newInsert({ id, type: 'reverb', mix: 0, params: { preDelay: frames } });
const base = newSession('Latency');
const session: Session = {
  ...base,
  strips: [
    newStrip({
      id: 'a',
      kind: 'source',
      name: 'A',
      pan: -1,
      out: { to: 'bus', on: true },
      inserts: [late('i1', 100)],
    }),
    newStrip({
      id: 'b',
      kind: 'source',
      name: 'B',
      pan: -1,
      out: { to: 'bus', on: true },
      sends: [newSend({ id: 'x', to: 'main', tap: 'input', pan: -1 })],
    }),
    newStrip({
      id: 'bus',
      kind: 'submix',
      name: 'Bus',
      out: { to: 'main', on: true },
      inserts: [late('i2', 37)],
    }),
    ...base.strips,
  ],
};

describe('paths of different latency', () => {
  it('wait for the latest before they add', () => {
    const l = latencies(session, lateBy);
    expect(l.get('bus')).toMatchObject({ input: 100, pre: 137, post: 137 });
    expect(l.get('main')!.input).toBe(137);
    expect(l.get('b')).toMatchObject({ input: 0, pre: 0, post: 0 });
  });

  it('are delayed by as much in the engine, so that all copies of all strips arrive at one frame', () => {
    const out = play(session, { b: [impulse(1024)] }, 8, { latencyOf: lateBy }).main![0]!;
    const at = (x: Float32Array) => [...x].flatMap((v, i) => (Math.abs(v) > 1e-6 ? [i] : []));
    // b -> bus waits 100 for a and 37 in the bus; b's send past the bus waits 137.
    expect(at(out)).toEqual([137]);
    expect(at(play(session, { a: [impulse(1024)] }, 8, { latencyOf: lateBy }).main![0]!)).toEqual([137]);
    const two = play(
      {
        ...session,
        strips: session.strips.map((s) => (s.id === 'bus' ? { ...s, out: { to: 'main', on: false } } : s)),
      },
      { a: [impulse(1024)], b: [impulse(1024)] },
      8,
      { latencyOf: lateBy },
    ).main![0]!;
    expect(at(two)).toEqual([137]);
    expect(out[137]).toBeGreaterThan(1.5 * two[137]!);
  });

  it('are not delayed when nothing is late', () => {
    const out = play(session, { b: [impulse(1024)] }, 8).main![0]!;
    expect([...out].flatMap((v, i) => (Math.abs(v) > 1e-6 ? [i] : []))).toEqual([0]);
  });
});
