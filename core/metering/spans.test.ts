import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { SpanMeter } from './spans';

const RATE = 48000;
/** Spans of a signal that is given by seconds, of one channel or two. */
function spansOf(seconds: number, at: (t: number) => number, channels = 1, piece = 1000) {
  const meter = new SpanMeter(channels, RATE);
  const audio = new Float32Array(Math.round(seconds * RATE) * channels);
  for (let i = 0; i < audio.length; i++)
    audio[i] = i % channels === channels - 1 ? at(Math.floor(i / channels) / RATE) : 0;
  for (let i = 0; i < audio.length; i += piece) meter.push(audio.subarray(i, i + piece));
  return meter.end();
}
const tone = (level: number) => (t: number) => 10 ** (level / 20) * Math.sin(2 * Math.PI * 440 * t);

describe('where a stem sounds', () => {
  it('is told in spans, at the hundredths of a second in which it does', () => {
    const spans = spansOf(4, (t) => ((t >= 0.5 && t < 1) || (t >= 2.5 && t < 3) ? tone(-12)(t) : 0));
    expect(spans).toEqual([
      [0.5, 1],
      [2.5, 3],
    ]);
  });
  // -60 dBFS is a thousandth of full scale (20 log10 0.001).
  it.each([
    [-59.5, 1],
    [-60.5, 0],
  ])('a tone of %f dBFS gives %i spans', (level, count) =>
    expect(spansOf(1, tone(level))).toHaveLength(count),
  );
  it('noise below is silence, and a click is a span', () => {
    let seed = 1;
    const noise = () => ((seed = (seed * 16807) % 2147483647) / 2147483647 - 0.5) * 0.0015;
    expect(spansOf(2, noise)).toEqual([]);
    expect(spansOf(2, (t) => (Math.round(t * RATE) === RATE ? 0.5 : 0))).toEqual([[1, 1.01]]);
  });
  it('short gaps are none, and either side of a stereo stem counts', () => {
    expect(spansOf(1, (t) => (Math.floor(t * 20) % 2 ? 0 : 0.1), 2)).toHaveLength(1);
  });
  it('is the same in whatever pieces it arrives', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5000 }), (piece) => {
        const signal = (t: number) => (Math.floor(t * 3) % 2 ? tone(-20)(t) : 0);
        expect(spansOf(2, signal, 1, piece)).toEqual(spansOf(2, signal));
      }),
      { numRuns: 20 },
    ));
  it('of nothing is nothing', () => expect(new SpanMeter(2, RATE).end()).toEqual([]));
});
