import { newInsert, newSend, newSession, newStrip } from '../core/session/defaults';
import { processors } from '../core/processors/registry';
import type { Insert, Lane, Session, Strip } from '../core/session/types';
import { measureLoad } from './load';

/** Processors by which inserts of one kind are computed side by side, four channels to a vector, and one alone as a row. */
const packed = processors.filter((p) => p.packed);
const single = processors.filter((p) => !p.packed);

/** Settings by which a processor has all of its work to do, where those that it comes with leave some out. */
const WORKING: Readonly<Record<string, Readonly<Record<string, number>>>> = {
  equalizer: { bell1Gain: 3, bell2Gain: -2, bell3Gain: 4, bell4Gain: -3, lowShelfGain: 2, highShelfGain: 2 },
  compressor: { threshold: -30, makeUp: 2 },
  gate: { threshold: -50 },
  dynamicEqualizer: {
    lowShelfRange: -3,
    bell1Range: -3,
    bell2Range: 3,
    highShelfRange: 3,
    bell1Threshold: -60,
  },
};

const inserts = (of: readonly { readonly type: string }[], id: string): readonly Insert[] =>
  of.map(({ type }) => newInsert({ id: `${id}-${type}`, type, params: WORKING[type] ?? {} }));

/** Up and down within half a second. */
const swing = (low: number, high: number): Lane =>
  Array.from({ length: 12 }, (_, i) => [i * 0.05, i % 2 ? high : low]);

/**
 * A session in which everything has to be computed in each of the ways in which it can be: every processor on one channel and on
 * two, packed ones as a full vector of mono strips and as a row, levels at rest and in lanes, strips that feed a submix and a return.
 */
export function rehearsal(): Session {
  const base = newSession('Rehearsal');
  const out = (to: string) => ({ to, on: true });
  const source = (id: string, channels: 1 | 2, of: typeof processors, moves = false): Strip =>
    newStrip({
      id,
      kind: 'source',
      name: id,
      channels,
      faderDb: -3,
      inserts: inserts(of, id),
      out: out('group'),
      sends: [newSend({ id: `${id}-send`, to: 'room', levelDb: -12 })],
      ...(moves ? { lanes: { fader: swing(-12, 0), pan: swing(-0.5, 0.5) } } : {}),
    });
  return {
    ...base,
    strips: [
      ...[1, 2, 3, 4, 5, 6, 7].map((n) => source(`mono${n}`, 1, packed)),
      source('stereo', 2, packed, true),
      source('singleMono', 1, single),
      source('singleStereo', 2, single, true),
      newStrip({ id: 'group', kind: 'submix', name: 'Group', out: out('main') }),
      newStrip({ id: 'room', kind: 'return', name: 'Room', out: out('main') }),
      ...base.strips,
    ],
  };
}

/**
 * Runs all of the engine until it gets no faster. Hosts compile what runs often, and compile it for all threads that have the same
 * module: whoever plays afterwards need not wait for that.
 * @param clock milliseconds
 */
export function rehearse(module: WebAssembly.Module, clock: () => number): void {
  measureLoad({ session: rehearsal(), module, clock, seconds: 0.25, runs: 1 });
}
