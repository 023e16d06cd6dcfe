// Pitch by moving what lies about each peak of the spectrum; core/processors/pitchShift.ts says how and from which sources.
import * as its from '../../../build/engine/parameters/pitch';
import { cosine, LARGEST, prepare, transform } from '../fourier';
import { frames as count, perFrame } from '../span';

// State: 0 position, 4 window that it runs with, 8 share of the shifted signal;
// 20 the newest onset, 24 the one before; 28 energy of the present stretch, 32 where its sixteen forerunners are written;
// 64 energies of those; 128 ratios of past blocks; then the rings.
const S_POSITION: usize = 0, S_WINDOW: usize = 4, S_SHARE: usize = 8;
const S_ONSET: usize = 20, S_BEFORE: usize = 24, S_ENERGY: usize = 28, S_STRETCH: usize = 32;
const S_ENERGIES: usize = 64, S_RATIOS: usize = 128, S_RINGS: usize = 640;
/** Blocks of which ratios are kept. */
const KEPT: i32 = 128;
/** An onset that never was. */
const NEVER: i32 = -1000000000;

// Window of the long grains: the power of two that is nearest to 85 ms.
function longest(sampleRate: i32): i32 {
  let n = 1024;
  while (f64(n) * 1.41421356 < f64(sampleRate) * 0.08533) n <<= 1;
  return min(n, LARGEST / 2);
}
export const FINEST = 16;
export function bytes(sampleRate: i32): i32 {
  // Two rings in, two twice as long out, and a rotation for every line of the spectrum.
  return i32(S_RINGS) + 4 * (7 * longest(sampleRate) + 16);
}

const re: usize = memory.data(32768 * 4, 16);
const im: usize = memory.data(32768 * 4, 16);
const toRe: usize = memory.data(32768 * 4, 16);
const toIm: usize = memory.data(32768 * 4, 16);
const power: usize = memory.data(16400 * 4, 16);
const envelope: usize = memory.data(16400 * 4, 16);
const highest: usize = memory.data(16400 * 4, 16);

// @ts-ignore: decorator
@inline
function hann(n: i32, window: i32): f32 {
  const half = window >> 1;
  const k = n <= half ? n : window - n;
  // cos(pi) stands at the table's end.
  const c: f32 = k == half ? -1 : cosine(k * (LARGEST / window));
  return <f32>0.5 - <f32>0.5 * c;
}

/**
 * The highest that stands within `reach` lines, of amplitudes, averaged over half as many on either side: where the spectrum's
 * hills stand, whatever harmonics make them.
 */
function follow(lines: i32, reach: i32): void {
  // The highest on a grid of an eighth of the reach.
  const every = max(1, reach / 8);
  for (let k = 0; k < lines; k += every) {
    let top: f32 = 0;
    for (let j = max(0, k - reach); j < min(lines, k + reach + 1); j++) top = max(top, load<f32>(power + (<usize>j << 2)));
    const level = sqrt(top);
    for (let j = k; j < min(lines, k + every); j++) store<f32>(highest + (<usize>j << 2), level);
  }
  const near = max(1, reach / 2);
  let sum: f32 = 0;
  for (let k = -near; k < lines; k++) {
    if (k + near < lines) sum += load<f32>(highest + (<usize>(k + near) << 2));
    if (k - near - 1 >= 0) sum -= load<f32>(highest + (<usize>(k - near - 1) << 2));
    if (k < 0) continue;
    const within = min(lines - 1, k + near) - max(0, k - near) + 1;
    store<f32>(envelope + (<usize>k << 2), max(<f32>0, sum) / f32(within) + <f32>1e-9);
  }
}

// @ts-ignore: decorator
@inline
function at(table: usize, k: i32): f32 {
  return load<f32>(table + (<usize>k << 2));
}
// @ts-ignore: decorator
@inline
function add(table: usize, k: i32, x: f32): void {
  const place = table + (<usize>k << 2);
  store<f32>(place, load<f32>(place) + x);
}

/** Moves lines [from, to) about a peak by so many, turned by an angle. */
function place(from: i32, to: i32, by: i32, angle: f32, size: i32, formants: bool): void {
  const c = Mathf.cos(angle), s = Mathf.sin(angle);
  const half = size >> 1;
  for (let k = max(from, 1 - by); k < to; k++) {
    const there = k + by;
    if (there >= half) break;
    if (there < 1) continue;
    let g: f32 = 1;
    if (formants) g = min(<f32>16, at(envelope, there) / at(envelope, k));
    const a = at(re, k), b = at(im, k);
    add(toRe, there, g * (a * c - b * s));
    add(toIm, there, g * (a * s + b * c));
    // Of negative frequencies the same, mirrored.
    const d = at(re, size - k), e = at(im, size - k);
    add(toRe, size - there, g * (d * c + e * s));
    add(toIm, size - there, g * (e * c - d * s));
  }
}

const TURN: f32 = 6.283185307179586;
// Keeps an angle small, so that it keeps its precision.
// @ts-ignore: decorator
@inline
function wound(x: f32): f32 {
  return x - TURN * nearest<f32>(x / TURN);
}

/** Takes the window that ends here, moves its peaks, and adds what comes of it to what leaves. */
function frame(state: usize, window: i32, end: i32, ratio: f32, formants: f32, sampleRate: i32): void {
  const size = window << 1, half = window, hop = window >> 2;
  const left = state + S_RINGS, right = left + (<usize>window << 2);
  const outLeft = right + (<usize>window << 2), outRight = outLeft + (<usize>window << 3);
  const turns = outRight + (<usize>window << 3);
  // Of silence nothing comes.
  let any = v128.load(left);
  for (let at: usize = 16; at < <usize>window << 3; at += 16) any = v128.or(any, v128.load(left + at));
  if (!v128.any_true(v128.and(any, i32x4.splat(0x7fffffff)))) {
    memory.fill(turns, 0, <usize>half << 2);
    return;
  }
  for (let n = 0; n < window; n++) {
    const from = <usize>((end + n) & (window - 1)) << 2;
    const w = hann(n, window);
    store<f32>(re + (<usize>n << 2), w * load<f32>(left + from));
    store<f32>(im + (<usize>n << 2), w * load<f32>(right + from));
  }
  memory.fill(re + (<usize>window << 2), 0, <usize>window << 2);
  memory.fill(im + (<usize>window << 2), 0, <usize>window << 2);
  transform(re, im, size);
  memory.fill(toRe, 0, <usize>size << 2);
  memory.fill(toIm, 0, <usize>size << 2);

  // Both sides together: left is the real part of what was transformed, right the imaginary one.
  for (let k = 1; k < half; k++) {
    const a = at(re, k), b = at(im, k), c = at(re, size - k), d = at(im, size - k);
    store<f32>(power + (<usize>k << 2), a * a + b * b + c * c + d * d);
  }
  store<f32>(power, 0);
  store<f32>(power, 0, 4);
  for (let k = half; k < half + 4; k++) store<f32>(power + (<usize>k << 2), 0);
  if (formants > 0) follow(half, i32(<f32>150 * f32(size) / f32(sampleRate)));

  // The onset by which phases are set, if the window's middle lies near one.
  const middle = end - (window >> 1);
  let onset = load<i32>(state, S_ONSET);
  if (onset > middle + hop) onset = load<i32>(state, S_BEFORE);
  const set = abs(middle - onset) <= hop;
  const since = f32(middle - onset);
  const perLine: f32 = TURN / f32(size);
  const shift: f32 = ratio - 1;

  let from = 1, k = 2;
  let peak = -1;
  while (k < half) {
    // The next peak: higher than two lines on either side.
    let next = -1;
    for (; k < half; k++) {
      const p = at(power, k);
      if (p > at(power, k - 1) && p >= at(power, k + 1) && p > at(power, k - 2) && p >= at(power, k + 2) && p > 1e-16) {
        next = k++;
        break;
      }
    }
    // What lies between two peaks is parted where it is lowest.
    let until = half;
    if (next >= 0 && peak >= 0) {
      until = peak + 1;
      for (let j = peak + 1; j < next; j++) if (at(power, j) < at(power, until)) until = j;
    }
    if (peak >= 0) {
      const a = Mathf.log(at(power, peak - 1) + <f32>1e-30), b = Mathf.log(at(power, peak) + <f32>1e-30);
      const c = Mathf.log(at(power, peak + 1) + <f32>1e-30);
      const bow: f32 = a - <f32>2 * b + c;
      const exact: f32 = f32(peak) + (bow < 0 ? <f32>0.5 * (a - c) / bow : 0);
      const by: f32 = shift * exact;
      const whole = i32(nearest<f32>(by));
      // By how much it is turned at the window's middle.
      const turn = wound(set ? by * perLine * since : at(turns, peak) + by * perLine * f32(hop));
      for (let j = from; j < until; j++) store<f32>(turns + (<usize>j << 2), turn);
      const angle: f32 = turn - <f32>1.5707963267948966 * f32(whole & 3);
      place(from, until, whole, angle, size, formants > 0);
      from = until;
    }
    if (next < 0) break;
    peak = next;
    if (k >= half) {
      // The last one has all that is left.
      k = half - 1;
      if (peak == k) break;
    }
  }

  // Back, with both parts exchanged; the windows of both ways, a quarter apart, add up to 1.5.
  transform(toIm, toRe, size);
  const scale: f32 = <f32>1 / (<f32>1.5 * f32(size));
  const mask = 2 * window - 1;
  for (let n = 0; n < window; n++) {
    const w = hann(n, window) * scale;
    const to = <usize>((end + n) & mask) << 2;
    store<f32>(outLeft + to, load<f32>(outLeft + to) + w * at(toRe, n));
    store<f32>(outRight + to, load<f32>(outRight + to) + w * at(toIm, n));
  }
}

// Looks whether a stretch of sound sets in: it holds eight times as much energy as those before it on average.
function listen(state: usize, energy: f32, end: i32, stretch: i32): void {
  const place = load<i32>(state, S_STRETCH) & 15;
  let sum: f32 = 0;
  for (let i: usize = 0; i < 64; i += 4) sum += load<f32>(state + S_ENERGIES + i);
  if (energy > <f32>0.5 * sum && energy > 1e-6 && end - stretch - load<i32>(state, S_ONSET) > 8 * stretch) {
    store<i32>(state, load<i32>(state, S_ONSET), S_BEFORE);
    store<i32>(state, end - stretch, S_ONSET);
  }
  store<f32>(state + S_ENERGIES + (<usize>place << 2), energy);
  store<i32>(state, place + 1, S_STRETCH);
}

export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const window = i32(load<f32>(targets, its.window));
  let position = load<i32>(state, S_POSITION);
  let ratio = load<f32>(previous, its.ratio);
  const ratio1 = load<f32>(current, its.ratio), step: f32 = (ratio1 - ratio) * perFrame;
  if (load<i32>(state, S_WINDOW) != window) {
    memory.fill(state, 0, bytes(sampleRate));
    prepare();
    position = 0;
    store<i32>(state, window, S_WINDOW);
    store<i32>(state, NEVER, S_ONSET);
    store<i32>(state, NEVER, S_BEFORE);
    // What stands shifted from the first frame on is so at once.
    store<f32>(state, ratio == 1 && ratio1 == 1 ? 0 : 1, S_SHARE);
    for (let b = 0; b < KEPT; b++) store<f32>(state + S_RATIOS + (<usize>b << 2), ratio);
  }
  const left = state + S_RINGS, right = left + (<usize>window << 2);
  const outLeft = right + (<usize>window << 2), outRight = outLeft + (<usize>window << 3);
  const other = channels == 2 ? buffer + 512 : buffer;
  const hop = window >> 2, mask = window - 1, outMask = 2 * window - 1;
  const stretch = max(32, window >> 6);
  let share = load<f32>(state, S_SHARE), energy = load<f32>(state, S_ENERGY);
  const fade: f32 = <f32>1 / f32(hop);
  for (let i = 0; i < count; i++) {
    const b = <usize>i << 2;
    ratio += step;
    const moved = i == count - 1 ? ratio1 : ratio;
    const x = load<f32>(buffer + b), y = load<f32>(other + b);
    const in_ = <usize>(position & mask) << 2, out = <usize>(position & outMask) << 2;
    const dryL = load<f32>(left + in_), dryR = load<f32>(right + in_);
    store<f32>(left + in_, x);
    store<f32>(right + in_, channels == 2 ? y : 0);
    energy += x * x + y * y;
    const wetL = load<f32>(outLeft + out), wetR = load<f32>(outRight + out);
    store<f32>(outLeft + out, 0);
    store<f32>(outRight + out, 0);
    // The ratio of what leaves now was asked for a window ago.
    const asked = load<f32>(state + S_RATIOS + (<usize>((position - window) >> 7 & (KEPT - 1)) << 2));
    const wants = position < window ? moved != 1 : asked != 1;
    share = wants ? min(<f32>1, share + fade) : max(<f32>0, share - fade);
    if (share == 1) {
      store<f32>(buffer + b, wetL);
      if (channels == 2) store<f32>(other + b, wetR);
    } else {
      store<f32>(buffer + b, dryL + share * (wetL - dryL));
      if (channels == 2) store<f32>(other + b, dryR + share * (wetR - dryR));
    }
    position++;
    if ((position & 127) == 0) store<f32>(state + S_RATIOS + (<usize>((position - 1) >> 7 & (KEPT - 1)) << 2), moved);
    if ((position & (stretch - 1)) == 0) {
      listen(state, energy, position, stretch);
      energy = 0;
    }
    if ((position & (hop - 1)) == 0) {
      // As it was asked for when the window's middle came in.
      const then = load<f32>(state + S_RATIOS + (<usize>((position - (window >> 1) - 1) >> 7 & (KEPT - 1)) << 2));
      const needed = share > 0 || moved != 1 || asked != 1 || then != 1;
      if (needed) frame(state, window, position, then, load<f32>(targets, its.formants), sampleRate);
      else {
        // Once nothing is shifted any more, what was turned is forgotten.
        memory.fill(outLeft, 0, <usize>window << 4);
        memory.fill(outRight + (<usize>window << 3), 0, <usize>window << 2);
      }
    }
  }
  store<i32>(state, position, S_POSITION);
  store<f32>(state, share, S_SHARE);
  store<f32>(state, energy, S_ENERGY);
}
