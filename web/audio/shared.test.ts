import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { songAt, untilJump, type Cue } from './shared';

/** Playing frame by frame: the plain way to say where a loop leads. */
function walk(cue: Cue, frames: number): number {
  let at = cue.start;
  for (let i = 0; i < frames; i++) {
    at++;
    if (cue.loopEnd > cue.loopStart && cue.start < cue.loopEnd && at === cue.loopEnd) at = cue.loopStart;
  }
  return at;
}

describe('where a song stands', () => {
  it('is where playing frame by frame leads, with loops, from before and inside them', () => {
    fc.assert(
      fc.property(fc.nat(300), fc.nat(200), fc.nat(100), fc.nat(900), (start, loopStart, length, clock) => {
        const cue = { start, loopStart, loopEnd: length === 0 ? 0 : loopStart + length };
        expect(songAt(cue, clock)).toBe(walk(cue, clock));
        const left = untilJump(cue, clock);
        if (left !== Infinity) {
          expect(left).toBeGreaterThan(0);
          expect(songAt(cue, clock + left)).toBe(loopStart);
        }
      }),
    );
  });
});
