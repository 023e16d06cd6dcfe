// A feed-forward compressor on four lanes; its formulas and their source stand in core/processors/compressor.ts.
import * as its from '../../../build/engine/parameters/compressor';
import { DECIBELS, ease, eased, eases, keepEase, keyLeaps, leaps, SHARE } from '../ease';
import { finish, restsAll, restsOne, section } from '../filter';
import {
  current, currentOne, heard, keys, loadOne, loadState, paired, previous, previousOne, signal, storeOne, storeState, takeKeys,
} from '../lanes';
import { exp2, exp2By, flush, flushOne, k, linkedLevel, powerDecibels } from '../math';
import { loud, scaleByOctaves, toOctaves } from '../octaves';
import { quietOne } from '../quiet';
import { fourBytes, perFrame } from '../span';
import { standing as numbersStand } from '../travel';

/** Decibels of an octave of power. Levels are counted in octaves of power here, gains in octaves of amplitude. */
const OCTAVE: f32 = 3.01029996;
const GAIN_OCTAVE: f32 = 6.02059991;
/**
 * Decibels by which a peak may lie under the one that is held and still be held as one: frames do not meet the tops of one wave after
 * the other alike.
 */
const NEAR: f32 = 0.005 / GAIN_OCTAVE;
// State: 0 reduction and 4 level heard in the last block, in dB; 16 held reduction, 20 smoothed (octaves), 24 mean square, 28 frames of hold
// that are left; 32 two sections of the key's cuts, 48 what is eased.
const S_HELD: usize = 16;
const S_CUTS: usize = 32;
const S_EASE: usize = 48;

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 64;
}

/** Lanes in which a control goes so fast that what it turns down is eased. */
function leaping(): v128 {
  if (numbersStand()) return f32x4.splat(0);
  const curve = v128.or(v128.or(leaps(its.threshold, DECIBELS), leaps(its.knee, DECIBELS)), leaps(its.slope, SHARE));
  return v128.or(v128.or(curve, leaps(its.meanShare, SHARE)), keyLeaps(its.keyLowCut, its.keyHighCut, its.link));
}

/** Whether it can be computed as a row: with cuts in its key, or while it is eased, it cannot. */
export function fitsRow(): bool {
  return loadOne(S_EASE) == 0 && restsOne(its.keyLowCut) && restsOne(its.keyHighCut);
}

/** A level where nothing is heard, in dB. */
const NOTHING: f32 = -160;
/** Whether nothing comes in, by itself or by its key, and nothing is left of what came: a row's frames, or four lanes' of them. */
function sleeps(asRow: bool): bool {
  const bytes: usize = asRow ? 512 : fourBytes;
  if (!quietOne(signal, bytes) || !quietOne(heard(), bytes)) return false;
  const zero = f32x4.splat(0);
  for (let at = S_HELD; at <= S_EASE; at += 4) {
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

/** Puts the means of a key's power, and its power in lanes that want none, where keys stand. @returns false where no lane wants means */
function means(source: usize, bytes: usize): bool {
  const share = current(its.meanShare), fresh = f32x4.sub(f32x4.splat(1), share);
  const squares = f32x4.gt(share, f32x4.splat(0));
  if (!v128.any_true(squares)) return false;
  let mean = loadState(S_HELD + 8);
  let to = keys;
  const end = keys + bytes;
  do {
    const x = v128.load(source), square = f32x4.mul(x, x);
    mean = f32x4.add(f32x4.mul(share, mean), f32x4.mul(fresh, square));
    v128.store(to, v128.bitselect(mean, square, squares));
    source += 16;
    to += 16;
  } while (to < end);
  storeState(S_HELD + 8, flush(mean));
  return true;
}

/**
 * Puts where keys stand how far a key is turned down, in octaves of amplitude: half of what eq. 4 says of x - y, a parabola through the
 * knee and a straight line above it. The slope of the parabola is that of the line over twice the knee.
 * @param source the key, or, where they are `means`, its power
 * @returns the highest power in each lane
 */
function turnDown(source: usize, means: bool, bytes: usize, linked: bool): v128 {
  const unit = f32x4.splat(1 / OCTAVE), zero = f32x4.splat(0);
  const threshold = f32x4.mul(unit, current(its.threshold)), knee = f32x4.mul(unit, current(its.knee));
  const slope = f32x4.mul(f32x4.splat(-0.5), current(its.slope)), halfKnee = f32x4.mul(f32x4.splat(0.5), knee);
  const from = f32x4.sub(threshold, halfKnee), to = f32x4.add(threshold, halfKnee);
  const bend = f32x4.div(slope, f32x4.pmax(f32x4.add(knee, knee), f32x4.splat(1e-9)));
  const end = keys + bytes;
  // Below the power that this gives nothing is turned down, so that no logarithm is needed there.
  const most = toOctaves(source, means, keys, end, exp2(f32x4.sub(from, f32x4.splat(0.0003))));
  if (!loud) return most;
  if (linked) {
    const link = current(its.link), pairs = v128.load(paired);
    for (let at = keys; at < end; at += 16) v128.store(at, linkedLevel(v128.load(at), link, pairs));
  }
  let at = keys;
  do {
    const level = v128.load(at);
    const into = f32x4.pmin(knee, f32x4.pmax(zero, f32x4.sub(level, from)));
    const line = f32x4.mul(slope, f32x4.pmax(zero, f32x4.sub(level, to)));
    v128.store(at, f32x4.add(line, f32x4.mul(bend, f32x4.mul(into, into))));
    at += 16;
  } while (at < end);
  return most;
}

// Gains that stand: nothing is turned down, and nothing was.
function standing(bytes: usize, makeUp: v128): void {
  if (!v128.any_true(f32x4.ne(makeUp, f32x4.splat(0)))) return;
  const gain = exp2(makeUp);
  for (let i: usize = 0; i < bytes; i += 16) v128.store(signal + i, f32x4.mul(v128.load(signal + i), gain));
}

/**
 * The same for one channel alone: what does not go from frame to frame is worked out for four frames at once. Each frame
 * computes the same, in the same order, as where it has a vector of channels.
 */
export function row(): void {
  if (sleeps(true)) return;
  const attack = currentOne(its.attack), release = currentOne(its.release);
  const quick: f32 = 1 - attack, slow: f32 = 1 - release;
  const unit: f32 = <f32>(1 / GAIN_OCTAVE);
  let makeUp: f32 = unit * previousOne(its.makeUp);
  const step: f32 = <f32>0.0078125 * (unit * currentOne(its.makeUp) - makeUp);
  const hold = currentOne(its.hold);
  let held = loadOne(S_HELD), smooth = loadOne(S_HELD + 4), left = loadOne(S_HELD + 12);
  const bytes: usize = 512;
  const squared = meansOfRow();
  let most = turnDown(squared ? keys : heard(), squared, bytes, false);
  let sum: f32 = 0;
  if (!loud && held == 0 && smooth == 0 && step == 0) {
    standing(bytes, f32x4.splat(makeUp));
    left = hold;
  } else {
    let at = keys;
    do {
      const down: f32 = loud ? load<f32>(at) : 0;
      const falls: f32 = left > 0 ? held : release * held + slow * down;
      left = down + NEAR < falls ? max(<f32>0, left - 1) : hold;
      held = down < falls ? falls : down;
      smooth = attack * smooth + quick * held;
      sum += smooth;
      makeUp += step;
      store<f32>(at, makeUp - smooth);
      at += 4;
    } while (at < keys + bytes);
    scaleByOctaves(signal, keys, keys + bytes);
  }
  // The highest of all four frames of a vector.
  most = f32x4.pmax(most, v128.shuffle<f32>(most, most, 2, 3, 0, 1));
  most = f32x4.pmax(most, v128.shuffle<f32>(most, most, 1, 0, 3, 2));
  storeOne(0, GAIN_OCTAVE * sum * <f32>0.0078125);
  storeOne(4, f32x4.extract_lane(powerDecibels(most), 0));
  storeOne(S_HELD, flushOne(held));
  storeOne(S_HELD + 4, flushOne(smooth));
  storeOne(S_HELD + 12, left);
}

function meansOfRow(): bool {
  const share = currentOne(its.meanShare);
  const source = heard();
  // A mean begins, should it be wanted, where the signal is.
  let mean: f32 = load<f32>(source, 508) * load<f32>(source, 508);
  if (share > 0) {
    mean = loadOne(S_HELD + 8);
    const fresh: f32 = 1 - share;
    for (let i: usize = 0; i < 512; i += 4) {
      const x = load<f32>(source + i);
      mean = share * mean + fresh * (x * x);
      store<f32>(keys + i, mean);
    }
  }
  storeOne(S_HELD + 8, flushOne(mean));
  return share > 0;
}

export function process(): void {
  const kept = current(its.attack), was = loadState(S_HELD + 4);
  const slope = f32x4.mul(f32x4.div(f32x4.sub(f32x4.splat(1), kept), f32x4.pmax(kept, f32x4.splat(1e-3))), f32x4.sub(loadState(S_HELD), was));
  ease(S_EASE, leaping(), current(its.ease), current(its.easeBlocks), was, slope);
  if (sleeps(false)) return;
  const easy = eases;
  const bytes = fourBytes;
  let source = heard();
  if (!restsAll(its.keyLowCut) || !restsAll(its.keyHighCut)) {
    takeKeys(bytes);
    source = keys;
  }
  section(keys, its.keyLowCut, S_CUTS);
  section(keys, its.keyHighCut, S_CUTS + 8);
  finish(keys);
  const one = f32x4.splat(1), zero = f32x4.splat(0);
  const attack = current(its.attack), release = current(its.release);
  const quick = f32x4.sub(one, attack), slow = f32x4.sub(one, release);
  const linked = v128.any_true(v128.load(paired));
  const unit = f32x4.splat(1 / GAIN_OCTAVE);
  let makeUp = f32x4.mul(unit, previous(its.makeUp));
  const step = f32x4.mul(f32x4.splat(perFrame), f32x4.sub(f32x4.mul(unit, current(its.makeUp)), makeUp));
  const hold = current(its.hold);
  let held = loadState(S_HELD), smooth = loadState(S_HELD + 4), left = loadState(S_HELD + 12);
  const squared = means(source, bytes);
  // A mean begins, should it be wanted, where the signal is.
  const last = v128.load(source + bytes - 16);
  if (!squared) storeState(S_HELD + 8, flush(f32x4.mul(last, last)));
  const most = turnDown(squared ? keys : source, squared, bytes, linked);
  let sum = zero;
  if (!loud && !easy && !v128.any_true(v128.or(v128.or(held, smooth), step))) {
    standing(bytes, makeUp);
    left = hold;
  } else {
    if (!loud) memory.fill(keys, 0, bytes);
    let at = keys;
    const end = keys + bytes;
    // Without a hold nothing is counted, and gains are worked out while a frame waits for the one before.
    if (!easy && !v128.any_true(v128.or(hold, left))) {
      const rounds = k(13);
      const c0 = k(7), c1 = k(8), c2 = k(9), c3 = k(10), c4 = k(11), c5 = k(12);
      let to = signal;
      do {
        const down = v128.load(at);
        held = f32x4.pmax(down, f32x4.add(f32x4.mul(release, held), f32x4.mul(slow, down)));
        smooth = f32x4.add(f32x4.mul(attack, smooth), f32x4.mul(quick, held));
        sum = f32x4.add(sum, smooth);
        makeUp = f32x4.add(makeUp, step);
        const gain = exp2By(f32x4.sub(makeUp, smooth), rounds, c0, c1, c2, c3, c4, c5);
        v128.store(to, f32x4.mul(v128.load(to), gain));
        at += 16;
        to += 16;
      } while (at < end);
    } else {
      const near = f32x4.splat(NEAR);
      do {
        const down = v128.load(at);
        const falls = v128.bitselect(held, f32x4.add(f32x4.mul(release, held), f32x4.mul(slow, down)), f32x4.gt(left, zero));
        const goes = f32x4.lt(f32x4.add(down, near), falls);
        left = v128.bitselect(f32x4.pmax(zero, f32x4.sub(left, one)), hold, goes);
        held = f32x4.pmax(down, falls);
        smooth = f32x4.add(f32x4.mul(attack, smooth), f32x4.mul(quick, held));
        const shown = easy ? eased(smooth) : smooth;
        sum = f32x4.add(sum, shown);
        makeUp = f32x4.add(makeUp, step);
        v128.store(at, f32x4.sub(makeUp, shown));
        at += 16;
      } while (at < end);
      scaleByOctaves(signal, keys, end);
    }
  }
  if (easy) keepEase(S_EASE);
  storeState(0, f32x4.mul(sum, f32x4.splat(GAIN_OCTAVE * perFrame)));
  storeState(4, powerDecibels(most));
  storeState(S_HELD, flush(held));
  storeState(S_HELD + 4, flush(smooth));
  storeState(S_HELD + 12, left);
}
