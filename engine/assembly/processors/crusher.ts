// Bit depth and sample rate on four lanes; core/processors/crusher.ts says what its parameters mean.
import * as its from '../../../build/engine/parameters/crusher';
import { bow } from '../math';
import { current, loadState, previous, signal, storeState } from '../lanes';
import { fourBytes, perFrame } from '../span';

// State: 16 phase of the slower clock, 20 held value, 24 the dither's random number (an integer), 28 whether it has run; 32 the step
// that it has, 36 the one from which it crosses over to that, 40 the value held by it, 44 frames of the crossing that are left.
const S_PHASE: usize = 16;
const S_STEP: usize = 32;

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 48;
}

export function process(): void {
  const one = f32x4.splat(1), zero = f32x4.splat(0);
  const rate = current(its.rate), dither = current(its.dither), wanted = current(its.step), fade = f32x4.pmax(one, current(its.fade));
  const rests0 = previous(its.rests);
  const goes = f32x4.mul(f32x4.splat(perFrame), f32x4.sub(current(its.rests), rests0));
  let rests = rests0;
  let phase = loadState(S_PHASE), held = loadState(S_PHASE + 4), random = loadState(S_PHASE + 8);
  const ran = f32x4.gt(loadState(S_PHASE + 12), zero);
  // The first frame ticks at once.
  phase = v128.bitselect(phase, f32x4.sub(one, rate), ran);
  let step = v128.bitselect(loadState(S_STEP), wanted, ran), was = loadState(S_STEP + 4), heldWas = loadState(S_STEP + 8);
  let left = loadState(S_STEP + 12);
  const leaps = v128.andnot(f32x4.ne(step, wanted), f32x4.gt(left, zero));
  was = v128.bitselect(step, was, leaps);
  heldWas = v128.bitselect(held, heldWas, leaps);
  left = v128.bitselect(fade, left, leaps);
  step = v128.bitselect(wanted, step, leaps);
  const crosses = v128.any_true(f32x4.gt(left, zero));
  const perStep = f32x4.div(one, step), perWas = f32x4.div(one, f32x4.pmax(was, f32x4.splat(1e-9)));
  const tiny = f32x4.splat(2.3283064e-10); // 2^-32
  for (let i: usize = 0; i < fourBytes; i += 16) {
    const x = v128.load(signal + i);
    phase = f32x4.add(phase, rate);
    const ticks = f32x4.ge(phase, one);
    phase = v128.bitselect(f32x4.sub(phase, f32x4.floor(phase)), phase, ticks);
    random = i32x4.add(i32x4.mul(random, i32x4.splat(1664525)), i32x4.splat(1013904223));
    const first = f32x4.convert_i32x4_s(random);
    random = i32x4.add(i32x4.mul(random, i32x4.splat(1664525)), i32x4.splat(1013904223));
    const noise = f32x4.mul(dither, f32x4.mul(tiny, f32x4.add(first, f32x4.convert_i32x4_s(random))));
    const level = f32x4.add(f32x4.mul(x, perStep), noise);
    held = v128.bitselect(f32x4.mul(step, f32x4.nearest(level)), held, ticks);
    let coarse = held;
    if (crosses) {
      const before = f32x4.nearest(f32x4.add(f32x4.mul(x, perWas), noise));
      heldWas = v128.bitselect(f32x4.mul(was, before), heldWas, ticks);
      left = f32x4.pmax(zero, f32x4.sub(left, one));
      coarse = f32x4.add(held, f32x4.mul(bow(f32x4.div(left, fade)), f32x4.sub(heldWas, held)));
    }
    rests = f32x4.add(rests, goes);
    const y = f32x4.add(coarse, f32x4.mul(rests, f32x4.sub(x, coarse)));
    v128.store(signal + i, v128.bitselect(x, y, f32x4.ge(rests, one)));
  }
  storeState(S_PHASE, phase);
  storeState(S_PHASE + 4, held);
  storeState(S_PHASE + 8, random);
  storeState(S_PHASE + 12, one);
  storeState(S_STEP, step);
  storeState(S_STEP + 4, was);
  storeState(S_STEP + 8, heldWas);
  storeState(S_STEP + 12, left);
}
