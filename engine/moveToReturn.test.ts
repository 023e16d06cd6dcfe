import { describe, expect, it } from 'vitest';
import { apply } from '../core/edits/apply';
import { newInsert, newSend, newSession, newStrip, newVca } from '../core/session/defaults';
import { moveToReturn } from '../core/operations/moveToReturn';
import { stripOf } from '../core/session/lookup';
import type { Insert, Session, Strip } from '../core/session/types';
import { noise, peakOf, play } from './testing/run';

const base = newSession('Move');
const strip = (inserts: readonly Partial<Insert>[], more: Partial<Strip> = {}): Session => ({
  ...base,
  strips: [
    newStrip({
      id: 'a',
      kind: 'source',
      name: 'A',
      channels: 2,
      faderDb: -4.5,
      out: { to: 'bus', on: true },
      inserts: inserts.map((i, n) => newInsert({ id: `i${n}`, type: 'reverb', ...i })),
      ...more,
    }),
    newStrip({
      id: 'bus',
      kind: 'submix',
      name: 'Bus',
      out: { to: 'main', on: true },
      inserts: [newInsert({ id: 'c', type: 'compressor', params: { threshold: -30 } })],
    }),
    ...base.strips,
  ],
  vcas: [newVca({ id: 'v', name: 'V', faderDb: -3, members: ['a'] })],
});
const x = noise(48000, 4).map((v) => v * 0.4);
const y = noise(48000, 5).map((v) => v * 0.4);
/** Level of what is left when one printed sum is taken from the other, against the sum itself. */
function null_(before: Session, after: Session): number {
  const stems = { a: [x, y] };
  const one = play(before, stems, 375).main!;
  const two = play(after, stems, 375).main!;
  const rest = Math.max(...one.map((c, k) => peakOf(c.map((v, i) => v - two[k]![i]!))));
  return 20 * Math.log10(Math.max(1e-12, rest) / peakOf(one[0]!));
}

describe('an effect moved from a strip to a return', () => {
  it.each([
    ['reverb', { decay: 1 }, 0.3],
    ['delay', { time: 90, feedback: 40, lowCut: 200 }, 0.25],
    ['delay', { note: 8, pingPong: 1 }, 0.5],
    ['equalizer', { bell1Gain: 9, lowCutOn: 1 }, 0.4],
    ['reverb', { character: 2 }, 1],
    ['pitch', {}, 0.5],
  ] as const)('%s %j at a mix of %s gives the same sum, below -100 dB', (type, params, mix) => {
    const before = strip([{ type, params, mix }]);
    const { commands, differences, made } = moveToReturn(before, [{ strip: 'a', id: 'i0' }]);
    const after = apply(before, commands).session;
    expect(differences).toEqual([]);
    expect(null_(before, after)).toBeLessThan(-100);
    expect(stripOf(after, made).inserts[0]).toMatchObject({ type, mix: 1 });
    expect(stripOf(after, 'a').sends[0]!.tap).toBe('post');
    expect(stripOf(after, 'a').out.on).toBe(mix < 1);
  });

  it('of a panned mono strip, before an equalizer, gives the same sum too', () => {
    const before = strip(
      [
        { type: 'delay', params: { time: 50, feedback: 30 }, mix: 0.3 },
        { type: 'equalizer', params: { bell2Gain: -8, bell2Q: 3 } },
      ],
      { channels: 1, pan: 0.6 },
    );
    const { commands, differences } = moveToReturn(before, [{ strip: 'a', id: 'i0' }]);
    expect(differences).toEqual([]);
    expect(null_(before, apply(before, commands).session)).toBeLessThan(-100);
  });

  it('says why the sum is another where it is: a compressor after it, another send, another balance', () => {
    const told = (inserts: readonly Partial<Insert>[], more: Partial<Strip> = {}) => {
      const s = strip(inserts, more);
      const moved = moveToReturn(s, [{ strip: 'a', id: 'i0' }]);
      expect(null_(s, apply(s, moved.commands).session)).toBeGreaterThan(-60);
      return moved.differences.join(' ');
    };
    expect(told([{ mix: 0.3 }, { type: 'compressor', params: { threshold: -40 } }])).toMatch(
      /Compressor after it/,
    );
    expect(told([{ mix: 0.3 }], { pan: 0.7 })).toMatch(/balanced/);
    expect(
      told([{ mix: 0.6 }], { sends: [newSend({ id: 'x', to: 'bus', tap: 'post', levelDb: 0 })] }),
    ).toMatch(/other send/);
  });

  it('of several strips makes one return, with a send of each', () => {
    const s: Session = {
      ...base,
      strips: [
        ...['a', 'b', 'c'].map((id) =>
          newStrip({
            id,
            kind: 'source',
            name: id,
            channels: 2,
            out: { to: 'main', on: true },
            inserts: [newInsert({ id: `r-${id}`, type: 'reverb', mix: 0.25, params: { decay: 2 } })],
          }),
        ),
        ...base.strips,
      ],
    };
    const { commands, differences, made } = moveToReturn(
      s,
      ['a', 'b', 'c'].map((id) => ({ strip: id, id: `r-${id}` })),
    );
    const after = apply(s, commands).session;
    expect(differences).toEqual([]);
    expect(after.strips.filter((t) => t.sends.some((d) => d.to === made))).toHaveLength(3);
    const stems = { a: [x, y], b: [y, x], c: [x, x] };
    const [one, two] = [play(s, stems, 375).main![0]!, play(after, stems, 375).main![0]!];
    const rest = peakOf(one.map((v, i) => v - two[i]!)) / peakOf(one);
    expect(20 * Math.log10(rest)).toBeLessThan(-100);
  });

  it('of a strip whose level is automated takes the lane down with the fader, and its own lanes along', () => {
    const fader = [
      [0, -4],
      [0.5, -2],
      [1, -7],
    ] as const;
    const feedback = [
      [0, 10],
      [0.6, 50],
    ] as const;
    const delay = { type: 'delay', params: { time: 90, lowCut: 200 }, mix: 0.3 };
    const before = strip([{ ...delay, lanes: { feedback } }], { lanes: { fader } });
    const { commands, differences, made } = moveToReturn(before, [{ strip: 'a', id: 'i0' }]);
    const after = apply(before, commands).session;
    // A repeat was faded with the strip; now it rings on as loud as it was sent, and the sum is another.
    expect(differences.join()).toMatch(/level of `A` is automated/);
    expect(null_(before, after)).toBeGreaterThan(-60);
    expect(stripOf(after, made).inserts[0]!.lanes).toEqual({ feedback });
    // A mix of 0.3 leaves 0.7 dry: 20 log10(0.7) is -3.098 dB.
    expect(stripOf(after, 'a').lanes.fader).toEqual([
      [0, -7.098],
      [0.5, -5.098],
      [1, -10.098],
    ]);
    // Where the level stands still the sum is the same, whatever moves inside the effect.
    const still = strip([{ ...delay, lanes: { feedback } }]);
    const moved = moveToReturn(still, [{ strip: 'a', id: 'i0' }]);
    expect(moved.differences).toEqual([]);
    expect(null_(still, apply(still, moved.commands).session)).toBeLessThan(-100);
    expect(() =>
      moveToReturn(strip([{ ...delay, lanes: { mix: [[0, 0.2]] } }]), [{ strip: 'a', id: 'i0' }]),
    ).toThrow(/mix automated.*Take that lane out/);
  });

  it('that is bypassed, or nearly all wet, is refused with what to do', () => {
    expect(() => moveToReturn(strip([{ on: false }]), [{ strip: 'a', id: 'i0' }])).toThrow(
      /Switch it on first/,
    );
    expect(() => moveToReturn(strip([{ mix: 0.95 }]), [{ strip: 'a', id: 'i0' }])).toThrow(/80 % or less/);
  });
});
