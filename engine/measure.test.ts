import { describe, expect, it } from 'vitest';
import { newInsert, newSession, newStrip } from '../core/session/defaults';
import type { Session, Strip } from '../core/session/types';
import { measure } from './measure';
import { fitFrames } from './print';
import { engineModule, sine } from './testing/run';

const RATE = 48000;
const base = newSession('Measure');
const session = (change: Partial<Strip> = {}): Session => ({
  ...base,
  strips: [
    newStrip({ id: 'a', kind: 'source', name: 'A', channels: 2, out: { to: 'bus', on: true } }),
    newStrip({ id: 'bus', kind: 'submix', name: 'Bus', out: { to: 'main', on: true }, ...change }),
    ...base.strips,
  ],
});
/** A tone that begins at 2 s, 1 kHz at -20 dBFS on both sides. */
const tone = sine(1000, RATE, RATE * 8, 0.1).map((v, i) => (i < RATE * 2 ? 0 : v));
const stems = {
  read: (s: Strip, at: number, into: Float32Array) =>
    fitFrames(tone.subarray(at, at + into.length / s.channels), 1, into, s.channels),
};
const run = (s: Session, start: number, seconds: number, levels = true) =>
  measure({ session: s, start: start * RATE, frames: seconds * RATE, stems, module: engineModule, levels });

describe('measuring an excerpt', () => {
  it('reads peak, RMS and loudness at every strip', async () => {
    const m = await run(session({ faderDb: -6 }), 4, 2);
    const of = (id: string) => m.strips.find((s) => s.strip === id)!;
    // A sine's RMS is 3.01 dB below its peak; a stereo 1 kHz tone at -20 dBFS is -20 LUFS (EBU Tech 3341).
    expect(20 * Math.log10(of('a').peak)).toBeCloseTo(-20, 2);
    expect(of('a').rmsDb!).toBeCloseTo(-23.01, 2);
    expect(of('a').loudness!).toBeCloseTo(-20, 1);
    for (const id of ['bus', 'main']) {
      expect(of(id).rmsDb! - of('a').rmsDb!).toBeCloseTo(-6, 3);
      expect(of(id).loudness! - of('a').loudness!).toBeCloseTo(-6, 3);
    }
  });
  it('reads silence before the tone, and no peak of what comes before the excerpt', async () => {
    const before = await run(session(), 0, 1);
    expect(before.strips.every((s) => s.peak === 0 && s.rmsDb === null && s.loudness === null)).toBe(true);
    const muted = await run(session({ mute: true }), 4, 1);
    expect(muted.strips.find((s) => s.strip === 'main')!.peak).toBe(0);
  });
  it('reads gain reduction', async () => {
    const inserts = [
      newInsert({
        id: 'c',
        type: 'compressor',
        params: { threshold: -40, ratio: 2, knee: 0, attack: 0.1, release: 3000 },
      }),
    ];
    const m = await run(session({ inserts }), 5, 2);
    expect(m.reductions).toHaveLength(1);
    // Peak detection with a long release: (20 dB above the threshold) / 2 of reduction.
    expect(m.reductions[0]).toMatchObject({ strip: 'bus', insert: 'c' });
    expect(m.reductions[0]!.mean).toBeCloseTo(10, 1);
    expect(m.reductions[0]!.most).toBeCloseTo(10, 1);
  });
  it('reads peaks alone when that is all that is asked for', async () => {
    const m = await run(session(), 4, 1, false);
    expect(m.strips.find((s) => s.strip === 'main')).toMatchObject({ rmsDb: null, loudness: null });
    expect(m.strips.find((s) => s.strip === 'main')!.peak).toBeCloseTo(0.1, 4);
  });
  it('can be stopped', async () => {
    const stop = new AbortController();
    const running = measure({
      session: session(),
      start: 0,
      frames: RATE * 600,
      stems,
      module: engineModule,
      signal: stop.signal,
      progress: () => stop.abort(),
    });
    await expect(running).rejects.toThrow();
  });
});
