import { expect, it } from 'vitest';
import { kept, source } from '@/testing/feeds';
import { Feeder, type LateSource } from './feeder';
import { CONTROL, CONTROL_WORDS, ringNext, ringViews } from './shared';

it.each([
  [50, 50],
  [300, 250],
  [900, 200],
  [600, 200],
])(
  'none is late where a slice of each takes %d ms of the first two answers, and %d after them: it begins when all have what comes next',
  async (cold, warm) => {
    const stems = Array.from({ length: 16 }, (_, k) => source(String.fromCodePoint(0x400 + k)));
    const memory = new SharedArrayBuffer(CONTROL_WORDS * 4);
    const control = new Int32Array(memory);
    const late: LateSource[] = [];
    let milliseconds = 0;
    let clock = -1;
    let done = 0;
    let asked = 0;
    const slow = new Feeder(
      async (slices, take) => {
        // Of sixteen slices; one after the other, also of two questions at once.
        const each = (asked++ < 2 ? cold : warm) / 16;
        const begins = Math.max(milliseconds, done);
        done = begins + each * slices.length;
        for (const [n, { stem, start, frames }] of slices.entries()) {
          while (milliseconds < begins + each * (n + 1)) await new Promise(setImmediate);
          take(n, kept(stem, start, frames, 1));
        }
      },
      () => milliseconds,
      ({ sources }) => void late.push(...sources),
    );
    slow.hear({ type: 'start', control: memory });
    slow.hear({ type: 'sources', sources: stems });
    slow.hear({ type: 'cue', generation: 1, cue: { start: 0, loopStart: 0, loopEnd: 0 } });
    // 48,000 frames a second are played from when it says so, for a second and a half.
    let behind = 0;
    for (let turn = 0; turn < 700 && clock < 72_000; turn++) {
      milliseconds += 10;
      for (let k = 0; k < 24; k++) await new Promise(setImmediate);
      if (Atomics.load(control, CONTROL.ready) === 1) {
        clock += clock < 0 ? 1 : 480;
        Atomics.store(control, CONTROL.playing, 1);
        Atomics.store(control, CONTROL.clock, clock);
        behind += stems.filter(
          (s) => Atomics.load(ringViews(s.ring, 1).head, ringNext(1)) < clock + 480,
        ).length;
      }
      slow.fill();
    }
    expect(clock).toBeGreaterThan(72_000 - 480);
    expect([behind, late]).toEqual([0, []]);
  },
);
