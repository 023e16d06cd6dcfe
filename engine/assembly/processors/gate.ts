// An expander with hysteresis and hold on four lanes; core/processors/gate.ts says what its parameters mean.
import * as its from '../../../build/engine/parameters/gate';
import { finish, section } from '../filter';
import { current, keys, loadState, paired, signal, storeState } from '../lanes';
import { flush, gainOf, linkedLevel, powerDecibels } from '../math';
import { fourBytes, perFrame } from '../span';

// State: 0 reduction and 4 level heard in the last block; 16 detector, 20 reduction, 24 frames of hold that are left;
// 32 two sections of the key's cuts.
const S_LEVEL: usize = 16;
const S_CUTS: usize = 32;

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 48;
}

export function process(): void {
  section(keys, its.keyLowCut, S_CUTS);
  section(keys, its.keyHighCut, S_CUTS + 8);
  finish(keys);
  const one = f32x4.splat(1), zero = f32x4.splat(0);
  const threshold = current(its.threshold), slope = current(its.slope), range = current(its.range);
  const lower = f32x4.sub(threshold, current(its.hysteresis));
  const attack = current(its.attack), hold = current(its.hold), release = current(its.release), forget = current(its.forget), link = current(its.link);
  const pairs = v128.load(paired);
  const linked = v128.any_true(pairs);
  let detector = loadState(S_LEVEL), down = loadState(S_LEVEL + 4), left = loadState(S_LEVEL + 8);
  let sum = zero, most = f32x4.splat(-160);
  for (let i: usize = 0; i < fourBytes; i += 16) {
    detector = f32x4.pmax(f32x4.abs(v128.load(keys + i)), f32x4.mul(forget, detector));
    let level = powerDecibels(f32x4.mul(detector, detector));
    if (linked) level = linkedLevel(level, link, pairs);
    most = f32x4.pmax(most, level);
    const wasOpen = f32x4.gt(left, zero);
    const keeps = v128.or(f32x4.ge(level, threshold), v128.and(wasOpen, f32x4.ge(level, lower)));
    left = v128.bitselect(hold, f32x4.pmax(zero, f32x4.sub(left, one)), keeps);
    const closed = f32x4.le(left, zero);
    const wanted = v128.and(closed, f32x4.pmin(range, f32x4.mul(slope, f32x4.pmax(zero, f32x4.sub(threshold, level)))));
    const share = v128.bitselect(attack, release, f32x4.lt(wanted, down));
    down = f32x4.add(wanted, f32x4.mul(share, f32x4.sub(down, wanted)));
    sum = f32x4.add(sum, down);
    v128.store(signal + i, f32x4.mul(v128.load(signal + i), gainOf(f32x4.neg(down))));
  }
  storeState(0, f32x4.mul(sum, f32x4.splat(perFrame)));
  storeState(4, most);
  storeState(S_LEVEL, flush(detector));
  storeState(S_LEVEL + 4, flush(down));
  storeState(S_LEVEL + 8, left);
}
