import { describe, expect, it } from 'vitest';
import { MeterBench } from './meterBench';
import { readingAt, READINGS_BYTES } from './meterReadings';
import { TAP, TAP_SAMPLES, TAPS, TAPS_BYTES, tapViews } from './shared';

const RATE = 48000;
/** A tap that is written as the audio thread does, and the bench that reads it. */
function bench(channels: 1 | 2 = 2, tap = 3) {
  const taps = new SharedArrayBuffer(TAPS_BYTES);
  const readings = new Float64Array(new SharedArrayBuffer(READINGS_BYTES));
  const { head, audio } = tapViews(taps)[tap]!;
  head[TAP.channels] = channels;
  head[TAP.serial] = 7;
  let n = 0;
  return {
    head,
    bench: new MeterBench(taps, readings, RATE),
    read: (serial = 7) => readingAt(readings, tap, serial),
    write(frames: number, at: (n: number) => readonly number[]) {
      for (let i = 0; i < frames; i++, n++)
        for (let c = 0; c < channels; c++)
          audio[((head[TAP.frames]! + i) * channels + c) & (TAP_SAMPLES - 1)] = at(n)[c]!;
      head[TAP.frames] = (head[TAP.frames]! + frames) | 0;
    },
  };
}
const tone = (gain: number) => (n: number) => {
  const x = gain * Math.sin((2 * Math.PI * 1000 * n) / RATE);
  return [x, x];
};
const g = 10 ** (-23 / 20);

describe('what a meter measures of what the audio thread writes', () => {
  it('is all of it, whatever pieces it comes in, round and round the ring', () => {
    const b = bench();
    b.bench.run();
    for (let k = 0; k < 400; k++) {
      b.write(128 * (1 + (k % 6)), tone(g));
      b.bench.run();
    }
    const r = b.read()!;
    expect(r.seconds).toBeCloseTo((400 * 3.49 * 128) / RATE, 1);
    // EBU Tech 3341: -23 dBFS of 1 kHz on both sides are -23 LUFS.
    expect(Math.abs(r.integrated! + 23)).toBeLessThan(0.1);
    expect(Math.abs(r.truePeakDb! + 23)).toBeLessThan(0.1);
    expect(r.correlation).toBeCloseTo(1, 6);
  });
  it('goes on where the count of frames turns over', () => {
    const b = bench(1);
    b.head[TAP.frames] = 2 ** 31 - 128 * 40;
    b.bench.run();
    for (let k = 0; k < 200; k++) {
      b.write(384, tone(g));
      b.bench.run();
    }
    expect(b.head[TAP.frames]!).toBeLessThan(0);
    expect(b.read()!.seconds).toBeCloseTo((200 * 384) / RATE, 3);
    expect(b.read()!.levels[0]!).toBeCloseTo(-23, 1);
  });
  it('leaves out what it slept through, and says only what it measured', () => {
    const b = bench();
    b.bench.run();
    for (let k = 0; k < 20; k++) b.write(48000, tone(g));
    b.bench.run();
    expect(b.read()!.seconds).toBeLessThan(0.7);
    expect(b.read()!.seconds).toBeGreaterThan(0.5);
  });
  it('begins anew for another strip, and says nothing of one that is not metered', () => {
    const b = bench();
    b.bench.run();
    b.write(48000 / 2, tone(1));
    b.bench.run();
    expect(b.read()!.truePeakDb).toBeCloseTo(0, 1);
    expect(b.read(8)).toBeNull();
    b.head[TAP.serial] = 8;
    b.bench.run();
    expect(b.read(7)).toBeNull();
    expect(b.read(8)!.truePeakDb).toBeNull();
    b.head[TAP.serial] = 0;
    b.bench.run();
    b.head[TAP.serial] = 9;
    b.write(4800, tone(g));
    b.bench.run();
    // What was written before it was looked at is not of it.
    expect(b.read(9)!.seconds).toBe(0);
  });
  it('is gathered anew when asked, of that tap alone', () => {
    const b = bench();
    b.bench.run();
    b.write(24000, tone(1));
    b.bench.run();
    b.bench.restart(TAPS - 1);
    b.bench.run();
    expect(b.read()!.truePeakDb).toBeCloseTo(0, 1);
    b.bench.restart(3);
    b.bench.run();
    expect(b.read()!.truePeakDb).toBeNull();
    expect(b.read()!.seconds).toBe(0);
  });
  it('is read by the scale that is chosen', () => {
    const b = bench(1);
    b.bench.setScale('k20');
    b.bench.run();
    // A square wave's average is 3 dB over that of a sine of its height.
    for (let k = 0; k < 100; k++) {
      b.write(480, (n) => [n % 48 < 24 ? 0.1 : -0.1]);
      b.bench.run();
    }
    expect(b.read()!.levels[0]!).toBeCloseTo(-17, 1);
    b.bench.setScale('digital');
    b.write(480, (n) => [n % 48 < 24 ? 0.1 : -0.1]);
    b.bench.run();
    expect(b.read()!.levels[0]!).toBeCloseTo(-20, 1);
  });
});
