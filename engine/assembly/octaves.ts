// Levels and gains of many frames at once, in octaves.
import { exp2By, exponentBits, k, octavesBy } from './math';

/** A level at which nothing is heard, in octaves of power. */
const SILENT: f32 = -200;

/** Whether any frame was above what `toOctaves` was told to be quiet. */
export let loud: bool = false;

/** The highest power of four vectors. */
// @ts-ignore: decorator
@inline
function topOf(a: v128, b: v128, c: v128, d: v128): v128 {
  return f32x4.pmax(f32x4.pmax(a, b), f32x4.pmax(c, d));
}

/**
 * Works out the octaves of a signal's power; four vectors in a row that lie below `quiet` need not be exact.
 * @param from the signal, or its power where it is `squared` already; @param at where they are put
 * @returns the highest power in each lane
 */
export function toOctaves(from: usize, squared: bool, at: usize, end: usize, quiet: v128): v128 {
  const lowest = k(16), bits = exponentBits(), one = k(17);
  const c0 = k(0), c1 = k(1), c2 = k(2), c3 = k(3), c4 = k(4), c5 = k(5);
  const silent = f32x4.splat(SILENT);
  let most = f32x4.splat(0);
  loud = false;
  while (at < end) {
    const upTo = min(at + 64, end);
    let top: v128;
    if (upTo - at == 64) {
      const a = v128.load(from), b = v128.load(from, 16), c = v128.load(from, 32), d = v128.load(from, 48);
      if (squared) top = topOf(a, b, c, d);
      else {
        const x = topOf(f32x4.abs(a), f32x4.abs(b), f32x4.abs(c), f32x4.abs(d));
        top = f32x4.mul(x, x);
      }
    } else {
      top = f32x4.splat(0);
      for (let v = from; v < from + (upTo - at); v += 16) {
        const x = v128.load(v);
        top = f32x4.pmax(top, squared ? x : f32x4.mul(x, x));
      }
    }
    most = f32x4.pmax(most, top);
    if (v128.any_true(f32x4.gt(top, quiet))) {
      loud = true;
      do {
        const y = v128.load(from);
        const x = f32x4.pmax(squared ? y : f32x4.mul(y, y), lowest);
        v128.store(at, octavesBy(x, bits, one, c0, c1, c2, c3, c4, c5));
        at += 16;
        from += 16;
      } while (at < upTo);
    } else
      do {
        v128.store(at, silent);
        at += 16;
        from += 16;
      } while (at < upTo);
  }
  return most;
}

/** Multiplies a signal by gains that are given in octaves of amplitude. */
export function scaleByOctaves(signal: usize, at: usize, end: usize): void {
  const rounds = k(13);
  const c0 = k(7), c1 = k(8), c2 = k(9), c3 = k(10), c4 = k(11), c5 = k(12);
  do {
    const gain = exp2By(v128.load(at), rounds, c0, c1, c2, c3, c4, c5);
    v128.store(signal, f32x4.mul(v128.load(signal), gain));
    signal += 16;
    at += 16;
  } while (at < end);
}
