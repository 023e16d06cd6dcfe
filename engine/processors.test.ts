import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Insert, Session } from '../core/session/types';
import { valueAtTravel } from '../core/processors/law';
import { processors } from '../core/processors/registry';
import type { Params, Processor, Timebase } from '../core/processors/description';
import { actingOf, inOneRow, placesOf } from '../core/plan/engineParams';
import { newInsert, newSession, newStrip } from '../core/session/defaults';
import { Engine } from './engine';
import { anySetting, chooser } from './testing/choose';
import { Bench, engineModule, noise, peakOf, sine, type TestStems } from './testing/run';
import { sessionWith } from './testing/through';

const all = processors.map((p) => [p.type, p] as const);
const channelsFor = (p: Processor): readonly (1 | 2)[] => (p.channels === 'stereo' ? [2] : [1, 2]);
/** Noise, silence, a full-scale square, denormals, an impulse and a loud step, one after another. */
function awkward(frames: number): Float32Array {
  const x = noise(frames, 11);
  for (let i = 0; i < frames; i++) {
    const part = Math.floor(i / 1500) % 6;
    if (part === 1) x[i] = 0;
    if (part === 2) x[i] = i % 100 < 50 ? 1 : -1;
    if (part === 3) x[i] = i % 2 ? 1e-39 : -1e-41;
    if (part === 4) x[i] = i % 1500 === 700 ? 1 : 0;
    if (part === 5) x[i] = 4;
  }
  return x;
}

describe.each(all)('%s', (type, p) => {
  it('stays finite through noise, silence, full-scale squares, denormals and jumps of every parameter', () => {
    const next = chooser(3);
    for (const channels of channelsFor(p)) {
      const x = awkward(128 * 600);
      const stems: TestStems = { a: [x, x.map((v) => -0.7 * v)], k: [x, x] };
      const withParams = (params: Record<string, number>) => sessionWith([{ type, params }], channels);
      const bench = new Bench(withParams({}), stems, { capture: ['a'] });
      for (let k = 0; k < 14; k++) {
        bench.change(withParams(anySetting(p, next)));
        for (const side of bench.run(40).a!) {
          expect(side.every(Number.isFinite)).toBe(true);
          expect(peakOf(side)).toBeLessThan(1e4);
        }
      }
      expect(bench.engine.faults).toBe(0);
    }
  });

  it('comes to rest: after silence nothing is left, and nothing costs denormals', () => {
    for (const channels of channelsFor(p)) {
      const x = new Float32Array(128 * 400);
      x.set(noise(128 * 40));
      const params: Record<string, number> = type === 'reverb' ? { decay: 0.5 } : {};
      const bench = new Bench(sessionWith([{ type, params }], channels), { a: [x, x] }, { capture: ['a'] });
      bench.run(390);
      // A reverb of 1.8 s needs its time; all else is done long before.
      if (p.curves.includes('decay')) bench.run(3000);
      const last = bench.run(10).a!;
      for (const side of last) expect(peakOf(side)).toBe(0);
    }
  });

  it('is bypassed and switched on again without a click, and bypassed is the dry signal, as late as it was', () => {
    const late = p.latency({}, 48000);
    const x = sine(220, 48000, 128 * 400, 0.25);
    const session = (on: boolean) => sessionWith([{ type, on }], 2);
    const bench = new Bench(session(true), { a: [x, x] }, { capture: ['a'] });
    const out: number[] = [];
    for (let k = 0; k < 6; k++) {
      bench.change(session(k % 2 === 1));
      out.push(...bench.run(50).a![0]!);
    }
    // A 220 Hz tone of 0.25 steps by 0.0072 a frame at most; a reverb or chorus beside it adds to that.
    let step = 0;
    for (let i = 1; i < out.length; i++) step = Math.max(step, Math.abs(out[i]! - out[i - 1]!));
    expect(step).toBeLessThan(0.03);
    const dry = new Bench(session(false), { a: [x, x] }, { capture: ['a'] }).run(100).a![0]!;
    expect(dry.subarray(late).every((v, i) => v === x[i])).toBe(true);
  });

  it('moves its parameters without a click', () => {
    if (type === 'crusher') return; // Its steps are what it is for.
    const x = sine(220, 48000, 128 * 700, 0.25);
    const smooth = p.parameters.filter((q) => !q.choices);
    // Each parameter from one end of the middle half of its range to the other, the others at their defaults.
    for (const q of smooth) {
      const at = (share: number) => ({ [q.id]: valueAtTravel(q, share) });
      const bench = new Bench(
        sessionWith([{ type, params: at(0.25) }], 2),
        { a: [x, x] },
        { capture: ['a'] },
      );
      const out: number[] = [];
      for (let k = 0; k < 4; k++) {
        out.push(...bench.run(40).a![0]!);
        bench.change(sessionWith([{ type, params: at(k % 2 ? 0.25 : 0.75) }], 2));
      }
      const settled = out.slice(128 * 12);
      let bend = 0;
      for (let i = 2; i < settled.length; i++)
        bend = Math.max(bend, Math.abs(settled[i]! - 2 * settled[i - 1]! + settled[i - 2]!));
      // A click bends the wave by its own height within a frame; the tone itself bends by 0.0002.
      expect(bend, q.id).toBeLessThan(0.06);
    }
  });

  it('asks for as many bytes as the engine keeps', () => {
    const engine = new Engine(engineModule);
    for (const rate of [8000, 22050, 44100, 48000, 96000, 192000]) {
      const needs = engine.stateBytes(p, rate);
      expect(p.stateBytes(p.packed ? 1 : 2, rate)).toBeGreaterThanOrEqual(needs);
    }
  });

  it('has its numbers stand in the order in which they act, by names that there are', () => {
    const names = Object.keys(p.engineParams({}, newSession('')));
    for (const name of Object.keys(p.acts ?? {})) expect(names).toContain(name);
    const places = actingOf(p, newSession('')).map(({ where }) => where);
    expect(places).toEqual(['start', 'middle', 'end'].filter((where) => places.includes(where as 'end')));
    // What is not late has no middle and no end.
    if (places.length > 1) expect(p.parameters.some((q) => q.latent) || p.latency({}, 48000) > 0).toBe(true);
  });

  it('tells the engine as many numbers by the same names, whatever its settings', () => {
    const named = (params: Params, timebase: Timebase) => {
      const told = p.engineParams(params, timebase);
      expect(inOneRow(told).every(Number.isFinite), JSON.stringify(params)).toBe(true);
      return [...placesOf(told)];
    };
    const rest = named({}, newSession(''));
    const params = fc.record(
      Object.fromEntries(p.parameters.map((q) => [q.id, fc.double({ min: q.min, max: q.max, noNaN: true })])),
    );
    const timebases = fc.record({
      sampleRate: fc.constantFrom(8000, 44100, 96000, 384000),
      tempo: fc.record({
        bpm: fc.integer({ min: 10, max: 999 }),
        beatsPerBar: fc.constant(4),
        beatUnit: fc.constant(4),
      }),
    });
    fc.assert(
      fc.property(params, timebases, (q, t) => {
        expect(named(q, t)).toEqual(rest);
      }),
      { numRuns: 60 },
    );
  });

  it('describes itself: names once each, groups of at most four, defaults in range', () => {
    expect(new Set(p.parameters.map((q) => q.id)).size).toBe(p.parameters.length);
    for (const q of p.parameters) {
      expect(q.default).toBeGreaterThanOrEqual(q.min);
      expect(q.default).toBeLessThanOrEqual(q.max);
      if (q.group) expect(p.parameters.filter((r) => r.group === q.group).length).toBeLessThanOrEqual(4);
      if (q.law === 'log') expect(q.min).toBeGreaterThan(0);
    }
    expect(p.curves.includes('static')).toBe(p.reductionAt !== undefined);
    expect(p.curves.includes('response')).toBe(p.responseAt !== undefined);
    expect(p.curves.includes('decay')).toBe(p.decayOf !== undefined);
  });
});

describe('what shares a vector', () => {
  const base = newSession('Lanes');
  const packed = processors.filter((p) => p.packed);

  it('changes nothing in its neighbours: each strip gives alone what it gives among seven others, to the bit', () => {
    const next = chooser(21);
    for (const p of packed) {
      const strips = Array.from({ length: 8 }, (_, i) => {
        const insert: Insert = newInsert({ id: 'x', type: p.type, params: anySetting(p, next) });
        return newStrip({
          id: `s${i}`,
          kind: 'source',
          name: `${i}`,
          channels: i % 3 === 0 ? 2 : 1,
          out: { to: 'main', on: true },
          inserts: [insert],
        });
      });
      const stems: TestStems = Object.fromEntries(
        strips.map((s, i) => [s.id, [noise(128 * 60, i + 1), noise(128 * 60, i + 9)]]),
      );
      const together: Session = { ...base, strips: [...strips, ...base.strips] };
      const ids = strips.map((s) => s.id);
      const among = new Bench(together, stems, { capture: ids }).run(60);
      for (const s of strips) {
        const alone = new Bench({ ...base, strips: [s, ...base.strips] }, stems, { capture: [s.id] }).run(60);
        expect(among[s.id], `${p.type} ${s.id}`).toEqual(alone[s.id]);
      }
    }
  });

  it('gives alone, where it may be computed as a row, what it gives beside another while its settings move, to the bit', () => {
    const next = chooser(8);
    const silence = new Float32Array(128 * 40);
    for (const p of packed)
      for (let round = 0; round < 6; round++) {
        const steps = Array.from({ length: 4 }, () => anySetting(p, next));
        const key = p.takesKey && round % 2 ? 'k' : null;
        const strip = (id: string, params: Record<string, number>) =>
          newStrip({
            id,
            kind: 'source',
            name: id,
            out: { to: 'main', on: true },
            inserts: [newInsert({ id: 'x', type: p.type, params, key, mix: round % 3 ? 1 : 0.4 })],
          });
        const keying = newStrip({ id: 'k', kind: 'source', name: 'k', out: { to: null, on: true } });
        const session = (...strips: Session['strips']): Session => ({
          ...base,
          strips: [...strips, keying, ...base.strips],
        });
        // Loud and silent by turns, so that levels pass their thresholds both ways.
        const x = noise(128 * 160, round + 2);
        x.set(silence, 128 * 60);
        const stems: TestStems = { a: [x], b: [noise(128 * 160, 5)], k: [noise(128 * 160, 6)] };
        const among = new Bench(session(strip('a', steps[0]!), strip('b', steps[3]!)), stems, {
          capture: ['a'],
        });
        const alone = new Bench(session(strip('a', steps[0]!)), stems, { capture: ['a'] });
        for (const params of steps) {
          among.change(session(strip('a', params), strip('b', steps[3]!)));
          alone.change(session(strip('a', params)));
          const expected = among.run(40).a![0]!;
          expect(alone.run(40).a![0], `${p.type} ${round}`).toEqual(expected);
          expect(expected.every(Number.isFinite)).toBe(true);
        }
      }
  });

  it('keeps its states when a strip beside it comes and goes while it plays', () => {
    const strip = (id: string) =>
      newStrip({
        id,
        kind: 'source',
        name: id,
        channels: 1,
        out: { to: 'main', on: true },
        inserts: [
          newInsert({
            id: 'e',
            type: 'equalizer',
            params: { bell1Frequency: 50, bell1Gain: 20, bell1Q: 20 },
          }),
          newInsert({ id: 'c', type: 'compressor', params: { release: 3000, threshold: -40 } }),
        ],
      });
    const x = sine(50, 48000, 128 * 800, 0.1);
    const one: Session = { ...base, strips: [strip('a'), ...base.strips] };
    const two: Session = { ...base, strips: [strip('b'), strip('a'), ...base.strips] };
    const still = new Bench(one, { a: [x] }, { capture: ['a'] }).run(600).a![0]!;
    const bench = new Bench(one, { a: [x], b: [x] }, { capture: ['a'] });
    const moved = new Float32Array(600 * 128);
    for (let k = 0; k < 6; k++) {
      moved.set(bench.run(100).a![0]!, k * 12800);
      bench.change(k % 2 ? one : two);
    }
    expect(peakOf(moved.map((v, i) => v - still[i]!))).toBeLessThan(1e-6);
  });

  it('that gives no number where it is alone is silenced, starts anew, and spoils nothing for the next', () => {
    const strips = (ids: readonly string[]) =>
      ids.map((id, i) =>
        newStrip({
          id,
          kind: 'source',
          name: id,
          // One after the other, so that each is alone in its vector.
          out: { to: ids[i + 1] ?? 'main', on: true },
          ...(i > 0 && { kind: 'submix' as const }),
          inserts: [newInsert({ id: 'e', type: 'equalizer', params: { bell1Gain: 24, bell2Gain: 12 } })],
        }),
      );
    const loud = noise(128 * 40);
    loud.fill(3e38, 1000, 1040);
    const session = (ids: readonly string[]): Session => ({
      ...base,
      strips: [...strips(ids), ...base.strips],
    });
    const bench = new Bench(session(['a', 'b']), { a: [loud] }, { capture: ['a', 'b'] });
    const out = bench.run(40);
    expect(bench.engine.faults).toBeGreaterThan(0);
    for (const id of ['a', 'b']) {
      expect(out[id]![0]!.every(Number.isFinite)).toBe(true);
      expect(peakOf(out[id]![0]!.subarray(-1280))).toBeGreaterThan(0.1);
    }
    // What follows gives again what it gives where nothing ever went wrong.
    const well = new Bench(session(['a', 'b']), { a: [noise(128 * 40)] }, { capture: ['a', 'b'] }).run(40);
    const last = (x: Float32Array) => x.subarray(-640);
    const off = last(out.b![0]!).map((v, i) => v - last(well.b![0]!)[i]!);
    expect(peakOf(off) / peakOf(last(well.b![0]!))).toBeLessThan(1e-4);
  });

  it('that gives no number is silenced and starts anew, and its neighbours play on', () => {
    const strips = ['a', 'b'].map((id) =>
      newStrip({
        id,
        kind: 'source',
        name: id,
        out: { to: 'main', on: true },
        inserts: [newInsert({ id: 'e', type: 'equalizer', params: { bell1Gain: 6 } })],
      }),
    );
    const bad = noise(128 * 40);
    bad[1000] = NaN;
    const bench = new Bench(
      { ...base, strips: [...strips, ...base.strips] },
      { a: [bad], b: [noise(128 * 40, 2)] },
      { capture: ['a', 'b'] },
    );
    const out = bench.run(40);
    expect(out.a![0]!.every(Number.isFinite)).toBe(true);
    expect(peakOf(out.a![0]!.subarray(-1280))).toBeGreaterThan(0.1);
    expect(out.b![0]!.every((v) => Number.isFinite(v))).toBe(true);
    expect(peakOf(out.b![0]!.subarray(1000, 1100))).toBeGreaterThan(0.1);
    expect(bench.engine.faults).toBe(1);
  });
});
