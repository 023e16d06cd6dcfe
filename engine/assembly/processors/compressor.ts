// A feed-forward compressor on four lanes; its formulas and their source stand in core/processors/compressor.ts.
import * as its from '../../../build/engine/parameters/compressor';
import { finish, restsOne, section } from '../filter';
import {
  current, currentOne, keys, loadOne, loadState, paired, previous, previousOne, signal, storeOne, storeState,
} from '../lanes';
import { quietOne } from '../quiet';
import { fourBytes, perFrame } from '../span';
import { flush, flushOne, gainOf, linkedLevel, powerDecibels } from '../math';

/**
 * Decibels by which a peak may lie under the one that is held and still be held as one: frames do not meet the tops of one wave after
 * the other alike.
 */
const NEAR: f32 = 0.005;
// State: 0 reduction and 4 level heard in the last block, in dB; 16 held reduction, 20 smoothed, 24 mean square, 28 frames of hold
// that are left; 32 two sections of the key's cuts.
const S_HELD: usize = 16;
const S_CUTS: usize = 32;

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 64;
}

// Eq. 4 as x - y: a parabola through the knee, a straight line above it. The slope of the parabola is that of the line over twice
// the knee.
// @ts-ignore: decorator
@inline
function downOf(level: v128, from: v128, to: v128, knee: v128, slope: v128, bend: v128): v128 {
  const zero = f32x4.splat(0);
  const into = f32x4.pmin(knee, f32x4.pmax(zero, f32x4.sub(level, from)));
  const line = f32x4.mul(slope, f32x4.pmax(zero, f32x4.sub(level, to)));
  return f32x4.add(line, f32x4.mul(bend, f32x4.mul(into, into)));
}

// Makes powers of the first so many bytes of keys.
function square(bytes: usize): void {
  let at = keys;
  do {
    const x = v128.load(at);
    v128.store(at, f32x4.mul(x, x));
    at += 16;
  } while (at < keys + bytes);
}

// The higher of four groups of powers.
// @ts-ignore: decorator
@inline
function topOf(at: usize): v128 {
  return f32x4.pmax(
    f32x4.pmax(v128.load(at), v128.load(at, 16)),
    f32x4.pmax(v128.load(at, 32), v128.load(at, 48)),
  );
}

// @ts-ignore: decorator
@inline
function clear(at: usize): void {
  const zero = f32x4.splat(0);
  v128.store(at, zero);
  v128.store(at, zero, 16);
  v128.store(at, zero, 32);
  v128.store(at, zero, 48);
}

/** Whether it can be computed as a row: with cuts in its key it cannot. */
export function fitsRow(): bool {
  return restsOne(its.keyLowCut) && restsOne(its.keyHighCut);
}

/** A level where nothing is heard, in dB. */
const NOTHING: f32 = -160;
/** Whether nothing comes in, by itself or by its key, and nothing is left of what came: a row's frames, or four lanes' of them. */
function sleeps(asRow: bool): bool {
  const bytes: usize = asRow ? 512 : fourBytes;
  if (!quietOne(signal, bytes) || !quietOne(keys, bytes)) return false;
  const zero = f32x4.splat(0);
  for (let at = S_HELD; at < S_CUTS + 16; at += 4) {
    // Frames of hold are none of it.
    if (at == S_HELD + 12) continue;
    if (asRow ? loadOne(at) != 0 : v128.any_true(f32x4.ne(loadState(at), zero))) return false;
  }
  if (asRow) {
    storeOne(0, 0);
    storeOne(4, NOTHING);
    storeOne(S_HELD + 12, 0);
  } else {
    storeState(0, zero);
    storeState(4, f32x4.splat(NOTHING));
    storeState(S_HELD + 12, zero);
  }
  return true;
}

/**
 * The same for one channel alone: what does not go from frame to frame is worked out for four frames at once. Each frame
 * computes the same, in the same order, as where it has a vector of channels.
 */
export function row(): void {
  if (sleeps(true)) return;
  const one = f32x4.splat(1);
  const threshold = current(its.threshold), slope = f32x4.neg(current(its.slope)), knee = current(its.knee);
  const halfKnee = f32x4.mul(f32x4.splat(0.5), knee);
  const from = f32x4.sub(threshold, halfKnee), to = f32x4.add(threshold, halfKnee);
  const bend = f32x4.div(slope, f32x4.pmax(f32x4.add(knee, knee), f32x4.splat(1e-9)));
  const attack = currentOne(its.attack), release = currentOne(its.release);
  const quick: f32 = 1 - attack, slow: f32 = 1 - release;
  const share = currentOne(its.meanShare);
  let makeUp = previousOne(its.makeUp);
  const step: f32 = <f32>0.0078125 * (currentOne(its.makeUp) - makeUp);
  const hold = currentOne(its.hold);
  let held = loadOne(S_HELD), smooth = loadOne(S_HELD + 4), mean = loadOne(S_HELD + 8), left = loadOne(S_HELD + 12);
  square(512);
  let at = keys;
  if (share > 0) {
    const fresh: f32 = 1 - share;
    do {
      mean = share * mean + fresh * load<f32>(at);
      store<f32>(at, mean);
      at += 4;
    } while (at < keys + 512);
  } else mean = load<f32>(keys, 508);
  const least = gainOf(f32x4.sub(from, f32x4.splat(0.001)));
  const quiet = f32x4.mul(least, least);
  let most = f32x4.splat(0);
  at = keys;
  do {
    const top = topOf(at);
    most = f32x4.pmax(most, top);
    if (v128.any_true(f32x4.gt(top, quiet))) {
      let v = at;
      do {
        v128.store(v, downOf(powerDecibels(v128.load(v)), from, to, knee, slope, bend));
        v += 16;
      } while (v < at + 64);
    } else clear(at);
    at += 64;
  } while (at < keys + 512);
  let sum: f32 = 0;
  at = keys;
  do {
    const down = load<f32>(at);
    const falls: f32 = left > 0 ? held : release * held + slow * down;
    left = down + NEAR < falls ? max(<f32>0, left - 1) : hold;
    held = down < falls ? falls : down;
    smooth = attack * smooth + quick * held;
    sum += smooth;
    makeUp += step;
    store<f32>(at, makeUp - smooth);
    at += 4;
  } while (at < keys + 512);
  let i: usize = 0;
  do {
    v128.store(signal + i, f32x4.mul(v128.load(signal + i), gainOf(v128.load(keys + i))));
    i += 16;
  } while (i < 512);
  // The highest of all four frames of a vector.
  most = f32x4.pmax(most, v128.shuffle<f32>(most, most, 2, 3, 0, 1));
  most = f32x4.pmax(most, v128.shuffle<f32>(most, most, 1, 0, 3, 2));
  storeOne(0, sum * <f32>0.0078125);
  storeOne(4, f32x4.extract_lane(powerDecibels(most), 0));
  storeOne(S_HELD, flushOne(held));
  storeOne(S_HELD + 4, flushOne(smooth));
  storeOne(S_HELD + 8, flushOne(mean));
  storeOne(S_HELD + 12, left);
}

export function process(): void {
  if (sleeps(false)) return;
  section(keys, its.keyLowCut, S_CUTS);
  section(keys, its.keyHighCut, S_CUTS + 8);
  finish(keys);
  const one = f32x4.splat(1), zero = f32x4.splat(0);
  const threshold = current(its.threshold), slope = f32x4.neg(current(its.slope)), knee = current(its.knee);
  const halfKnee = f32x4.mul(f32x4.splat(0.5), knee);
  const from = f32x4.sub(threshold, halfKnee), to = f32x4.add(threshold, halfKnee);
  const bend = f32x4.div(slope, f32x4.pmax(f32x4.add(knee, knee), f32x4.splat(1e-9)));
  const attack = current(its.attack), release = current(its.release);
  const quick = f32x4.sub(one, attack), slow = f32x4.sub(one, release);
  const share = current(its.meanShare), link = current(its.link);
  const fresh = f32x4.sub(one, share);
  const squares = f32x4.gt(share, zero);
  const pairs = v128.load(paired);
  const linked = v128.any_true(pairs);
  let makeUp = previous(its.makeUp);
  const step = f32x4.mul(f32x4.splat(perFrame), f32x4.sub(current(its.makeUp), makeUp));
  const hold = current(its.hold);
  let held = loadState(S_HELD), smooth = loadState(S_HELD + 4), mean = loadState(S_HELD + 8), left = loadState(S_HELD + 12);
  const near = f32x4.splat(NEAR);
  let sum = zero, most = zero;
  // What is worked out for each frame alone does not wait for what goes from frame to frame, so it has loops of its own.
  let at = keys;
  const end = keys + fourBytes;
  const means = v128.any_true(squares);
  if (means) {
    do {
      const x = v128.load(at);
      const square = f32x4.mul(x, x);
      mean = f32x4.add(f32x4.mul(share, mean), f32x4.mul(fresh, square));
      v128.store(at, v128.bitselect(mean, square, squares));
      at += 16;
    } while (at < end);
  } else {
    // A mean begins, should it be wanted, where the signal is.
    mean = v128.load(end - 16);
    mean = f32x4.mul(mean, mean);
  }
  // Power below which nothing is turned down, so that no logarithm is needed there.
  const least = gainOf(f32x4.sub(from, f32x4.splat(0.001)));
  const quiet = f32x4.mul(least, least);
  at = keys;
  while (at + 64 <= end) {
    let a = v128.load(at), b = v128.load(at, 16), c = v128.load(at, 32), d = v128.load(at, 48);
    if (!means) {
      a = f32x4.mul(a, a);
      b = f32x4.mul(b, b);
      c = f32x4.mul(c, c);
      d = f32x4.mul(d, d);
    }
    const top = f32x4.pmax(f32x4.pmax(a, b), f32x4.pmax(c, d));
    most = f32x4.pmax(most, top);
    if (v128.any_true(f32x4.gt(top, quiet))) {
      a = powerDecibels(a);
      b = powerDecibels(b);
      c = powerDecibels(c);
      d = powerDecibels(d);
      if (linked) {
        a = linkedLevel(a, link, pairs);
        b = linkedLevel(b, link, pairs);
        c = linkedLevel(c, link, pairs);
        d = linkedLevel(d, link, pairs);
      }
      v128.store(at, downOf(a, from, to, knee, slope, bend));
      v128.store(at, downOf(b, from, to, knee, slope, bend), 16);
      v128.store(at, downOf(c, from, to, knee, slope, bend), 32);
      v128.store(at, downOf(d, from, to, knee, slope, bend), 48);
    } else clear(at);
    at += 64;
  }
  // Of a part of a block fewer than four may be left.
  while (at < end) {
    const x = v128.load(at), power = means ? x : f32x4.mul(x, x);
    most = f32x4.pmax(most, power);
    let level = powerDecibels(power);
    if (linked) level = linkedLevel(level, link, pairs);
    v128.store(at, downOf(level, from, to, knee, slope, bend));
    at += 16;
  }
  const whole = fourBytes;
  const heard = keys, into = signal;
  let i: usize = 0;
  // Without a hold nothing is counted.
  if (!v128.any_true(v128.or(hold, left)) && (whole & 63) == 0)
    do {
      const d0 = v128.load(heard + i), d1 = v128.load(heard + i, 16), d2 = v128.load(heard + i, 32), d3 = v128.load(heard + i, 48);
      const h0 = f32x4.pmax(d0, f32x4.add(f32x4.mul(release, held), f32x4.mul(slow, d0)));
      const h1 = f32x4.pmax(d1, f32x4.add(f32x4.mul(release, h0), f32x4.mul(slow, d1)));
      const h2 = f32x4.pmax(d2, f32x4.add(f32x4.mul(release, h1), f32x4.mul(slow, d2)));
      held = f32x4.pmax(d3, f32x4.add(f32x4.mul(release, h2), f32x4.mul(slow, d3)));
      const s0 = f32x4.add(f32x4.mul(attack, smooth), f32x4.mul(quick, h0));
      const s1 = f32x4.add(f32x4.mul(attack, s0), f32x4.mul(quick, h1));
      const s2 = f32x4.add(f32x4.mul(attack, s1), f32x4.mul(quick, h2));
      smooth = f32x4.add(f32x4.mul(attack, s2), f32x4.mul(quick, held));
      sum = f32x4.add(f32x4.add(sum, f32x4.add(s0, s1)), f32x4.add(s2, smooth));
      const m0 = f32x4.add(makeUp, step), m1 = f32x4.add(m0, step), m2 = f32x4.add(m1, step);
      makeUp = f32x4.add(m2, step);
      const to = into + i;
      v128.store(to, f32x4.mul(v128.load(to), gainOf(f32x4.sub(m0, s0))));
      v128.store(to, f32x4.mul(v128.load(to, 16), gainOf(f32x4.sub(m1, s1))), 16);
      v128.store(to, f32x4.mul(v128.load(to, 32), gainOf(f32x4.sub(m2, s2))), 32);
      v128.store(to, f32x4.mul(v128.load(to, 48), gainOf(f32x4.sub(makeUp, smooth))), 48);
      i += 64;
    } while (i < whole);
  else
    do {
      const down = v128.load(heard + i);
      const falls = v128.bitselect(held, f32x4.add(f32x4.mul(release, held), f32x4.mul(slow, down)), f32x4.gt(left, zero));
      const goes = f32x4.lt(f32x4.add(down, near), falls);
      left = v128.bitselect(f32x4.pmax(zero, f32x4.sub(left, one)), hold, goes);
      held = f32x4.pmax(down, falls);
      smooth = f32x4.add(f32x4.mul(attack, smooth), f32x4.mul(quick, held));
      sum = f32x4.add(sum, smooth);
      makeUp = f32x4.add(makeUp, step);
      v128.store(into + i, f32x4.mul(v128.load(into + i), gainOf(f32x4.sub(makeUp, smooth))));
      i += 16;
    } while (i < whole);
  storeState(0, f32x4.mul(sum, f32x4.splat(perFrame)));
  storeState(4, powerDecibels(most));
  storeState(S_HELD, flush(held));
  storeState(S_HELD + 4, flush(smooth));
  storeState(S_HELD + 8, flush(mean));
  storeState(S_HELD + 12, left);
}
