import { describe, expect, it } from 'vitest';
import { LiveMeter } from './liveMeter';
import { PrintMeter } from './printMeter';
import { meterScale } from './scales';
import { StereoMeter } from './stereoMeter';

const RATE = 48000;
/** Noise of a fixed seed, -1..1. */
function noise(seed = 1) {
  let s = seed >>> 0;
  return () => (s = (Math.imul(s, 1664525) + 1013904223) >>> 0) / 2 ** 31 - 1;
}
const stereo = (seconds: number, at: (t: number, i: number) => readonly [number, number], rate = RATE) => {
  const audio = new Float32Array(Math.round(seconds * rate) * 2);
  for (let i = 0; i < audio.length / 2; i++) audio.set(at(i / rate, i), 2 * i);
  return audio;
};
const phi = (t: number, hertz: number) => 2 * Math.PI * hertz * t;

describe('left against right', () => {
  const measured = (audio: Float32Array) => {
    const m = new StereoMeter(RATE);
    m.push(audio);
    return m;
  };
  it('of one signal on both sides is 1, and loses nothing in mono', () => {
    const m = measured(stereo(2, (t) => [Math.sin(phi(t, 300)), Math.sin(phi(t, 300))]));
    expect(m.correlation).toBeCloseTo(1, 6);
    expect(m.mono).toBeCloseTo(0, 6);
  });
  it('of one side turned over is -1, and nothing is left in mono', () => {
    const m = measured(stereo(2, (t) => [Math.sin(phi(t, 300)), -Math.sin(phi(t, 300))]));
    expect(m.correlation).toBeCloseTo(-1, 6);
    expect(m.mono).toBe(-Infinity);
  });
  // Two sines of one frequency correlate by the cosine of their phase: a worked example of any handbook.
  it.each([30, 60, 90, 120, 150])("of a sine that is %s degrees late is that angle's cosine", (degrees) => {
    const late = (degrees * Math.PI) / 180;
    const m = measured(stereo(3, (t) => [Math.sin(phi(t, 500)), Math.sin(phi(t, 500) - late)]));
    expect(m.correlation!).toBeCloseTo(Math.cos(late), 2);
    expect(m.mono!).toBeCloseTo(10 * Math.log10((1 + Math.cos(late)) / 2), 1);
  });
  it('of noises that are not related is about 0, and 3 dB are lost in mono', () => {
    const [a, b] = [noise(1), noise(2)];
    const m = measured(stereo(4, () => [a(), b()]));
    expect(Math.abs(m.correlation!)).toBeLessThan(0.05);
    expect(Math.abs(m.mono! + 3.01)).toBeLessThan(0.2);
  });
  it('of one side alone has no correlation, and loses 3 dB in mono', () => {
    const m = measured(stereo(2, (t) => [Math.sin(phi(t, 300)), 0]));
    expect(m.correlation).toBeNull();
    expect(m.mono).toBeCloseTo(-3.01, 1);
  });
  it('of silence is nothing', () => {
    const m = measured(stereo(2, () => [0, 0]));
    expect(m.correlation).toBeNull();
    expect(m.mono).toBeNull();
  });
});

describe('a meter that runs', () => {
  it.each([44100, 48000, 96000, 192000])("says at its end what a print's line says, at %s Hz", (rate) => {
    const [a, b] = [noise(3), noise(4)];
    const audio = stereo(5, (t) => [a() * 0.3 * Math.sin(t * 3), b() * 0.2], rate);
    const live = new LiveMeter(rate, 2, meterScale('digital'));
    const print = new PrintMeter(rate, 2);
    for (let i = 0; i < audio.length; i += 1608) live.push(audio.subarray(i, i + 1608));
    print.push(audio);
    const silence = new Float32Array(rate * 2);
    live.push(silence);
    print.push(silence);
    const end = print.end();
    const said = live.read();
    expect(said.integrated).toBeCloseTo(end.integrated!, 6);
    expect(said.range!).toBeCloseTo(end.range!, 6);
    expect(said.maxMomentary).toBeCloseTo(end.maxMomentary!, 6);
    expect(said.maxShortTerm).toBeCloseTo(end.maxShortTerm!, 6);
    expect(said.truePeakDb).toBeCloseTo(end.truePeakDb!, 3);
    expect(said.seconds).toBeCloseTo(6, 1);
  });
  // EBU Tech 3341, signal 1, by the meter that the page has.
  it('reads a stereo tone of -23 dBFS as -23 LUFS by all three, and its true peak', () => {
    const g = 10 ** (-23 / 20);
    const meter = new LiveMeter(RATE, 2, meterScale('digital'));
    meter.push(stereo(6, (t) => [g * Math.sin(phi(t, 1000)), g * Math.sin(phi(t, 1000))]));
    const r = meter.read();
    for (const v of [r.momentary, r.shortTerm, r.integrated]) expect(Math.abs(v! + 23)).toBeLessThan(0.1);
    expect(Math.abs(r.truePeakDb! + 23)).toBeLessThan(0.1);
    expect(r.levels[0]).toBeCloseTo(-23, 1);
    expect(r.correlation).toBeCloseTo(1, 6);
  });
  it('rests in silence: what was gathered stays, what is of late is gone', () => {
    const meter = new LiveMeter(RATE, 2, meterScale('typeI'));
    meter.push(stereo(4, (t) => [0.5 * Math.sin(phi(t, 1000)), 0.5 * Math.sin(phi(t, 1000))]));
    const sounded = meter.read();
    for (let i = 0; i < 60; i++) meter.push(new Float32Array(RATE));
    const r = meter.read();
    expect(r.momentary).toBeNull();
    expect(r.shortTerm).toBeNull();
    expect(r.levels).toEqual([null, null]);
    expect(r.correlation).toBeNull();
    expect(r.integrated!).toBeCloseTo(sounded.integrated!, 0);
    expect(r.truePeakDb).toBeCloseTo(sounded.truePeakDb!, 1);
    expect(r.seconds).toBeLessThan(9);
    meter.restart();
    const anew = meter.read();
    expect(anew.integrated).toBeNull();
    expect(anew.truePeakDb).toBeNull();
    expect(anew.seconds).toBe(0);
  });
  it('of one channel says nothing of left and right', () => {
    const meter = new LiveMeter(RATE, 1, meterScale('k20'));
    meter.push(Float32Array.from({ length: RATE }, (_, i) => Math.sin(phi(i / RATE, 997))));
    const r = meter.read();
    expect(r.correlation).toBeNull();
    expect(r.mono).toBeNull();
    expect(r.levels).toHaveLength(1);
    // BS.1770-5: a sine of 997 Hz at full scale on one channel is -3.01 LKFS.
    expect(Math.abs(r.momentary! + 3.01)).toBeLessThan(0.05);
  });
  it('takes another scale while it runs', () => {
    const meter = new LiveMeter(RATE, 1, meterScale('digital'));
    meter.setScale(meterScale('volume'));
    meter.push(Float32Array.from({ length: RATE }, (_, i) => 0.125 * Math.sin(phi(i / RATE, 1000))));
    expect(meterScale('volume').read(meter.read().levels[0]!)).toBe('−0.1');
  });
});
