import fc from 'fast-check';
import { DirectedGraph, MultiDirectedGraph } from 'graphology';
import { allSimplePaths } from 'graphology-simple-path';
import { describe, expect, it } from 'vitest';
import { gainOf } from '../levels/decibels';
import { reverb } from '../processors/reverb';
import { newInsert, newSend, newSession, newStrip, newVca } from '../session/defaults';
import type { Session, Strip } from '../session/types';
import { sessions } from '../testing/arbitraries';
import { signalGraph } from '../session/graph';
import { isComb, logFrequencies, responseAt } from './response';
import { delivered, inputsFrom, trace } from './trace';

const base = newSession('Trace');
const strip = (id: string, kind: Strip['kind'], to: string, more: Partial<Strip> = {}) =>
  newStrip({ id, kind, name: id, channels: 2, out: { to, on: true }, ...more });
const session = (strips: readonly Strip[], vcas: Session['vcas'] = []): Session => ({
  ...base,
  strips: [...strips, ...base.strips],
  vcas,
});

describe('trace', () => {
  it('lists the paths that graphology-simple-path lists, on random sessions', () => {
    fc.assert(
      fc.property(sessions(12), (s) => {
        const graph = new MultiDirectedGraph();
        for (const t of s.strips) graph.addNode(t.id);
        for (const e of signalGraph(s).edges)
          if (e.kind !== 'key') graph.addDirectedEdgeWithKey(`${e.from} ${e.id}`, e.from, e.to);
        const simple = new DirectedGraph();
        for (const t of s.strips) simple.addNode(t.id);
        graph.forEachEdge((_e, _a, a, b) => simple.mergeEdge(a, b));
        for (const t of s.strips) {
          if (t.id === 'main') continue;
          const found = trace(s, t.id, 'main', { most: 5000 });
          const strips = new Set(found.paths.map((p) => p.strips.join(' ')));
          expect([...strips].sort()).toEqual(
            allSimplePaths(simple, t.id, 'main')
              .map((p) => p.join(' '))
              .sort(),
          );
          // Parallel sends make paths of their own.
          const ways = (path: readonly string[]) =>
            path.slice(1).reduce((n, id, i) => n * graph.directedEdges(path[i]!, id).length, 1);
          expect(found.paths.length).toBe(
            allSimplePaths(simple, t.id, 'main').reduce((n, p) => n + ways(p), 0),
          );
          expect(found.count).toBe(found.paths.length);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('counts paths beyond its limit, and sums them all the same', () => {
    const rungs = Array.from({ length: 14 }, (_, i) =>
      strip(`b${i}`, 'submix', i < 13 ? `b${i + 1}` : 'main', {
        sends: [newSend({ id: `x${i}`, to: i < 13 ? `b${i + 1}` : 'main', levelDb: -6.0206 })],
      }),
    );
    const found = trace(session(rungs), 'b0', 'main', { most: 50 });
    expect(found.count).toBe(2 ** 14);
    expect(found.paths.length).toBe(50);
    // Each rung adds the signal and half of it again.
    expect(found.leftDb).toBeCloseTo(14 * 20 * Math.log10(1.5), 3);
  });

  it('adds the paths to what the sums along the graph give, on random sessions', () => {
    fc.assert(
      fc.property(sessions(10), (s) => {
        for (const t of s.strips) {
          const found = trace(s, t.id, 'main', { most: 5000 });
          const byDelay = new Map<number, [number, number]>();
          for (const p of found.paths)
            for (const a of p.arrivals) {
              const sum = byDelay.get(a.delay) ?? [0, 0];
              byDelay.set(a.delay, [sum[0] + a.left, sum[1] + a.right]);
            }
          const at = inputsFrom(s, t.id).get('main');
          const whole = at ? delivered(s, 'main', at).direct : [];
          for (const [delay, [left, right]] of byDelay) {
            const sum = whole.find((a) => a.delay === delay);
            expect(sum?.left ?? 0).toBeCloseTo(left, 9);
            expect(sum?.right ?? 0).toBeCloseTo(right, 9);
          }
        }
      }),
      { numRuns: 80 },
    );
  });

  it('tells level, tap and latency at every stage', () => {
    const s = session(
      [
        strip('voice', 'source', 'voices', {
          trimDb: 2,
          faderDb: -4,
          inserts: [newInsert({ id: 'c', type: 'compressor', params: { makeUp: 3 } })],
          sends: [newSend({ id: 'x', to: 'plate', tap: 'pre', levelDb: -10 })],
        }),
        strip('voices', 'submix', 'main', { faderDb: -1 }),
        strip('plate', 'return', 'main', { inserts: [newInsert({ id: 'r', type: 'reverb' })] }),
      ],
      [newVca({ id: 'v', name: 'Lead', faderDb: -2, members: ['voice'] })],
    );
    const found = trace(s, 'voice', 'main', { latencyOf: (i) => (i.type === 'compressor' ? 64 : 0) });
    const [dry, wet] = found.paths;
    expect(dry!.stages.map((g) => [g.strip, g.kind, g.gainDb && Math.round(g.gainDb * 100) / 100])).toEqual([
      ['voice', 'input', 2],
      ['voice', 'insert', 3],
      ['voice', 'fader', -6],
      ['voice', 'out', 0],
      ['voices', 'fader', -1],
      ['voices', 'out', 0],
      ['main', 'fader', 0],
    ]);
    expect(dry!.leftDb).toBeCloseTo(-2, 9);
    expect(dry!.levelDependent).toBe(true);
    expect(dry!.stages.map((g) => g.latency)).toEqual([0, 64, 64, 64, 64, 64, 64]);
    expect(wet!.strips).toEqual(['voice', 'plate', 'main']);
    expect(wet!.spread).toBe(true);
    expect(wet!.arrivals).toEqual([]);
    // Powers of the reverb's tail from both sides, which a print is held against in engine/trace.test.ts.
    const [ll, rl] = reverb.tail!({}, s, 2).matrix;
    const tailDb = 10 * Math.log10(ll + rl);
    expect(wet!.leftDb).toBeCloseTo(2 + 3 - 10 + tailDb, 9);
    expect(wet!.stages.find((g) => g.kind === 'send')!.label).toBe('send to plate, pre-fader');
    // The reverb's tail adds no direct copy, so the sum is the dry path's; by power both count.
    expect(found.leftDb).toBeCloseTo(-2, 9);
    expect(found.powerLeftDb).toBeCloseTo(10 * Math.log10(10 ** -0.2 + 10 ** (-0.5 + tailDb / 10)), 9);
  });

  it('says where a path stops', () => {
    const stops = (change: Partial<Strip>, vcas: Session['vcas'] = []) =>
      trace(
        session([strip('a', 'source', 'bus'), strip('bus', 'submix', 'main', change)], vcas),
        'a',
        'main',
      ).paths[0]!.stages.flatMap((g) => g.stops ?? []);
    expect(stops({})).toEqual([]);
    expect(stops({ mute: true })).toEqual(['bus is muted.']);
    expect(stops({ faderDb: null })).toEqual(['The fader is at silence.']);
    expect(stops({ trimDb: null })).toEqual(['The trim is at silence.']);
    expect(stops({ out: { to: 'main', on: false } })).toEqual(['The dry path is off.']);
    expect(stops({}, [newVca({ id: 'v', name: 'All', mute: true, members: ['bus'] })])).toEqual([
      'The VCA All is muted.',
    ]);
  });

  it('adds two equal paths to 6.02 dB more (20 log10 2), and one of opposite polarity to nothing', () => {
    const two = (invert: boolean) =>
      session([
        strip('a', 'source', 'main', { sends: [newSend({ id: 'x', to: 'bus', levelDb: 0 })] }),
        strip('bus', 'submix', 'main', { invert }),
      ]);
    expect(trace(two(false), 'a', 'main').leftDb).toBeCloseTo(20 * Math.log10(2), 9);
    expect(trace(two(true), 'a', 'main').leftDb).toBeNull();
  });

  it('shows the comb of two paths as |1 + g e^(-jwT)|, for every gain, time and frequency', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -24, max: 6 }),
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 20, max: 20000 }),
        (levelDb, ms, hertz) => {
          const s = session([
            strip('a', 'source', 'main', { sends: [newSend({ id: 'x', to: 'echo', levelDb })] }),
            strip('echo', 'return', 'main', {
              inserts: [newInsert({ id: 'd', type: 'delay', params: { time: ms } })],
            }),
          ]);
          const { arrivals } = trace(s, 'a', 'main');
          expect(isComb(arrivals)).toBe(true);
          const g = gainOf(levelDb);
          const w = 2 * Math.PI * hertz;
          const T = Math.round((ms / 1000) * 48000) / 48000;
          // |1 + g e^(-jwT)|^2 = 1 + g^2 + 2 g cos(wT)
          expect(responseAt(arrivals, 'left', hertz, 48000)).toBeCloseTo(
            Math.sqrt(1 + g * g + 2 * g * Math.cos(w * T)),
            6,
          );
        },
      ),
    );
  });

  it('spaces frequencies evenly in octaves', () => {
    const f = logFrequencies(31, 20, 20480);
    expect(f[0]).toBe(20);
    expect(f[30]).toBeCloseTo(20480, 6);
    for (let i = 1; i < f.length; i++) expect(f[i]! / f[i - 1]!).toBeCloseTo(2 ** (1 / 3), 9);
  });

  it('names the inserts that the strip keys', () => {
    const s = session([
      strip('pulse', 'source', 'main', { out: { to: 'main', on: false } }),
      strip('a', 'source', 'main', { inserts: [newInsert({ id: 'c', type: 'compressor', key: 'pulse' })] }),
    ]);
    expect(trace(s, 'pulse', 'main').keys).toEqual([{ strip: 'a', insert: 'c' }]);
  });

  it('finds no path where there is none', () => {
    const s = session([
      strip('a', 'source', 'b'),
      strip('b', 'output', '', { out: { to: null, on: true }, pair: 3 }),
    ]);
    expect(trace(s, 'a', 'main')).toMatchObject({ count: 0, paths: [], leftDb: null });
  });
});
