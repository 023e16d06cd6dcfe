// Where controls of a level-dependent processor leap, what it turns down follows through two one-pole filters more, for as long as the leap and
// its wake may last: what a control brings about is no transient of the music, however short the attack is. Then they let go.
import { SECTION } from './filter';
import { firstOf, loadState, storeState } from './lanes';
import { bow } from './math';
import { begins, sweep } from './travel';

/** Blocks in which the filters let go. */
const LETS_GO: f32 = 5;

/** How far in a block a number of decibels goes that leaps, a share or a ratio, and one of a section. */
export const DECIBELS: f32 = 0.05, SHARE: f32 = 0.01;
const OF_SECTION: f32 = 0.0005;

/** Lanes in which a number goes further than `most` in this block. @param at its place among a processor's, in bytes */
export function leaps(at: usize, most: f32): v128 {
  const far = f32x4(sweep(firstOf(0) + at), sweep(firstOf(1) + at), sweep(firstOf(2) + at), sweep(firstOf(3) + at));
  return f32x4.gt(far, f32x4.splat(most));
}
/** Lanes in which a section that hears leaps. @param at its place among a processor's numbers */
export function sectionLeaps(at: usize): v128 {
  let any = f32x4.splat(0);
  for (let i: usize = 0; i < SECTION; i += 4) any = v128.or(any, leaps(at + i, OF_SECTION));
  return any;
}
/** Lanes in which what is heard of a key leaps: its two cuts and its link, by their places. */
export function keyLeaps(lowCut: usize, highCut: usize, link: usize): v128 {
  return v128.or(leaps(link, SHARE), v128.or(sectionLeaps(lowCut), sectionLeaps(highCut)));
}

/** Whether any lane is eased. */
export let eases: bool = false;
const first: usize = memory.data(16, 16);
const next: usize = memory.data(16, 16);
const kept: usize = memory.data(16, 16);
// How far lanes are eased, before it is bent, and by how much further from frame to frame.
const far: usize = memory.data(16, 16);
const step: usize = memory.data(16, 16);

/**
 * Counts a block, where one begins.
 * @param state where a lane keeps four floats, in bytes: blocks that are left, how far it is eased, and the filters
 * @param leaps lanes whose controls leap in this block
 * @param share that the filters keep of a frame; @param blocks for which they do, and let go
 * @param now where they begin; @param slope how fast that goes, a frame
 */
export function ease(state: usize, leaps: v128, share: v128, blocks: v128, now: v128, slope: v128): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  let left = loadState(state);
  if (begins()) {
    const begun = v128.and(leaps, f32x4.eq(left, zero));
    if (v128.any_true(begun)) {
      // So that they go on as fast as it went.
      const ahead = f32x4.add(now, f32x4.div(slope, f32x4.sub(one, share)));
      storeState(state + 4, v128.bitselect(one, loadState(state + 4), begun));
      storeState(state + 8, v128.bitselect(ahead, loadState(state + 8), begun));
      storeState(state + 12, v128.bitselect(now, loadState(state + 12), begun));
    }
    left = v128.bitselect(blocks, f32x4.pmax(zero, f32x4.sub(left, one)), leaps);
    storeState(state, left);
  }
  const on = f32x4.gt(left, zero);
  eases = v128.any_true(on);
  if (!eases) return;
  const lets = v128.and(on, f32x4.le(left, f32x4.splat(LETS_GO)));
  v128.store(step, v128.bitselect(f32x4.splat(<f32>-0.0078125 / LETS_GO), f32x4.splat(0.0078125), lets));
  v128.store(step, v128.and(v128.load(step), on));
  v128.store(far, v128.and(loadState(state + 4), on));
  v128.store(kept, share);
  v128.store(first, loadState(state + 8));
  v128.store(next, loadState(state + 12));
}

/** What is turned down in a frame, eased. */
// @ts-ignore: decorator
@inline
export function eased(down: v128): v128 {
  const share = v128.load(kept);
  const a = f32x4.add(down, f32x4.mul(share, f32x4.sub(v128.load(first), down)));
  const b = f32x4.add(a, f32x4.mul(share, f32x4.sub(v128.load(next), a)));
  const t = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), f32x4.add(v128.load(far), v128.load(step))));
  v128.store(first, a);
  v128.store(next, b);
  v128.store(far, t);
  // In lanes that are not eased it is to the bit what it is.
  return f32x4.add(down, f32x4.mul(bow(t), f32x4.sub(b, down)));
}

/** Keeps where the filters stand. */
export function keepEase(state: usize): void {
  storeState(state + 4, v128.load(far));
  storeState(state + 8, v128.load(first));
  storeState(state + 12, v128.load(next));
}
