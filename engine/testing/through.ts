import { newInsert, newSession, newStrip } from '../../core/session/defaults';
import type { Insert, Session } from '../../core/session/types';
import { Bench } from './run';

const base = newSession('One processor');

/** A source with inserts, captured by itself. */
export const sessionWith = (
  inserts: readonly (Pick<Insert, 'type'> & Partial<Insert>)[],
  channels: 1 | 2 = 2,
  rate = 48000,
): Session => ({
  ...base,
  sampleRate: rate,
  strips: [
    newStrip({
      id: 'a',
      kind: 'source',
      name: 'A',
      channels,
      out: { to: 'main', on: true },
      inserts: inserts.map((i, n) => newInsert({ id: `i${n}`, ...i })),
    }),
    newStrip({ id: 'k', kind: 'source', name: 'Key', channels, out: { to: 'main', on: false } }),
    ...base.strips,
  ],
});

/** What a stereo source with one processor gives for a signal that is the same on both sides. @returns the left side */
export function through(
  type: string,
  params: Record<string, number>,
  audio: Float32Array,
  more: Partial<Insert> & { readonly rate?: number; readonly right?: Float32Array } = {},
): Float32Array {
  const { rate = 48000, right = audio, ...rest } = more;
  return both(type, params, audio, right, rest, rate)[0]!;
}

/** The same for two sides. */
export function both(
  type: string,
  params: Record<string, number>,
  left: Float32Array,
  right: Float32Array,
  more: Partial<Insert> = {},
  rate = 48000,
): Float32Array[] {
  const bench = new Bench(
    sessionWith([{ type, params, ...more }], 2, rate),
    { a: [left, right], k: [left, right] },
    { capture: ['a'] },
  );
  return bench.run(Math.floor(left.length / 128)).a!;
}
