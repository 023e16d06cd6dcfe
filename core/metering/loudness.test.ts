import { describe, expect, it } from 'vitest';
import { kWeighting, LoudnessMeter } from './loudness';

const RATE = 48000;
/** A tone on both sides, by segments of seconds and dBFS. EBU Tech 3341 gives its test signals so. */
function loudness(
  segments: readonly (readonly [seconds: number, dbfs: number])[],
  hertz = 1000,
  rate = RATE,
  channels = 2,
) {
  const meter = new LoudnessMeter(rate, channels);
  let n = 0;
  for (const [seconds, dbfs] of segments) {
    const frames = Math.round(seconds * rate);
    const audio = new Float32Array(frames * channels);
    for (let i = 0; i < frames; i++, n++)
      for (let c = 0; c < channels; c++)
        audio[i * channels + c] = 10 ** (dbfs / 20) * Math.sin((2 * Math.PI * hertz * n) / rate);
    meter.push(audio);
  }
  return meter.integrated;
}

describe('K-weighting', () => {
  it('at 48 kHz is that of ITU-R BS.1770-4, annex 1, tables 1 and 2', () => {
    const [shelf, highPass] = kWeighting(48000);
    expect(shelf.b[0]).toBeCloseTo(1.53512485958697, 9);
    expect(shelf.b[1]).toBeCloseTo(-2.69169618940638, 9);
    expect(shelf.b[2]).toBeCloseTo(1.19839281085285, 9);
    expect(shelf.a[0]).toBeCloseTo(-1.69065929318241, 9);
    expect(shelf.a[1]).toBeCloseTo(0.73248077421585, 9);
    expect(highPass.b).toEqual([1, -2, 1]);
    expect(highPass.a[0]).toBeCloseTo(-1.99004745483398, 9);
    expect(highPass.a[1]).toBeCloseTo(0.99007225036621, 9);
  });
});

describe('integrated loudness', () => {
  // EBU Tech 3341, table 1, minimum requirements, cases 1 to 5 (from memory), each within 0.1 LU.
  it('case 1: a stereo tone of 1 kHz at -23 dBFS is -23 LUFS', () =>
    expect(Math.abs(loudness([[20, -23]])! + 23)).toBeLessThan(0.1));
  it('case 2: at -33 dBFS it is -33 LUFS', () =>
    expect(Math.abs(loudness([[20, -33]])! + 33)).toBeLessThan(0.1));
  it('case 3: softer parts before and after fall to the relative gate', () =>
    expect(
      Math.abs(
        loudness([
          [10, -36],
          [60, -23],
          [10, -36],
        ])! + 23,
      ),
    ).toBeLessThan(0.1));
  it('case 4: parts at -72 dBFS fall to the absolute gate', () =>
    expect(
      Math.abs(
        loudness([
          [10, -72],
          [10, -36],
          [60, -23],
          [10, -36],
          [10, -72],
        ])! + 23,
      ),
    ).toBeLessThan(0.1));
  it('case 5: parts of -26, -20 and -26 dBFS come to -23 LUFS', () =>
    expect(
      Math.abs(
        loudness([
          [20, -26],
          [20.1, -20],
          [20, -26],
        ])! + 23,
      ),
    ).toBeLessThan(0.1));
  // BS.1770-4, annex 1: a 0 dBFS tone of 997 Hz on one front channel is -3.01 LKFS.
  it('a mono tone of 997 Hz at full scale is -3.01 LUFS', () =>
    expect(loudness([[5, 0]], 997, RATE, 1)!).toBeCloseTo(-3.01, 1));
  it.each([44100, 96000])('is the same at %s Hz', (rate) =>
    expect(Math.abs(loudness([[5, -23]], 1000, rate)! + 23)).toBeLessThan(0.1),
  );
  it('of silence, and of less than 400 ms, is none', () => {
    expect(new LoudnessMeter(RATE, 2).integrated).toBeNull();
    expect(loudness([[5, -200]])).toBeNull();
    expect(loudness([[0.3, -20]])).toBeNull();
  });
});
