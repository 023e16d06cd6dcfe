import { describe, expect, it } from 'vitest';
import { apply } from '../core/edits/apply';
import { dissolve } from '../core/operations/dissolve';
import { gather } from '../core/operations/gather';
import type { Session } from '../core/session/types';
import { demoSession } from '../demo/session';
import { noise, play, type TestStems } from './testing/run';

const BLOCKS = 120;
const demo = demoSession();
/** Noise of each strip's own at every stem of the demo, loud enough to drive its compressors. */
const stems: TestStems = Object.fromEntries(
  demo.strips
    .filter((s) => s.kind === 'source')
    .map((s, i) => [s.id, [noise(BLOCKS * 128, i + 1), noise(BLOCKS * 128, i + 101)]]),
);
const main = (s: Session) => play(s, stems, BLOCKS).main!;
/** Greatest difference of two prints, in dBFS. */
function difference(a: readonly Float32Array[], b: readonly Float32Array[]): number {
  let worst = 0;
  a.forEach((side, c) =>
    side.forEach((v, i) => {
      worst = Math.max(worst, Math.abs(v - b[c]![i]!));
    }),
  );
  return 20 * Math.log10(worst + 1e-12);
}
const gathered = (s: Session, ids: readonly string[]) => {
  const g = gather(s, ids);
  return { session: apply(s, g.commands).session, made: g.made };
};

describe('the demo, printed before and after', () => {
  const before = main(demo);

  it.each([
    ['a family', ['bass-di', 'bass-mic', 'bass-cab']],
    ['strips across families', ['bass-di', 'fiddle-close', 'harp-low', 'whistle']],
    ['members of a submix', ['skin', 'rim', 'shaker']],
    ['submixes and returns', ['percussion', 'choir', 'slap']],
  ])('gathering %s differs by less than -120 dBFS', (_what, ids) => {
    expect(difference(before, main(gathered(demo, ids).session))).toBeLessThan(-120);
  });

  it('submixes of submixes, three deep, differ by less than -120 dBFS', () => {
    const one = gathered(demo, ['bass-di', 'bass-mic', 'bass-cab']);
    const two = gathered(one.session, [one.made, 'percussion']);
    const three = gathered(two.session, [two.made, 'choir', 'fiddle-close']);
    expect(difference(before, main(three.session))).toBeLessThan(-120);
  });

  it('dissolving the choir’s submix differs by less than -100 dBFS', () => {
    expect(difference(before, main(apply(demo, dissolve(demo, 'choir')).session))).toBeLessThan(-100);
  });

  it('is loud: the differences say something', () => {
    expect(
      difference(
        before,
        before.map((c) => new Float32Array(c.length)),
      ),
    ).toBeGreaterThan(-20);
  });
});
