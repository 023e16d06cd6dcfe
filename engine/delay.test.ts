import { describe, expect, it } from 'vitest';
import { delay, NOTE_VALUES } from '../core/processors/delay';
import { newInsert, newSession, newStrip } from '../core/session/defaults';
import type { Lane, Session } from '../core/session/types';
import { Engine } from './engine';
import { Bench, engineModule, impulse, noise, peakOf, play, sine } from './testing/run';

const session = (params: Record<string, number>, mix = 1, sampleRate = 48000): Session => {
  const base = newSession('Delay', sampleRate);
  return {
    ...base,
    strips: [
      newStrip({
        id: 'a',
        kind: 'source',
        name: 'A',
        channels: 2,
        out: { to: 'main', on: true },
        inserts: [newInsert({ id: 'd', type: 'delay', mix, params })],
      }),
      ...base.strips,
    ],
  };
};
const where = (audio: Float32Array) =>
  [...audio].flatMap((v, i) => (Math.abs(v) > 1e-6 ? [[i, v] as const] : []));

describe('the delay', () => {
  it.each([
    [1, 48000],
    [120, 48000],
    [333, 44100],
    [2000, 96000],
  ])('of %s ms at %s Hz comes after as many frames, each repeat lower by the feedback', (ms, rate) => {
    const frames = Math.round((ms / 1000) * rate);
    const blocks = Math.ceil((frames * 3 + 200) / 128);
    const x = impulse(blocks * 128);
    const [l, r] = play(session({ time: ms, feedback: 50 }, 1, rate), { a: [x, x] }, blocks).main!;
    expect(where(l!).slice(0, 3)).toEqual([
      [frames, 1],
      [2 * frames, 0.5],
      [3 * frames, 0.25],
    ]);
    expect(r).toEqual(l);
  });

  it.each([3, 37, 1999])(
    'of %s ms gives the same whenever a sound comes: nothing depends on where in its ring it stands, to the bit',
    (time) => {
      // At 11025 Hz the ring is 512 blocks long; the delays are 33, 408 and 22039 frames.
      const rate = 11025;
      const sound = noise(128);
      const after = 180;
      const of = (block: number) => {
        const x = new Float32Array((block + after) * 128);
        x.set(sound, block * 128);
        const params = { time, feedback: 70, lowCut: 200, highCut: 2000, pingPong: 1 };
        const stems = { a: [x, x.map((v) => v / 2)] };
        return play(session(params, 1, rate), stems, block + after).main!.map((c) => c.slice(block * 128));
      };
      const first = of(0);
      expect(peakOf(first[0]!)).toBeGreaterThan(0.01);
      for (const block of [1, 300, 340, 510, 511, 512]) expect(of(block)).toEqual(first);
    },
  );

  it('stands at a beat: 60/bpm seconds a quarter note', () => {
    const bpm = 96;
    const ms = 60000 / bpm;
    const x = impulse(48000);
    const out = play(session({ time: ms }), { a: [x, x] }, 375).main![0]!;
    expect(where(out)[0]![0]).toBe(Math.round((60 / bpm) * 48000));
  });

  it('in ping-pong begins on the left and changes sides', () => {
    const x = impulse(48000);
    const [l, r] = play(
      session({ time: 100, feedback: 50, pingPong: 1 }),
      { a: [x, new Float32Array(48000)] },
      375,
    ).main!;
    expect(where(l!).slice(0, 2)).toEqual([
      [4800, 0.5],
      [14400, 0.125],
    ]);
    expect(where(r!).slice(0, 1)).toEqual([[9600, 0.25]]);
  });

  it('darkens and thins what it feeds back, and leaves the first repeat alone', () => {
    const x = impulse(48000);
    const energy = (params: Record<string, number>) => {
      const out = play(session({ time: 100, feedback: 90, ...params }), { a: [x, x] }, 375).main![0]!;
      expect(out[4800]).toBe(1);
      return out.subarray(9000, 14000).reduce((s, v) => s + v * v, 0);
    };
    const open = energy({});
    expect(energy({ highCut: 1000 })).toBeLessThan(open * 0.3);
    expect(energy({ lowCut: 2000 })).toBeLessThan(open * 0.95);
  });

  it('is as long as its note says, down to 30 beats a minute', () => {
    for (const [index, [, quarters]] of NOTE_VALUES.entries()) {
      const frames = Math.round((quarters * 60 * 11025) / 30);
      const blocks = Math.ceil((frames + 400) / 128);
      const slow = session({ note: index + 1 }, 1, 11025);
      const x = impulse(blocks * 128);
      const tempo = { ...slow.tempo, bpm: 30 };
      const out = play({ ...slow, tempo }, { a: [x, x] }, blocks).main![0]!;
      expect(where(out)[0]).toEqual([frames, 1]);
    }
  });

  it('glides as a tape does: by a lane a tone is shifted evenly, and a leap is bent by a half at most', () => {
    const tone = sine(300, 48000, 128 * 1500, 0.5);
    const rates = (lane: Lane) => {
      const s = session({ time: 500 });
      const strips = s.strips.map((t) =>
        t.id === 'a' ? { ...t, inserts: t.inserts.map((i) => ({ ...i, lanes: { time: lane } })) } : t,
      );
      const out = play({ ...s, strips }, { a: [tone, tone] }, 1500).main![0]!;
      const found: (readonly [seconds: number, hertz: number])[] = [];
      let last = 0;
      for (let i = 1; i < out.length; i++)
        if (out[i - 1]! < 0 && out[i]! >= 0) {
          const at = i - out[i]! / (out[i]! - out[i - 1]!);
          found.push([at / 48000, 48000 / (at - last)]);
          last = at;
        }
      return found;
    };
    // A time of milliseconds goes by ratio: 500 to 400 ms in a second falls by 112 to 89 ms a second.
    const even = rates([
      [0, 500],
      [1.5, 500],
      [2.5, 400],
    ]);
    for (const [t, hertz] of even) {
      if (t < 1.8 || t > 2.4) continue;
      const time = 500 * 0.8 ** (t - 1.5);
      // The reading place moves by d', so that the tone is read at the rate 1 - d'.
      const wanted = 300 * (1 - (Math.log(0.8) * time) / 1000);
      expect(Math.abs(hertz / wanted - 1), `${t}`).toBeLessThan(0.01);
    }
    const leap = rates([
      [0, 500],
      [1.5, 500],
      [1.5, 250],
    ]).filter(([t]) => t > 0.8);
    for (const [, hertz] of leap) {
      expect(hertz).toBeGreaterThan(299);
      expect(hertz).toBeLessThan(451);
    }
    expect(leap.at(-1)![1]).toBeCloseTo(300, 1);
  });

  it('rounds what it feeds back, and ducks under what comes in', () => {
    const x = new Float32Array(128 * 400);
    x.fill(0.9, 0, 2000);
    const second = (params: Record<string, number>) =>
      play(session({ time: 100, feedback: 90, ...params }), { a: [x, x] }, 400).main![0]![10500]!;
    expect(second({})).toBeCloseTo(0.81, 5);
    // tanh(4 x)/4 at full saturation.
    expect(second({ drive: 100 })).toBeCloseTo(0.9 * (Math.tanh(3.6) / 4), 4);
    const tone = sine(500, 48000, 128 * 400, 0.5);
    const level = (duck: number) =>
      peakOf(play(session({ time: 100, duck }), { a: [tone, tone] }, 400).main![0]!.subarray(-9600));
    expect(20 * Math.log10(level(12) / level(0))).toBeCloseTo(-12, 0);
  });

  it('mixes with the dry signal', () => {
    const x = impulse(12800);
    expect(where(play(session({ time: 100 }, 0.25), { a: [x, x] }, 100).main![0]!)).toEqual([
      [0, 0.75],
      [4800, 0.25],
    ]);
  });

  it('asks for as many bytes as the engine needs', () => {
    const engine = new Engine(engineModule);
    for (const rate of [8000, 44100, 48000, 96000, 192000])
      expect(delay.stateBytes(2, rate)).toBe(engine.stateBytes(delay, rate));
  });

  it('stays finite and dies away after noise, full-scale square, denormals and jumps of every parameter', () => {
    const frames = 128 * 200;
    const x = noise(frames, 3);
    for (let i = 0; i < frames; i++)
      if (i % 3000 > 1500) x[i] = i % 2000 > 1000 ? 1 : i % 500 > 250 ? -1 : 1e-39;
    const bench = new Bench(session({}), { a: [x, x] });
    const settings: Record<string, number>[] = [
      { time: 2000, feedback: 95 },
      { time: 1, feedback: 95 },
      { pingPong: 1, feedback: 95, time: 7 },
      { lowCut: 2000, highCut: 200, feedback: 95 },
      { feedback: 0, time: 50 },
    ];
    for (const params of settings) {
      bench.change(session(params));
      for (const side of bench.run(40).main!) {
        expect(side.every(Number.isFinite)).toBe(true);
        expect(peakOf(side)).toBeLessThan(30);
      }
    }
    bench.change(session({ feedback: 10, time: 20 }));
    bench.run(3000);
    expect(peakOf(bench.run(10).main![0]!)).toBe(0);
    expect(bench.engine.faults).toBe(0);
  });
});
