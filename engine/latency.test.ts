import { describe, expect, it } from 'vitest';
import { latencies, type LatencyOf } from '../core/routing/latency';
import { newInsert, newSend, newSession, newStrip } from '../core/session/defaults';
import type { Session } from '../core/session/types';
import { impulse, play } from './testing/run';

/** A processor that passes what it gets, and says that it is late: the reverb, dry. The engine has to make up for it. */
const lateBy: LatencyOf = (insert) => (insert.params.preDelay ?? 0) as number;
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
    expect(l.get('bus')).toEqual({ input: 100, pre: 137, post: 137 });
    expect(l.get('main')!.input).toBe(137);
    expect(l.get('b')).toEqual({ input: 0, pre: 0, post: 0 });
  });

  it('are delayed by as much in the engine: through the bus by what it lacks, past it by the whole', () => {
    // The stand-in does not really delay, so what arrives shows the compensation alone.
    const out = play(session, { b: [impulse(1024)] }, 8, { latencyOf: lateBy }).main![0]!;
    const at = [...out].flatMap((v, i) => (Math.abs(v) > 1e-6 ? [i] : []));
    // b -> bus waits 100 for a; b's send past the bus waits 137.
    expect(at).toEqual([100, 137]);
    const a = play(session, { a: [impulse(1024)] }, 8, { latencyOf: lateBy }).main![0]!;
    expect([...a].findIndex((v) => Math.abs(v) > 1e-6)).toBe(0);
  });

  it('are not delayed when nothing is late', () => {
    const out = play(session, { b: [impulse(1024)] }, 8).main![0]!;
    expect([...out].flatMap((v, i) => (Math.abs(v) > 1e-6 ? [i] : []))).toEqual([0]);
  });
});
