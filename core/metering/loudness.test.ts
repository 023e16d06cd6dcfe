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

/** Table 3 of BS.1770-5, annex 1: left, right, centre, left and right surround. */
const FIVE = [1, 1, 1, 1.41, 1.41];

describe('integrated loudness', () => {
  // EBU Tech 3341, table 1, case 6 (from memory): the same tone in five channels, at -28, -28, -24, -30 and -30 dBFS.
  it('case 6: a tone in five channels is -23 LUFS', () => {
    const meter = new LoudnessMeter(RATE, 5, FIVE);
    const levels = [-28, -28, -24, -30, -30];
    const audio = Float32Array.from({ length: 20 * RATE * 5 }, (_, i) => {
      const frame = Math.floor(i / 5);
      return 10 ** (levels[i % 5]! / 20) * Math.sin((2 * Math.PI * 1000 * frame) / RATE);
    });
    meter.push(audio);
    expect(Math.abs(meter.integrated! + 23)).toBeLessThan(0.1);
  });
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

/** The same meter, by segments; null is silence. Read every 10 ms from a time on. */
function heard(segments: readonly (readonly [seconds: number, dbfs: number | null])[], rate = RATE) {
  const meter = new LoudnessMeter(rate, 2);
  const momentary: number[] = [];
  const short: number[] = [];
  let n = 0;
  for (const [seconds, dbfs] of segments) {
    const frames = Math.round(seconds * rate);
    const gain = dbfs === null ? 0 : 10 ** (dbfs / 20);
    for (let at = 0; at < frames; at += 480) {
      const here = Math.min(480, frames - at);
      const audio = new Float32Array(here * 2);
      for (let i = 0; i < here; i++, n++)
        audio[2 * i] = audio[2 * i + 1] = gain * Math.sin((2 * Math.PI * 1000 * n) / rate);
      meter.push(audio);
      momentary.push(meter.momentary ?? -Infinity);
      short.push(meter.shortTerm ?? -Infinity);
    }
  }
  return { meter, momentary, short };
}
const near = (x: number, wanted: number, by = 0.1) => expect(Math.abs(x - wanted)).toBeLessThan(by);

// EBU Tech 3341, table 1, signals 9 to 14 (from memory).
describe('momentary and short-term loudness', () => {
  it('signal 9: 1.34 s at -20 and 1.66 s at -30 dBFS by turns are -23 LUFS in the short term, all the time', () => {
    const { short } = heard(
      Array.from(
        { length: 5 },
        () =>
          [
            [1.34, -20],
            [1.66, -30],
          ] as const,
      ).flat(),
    );
    for (const s of short.slice(310)) near(s, -23);
  });
  it('signal 10: 3 s at -23 dBFS come to -23 LUFS, wherever they begin', () => {
    for (let i = 0; i < 20; i += 3) {
      const { meter } = heard([
        [0.001 + i * 0.15, null],
        [3, -23],
        [1, null],
      ]);
      near(meter.maxShortTerm!, -23);
    }
  });
  it('signal 11: of 3 s each between silence, from -38 to -19 dBFS, every one is told', () => {
    for (let i = 0; i < 20; i += 4) {
      const { meter } = heard([
        [i * 0.15, null],
        [3, -38 + i],
        [3 - i * 0.15, null],
      ]);
      near(meter.maxShortTerm!, -38 + i);
    }
  });
  it('signal 12: 0.18 s at -20 and 0.22 s at -30 dBFS by turns are -23 LUFS at every moment', () => {
    const { momentary } = heard(
      Array.from(
        { length: 25 },
        () =>
          [
            [0.18, -20],
            [0.22, -30],
          ] as const,
      ).flat(),
    );
    for (const m of momentary.slice(100)) near(m, -23);
  });
  it('signal 13: 0.4 s at -23 dBFS come to -23 LUFS, wherever they begin', () => {
    for (let i = 0; i < 20; i++)
      near(
        heard([
          [i * 0.02, null],
          [0.4, -23],
          [1, null],
        ]).meter.maxMomentary!,
        -23,
      );
  });
  it('signal 14: of 0.4 s each, from -38 to -19 dBFS, every one is told', () => {
    for (let i = 0; i < 20; i++)
      near(
        heard([
          [i * 0.02, null],
          [0.4, -38 + i],
          [0.4, null],
        ]).meter.maxMomentary!,
        -38 + i,
      );
  });
  it('is the same at 44.1 kHz, whose hundredths are no whole frames', () => {
    const { meter } = heard([[4, -23]], 44100);
    near(meter.maxMomentary!, -23);
    near(meter.maxShortTerm!, -23);
  });
});

// EBU Tech 3342, table 1, signals 1 to 4 (from memory), within 1 LU; 5 and 6 are programmes, which are not to be had here.
describe('loudness range', () => {
  it.each([
    [10, [-20, -30]],
    [5, [-20, -15]],
    [20, [-40, -20]],
    [15, [-50, -35, -20, -35, -50]],
  ])('is %s LU of 20 s each at %j dBFS', (range, levels) => {
    near(heard(levels.map((l) => [20, l] as const)).meter.range!, range, 0.5);
  });
  it('of less than 3 s, and of silence, is none', () => {
    expect(heard([[2.9, -20]]).meter.range).toBeNull();
    expect(heard([[5, null]]).meter.range).toBeNull();
  });
});
