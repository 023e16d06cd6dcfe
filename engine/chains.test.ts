import { describe, expect, it } from 'vitest';
import { compilePlan } from '../core/plan/compile';
import { OP } from '../core/plan/layout';
import { LivePlan } from '../core/plan/livePlan';
import { processors } from '../core/processors/registry';
import { newInsert, newSend, newSession, newStrip } from '../core/session/defaults';
import type { Insert, Lane, Session, Strip } from '../core/session/types';
import { anySetting, chooser } from './testing/choose';
import { Bench, noise, peakOf, sine, type TestStems } from './testing/run';

const base = newSession('Chains');
// A crusher makes whole steps of what is rounded another way.
const packed = processors.filter((p) => p.packed && p.type !== 'crusher');
const BLOCKS = 40;
const ROUNDS = 6;

const fixed: Readonly<Record<string, Readonly<Record<string, number>>>> = {
  // A kept level goes by averages of parts of a block, which are as long as what moves beside it lets them be.
  saturation: { keep: 0 },
  // What looks ahead by as much as nobody else stands alone.
  compressor: { lookAhead: 0 },
};

/** Strips of one kind side by side, with the same chain, each with settings of its own. */
const withStrips = (strips: readonly Strip[]): Session => ({
  ...base,
  strips: [
    ...strips,
    newStrip({ id: 'k', kind: 'source', name: 'k', out: { to: null, on: true } }),
    newStrip({ id: 'room', kind: 'return', name: 'room', out: { to: 'main', on: true } }),
    ...base.strips,
  ],
});

describe('chains of packed processors', () => {
  it('go on together, four channels at a time, as far as they are alike', () => {
    const kinds = ['equalizer', 'compressor', 'saturation'];
    const strip = (id: string, types: readonly string[]) =>
      newStrip({
        id,
        kind: 'source',
        name: id,
        out: { to: 'main', on: true },
        inserts: types.map((type, i) => newInsert({ id: `${i}`, type })),
      });
    const order = (...chains: (readonly string[])[]) => {
      const plan = compilePlan(withStrips(chains.map((types, i) => strip(`s${i}`, types))));
      return plan.costs
        .filter(({ op }) => plan.words[op / 4] === OP.lanes)
        .map(({ inserts }) => inserts.map((i) => `${i.strip}.${i.insert}`).join(' '));
    };
    expect(order(...Array.from({ length: 9 }, () => kinds))).toEqual([
      ...[0, 1, 2].map((n) => `s0.${n} s1.${n} s2.${n} s3.${n}`),
      ...[0, 1, 2].map((n) => `s4.${n} s5.${n} s6.${n} s7.${n}`),
      ...[0, 1, 2].map((n) => `s8.${n}`),
    ]);
    // Where chains part, all that wait for one kind are grouped anew: no more operations than before.
    const parted = order(kinds, kinds, kinds, ['equalizer', 'saturation'], ['compressor'], kinds);
    expect(parted.filter((o) => o.split(' ').length === 4).length).toBeGreaterThanOrEqual(1);
    expect(parted.flatMap((o) => o.split(' ')).sort()).toEqual(
      [kinds, kinds, kinds, ['equalizer', 'saturation'], ['compressor'], kinds]
        .flatMap((types, s) => types.map((_, i) => `s${s}.${i}`))
        .sort(),
    );
    expect(parted.length).toBeLessThanOrEqual(6);
  });

  it('give what each strip gives alone, within rounding: settings, mixes, keys, lanes, silence and other plans, while they play', () => {
    const next = chooser(77);
    const pick = <T>(list: readonly T[]) => list[Math.floor(next() * list.length)]!;
    let went = 0;
    for (let round = 0; round < 24; round++) {
      // Signals stay side by side where all of them are wet; one insert of each may be keyed by another strip.
      const wet = next() > 0.3;
      const keyed = next() > 0.5 ? Math.floor(next() * 4) : -1;
      const types = Array.from({ length: 2 + Math.floor(next() * 3) }, () => pick(packed));
      const lane = (low: number, high: number): Lane =>
        Array.from({ length: 20 }, (_, i) => [
          i * 0.03 + (i % 5 === 4 ? 0.03 : 0),
          low + next() * (high - low),
        ]);
      const insert = (i: number): Insert => {
        const p = types[i]!;
        return newInsert({
          id: `x${i}`,
          type: p.type,
          params: { ...anySetting(p, next), ...fixed[p.type] },
          mix: wet || next() > 0.25 ? 1 : next(),
          key: p.takesKey && i === keyed ? 'k' : null,
        });
      };
      const strip = (id: string): Strip =>
        newStrip({
          id,
          kind: 'source',
          name: id,
          out: { to: 'main', on: true },
          inserts: types.map((_, i) => insert(i)),
          sends: [newSend({ id: 's', to: 'room', levelDb: -9 })],
          ...(next() > 0.7 ? { lanes: { fader: lane(-20, 0) } } : {}),
        });
      const others = ['b', 'c', 'd', 'e'].map(strip);
      const stems: TestStems = Object.fromEntries(
        ['a', 'b', 'c', 'd', 'e', 'k'].map((id, i) => {
          const x = noise(128 * BLOCKS * ROUNDS, round * 10 + i + 1);
          // Silent by turns, so that processors sleep and wake.
          if (i % 2 === round % 2) x.fill(0, 128 * 60, 128 * 130);
          return [id, [x]];
        }),
      );
      let a = strip('a');
      const among = new Bench(withStrips([a, ...others]), stems, { capture: ['a'] });
      const alone = new Bench(withStrips([a]), stems, { capture: ['a'] });
      for (let k = 0; k < ROUNDS; k++) {
        const expected = alone.run(BLOCKS).a![0]!;
        const got = among.run(BLOCKS).a![0]!;
        const peak = peakOf(expected);
        const apart = got.reduce((most, v, i) => Math.max(most, Math.abs(v - expected[i]!)), 0);
        expect(apart, `${round}.${k} ${types.map((p) => p.type).join(' ')}`).toBeLessThanOrEqual(
          3e-4 * Math.max(1, peak),
        );
        if (peak > 0.01) went++;
        // A neighbour changes, the strip itself does, or nothing does.
        const which = Math.floor(next() * 3);
        if (which === 0) others[Math.floor(next() * 4)] = strip(pick(['b', 'c', 'd', 'e']));
        if (which === 1)
          a = { ...a, inserts: a.inserts.map((x, i) => (next() > 0.5 ? { ...insert(i), key: x.key } : x)) };
        const ids = new Set(others.map((s) => s.id));
        if (ids.size < 4) others.splice(0, 4, ...['b', 'c', 'd', 'e'].map(strip));
        among.change(withStrips([a, ...others]));
        alone.change(withStrips([a]));
      }
    }
    expect(went).toBeGreaterThan(100);
  });

  it('hear what is turned up in an equalizer that passed what came: by hand, by a lane, and at once', () => {
    const flat = (gain: number, lane: Lane | null): Session =>
      withStrips(
        ['a', 'b', 'c', 'd'].map((id) =>
          newStrip({
            id,
            kind: 'source',
            name: id,
            out: { to: 'main', on: true },
            inserts: ['equalizer', 'compressor'].map((type) =>
              newInsert({
                id: type,
                type,
                ...(type === 'equalizer' && id === 'b'
                  ? {
                      params: { bell2Gain: gain, bell2Frequency: 1000, lowCut: gain ? 200 : 0 },
                      lanes: lane ? { bell2Gain: lane } : {},
                    }
                  : {}),
              }),
            ),
          }),
        ),
      );
    const stems: TestStems = Object.fromEntries(
      ['a', 'b', 'c', 'd'].map((id) => [id, [sine(1000, 48000, 128 * 400, 0.01)]]),
    );
    const capture = ['a', 'b'];
    // In the middle each side is 3 dB softer.
    const levelOf = (bench: Bench, id: string) =>
      20 * Math.log10((peakOf(bench.run(20)[id]![0]!.subarray(128 * 10)) * Math.SQRT2) / 0.01);
    const byHand = new Bench(flat(0, null), stems, { capture });
    byHand.run(40);
    expect(levelOf(byHand, 'b')).toBeCloseTo(0, 2);
    byHand.engine.steer(new LivePlan(flat(0, null), { capture }).steer(flat(12, null), [0, 10]));
    byHand.run(80);
    expect(levelOf(byHand, 'b')).toBeCloseTo(12, 0);
    expect(levelOf(byHand, 'a')).toBeCloseTo(0, 2);
    const byLane = new Bench(flat(0, [[0, 0], [0.2, 0], [0.2, 12], [0.5, 12]]), stems, { capture }); // prettier-ignore
    byLane.run(40);
    expect(levelOf(byLane, 'b')).toBeCloseTo(0, 2);
    byLane.run(40);
    expect(levelOf(byLane, 'b')).toBeCloseTo(12, 0);
    // Where the song leaps to while it stands.
    byLane.engine.seek(0, true);
    byLane.run(20);
    expect(levelOf(byLane, 'b')).toBeCloseTo(0, 1);
  });
});
