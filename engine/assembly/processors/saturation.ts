// A wave shaper at sixteen times the sample rate, on four lanes; core/processors/saturation.ts gives its formulas.
import * as its from '../../../build/engine/parameters/saturation';
import { current, loadState, paired, previous, signal, storeState } from '../lanes';
import { flush, powerDecibels, tanh } from '../math';
import { fourBytes, frames, perFrame } from '../span';
import { narrow, OVERSAMPLE_FLOATS, TIMES, widen, wide } from '../oversample';

// State: 0 reduction and 4 level of the last block; 8 frames for which nothing has come in; 16 mean that a one-sided shape leaves; 20 and 24 powers before and behind,
// 28 the gain that keeps the level, less 1; 32 the filters' memories.
const S_QUIET: usize = 8;
/** Once nothing has come in for so long, half a second at 192 kHz, nothing is left of what came, and it sleeps. */
const LONG: f32 = 98304;
const S_MEAN: usize = 16;
const S_BEFORE: usize = 20;
const S_BEHIND: usize = 24;
const S_KEPT: usize = 28;
const S_FILTERS: usize = 32;

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return i32(S_FILTERS) + OVERSAMPLE_FLOATS * 4;
}

// What gives soft signals their own level back: 1 / (1 - tanh^2 offset).
// @ts-ignore: decorator
@inline
function scaleOf(rest: v128): v128 {
  return f32x4.div(f32x4.splat(1), f32x4.sub(f32x4.splat(1), f32x4.mul(rest, rest)));
}
// A sine by its series about the nearest multiple of pi; error below 1e-6.
// @ts-ignore: decorator
@inline
function sine(x: v128): v128 {
  const turns = f32x4.nearest(f32x4.mul(x, f32x4.splat(0.3183098861837907)));
  const t = f32x4.sub(f32x4.sub(x, f32x4.mul(turns, f32x4.splat(3.140625))), f32x4.mul(turns, f32x4.splat(0.0009676535897932)));
  const s = f32x4.mul(t, t);
  let p = f32x4.add(f32x4.splat(2.7557319e-6), f32x4.mul(s, f32x4.splat(-2.5052108e-8)));
  p = f32x4.add(f32x4.splat(-1.9841270e-4), f32x4.mul(s, p));
  p = f32x4.add(f32x4.splat(8.3333333e-3), f32x4.mul(s, p));
  p = f32x4.add(f32x4.splat(-1.6666667e-1), f32x4.mul(s, p));
  const y = f32x4.add(t, f32x4.mul(t, f32x4.mul(s, p)));
  // Odd half turns are upside down.
  const odd = i32x4.shl(i32x4.trunc_sat_f32x4_s(turns), 31);
  return v128.xor(y, odd);
}

function most(v: v128): f32 {
  return max(max(f32x4.extract_lane(v, 0), f32x4.extract_lane(v, 1)), max(f32x4.extract_lane(v, 2), f32x4.extract_lane(v, 3)));
}

/** The even-handed curve alone, at rest but for its drive and offset. */
function even(step: v128): void {
  let drive = previous(its.drive), offset = previous(its.offset);
  let rest = tanh(offset), scale = scaleOf(rest);
  const rest1 = tanh(current(its.offset));
  const dDrive = f32x4.mul(step, f32x4.sub(current(its.drive), drive)), dOffset = f32x4.mul(step, f32x4.sub(current(its.offset), offset));
  const dRest = f32x4.mul(step, f32x4.sub(rest1, rest)), dScale = f32x4.mul(step, f32x4.sub(scaleOf(rest1), scale));
  for (let i: usize = 0; i < fourBytes * TIMES; i += 16) {
    drive = f32x4.add(drive, dDrive);
    offset = f32x4.add(offset, dOffset);
    rest = f32x4.add(rest, dRest);
    scale = f32x4.add(scale, dScale);
    const bent = tanh(f32x4.add(f32x4.mul(drive, v128.load(wide + i)), offset));
    v128.store(wide + i, f32x4.mul(scale, f32x4.sub(bent, rest)));
  }
}
/** As much of each curve as lanes ask for. */
function mixed(step: v128): void {
  const one = f32x4.splat(1);
  let drive = previous(its.drive), offset = previous(its.offset);
  let rest = tanh(offset), scale = scaleOf(rest);
  let evens = previous(its.even), gentles = previous(its.gentle), folds = previous(its.folded);
  const rest1 = tanh(current(its.offset));
  const dDrive = f32x4.mul(step, f32x4.sub(current(its.drive), drive)), dOffset = f32x4.mul(step, f32x4.sub(current(its.offset), offset));
  const dRest = f32x4.mul(step, f32x4.sub(rest1, rest)), dScale = f32x4.mul(step, f32x4.sub(scaleOf(rest1), scale));
  const dEvens = f32x4.mul(step, f32x4.sub(current(its.even), evens)), dGentles = f32x4.mul(step, f32x4.sub(current(its.gentle), gentles));
  const dFolds = f32x4.mul(step, f32x4.sub(current(its.folded), folds));
  const anyEven = most(f32x4.pmax(evens, current(its.even))) > 0;
  const anyFold = most(f32x4.pmax(folds, current(its.folded))) > 0;
  for (let i: usize = 0; i < fourBytes * TIMES; i += 16) {
    drive = f32x4.add(drive, dDrive);
    offset = f32x4.add(offset, dOffset);
    rest = f32x4.add(rest, dRest);
    scale = f32x4.add(scale, dScale);
    evens = f32x4.add(evens, dEvens);
    gentles = f32x4.add(gentles, dGentles);
    folds = f32x4.add(folds, dFolds);
    const x = f32x4.mul(drive, v128.load(wide + i));
    let y = f32x4.mul(gentles, f32x4.div(x, f32x4.sqrt(f32x4.add(one, f32x4.mul(x, x)))));
    if (anyEven) y = f32x4.add(y, f32x4.mul(evens, f32x4.mul(scale, f32x4.sub(tanh(f32x4.add(x, offset)), rest))));
    if (anyFold) y = f32x4.add(y, f32x4.mul(folds, sine(x)));
    v128.store(wide + i, y);
  }
}

// The other of each pair of lanes.
// @ts-ignore: decorator
@inline
function partner(v: v128): v128 {
  return i8x16.shuffle(v, v, 4, 5, 6, 7, 0, 1, 2, 3, 12, 13, 14, 15, 8, 9, 10, 11);
}
// @ts-ignore: decorator
@inline
function together(v: v128): v128 {
  return v128.bitselect(f32x4.add(v, partner(v)), v, v128.load(paired));
}

// By how much a tone of a level is turned down by a drive: what an average has gathered behind one drive stands for another so.
// @ts-ignore: decorator
@inline
function turnedDown(peak: v128, drive: v128): v128 {
  const x = f32x4.mul(drive, f32x4.pmax(peak, f32x4.splat(1e-6)));
  return f32x4.div(tanh(x), x);
}

/** What keeps the level: the powers before and behind, held against each other. @returns the gain at the part's end */
function kept(before: v128, behind: v128): v128 {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  const share = f32x4.mul(current(its.average), f32x4.splat(<f32>frames));
  const over = f32x4.splat(<f32>1 / <f32>frames);
  let p = loadState(S_BEFORE), q = loadState(S_BEHIND);
  // Another drive is made up for as it comes, not when the average has heard it.
  const peak = f32x4.sqrt(f32x4.add(p, p));
  const other = f32x4.div(turnedDown(peak, current(its.driven)), turnedDown(peak, previous(its.driven)));
  q = f32x4.mul(q, f32x4.mul(other, other));
  p = f32x4.add(p, f32x4.mul(share, f32x4.sub(f32x4.mul(over, before), p)));
  q = f32x4.add(q, f32x4.mul(share, f32x4.sub(f32x4.mul(over, behind), q)));
  storeState(S_BEFORE, flush(p));
  storeState(S_BEHIND, flush(q));
  const a = together(p), b = together(q);
  // What is too soft to be told leaves it where it is.
  const heard = v128.and(f32x4.gt(a, f32x4.splat(1e-10)), f32x4.gt(b, f32x4.splat(1e-12)));
  const ratio = f32x4.pmin(f32x4.splat(16), f32x4.sqrt(f32x4.div(a, f32x4.pmax(b, f32x4.splat(1e-12)))));
  const now = v128.bitselect(f32x4.sub(ratio, one), loadState(S_KEPT), heard);
  return f32x4.add(zero, now);
}

export function process(): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  let top = zero, before = zero;
  for (let i: usize = 0; i < fourBytes; i += 16) {
    const x = v128.load(signal + i);
    top = f32x4.pmax(top, f32x4.abs(x));
    before = f32x4.add(before, f32x4.mul(x, x));
  }
  const none = f32x4.eq(top, zero);
  const quiet = v128.and(f32x4.pmin(f32x4.splat(LONG), f32x4.add(loadState(S_QUIET), f32x4.splat(<f32>frames))), none);
  storeState(S_QUIET, quiet);
  if (!v128.any_true(f32x4.lt(quiet, f32x4.splat(LONG)))) {
    storeState(0, zero);
    storeState(4, powerDecibels(zero));
    storeState(S_MEAN, zero);
    return;
  }
  widen(signal, S_FILTERS);
  const step = f32x4.splat(perFrame / <f32>TIMES);
  const others = f32x4.pmax(
    f32x4.pmax(previous(its.gentle), current(its.gentle)), f32x4.pmax(previous(its.folded), current(its.folded)),
  );
  if (most(others) > 0) mixed(step);
  else even(step);
  narrow(signal, S_FILTERS);

  const follow = current(its.follow), frame = f32x4.splat(perFrame);
  // 1 / drive; straight from end to end.
  let level = f32x4.div(one, previous(its.driven)), centred = previous(its.centred), output = previous(its.output);
  const dLevel = f32x4.mul(frame, f32x4.sub(f32x4.div(one, current(its.driven)), level));
  const dCentred = f32x4.mul(frame, f32x4.sub(current(its.centred), centred));
  const dOutput = f32x4.mul(frame, f32x4.sub(current(its.output), output));
  let mean = loadState(S_MEAN), out = zero, behind = zero;
  for (let i: usize = 0; i < fourBytes; i += 16) {
    level = f32x4.add(level, dLevel);
    centred = f32x4.add(centred, dCentred);
    const y = f32x4.mul(level, v128.load(signal + i));
    mean = f32x4.add(mean, f32x4.mul(follow, f32x4.sub(y, mean)));
    const bent = f32x4.sub(y, f32x4.mul(centred, mean));
    out = f32x4.pmax(out, f32x4.abs(bent));
    behind = f32x4.add(behind, f32x4.mul(bent, bent));
    v128.store(signal + i, bent);
  }
  storeState(S_MEAN, flush(mean));
  let keep = previous(its.keep), gain = loadState(S_KEPT);
  const goal = kept(before, behind);
  storeState(S_KEPT, goal);
  const dKeep = f32x4.mul(frame, f32x4.sub(current(its.keep), keep)), dGain = f32x4.mul(frame, f32x4.sub(goal, gain));
  for (let i: usize = 0; i < fourBytes; i += 16) {
    output = f32x4.add(output, dOutput);
    keep = f32x4.add(keep, dKeep);
    gain = f32x4.add(gain, dGain);
    const by = f32x4.mul(output, f32x4.add(one, f32x4.mul(keep, gain)));
    v128.store(signal + i, f32x4.mul(by, v128.load(signal + i)));
  }
  const heard = powerDecibels(f32x4.mul(top, top));
  storeState(4, heard);
  storeState(0, f32x4.pmax(zero, f32x4.sub(heard, powerDecibels(f32x4.mul(out, out)))));
}
