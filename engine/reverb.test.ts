import { describe, expect, it } from 'vitest';
import { reverb } from '../core/processors/reverb';
import { newInsert, newSession, newStrip } from '../core/session/defaults';
import type { Session } from '../core/session/types';
import { Bench, engineModule, impulse, noise, peakOf, play } from './testing/run';
import { Engine } from './engine';

const base = newSession('Reverb');
const session = (params: Record<string, number>, rate = 48000, mix = 1): Session => ({
  ...base,
  sampleRate: rate,
  strips: [
    newStrip({
      id: 'a',
      kind: 'source',
      name: 'A',
      channels: 2,
      out: { to: 'main', on: true },
      inserts: [newInsert({ id: 'r', type: 'reverb', mix, params })],
    }),
    ...base.strips,
  ],
});

/**
 * Reverberation time by backward integration of the squared impulse response and a straight line from -5 to -35 dB,
 * times two: T30 of ISO 3382-1:2009, 5.3.3 and annex A.
 */
function t30(response: Float32Array, rate: number): number {
  const decay = new Float64Array(response.length);
  let sum = 0;
  for (let i = response.length - 1; i >= 0; i--) decay[i] = sum += response[i]! ** 2;
  const level = (i: number) => 10 * Math.log10(decay[i]! / decay[0]!);
  const xs: number[] = [];
  const ys: number[] = [];
  for (let i = 0; i < response.length; i += 32) {
    const l = level(i);
    if (l <= -5 && l >= -35) {
      xs.push(i / rate);
      ys.push(l);
    }
  }
  const mx = xs.reduce((a, b) => a + b) / xs.length;
  const my = ys.reduce((a, b) => a + b) / ys.length;
  const slope =
    xs.reduce((s, x, i) => s + (x - mx) * (ys[i]! - my), 0) / xs.reduce((s, x) => s + (x - mx) ** 2, 0);
  return -60 / slope;
}
/** A two-pole low-pass, so that the decay of the low band is measured. */
const lowBand = (x: Float32Array, rate: number, cutoff = 400) => {
  const k = 1 - Math.exp((-2 * Math.PI * cutoff) / rate);
  let a = 0;
  let b = 0;
  return x.map((v) => {
    a += k * (v - a);
    return (b += k * (a - b));
  });
};
const response = (params: Record<string, number>, seconds: number, rate = 48000) => {
  const blocks = Math.ceil((seconds * rate) / 128);
  return play(
    session({ preDelay: 0, ...params }, rate),
    { a: [impulse(blocks * 128), impulse(blocks * 128)] },
    blocks,
  ).main!;
};

describe('the reverb', () => {
  it.each([0.4, 0.8, 1.8, 4])('without damping decays in %s s, within 10 % (ISO 3382-1)', (decay) => {
    const [l, r] = response({ decay, damping: 0 }, decay * 1.4);
    expect(Math.abs(t30(l!, 48000) / decay - 1)).toBeLessThan(0.1);
    expect(Math.abs(t30(r!, 48000) / decay - 1)).toBeLessThan(0.1);
  });
  it.each([
    ['room', 1, 0.6],
    ['hall', 2, 3],
  ])('as a %s decays in its time too, first reflections and all', (_name, character, decay) => {
    const [l] = response({ character, decay, damping: 0, early: 100 }, decay * 1.4);
    expect(Math.abs(t30(l!, 48000) / decay - 1)).toBeLessThan(0.1);
  });
  it('as a room and a hall has first reflections before its tail, nearer and stronger in the room', () => {
    const first = (character: number) => {
      const [with_, without] = [100, 0].map((early) => response({ character, early }, 0.3)[0]!);
      const only = with_!.map((v, i) => v - without![i]!);
      return { at: only.findIndex((v) => Math.abs(v) > 1e-4), peak: peakOf(only) };
    };
    const [plate, room, hall] = [0, 1, 2].map(first);
    expect(plate!.peak).toBe(0);
    expect(room!.at).toBeLessThan(hall!.at);
    expect(room!.peak).toBeGreaterThan(hall!.peak);
  });
  it.each([0.8, 2.5])('with damping still decays in %s s in its low band', (decay) => {
    const [l] = response({ decay, damping: 60 }, decay * 1.4);
    expect(Math.abs(t30(lowBand(l!, 48000), 48000) / decay - 1)).toBeLessThan(0.1);
  });
  it('with damping decays faster at the top than at the bottom', () => {
    const [l] = response({ decay: 2, damping: 60 }, 3);
    const dark = lowBand(l!, 48000, 500);
    // Six differences one after another: a high-pass that leaves the topmost band alone.
    let top = l!;
    for (let k = 0; k < 6; k++) top = top.map((v, i, x) => v - (i > 0 ? x[i - 1]! : 0));
    expect(t30(top, 48000)).toBeLessThan(0.6 * t30(dark, 48000));
  });
  it.each([44100, 96000])('decays as long at %s Hz', (rate) => {
    const [l] = response({ decay: 1, damping: 0 }, 1.4, rate);
    expect(Math.abs(t30(l!, rate) - 1)).toBeLessThan(0.1);
  });
  it.each([30, 200])('decays as long at a size of %s %%', (size) => {
    const [l] = response({ decay: 1, damping: 0, size }, 1.6);
    expect(Math.abs(t30(l!, 48000) - 1)).toBeLessThan(0.1);
  });
  it('begins after its pre-delay, to the frame', () => {
    const first = (ms: number) => response({ preDelay: ms }, 0.6)[0]!.findIndex((v) => v !== 0);
    expect(first(100) - first(0)).toBe(4800);
  });
  it.each([
    // At 8000 Hz the rings are 1, 16 and 32 blocks long, at 48000 Hz 4, 64 and 256.
    [8000, Array.from({ length: 40 }, (_, k) => k + 1)],
    [48000, [1, 2, 3, 4, 5, 63, 64, 65, 255, 256, 257]],
  ])(
    'at %s Hz gives the same whenever a sound comes: nothing depends on where in its rings it stands, to the bit',
    (rate, blocks) => {
      const sound = noise(128);
      const after = 40;
      const of = (block: number) => {
        const x = new Float32Array((block + after) * 128);
        x.set(sound, block * 128);
        const params = { character: 1, preDelay: 33, decay: 2 };
        return play(session(params, rate), { a: [x, x] }, block + after).main!.map((c) =>
          c.slice(block * 128),
        );
      };
      const first = of(0);
      expect(peakOf(first[0]!)).toBeGreaterThan(0.01);
      for (const block of blocks) expect(of(block)).toEqual(first);
    },
  );
  it('is nothing but the dry signal at a mix of 0, and holds no dry signal at 1', () => {
    const x = noise(128 * 40);
    expect(play(session({}, 48000, 0), { a: [x, x] }, 40).main![0]!.every((v, i) => v === x[i])).toBe(true);
    const wet = play(session({ preDelay: 20 }), { a: [impulse(128 * 10), impulse(128 * 10)] }, 10).main![0]!;
    expect(peakOf(wet.subarray(0, 900))).toBe(0);
  });
  it('of one side sounds on both, and not the same', () => {
    const [l, r] = play(session({}), { a: [impulse(48000), new Float32Array(48000)] }, 375).main!;
    expect(peakOf(l!)).toBeGreaterThan(0.001);
    expect(peakOf(r!)).toBeGreaterThan(0.001);
    const dot = l!.reduce((s, v, i) => s + v * r![i]!, 0);
    const power = Math.sqrt(l!.reduce((s, v) => s + v * v, 0) * r!.reduce((s, v) => s + v * v, 0));
    expect(Math.abs(dot / power)).toBeLessThan(0.5);
  });
  it('asks for as many bytes as the engine needs', () => {
    const engine = new Engine(engineModule);
    for (const rate of [8000, 22050, 44100, 48000, 96000, 192000])
      expect(reverb.stateBytes(2, rate)).toBe(engine.stateBytes(reverb, rate));
  });
  it('stays finite and dies away after noise, silence, full-scale square, denormals, and jumps of every parameter', () => {
    const frames = 128 * 200;
    const x = noise(frames, 3);
    for (let i = 0; i < frames; i++)
      if (i % 3000 > 1500) x[i] = i % 2000 > 1000 ? 1 : i % 500 > 250 ? -1 : 1e-39;
    const bench = new Bench(session({}), { a: [x, x] });
    const settings: Record<string, number>[] = [
      { decay: 20, size: 200 },
      { decay: 0.1, size: 30 },
      { damping: 100 },
      { preDelay: 250, decay: 20 },
      { preDelay: 0, decay: 0.1, damping: 0 },
    ];
    for (const params of settings) {
      bench.change(session(params));
      const [l, r] = bench.run(40).main!;
      expect(l!.every(Number.isFinite) && r!.every(Number.isFinite)).toBe(true);
      expect(peakOf(l!)).toBeLessThan(20);
    }
    bench.change(session({ decay: 0.1 }));
    bench.run(1500);
    expect(peakOf(bench.run(10).main![0]!)).toBe(0);
    expect(bench.engine.faults).toBe(0);
  });
});
