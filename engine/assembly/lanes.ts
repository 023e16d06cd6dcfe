// Four channels in the lanes of one vector: gathered from their strips' buffers, computed by one kernel, and put back. What
// a lane gives depends on its own signal, its key and its parameters alone, never on what stands beside it. A channel that is
// alone may be computed as a row instead: four of its frames, or four stages of its work, to a vector.
import { quietOne } from './quiet';
import { BLOCK_BYTES, H_CHANGES, LANE_BYTES, LANES_FIRST, RING_HEADER_BYTES } from '../../build/engine/layout';
import { addScaled, blendBy, finite, scale } from './ramp';
import { bends, rowOf, standing } from './travel';

/** The four signals, frame by frame: 128 vectors; or the frames of one, where it is a row. The kernel computes in place. */
export let signal: usize = memory.data(2048, 16);
/** The four keys; after `takeKeys` also where those are the signals themselves. */
export let keys: usize = memory.data(2048, 16);
/** Whether the keys are the signals themselves. */
let ownKeys: bool = false;
const nil: usize = memory.data(512, 16);
const key: usize = memory.data(2048, 16);
const dry: usize = memory.data(2048, 16);
const wet: usize = memory.data(2048, 16);
/** Bits of each lane: all set where it belongs to a stereo pair. */
export const paired: usize = memory.data(16, 16);

/** The operation that runs, and the first word of its first lane. */
let operation: usize = 0;
let lanes: usize = 0;
let base: usize = 0;
let previousAt: usize = 0;
let currentAt: usize = 0;
/** Whether one channel is computed as a row. */
let row: bool = false;
/** Whether the kernel was given what was held back. */
let held: bool = false;
/** Whether what the operation before gave still stands in `signal`, and not in the strips' buffers. */
let carried: bool = false;

// @ts-ignore: decorator
@inline
function word(lane: i32, at: usize): i32 {
  return load<i32>(lanes + <usize>lane * LANE_BYTES + at);
}
/** Where a lane's state stands. */
// @ts-ignore: decorator
@inline
function stateOf(lane: i32): usize {
  return base + <usize>word(lane, 12);
}

const wholeSignal: usize = signal;
const wholeKeys: usize = keys;
/** Has kernels work on what stands from a frame of the block on. */
export function partAt(frame: i32): void {
  signal = wholeSignal + (<usize>frame << 4);
  keys = wholeKeys + (<usize>frame << 4);
}
/** A lane's first parameter, in bytes. */
export function firstOf(lane: i32): usize {
  return <usize>word(lane, 4) << 2;
}

// Addresses of the four lanes' numbers, worked out once an operation: 0 current, 16 previous, 32 targets, 48 states.
const addresses: usize = memory.data(64, 16);

// @ts-ignore: decorator
@inline
function gather(table: usize, at: usize): v128 {
  let v = v128.load32_splat(load<usize>(table) + at);
  v = v128.load_lane<f32>(load<usize>(table, 4) + at, v, 1);
  v = v128.load_lane<f32>(load<usize>(table, 8) + at, v, 2);
  return v128.load_lane<f32>(load<usize>(table, 12) + at, v, 3);
}
/** A parameter of all four lanes as it stands at the block's end; `at` counts bytes. */
export function current(at: usize): v128 {
  return gather(addresses, at);
}
/** The same at the block's start. */
export function previous(at: usize): v128 {
  return gather(addresses + 16, at);
}
/** Where it is heading. */
export function target(at: usize): v128 {
  return gather(addresses + 32, at);
}
/** A number of each lane's state. */
export function loadState(at: usize): v128 {
  return gather(addresses + 48, at);
}
/** Has a lane look at what stands so many bytes further on than in the first; `still` where it has nothing to do. */
export function look(lane: i32, params: usize, state: usize): void {
  const to = addresses + (<usize>lane << 2);
  store<usize>(to, currentAt + (<usize>word(0, 4) << 2) + params);
  store<usize>(to, previousAt + (<usize>word(0, 4) << 2) + params, 16);
  store<usize>(to, stateOf(0) + state, 48);
}
/** Has a lane look at numbers that are nobody's. */
export function lookAside(lane: i32, params: usize, state: usize): void {
  const to = addresses + (<usize>lane << 2);
  store<usize>(to, params);
  store<usize>(to, params, 16);
  store<usize>(to, state, 48);
}
/** Of the first lane alone: a parameter at the block's end, at its start, and numbers of its state. */
export function currentOne(at: usize): f32 {
  return load<f32>(load<usize>(addresses) + at);
}
export function previousOne(at: usize): f32 {
  return load<f32>(load<usize>(addresses, 16) + at);
}
export function loadOne(at: usize): f32 {
  return load<f32>(load<usize>(addresses, 48) + at);
}
export function storeOne(at: usize, x: f32): void {
  store<f32>(load<usize>(addresses, 48) + at, x);
}
export function storeState(at: usize, v: v128): void {
  v128.store_lane<f32>(load<usize>(addresses, 48) + at, v, 0);
  v128.store_lane<f32>(load<usize>(addresses, 52) + at, v, 1);
  v128.store_lane<f32>(load<usize>(addresses, 56) + at, v, 2);
  v128.store_lane<f32>(load<usize>(addresses, 60) + at, v, 3);
}

/** Whether all four lanes of two vectors are the same numbers. */
// @ts-ignore: decorator
@inline
export function same(a: v128, b: v128): bool {
  return !v128.any_true(f32x4.ne(a, b));
}

/** Words of an operation for what it found out of its numbers. */
const FOUND_WHEN: usize = 16, FOUND: usize = 20;
/** What the operation that runs has found out of its numbers, where none of them has moved since; -1 where it has to look. */
export function found(): i32 {
  return standing() && load<i32>(operation, FOUND_WHEN) == load<i32>(base, H_CHANGES) ? load<i32>(operation, FOUND) : -1;
}
export function remember(finding: i32): void {
  store<i32>(operation, load<i32>(base, H_CHANGES), FOUND_WHEN);
  store<i32>(operation, finding, FOUND);
}
export function overlook(): void {
  store<i32>(operation, 0, FOUND_WHEN);
}

/** Where keys stand that are not changed there. */
// @ts-ignore: decorator
@inline
export function heard(): usize {
  return ownKeys ? signal : keys;
}
/** Has so many bytes of the keys stand where they may be changed. */
export function takeKeys(bytes: usize): void {
  if (ownKeys) memory.copy(keys, signal, bytes);
}

/** Whether nothing comes in over so many bytes of the signal. */
export function silent(bytes: usize): bool {
  return quietOne(signal, bytes);
}

// Four rows of four turned into columns.
// @ts-ignore: decorator
@inline
function transpose(a: v128, b: v128, c: v128, d: v128, to: usize): void {
  const ab0 = v128.shuffle<f32>(a, b, 0, 4, 1, 5), ab1 = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
  const cd0 = v128.shuffle<f32>(c, d, 0, 4, 1, 5), cd1 = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
  v128.store(to, v128.shuffle<f64>(ab0, cd0, 0, 2));
  v128.store(to, v128.shuffle<f64>(ab0, cd0, 1, 3), 16);
  v128.store(to, v128.shuffle<f64>(ab1, cd1, 0, 2), 32);
  v128.store(to, v128.shuffle<f64>(ab1, cd1, 1, 3), 48);
}

function interleave(p0: usize, p1: usize, p2: usize, p3: usize, to: usize): void {
  for (let i: usize = 0; i < BLOCK_BYTES; i += 16)
    transpose(v128.load(p0 + i), v128.load(p1 + i), v128.load(p2 + i), v128.load(p3 + i), to + (i << 2));
}

function separate(from: usize, t0: usize, t1: usize, t2: usize, t3: usize): void {
  for (let i: usize = 0; i < BLOCK_BYTES; i += 16) {
    const at = from + (i << 2);
    const a = v128.load(at), b = v128.load(at, 16), c = v128.load(at, 32), d = v128.load(at, 48);
    const ab0 = v128.shuffle<f32>(a, b, 0, 4, 1, 5), ab1 = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
    const cd0 = v128.shuffle<f32>(c, d, 0, 4, 1, 5), cd1 = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
    v128.store(t0 + i, v128.shuffle<f64>(ab0, cd0, 0, 2));
    v128.store(t1 + i, v128.shuffle<f64>(ab0, cd0, 1, 3));
    v128.store(t2 + i, v128.shuffle<f64>(ab1, cd1, 0, 2));
    v128.store(t3 + i, v128.shuffle<f64>(ab1, cd1, 1, 3));
  }
}

/** Puts a block into a ring and takes out the one that is `delay` frames old. */
export function throughRing(from: usize, to: usize, delay: i32, ring: usize, line: usize, frames: i32): i32 {
  const at = load<i32>(ring);
  let write = at;
  let read = at - delay;
  if (read < 0) read += frames;
  for (let i: usize = 0; i < BLOCK_BYTES; i += 4) {
    store<f32>(line + (<usize>write << 2), load<f32>(from + i));
    store<f32>(to + i, load<f32>(line + (<usize>read << 2)));
    if (++write == frames) write = 0;
    if (++read == frames) read = 0;
  }
  return (at + 128) % frames;
}

/** The buffer from which a lane is keyed, folded and held back where that is asked. */
function keyOf(lane: i32): usize {
  const second = word(lane, 28);
  let from = base + <usize>word(lane, 24);
  const own = key + <usize>lane * BLOCK_BYTES;
  if (second != 0) {
    const half = f32x4.splat(0.5);
    for (let i: usize = 0; i < BLOCK_BYTES; i += 16)
      v128.store(own + i, f32x4.mul(half, f32x4.add(v128.load(from + i), v128.load(base + <usize>second + i))));
    from = own;
  }
  const delay = word(lane, 32);
  if (delay == 0) return from;
  const ring = base + <usize>word(lane, 36);
  store<i32>(ring, throughRing(from, own, delay, ring, ring + RING_HEADER_BYTES, word(lane, 40)));
  return own;
}

function bufferOf(lane: i32, count: i32): usize {
  return lane < count ? base + <usize>word(lane, 0) : nil;
}

/** Says where the four lanes' numbers stand. @param at the operation */
export function address(at: usize, plan: usize, targets: usize, before: usize, now: usize): void {
  operation = at;
  lanes = at + LANES_FIRST;
  base = plan;
  previousAt = before;
  currentAt = now;
  for (let lane = 0; lane < 4; lane++) {
    const to = addresses + (<usize>lane << 2);
    const first = <usize>word(lane, 4) << 2;
    store<usize>(to, now + first);
    store<usize>(to, before + first, 16);
    store<usize>(to, targets + first, 32);
    store<usize>(to, stateOf(lane), 48);
  }
}

// Where a lane's signal comes from: its strip's buffer, or what was held back of it.
// @ts-ignore: decorator
@inline
function sourceOf(lane: i32, count: i32): usize {
  return held && lane < count ? dry + <usize>lane * BLOCK_BYTES : bufferOf(lane, count);
}
// Holds the signals back.
function holdBack(count: i32, frames: i32): void {
  for (let lane = 0; lane < count; lane++) {
    const ring = base + <usize>word(lane, 44);
    const to = dry + <usize>lane * BLOCK_BYTES;
    store<i32>(ring, throughRing(bufferOf(lane, count), to, frames, ring, ring + RING_HEADER_BYTES, frames + 128));
  }
}

function pairUp(): void {
  for (let lane = 0; lane < 4; lane++) store<i32>(paired + (<usize>lane << 2), word(lane, 20) != 0 ? -1 : 0);
}

/** Whether nothing of the dry signal stays beside a lane's wet one. */
function whollyWet(mixAt: usize): bool {
  return load<f32>(previousAt + mixAt) == 1 && load<f32>(currentAt + mixAt) == 1 && !bends(mixAt);
}
/** Whether nothing but the wet signal is left of any of four lanes. @param first word of the first */
function allWet(first: usize): bool {
  for (let lane: usize = 0; lane < 4; lane++) if (!whollyWet(<usize>load<i32>(first + lane * LANE_BYTES, 8) << 2)) return false;
  return true;
}
/**
 * Whether four lanes of another operation go on with what these four give: the same channels, keyed by themselves, all of them wet.
 * @param first word of its first lane
 */
export function goesOn(first: usize): bool {
  for (let lane: usize = 0; lane < 4; lane++) {
    const its = first + lane * LANE_BYTES;
    if (load<i32>(lanes + lane * LANE_BYTES) != load<i32>(its) || load<i32>(its, 24) != 0) return false;
  }
  return allWet(first);
}

/**
 * Gathers the signals, and the keys where the kernel listens to them.
 * @param asRow for one channel alone
 * @param wait frames by which the kernel is given the signals late, while their keys are on time
 */
export function open(count: i32, keyed: bool, asRow: bool, wait: i32): void {
  row = asRow;
  held = wait > 0;
  if (carried) {
    carried = false;
    pairUp();
    ownKeys = true;
    return;
  }
  if (held) holdBack(count, wait);
  if (row) {
    memory.copy(signal, sourceOf(0, count), BLOCK_BYTES);
    ownKeys = !held && word(0, 24) == 0;
    if (keyed && !ownKeys) memory.copy(keys, word(0, 24) != 0 ? keyOf(0) : bufferOf(0, count), BLOCK_BYTES);
    return;
  }
  interleave(sourceOf(0, count), sourceOf(1, count), sourceOf(2, count), sourceOf(3, count), signal);
  pairUp();
  if (!keyed) return;
  ownKeys = !held;
  for (let lane = 0; lane < count; lane++) if (word(lane, 24) != 0) ownKeys = false;
  if (ownKeys) return;
  interleave(
    word(0, 24) != 0 ? keyOf(0) : bufferOf(0, count),
    word(1, 24) != 0 ? keyOf(1) : bufferOf(1, count),
    word(2, 24) != 0 ? keyOf(2) : bufferOf(2, count),
    word(3, 24) != 0 ? keyOf(3) : bufferOf(3, count),
    keys,
  );
}

/** Which lanes hold a number that is not finite: x * 0 is 0 for all others. */
function broken(): v128 {
  const zero = f32x4.splat(0);
  let sum = zero, sum1 = zero, sum2 = zero, sum3 = zero;
  for (let i: usize = 0; i < 2048; i += 64) {
    sum = f32x4.add(sum, f32x4.mul(v128.load(signal + i), zero));
    sum1 = f32x4.add(sum1, f32x4.mul(v128.load(signal + i, 16), zero));
    sum2 = f32x4.add(sum2, f32x4.mul(v128.load(signal + i, 32), zero));
    sum3 = f32x4.add(sum3, f32x4.mul(v128.load(signal + i, 48), zero));
  }
  return f32x4.ne(f32x4.add(f32x4.add(sum, sum1), f32x4.add(sum2, sum3)), zero);
}

// @ts-ignore: decorator
@inline
function wetOf(lane: i32): usize {
  return wet + <usize>lane * BLOCK_BYTES;
}
/** Where a lane's wet signal is put: straight into its strip's buffer where nothing of the dry one stays beside it. */
function placeOf(lane: i32, count: i32, bad: v128): usize {
  if (lane >= count || laneOf(bad, lane)) return wetOf(lane);
  return whollyWet(mixOf(lane)) ? bufferOf(lane, count) : wetOf(lane);
}

/**
 * Puts what the kernel gave into the strips' buffers, beside as much of the dry signal as the mix leaves; a lane that is
 * not finite is silenced and starts anew.
 * @param onward whether the next operation goes on with it: where all of it would be put into the buffers, it is left where it is
 * @returns how many lanes did so
 */
export function close(count: i32, latency: i32, onward: bool): i32 {
  const bad = row ? i32x4.splat(finite(signal, BLOCK_BYTES) ? 0 : -1) : broken();
  if (onward && latency == 0 && !v128.any_true(bad) && allWet(lanes)) {
    carried = true;
    return 0;
  }
  let faults = 0;
  if (latency > 0 && !held) holdBack(count, latency);
  if (row) memory.copy(placeOf(0, count, bad), signal, BLOCK_BYTES);
  else separate(signal, placeOf(0, count, bad), placeOf(1, count, bad), placeOf(2, count, bad), placeOf(3, count, bad));
  for (let lane = 0; lane < count; lane++) {
    const buffer = bufferOf(lane, count);
    if (placeOf(lane, count, bad) == buffer) continue;
    const out = wetOf(lane);
    const beside = latency > 0 ? dry + <usize>lane * BLOCK_BYTES : buffer;
    if (laneOf(bad, lane)) {
      memory.fill(out, 0, BLOCK_BYTES);
      memory.fill(stateOf(lane), 0, <usize>word(lane, 16));
      if (!finite(beside, BLOCK_BYTES)) memory.fill(beside, 0, BLOCK_BYTES);
      faults++;
    }
    const mixAt = <usize>word(lane, 8) << 2;
    if (bends(mixAt)) {
      blendBy(out, beside, rowOf(mixAt, 0));
      memory.copy(buffer, out, BLOCK_BYTES);
      continue;
    }
    const w0 = load<f32>(previousAt + mixAt), w1 = load<f32>(currentAt + mixAt);
    scale(out, w0, w1);
    if (beside != buffer) memory.copy(buffer, beside, BLOCK_BYTES);
    scale(buffer, <f32>1 - w0, <f32>1 - w1);
    addScaled(buffer, out, 1, 1);
  }
  return faults;
}

/** A lane's mix, in bytes. */
export function mixOf(lane: i32): usize {
  return <usize>word(lane, 8) << 2;
}
/** Lets signals by that nothing is done to, as late as if it were; their keys are held back as before. */
export function passBy(count: i32, keyed: bool, latency: i32): void {
  if (keyed) for (let lane = 0; lane < count; lane++) if (word(lane, 24) != 0) keyOf(lane);
  if (latency == 0) return;
  holdBack(count, latency);
  for (let lane = 0; lane < count; lane++) memory.copy(bufferOf(lane, count), dry + <usize>lane * BLOCK_BYTES, BLOCK_BYTES);
}

function laneOf(v: v128, lane: i32): bool {
  if (lane == 0) return i32x4.extract_lane(v, 0) != 0;
  if (lane == 1) return i32x4.extract_lane(v, 1) != 0;
  if (lane == 2) return i32x4.extract_lane(v, 2) != 0;
  return i32x4.extract_lane(v, 3) != 0;
}
