// An expander with hysteresis and hold on four lanes; core/processors/gate.ts says what its parameters mean.
import * as its from '../../../build/engine/parameters/gate';
import { DECIBELS, ease, eased, eases, keepEase, keyLeaps, leaps, SHARE } from '../ease';
import { finish, section } from '../filter';
import { current, heard, keys, loadState, paired, signal, storeState, takeKeys } from '../lanes';
import { flush, gainOf, linkedLevel, powerDecibels } from '../math';
import { quietOne } from '../quiet';
import { fourBytes, perFrame } from '../span';
import { standing } from '../travel';

// State: 0 reduction and 4 level heard in the last block; 16 reduction, 20 frames of hold that are left, 24 whether it has
// run; 28 the highest level of this window since it closed, 32 of the last, 36 frames that are left of this; 40 two sections of the key's cuts,
// 56 what is eased.
const S_DOWN: usize = 16;
const S_LEFT: usize = 20;
const S_RUN: usize = 24;
const S_TOP: usize = 28;
const S_CUTS: usize = 40;
const S_EASE: usize = 56;

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 72;
}

/** Lanes in which a control goes so fast that what it opens or closes is eased. */
function leaping(): v128 {
  if (standing()) return f32x4.splat(0);
  const levels = v128.or(leaps(its.threshold, DECIBELS), leaps(its.hysteresis, DECIBELS));
  const curve = v128.or(leaps(its.range, DECIBELS), leaps(its.slope, SHARE));
  return v128.or(v128.or(levels, curve), keyLeaps(its.keyLowCut, its.keyHighCut, its.link));
}

/** A level where nothing is heard, in dB. */
const NOTHING: f32 = -160;
/** How many decibels before it is there a single number comes to rest. */
const NEAR: f32 = 0.5;
/** Whether nothing comes in, by itself or by its key, and all four lanes are closed as far as they close. */
function sleeps(): bool {
  if (!quietOne(signal, fourBytes) || !quietOne(heard(), fourBytes)) return false;
  const zero = f32x4.splat(0), nearly = f32x4.splat(NOTHING + 0.1);
  for (let at = S_CUTS; at <= S_EASE; at += 4) if (v128.any_true(f32x4.ne(loadState(at), zero))) return false;
  const under = f32x4.sub(current(its.threshold), f32x4.splat(NOTHING));
  const wanted = f32x4.pmin(current(its.range), f32x4.mul(current(its.slope), under));
  const left = f32x4.gt(loadState(S_LEFT), zero);
  const loud = v128.or(f32x4.gt(loadState(S_TOP), nearly), f32x4.gt(loadState(S_TOP + 4), nearly));
  // Single numbers come to rest a little before they are there.
  const off = f32x4.gt(f32x4.abs(f32x4.sub(loadState(S_DOWN), wanted)), f32x4.splat(NEAR));
  if (v128.any_true(v128.or(v128.or(left, loud), v128.or(off, f32x4.eq(loadState(S_RUN), zero))))) return false;
  storeState(0, wanted);
  storeState(4, f32x4.splat(NOTHING));
  storeState(S_DOWN, wanted);
  storeState(S_TOP, f32x4.splat(NOTHING));
  storeState(S_TOP + 4, f32x4.splat(NOTHING));
  storeState(S_TOP + 8, zero);
  return true;
}

export function process(): void {
  const before = v128.bitselect(loadState(S_DOWN), current(its.range), f32x4.gt(loadState(S_RUN), f32x4.splat(0)));
  ease(S_EASE, leaping(), current(its.ease), current(its.easeBlocks), before, f32x4.splat(0));
  if (sleeps()) return;
  takeKeys(fourBytes);
  section(keys, its.keyLowCut, S_CUTS);
  section(keys, its.keyHighCut, S_CUTS + 8);
  finish(keys);
  const one = f32x4.splat(1), zero = f32x4.splat(0), silent = f32x4.splat(NOTHING);
  const nearly = f32x4.splat(NOTHING + 0.1);
  const threshold = current(its.threshold), slope = current(its.slope), range = current(its.range);
  const lower = f32x4.sub(threshold, current(its.hysteresis));
  const attack = current(its.attack), hold = current(its.hold), release = current(its.release), link = current(its.link);
  const window = current(its.window);
  const pairs = v128.load(paired);
  const linked = v128.any_true(pairs);
  const run = loadState(S_RUN);
  const fresh = f32x4.eq(run, zero);
  // It begins closed.
  let down = v128.bitselect(range, loadState(S_DOWN), fresh);
  let top = v128.bitselect(silent, loadState(S_TOP), fresh), last = v128.bitselect(silent, loadState(S_TOP + 4), fresh);
  let left = loadState(S_LEFT), until = loadState(S_TOP + 8);
  const easy = eases;
  let sum = zero, most = silent;
  for (let i: usize = 0; i < fourBytes; i += 16) {
    const x = v128.load(keys + i);
    let level = powerDecibels(f32x4.mul(x, x));
    if (linked) level = linkedLevel(level, link, pairs);
    most = f32x4.pmax(most, level);
    const wasOpen = f32x4.gt(left, zero);
    const keeps = v128.or(f32x4.ge(level, threshold), v128.and(wasOpen, f32x4.ge(level, lower)));
    left = v128.bitselect(hold, f32x4.pmax(zero, f32x4.sub(left, one)), keeps);
    const closed = f32x4.le(left, zero);
    // How loud it is while it is closed: the highest of one window or two.
    const ends = f32x4.le(until, one);
    last = v128.bitselect(top, last, ends);
    top = v128.bitselect(silent, top, v128.or(ends, v128.not(closed)));
    last = v128.bitselect(last, silent, closed);
    top = v128.bitselect(f32x4.pmax(top, level), top, closed);
    until = v128.bitselect(window, f32x4.sub(until, one), ends);
    const under = f32x4.pmax(zero, f32x4.sub(threshold, f32x4.pmax(top, last)));
    const wanted = v128.and(closed, f32x4.pmin(range, f32x4.mul(slope, under)));
    const share = v128.bitselect(attack, release, f32x4.lt(wanted, down));
    down = f32x4.add(wanted, f32x4.mul(share, f32x4.sub(down, wanted)));
    // In silence each lane comes to rest as `sleeps` leaves it, whether the others sleep too or not.
    const idle = v128.and(v128.and(closed, f32x4.le(level, nearly)), v128.and(f32x4.le(top, nearly), f32x4.le(last, nearly)));
    top = v128.bitselect(silent, top, idle);
    last = v128.bitselect(silent, last, idle);
    until = v128.andnot(until, idle);
    const y = v128.load(signal + i);
    const near = v128.and(f32x4.eq(y, zero), f32x4.le(f32x4.abs(f32x4.sub(down, wanted)), f32x4.splat(NEAR)));
    down = v128.bitselect(wanted, down, v128.and(idle, near));
    const shown = easy ? eased(down) : down;
    sum = f32x4.add(sum, shown);
    v128.store(signal + i, f32x4.mul(y, gainOf(f32x4.neg(shown))));
  }
  storeState(0, f32x4.mul(sum, f32x4.splat(perFrame)));
  storeState(4, most);
  storeState(S_DOWN, flush(down));
  storeState(S_LEFT, left);
  if (easy) keepEase(S_EASE);
  storeState(S_RUN, one);
  storeState(S_TOP, top);
  storeState(S_TOP + 4, last);
  storeState(S_TOP + 8, until);
}
