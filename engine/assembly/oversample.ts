// Sixteen times the sample rate and back on four lanes, by four stages of two. Filters are windowed sincs with Kaiser's window
// (J. F. Kaiser, "Nonrecursive digital filter design using the I0-sinh window function", ISCAS 1974) for 100 dB.
import { loadState, storeState } from './lanes';
import { fourBytes, frames } from './span';
import { lowPass } from './window';

const ALPHA = 10.06; // 0.1102 (A - 8.7) at A = 100 dB
// Taps of each stage: the first must be clear of half the sample rate, the others have room.
const T1 = 153, T2 = 27, T3 = 19, T4 = 15;
const h1: usize = memory.data(T1 * 4, 16);
const h2: usize = memory.data(T2 * 4, 16);
const h3: usize = memory.data(T3 * 4, 16);
const h4: usize = memory.data(T4 * 4, 16);
// Signals at two, four, eight and sixteen times the rate, each after as much of its past as its filter reaches back.
const x1: usize = memory.data((76 + 128) * 16, 16);
const x2: usize = memory.data((13 + 256) * 16, 16);
const x3: usize = memory.data((9 + 512) * 16, 16);
const x4: usize = memory.data((7 + 1024) * 16, 16);
/** What the kernel works on: 2048 vectors. */
export const wide: usize = memory.data((6 + 2048) * 16, 16) + 96;
const y4: usize = memory.data((14 + 2048) * 16, 16);
const y3: usize = memory.data((18 + 1024) * 16, 16);
const y2: usize = memory.data((26 + 512) * 16, 16);
const y1: usize = memory.data((152 + 256) * 16, 16);

/** Floats of memory a lane: what each filter looks back upon. */
export const OVERSAMPLE_FLOATS = 76 + 13 + 9 + 7 + 6 + 14 + 18 + 26 + 152;
/** How many times the sample rate. */
export const TIMES = 16;

let ready: bool = false;

// Puts a filter's past before its signal. @returns the next state place
function recall(at: usize, to: usize, vectors: i32): usize {
  for (let i = 0; i < vectors; i++) v128.store(to + (<usize>i << 4), loadState(at + (<usize>i << 2)));
  return at + (<usize>vectors << 2);
}
// Keeps the last of a signal for the next block.
function remember(at: usize, end: usize, vectors: i32): usize {
  const from = end - (<usize>vectors << 4);
  for (let i = 0; i < vectors; i++) storeState(at + (<usize>i << 2), v128.load(from + (<usize>i << 4)));
  return at + (<usize>vectors << 2);
}

// Sum of every second tap, from `tap` on, times what lies one, two, three... vectors back from `x`.
// @ts-ignore: decorator
@inline
function dot(h: usize, count: i32, x: usize, tapStep: usize, back: usize): v128 {
  let a = f32x4.splat(0), b = f32x4.splat(0);
  let k = 0;
  for (; k + 1 < count; k += 2) {
    a = f32x4.add(a, f32x4.mul(v128.load32_splat(h), v128.load(x)));
    b = f32x4.add(b, f32x4.mul(v128.load32_splat(h + tapStep), v128.load(x - back)));
    h += tapStep + tapStep;
    x -= back + back;
  }
  if (k < count) a = f32x4.add(a, f32x4.mul(v128.load32_splat(h), v128.load(x)));
  return f32x4.add(a, b);
}

// Twice the rate by a half-band filter: its odd taps are zero but the middle one, which is a half.
function doubleHalfBand(from: usize, frames: i32, h: usize, taps: i32, to: usize): void {
  const two = f32x4.splat(2);
  const middle = <usize>((taps - 1) >> 2) << 4;
  for (let n = 0; n < frames; n++) {
    const x = from + (<usize>n << 4);
    v128.store(to, f32x4.mul(two, dot(h, (taps + 1) >> 1, x, 8, 16)));
    v128.store(to, v128.load(x - middle), 16);
    to += 32;
  }
}

function halveHalfBand(from: usize, frames: i32, h: usize, taps: i32, to: usize): void {
  const half = f32x4.splat(0.5);
  const middle = <usize>((taps - 1) >> 1) << 4;
  for (let n = 0; n < frames; n++) {
    const v = from + (<usize>n << 5);
    const even = dot(h, (taps + 1) >> 1, v, 8, 32);
    v128.store(to, f32x4.add(even, f32x4.mul(half, v128.load(v - middle))));
    to += 16;
  }
}

/** Fills `wide` with sixteen times as many frames as `from` has; memories start at the state byte `at`. */
export function widen(from: usize, at: usize): void {
  if (!ready) {
    lowPass(h1, T1, 22.0 / 96.0, ALPHA);
    lowPass(h2, T2, 0.25, ALPHA);
    lowPass(h3, T3, 0.25, ALPHA);
    lowPass(h4, T4, 0.25, ALPHA);
    ready = true;
  }
  const in1 = x1 + 76 * 16, in2 = x2 + 13 * 16, in3 = x3 + 9 * 16, in4 = x4 + 7 * 16;
  memory.copy(in1, from, fourBytes);
  recall(at, x1, 76);
  at = remember(at, in1 + fourBytes, 76);
  const two = f32x4.splat(2);
  for (let n = 0; n < frames; n++) {
    const x = in1 + (<usize>n << 4), to = in2 + (<usize>n << 5);
    v128.store(to, f32x4.mul(two, dot(h1, 77, x, 8, 16)));
    v128.store(to, f32x4.mul(two, dot(h1 + 4, 76, x, 8, 16)), 16);
  }
  recall(at, x2, 13);
  at = remember(at, in2 + (fourBytes << 1), 13);
  doubleHalfBand(in2, frames << 1, h2, T2, in3);
  recall(at, x3, 9);
  at = remember(at, in3 + (fourBytes << 2), 9);
  doubleHalfBand(in3, frames << 2, h3, T3, in4);
  recall(at, x4, 7);
  remember(at, in4 + (fourBytes << 3), 7);
  doubleHalfBand(in4, frames << 3, h4, T4, wide);
}

/** Takes `wide` back to the sample rate; six of its frames of delay make the whole a number of frames. */
export function narrow(to: usize, at: usize): void {
  at += (76 + 13 + 9 + 7) * 4;
  const in4 = y4 + 14 * 16, in3 = y3 + 18 * 16, in2 = y2 + 26 * 16, in1 = y1 + 152 * 16;
  recall(at, wide - 96, 6);
  at = remember(at, wide + (fourBytes << 4), 6);
  memory.copy(in4, wide - 96, fourBytes << 4);
  recall(at, y4, 14);
  at = remember(at, in4 + (fourBytes << 4), 14);
  halveHalfBand(in4, frames << 3, h4, T4, in3);
  recall(at, y3, 18);
  at = remember(at, in3 + (fourBytes << 3), 18);
  halveHalfBand(in3, frames << 2, h3, T3, in2);
  recall(at, y2, 26);
  at = remember(at, in2 + (fourBytes << 2), 26);
  halveHalfBand(in2, frames << 1, h2, T2, in1);
  recall(at, y1, 152);
  remember(at, in1 + (fourBytes << 1), 152);
  for (let n = 0; n < frames; n++)
    v128.store(to + (<usize>n << 4), dot(h1, T1, in1 + (<usize>n << 5), 4, 16));
}
