// A feedback delay network of eight lines, four to a vector. The formulas of its gains and poles stand in
// core/processors/reverb.ts, which also sizes the state; a test holds the two together.
import { BLOCK } from './layout';

function powerOfTwo(n: i32): i32 {
  let p = 1;
  while (p < n) p <<= 1;
  return p;
}
function scaled(frames: i32, sampleRate: i32): i32 {
  return i32(Math.ceil(f64(frames) * f64(sampleRate) / 48000.0));
}
function ringFrames(sampleRate: i32): i32 {
  return powerOfTwo(i32(Math.ceil(2797.0 * 2.0 * 1.45 * f64(sampleRate) / 48000.0)) + 4);
}
function preDelayFrames(sampleRate: i32): i32 {
  return powerOfTwo(i32(Math.ceil(0.4 * f64(sampleRate))) + 4);
}
function diffuserFrames(sampleRate: i32): i32 {
  return powerOfTwo(scaled(353, sampleRate) + 4);
}

// State: 0 write position, 4 pre-delay in frames, 8 whether it has run, 16.. unused, 64.. rings, then two vectors of
// low-pass memory at the end.
const S_POSITION: usize = 0;
const S_PRE: usize = 4;
const S_RUN: usize = 8;
const S_LENGTHS: usize = 16; // 8 x i32
const S_RINGS: usize = 64;

export function reverbBytes(sampleRate: i32): i32 {
  return 64 + ringFrames(sampleRate) * 32 + preDelayFrames(sampleRate) * 8 + diffuserFrames(sampleRate) * 32 + 64;
}

// Rounding the smallest values to zero keeps a dying tail out of denormal numbers, which cost a hundred times as much.
// @ts-ignore: decorator
@inline
function flush(v: v128): v128 {
  return v128.and(v, f32x4.gt(f32x4.abs(v), f32x4.splat(1e-18)));
}

// @ts-ignore: decorator
@inline
function flushOne(v: f32): f32 {
  return abs(v) > 1e-18 ? v : 0;
}

// A vector of line outputs: lane k reads line k at its own distance behind the write position.
// @ts-ignore: decorator
@inline
function tapFour(ring: usize, position: i32, mask: i32, lengths: usize, lane: usize): v128 {
  let v = f32x4.splat(0);
  v = v128.load_lane<f32>(ring + (<usize>((position - load<i32>(lengths)) & mask) << 5) + lane, v, 0);
  v = v128.load_lane<f32>(ring + (<usize>((position - load<i32>(lengths, 4)) & mask) << 5) + lane + 4, v, 1);
  v = v128.load_lane<f32>(ring + (<usize>((position - load<i32>(lengths, 8)) & mask) << 5) + lane + 8, v, 2);
  v = v128.load_lane<f32>(ring + (<usize>((position - load<i32>(lengths, 12)) & mask) << 5) + lane + 12, v, 3);
  return v;
}

// @ts-ignore: decorator
@inline
function hadamardFour(v: v128): v128 {
  // (a+b, a-b, c+d, c-d), then the pairs against each other
  const swapped = i8x16.shuffle(v, v, 4, 5, 6, 7, 0, 1, 2, 3, 12, 13, 14, 15, 8, 9, 10, 11);
  const first = f32x4.add(f32x4.mul(v, f32x4(1, -1, 1, -1)), swapped);
  const crossed = i8x16.shuffle(first, first, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7);
  return f32x4.add(f32x4.mul(first, f32x4(1, 1, -1, -1)), crossed);
}

// @ts-ignore: decorator
@inline
function sumLanes(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3));
}

// One allpass in a ring of its own.
// @ts-ignore: decorator
@inline
function allpass(ring: usize, position: i32, mask: i32, length: i32, x: f32): f32 {
  const delayed = load<f32>(ring + (<usize>((position - length) & mask) << 2));
  const v = flushOne(x - delayed * <f32>0.6);
  store<f32>(ring + (<usize>(position & mask) << 2), v);
  return delayed + v * <f32>0.6;
}

// First reflections of one side, each weaker than the last; the second and the fourth come from a wall that inverts.
// @ts-ignore: decorator
@inline
function reflections(pre: usize, position: i32, mask: i32, delays: usize, side: usize): f32 {
  return (
    <f32>0.5 * echo(pre, position, mask, delays, side) - <f32>0.4 * echo(pre, position, mask, delays + 4, side) +
    <f32>0.33 * echo(pre, position, mask, delays + 8, side) - <f32>0.26 * echo(pre, position, mask, delays + 12, side) +
    <f32>0.2 * echo(pre, position, mask, delays + 16, side)
  );
}
// @ts-ignore: decorator
@inline
function echo(pre: usize, position: i32, mask: i32, delay: usize, side: usize): f32 {
  return load<f32>(pre + (<usize>((position - i32(load<f32>(delay))) & mask) << 3) + side);
}

// Frames at 48 kHz.
const L0 = 113, L1 = 167, L2 = 241, L3 = 337;
const R0 = 127, R1 = 179, R2 = 227, R3 = 353;

/**
 * Puts the wet signal in place of the dry: params are pre-delay, 8 lengths, 8 gains, 8 poles, the diffusers' factor, the
 * level of first reflections, and their 5 delays a side.
 */
export function reverb(buffer: usize, channels: i32, targets: usize, current: usize, state: usize, sampleRate: i32): void {
  const ringLength = ringFrames(sampleRate);
  const preLength = preDelayFrames(sampleRate);
  const diffuserLength = diffuserFrames(sampleRate);
  const mask = ringLength - 1, preMask = preLength - 1, difMask = diffuserLength - 1;
  const ring = state + S_RINGS;
  const pre = ring + (<usize>ringLength << 5);
  const dif = pre + (<usize>preLength << 3);
  const difBytes = <usize>diffuserLength << 2;
  const memory0 = dif + difBytes * 8;

  let position = load<i32>(state, S_POSITION);
  const lengths = state + S_LENGTHS;
  const fresh = load<i32>(state, S_RUN) == 0;

  // Lengths and pre-delay jump to their targets; the block in which they do fades from the old taps to the new.
  const oldPre = fresh ? i32(load<f32>(targets)) : load<i32>(state, S_PRE);
  const newPre = i32(load<f32>(targets));
  let moving = oldPre != newPre;
  const old = memory0 + 32; // 8 x i32, past the low-pass memory
  for (let k = 0; k < 8; k++) {
    const at = <usize>k << 2;
    const want = i32(load<f32>(targets + 4 + at));
    const was = fresh ? want : load<i32>(lengths + at);
    store<i32>(old + at, was);
    store<i32>(lengths + at, want);
    if (was != want) moving = true;
  }
  store<i32>(state, newPre, S_PRE);
  store<i32>(state, 1, S_RUN);

  const g0 = v128.load(current + 36), g1 = v128.load(current + 52);
  const b0 = v128.load(current + 68), b1 = v128.load(current + 84);
  const one = f32x4.splat(1);
  const a0 = f32x4.mul(g0, f32x4.sub(one, b0)), a1 = f32x4.mul(g1, f32x4.sub(one, b1));
  let m0 = v128.load(memory0), m1 = v128.load(memory0 + 16);
  const norm = f32x4.splat(0.35355339059327373); // 1/sqrt(8)
  const right = buffer + (channels == 2 ? 512 : 0);
  const rate = f64(sampleRate) / 48000.0 * f64(load<f32>(targets, 100));
  const early = load<f32>(current, 104);
  const l0 = i32(L0 * rate), l1 = i32(L1 * rate), l2 = i32(L2 * rate), l3 = i32(L3 * rate);
  const r0 = i32(R0 * rate), r1 = i32(R1 * rate), r2 = i32(R2 * rate), r3 = i32(R3 * rate);
  const outL0 = f32x4(1, -1, 1, 1), outL1 = f32x4(-1, 1, 1, -1);
  const outR0 = f32x4(1, 1, -1, 1), outR1 = f32x4(1, -1, 1, 1);
  const level: f32 = 0.3;

  for (let i = 0; i < BLOCK; i++) {
    const at = <usize>i << 2;
    store<f32>(pre + (<usize>(position & preMask) << 3), load<f32>(buffer + at));
    store<f32>(pre + (<usize>(position & preMask) << 3) + 4, load<f32>(right + at));
    let from = pre + (<usize>((position - newPre) & preMask) << 3);
    let x = load<f32>(from), y = load<f32>(from, 4);
    let v0 = tapFour(ring, position, mask, lengths, 0);
    let v1 = tapFour(ring, position, mask, lengths + 16, 16);
    if (moving) {
      const t: f32 = f32(i + 1) / 128.0;
      const s: f32 = 1.0 - t;
      from = pre + (<usize>((position - oldPre) & preMask) << 3);
      x = x * t + load<f32>(from) * s;
      y = y * t + load<f32>(from, 4) * s;
      v0 = f32x4.add(f32x4.mul(v0, f32x4.splat(t)), f32x4.mul(tapFour(ring, position, mask, old, 0), f32x4.splat(s)));
      v1 = f32x4.add(f32x4.mul(v1, f32x4.splat(t)), f32x4.mul(tapFour(ring, position, mask, old + 16, 16), f32x4.splat(s)));
    }
    x = allpass(dif, position, difMask, l0, x);
    x = allpass(dif + difBytes, position, difMask, l1, x);
    x = allpass(dif + difBytes * 2, position, difMask, l2, x);
    x = allpass(dif + difBytes * 3, position, difMask, l3, x);
    y = allpass(dif + difBytes * 4, position, difMask, r0, y);
    y = allpass(dif + difBytes * 5, position, difMask, r1, y);
    y = allpass(dif + difBytes * 6, position, difMask, r2, y);
    y = allpass(dif + difBytes * 7, position, difMask, r3, y);

    // absorbent filters: y = g (1-b) x + b y'
    m0 = flush(f32x4.add(f32x4.mul(v0, a0), f32x4.mul(m0, b0)));
    m1 = flush(f32x4.add(f32x4.mul(v1, a1), f32x4.mul(m1, b1)));

    let left = level * (sumLanes(f32x4.mul(m0, outL0)) + sumLanes(f32x4.mul(m1, outL1)));
    let turned = level * (sumLanes(f32x4.mul(m0, outR0)) + sumLanes(f32x4.mul(m1, outR1)));

    if (early != 0) {
      left += early * reflections(pre, position - newPre, preMask, targets + 108, 0);
      turned += early * reflections(pre, position - newPre, preMask, targets + 128, 4);
    }

    const sum = f32x4.mul(f32x4.add(m0, m1), norm);
    const difference = f32x4.mul(f32x4.sub(m0, m1), norm);
    const input = f32x4(x, y, x, y);
    const write = ring + (<usize>(position & mask) << 5);
    v128.store(write, f32x4.add(hadamardFour(sum), input));
    v128.store(write + 16, f32x4.add(hadamardFour(difference), f32x4.mul(input, f32x4(1, -1, -1, 1))));

    if (channels == 2) {
      store<f32>(buffer + at, left);
      store<f32>(right + at, turned);
    } else {
      store<f32>(buffer + at, <f32>0.70710678 * (left + turned));
    }
    position++;
  }
  v128.store(memory0, m0);
  v128.store(memory0 + 16, m1);
  store<i32>(state, position, S_POSITION);
}
