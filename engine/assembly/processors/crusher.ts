// Bit depth and sample rate on four lanes; core/processors/crusher.ts says what its parameters mean.
import * as its from '../../../build/engine/parameters/crusher';
import { current, loadState, previous, signal, storeState } from '../lanes';
import { fourBytes, perFrame } from '../span';

// State: 16 phase of the slower clock, 20 held value, 24 the dither's random number (an integer), 28 whether it has run.
const S_PHASE: usize = 16;

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 32;
}

export function process(): void {
  const one = f32x4.splat(1), zero = f32x4.splat(0);
  const step = current(its.step), rate = current(its.rate), dither = current(its.dither);
  const rests0 = previous(its.rests);
  const goes = f32x4.mul(f32x4.splat(perFrame), f32x4.sub(current(its.rests), rests0));
  let rests = rests0;
  const perStep = f32x4.div(one, step);
  let phase = loadState(S_PHASE), held = loadState(S_PHASE + 4), random = loadState(S_PHASE + 8);
  // The first frame ticks at once.
  phase = v128.bitselect(f32x4.sub(one, rate), phase, f32x4.eq(loadState(S_PHASE + 12), zero));
  const tiny = f32x4.splat(2.3283064e-10); // 2^-32
  for (let i: usize = 0; i < fourBytes; i += 16) {
    const x = v128.load(signal + i);
    phase = f32x4.add(phase, rate);
    const ticks = f32x4.ge(phase, one);
    phase = v128.bitselect(f32x4.sub(phase, f32x4.floor(phase)), phase, ticks);
    random = i32x4.add(i32x4.mul(random, i32x4.splat(1664525)), i32x4.splat(1013904223));
    const first = f32x4.convert_i32x4_s(random);
    random = i32x4.add(i32x4.mul(random, i32x4.splat(1664525)), i32x4.splat(1013904223));
    const noise = f32x4.mul(tiny, f32x4.add(first, f32x4.convert_i32x4_s(random)));
    const level = f32x4.add(f32x4.mul(x, perStep), f32x4.mul(dither, noise));
    held = v128.bitselect(f32x4.mul(step, f32x4.nearest(level)), held, ticks);
    rests = f32x4.add(rests, goes);
    const y = f32x4.add(held, f32x4.mul(rests, f32x4.sub(x, held)));
    v128.store(signal + i, v128.bitselect(x, y, f32x4.ge(rests, one)));
  }
  storeState(S_PHASE, phase);
  storeState(S_PHASE + 4, held);
  storeState(S_PHASE + 8, random);
  storeState(S_PHASE + 12, one);
}
