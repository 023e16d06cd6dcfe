// The engine knows no strips: it runs a plan, 128 frames at a time, and allocates nothing. Loops that run often test at their
// end: compilers of the host move out of a loop only what every way through it needs.
import {
  BLOCK_BYTES, H_CURRENT_OFFSET, H_FAULTS, H_FAULT_OP, H_OPS_OFFSET, H_PARAM_COUNT, H_PEAK_FALL, H_PREVIOUS_OFFSET, H_RMS_SHARE, H_SAMPLE_RATE,
  H_SMOOTHING, H_TARGETS_OFFSET, METER_BYTES, OP_BALANCE, OP_CLEAR, OP_GAIN, OP_LANES, OP_MATRIX, OP_METER, OP_MIX, OP_MIX_FOUR, OP_PROCESS, OP_TAKE,
  RING_HEADER_BYTES,
} from '../../build/engine/layout';
import { addScaled, finite, matrix, scale, spread, spreadFour } from './ramp';
import { address, close, open, throughRing } from './lanes';
import { bytesOf, fitsRow, hearsKey, processLanes, processOne } from '../../build/engine/processors';

/** Bytes of a processor's state, a channel of a packed one. */
export function stateBytes(processor: i32, sampleRate: i32): i32 {
  return bytesOf(processor, sampleRate);
}

// Tells the host that an operation of a processor begins (its offset in the plan) or has ended (its offset, negative), where
// the host measures.
// @ts-ignore: decorator
@external("env", "tick")
declare function tick(op: i32): void;
let measuring: bool = false;
export function measure(on: bool): void {
  measuring = on;
}

/** First byte that plans may use. */
export function arenaStart(): usize {
  return (__heap_base + 15) & ~15;
}

// Room for what an op needs only while it runs: two channels of the dry signal, two of a delayed one.
const dry: usize = memory.data(1024, 16);
const delayed: usize = memory.data(1024, 16);

/** Moves every parameter one block towards its target. @returns whether any was not there yet */
function advance(base: usize): bool {
  const count = load<i32>(base, H_PARAM_COUNT);
  const targets = base + load<i32>(base, H_TARGETS_OFFSET);
  const previous = base + load<i32>(base, H_PREVIOUS_OFFSET);
  const current = base + load<i32>(base, H_CURRENT_OFFSET);
  const k = f32x4.splat(load<f32>(base, H_SMOOTHING));
  const near = f32x4.splat(1e-6);
  let apart = f32x4.splat(0);
  for (let at: usize = 0; at < <usize>count << 2; at += 16) {
    const target = v128.load(targets + at);
    const now = v128.load(current + at);
    v128.store(previous + at, now);
    const way = f32x4.sub(target, now);
    apart = v128.or(apart, way);
    const next = f32x4.add(now, f32x4.mul(way, k));
    v128.store(current + at, v128.bitselect(target, next, f32x4.le(f32x4.abs(way), near)));
  }
  return v128.any_true(apart);
}

/** Holds a signal back. @returns where it stands */
function heldBack(source: usize, channels: i32, delay: i32, ring: usize, frames: i32): usize {
  let next = 0;
  for (let c = 0; c < channels; c++) {
    const line = ring + RING_HEADER_BYTES + (<usize>(c * frames) << 2);
    next = throughRing(source + <usize>c * BLOCK_BYTES, delayed + <usize>c * BLOCK_BYTES, delay, ring, line, frames);
  }
  store<i32>(ring, next);
  return delayed;
}

function mix(base: usize, op: usize, previous: usize, current: usize): void {
  let source = base + load<i32>(op, 4);
  const destination = base + load<i32>(op, 8);
  const from = load<i32>(op, 12), to = load<i32>(op, 16);
  const param = <usize>load<i32>(op, 20) << 2;
  const delay = load<i32>(op, 24);
  if (delay > 0) {
    source = heldBack(source, from, delay, base + load<i32>(op, 28), load<i32>(op, 32));
  }
  if (from == 1 && to == 2) {
    mixOne(destination, source, previous + param, current + param);
    return;
  }
  const l0 = load<f32>(previous + param), r0 = load<f32>(previous + param, 4);
  const l1 = load<f32>(current + param), r1 = load<f32>(current + param, 4);
  addScaled(destination, source, l0, l1);
  if (from == 1) return;
  addScaled(destination + (to == 2 ? BLOCK_BYTES : 0), source + BLOCK_BYTES, r0, r1);
}

/** One channel into two. */
function mixOne(destination: usize, source: usize, previous: usize, current: usize): void {
  const l0 = load<f32>(previous), r0 = load<f32>(previous, 4);
  const l1 = load<f32>(current), r1 = load<f32>(current, 4);
  if (l0 == l1 && r0 == r1) spread(destination, source, l1, r1);
  else {
    addScaled(destination, source, l0, l1);
    addScaled(destination + BLOCK_BYTES, source, r0, r1);
  }
}

/** Whether a mix's gains stand still, and let something through. */
// @ts-ignore: decorator
@inline
function steady(previous: usize, current: usize): bool {
  return load<u64>(previous) == load<u64>(current) && load<u64>(current) != 0;
}

function mixFour(base: usize, op: usize, previous: usize, current: usize): void {
  const to = base + load<i32>(op, 4);
  const a = base + load<i32>(op, 8), b = base + load<i32>(op, 16), c = base + load<i32>(op, 24), d = base + load<i32>(op, 32);
  const pa = <usize>load<i32>(op, 12) << 2, pb = <usize>load<i32>(op, 20) << 2;
  const pc = <usize>load<i32>(op, 28) << 2, pd = <usize>load<i32>(op, 36) << 2;
  if (
    steady(previous + pa, current + pa) && steady(previous + pb, current + pb) &&
    steady(previous + pc, current + pc) && steady(previous + pd, current + pd)
  ) {
    spreadFour(
      to, a, b, c, d,
      load<f32>(current + pa), load<f32>(current + pa, 4), load<f32>(current + pb), load<f32>(current + pb, 4),
      load<f32>(current + pc), load<f32>(current + pc, 4), load<f32>(current + pd), load<f32>(current + pd, 4),
    );
    return;
  }
  mixOne(to, a, previous + pa, current + pa);
  mixOne(to, b, previous + pb, current + pb);
  mixOne(to, c, previous + pc, current + pc);
  mixOne(to, d, previous + pd, current + pd);
}

function process(base: usize, op: usize, targets: usize, previous: usize, current: usize): void {
  const code = load<i32>(op, 4);
  const buffer = base + load<i32>(op, 8);
  const channels = load<i32>(op, 12);
  const first = <usize>load<i32>(op, 16) << 2;
  const state = base + load<i32>(op, 20);
  const stateBytes = load<i32>(op, 24);
  const wetAt = <usize>load<i32>(op, 28) << 2;
  const late = load<i32>(op, 32);
  const bytes = <usize>channels * BLOCK_BYTES;
  const rate = load<i32>(base, H_SAMPLE_RATE);
  let beside = dry;
  if (late > 0) beside = heldBack(buffer, channels, late, base + load<i32>(op, 36), load<i32>(op, 40));
  else memory.copy(dry, buffer, bytes);
  const t = targets + first, p = previous + first, c = current + first;
  if (!processOne(code, buffer, channels, t, p, c, state, rate)) return;
  if (!finite(buffer, bytes)) {
    memory.fill(buffer, 0, bytes);
    memory.fill(state, 0, stateBytes);
    if (!finite(beside, bytes)) memory.fill(beside, 0, bytes);
    fault(base, op, 1);
  }
  const w0 = load<f32>(previous + wetAt), w1 = load<f32>(current + wetAt);
  if (w0 == 1 && w1 == 1) return;
  for (let c: usize = 0; c < bytes; c += BLOCK_BYTES) {
    scale(buffer + c, w0, w1);
    addScaled(buffer + c, beside + c, <f32>1 - w0, <f32>1 - w1);
  }
}

function fault(base: usize, op: usize, times: i32): void {
  store<i32>(base, load<i32>(base, H_FAULTS) + times, H_FAULTS);
  store<i32>(base, i32(op - base), H_FAULT_OP);
}

function packed(base: usize, op: usize, targets: usize, previous: usize, current: usize): void {
  const code = load<i32>(op, 4), count = load<i32>(op, 8);
  address(op + 16, base, targets, previous, current);
  const row = count == 1 && fitsRow(code);
  open(count, hearsKey(code), row);
  if (!processLanes(code, row)) return;
  const faults = close(count, load<i32>(op, 12));
  if (faults > 0) fault(base, op, faults);
}

function meter(buffer: usize, channels: i32, at: usize, fall: f32, share: f32): void {
  for (let c = 0; c < channels; c++) {
    const from = buffer + <usize>c * BLOCK_BYTES;
    // Four running values each, so that none waits for the one before.
    let top = f32x4.splat(0), top1 = top, top2 = top, top3 = top;
    let sum = f32x4.splat(0), sum1 = sum, sum2 = sum, sum3 = sum;
    for (let i: usize = 0; i < BLOCK_BYTES; i += 64) {
      const v = v128.load(from + i), v1 = v128.load(from + i, 16);
      const v2 = v128.load(from + i, 32), v3 = v128.load(from + i, 48);
      top = f32x4.pmax(top, f32x4.abs(v));
      top1 = f32x4.pmax(top1, f32x4.abs(v1));
      top2 = f32x4.pmax(top2, f32x4.abs(v2));
      top3 = f32x4.pmax(top3, f32x4.abs(v3));
      sum = f32x4.add(sum, f32x4.mul(v, v));
      sum1 = f32x4.add(sum1, f32x4.mul(v1, v1));
      sum2 = f32x4.add(sum2, f32x4.mul(v2, v2));
      sum3 = f32x4.add(sum3, f32x4.mul(v3, v3));
    }
    top = f32x4.pmax(f32x4.pmax(top, top1), f32x4.pmax(top2, top3));
    sum = f32x4.add(f32x4.add(sum, sum1), f32x4.add(sum2, sum3));
    const peak = max(
      max(f32x4.extract_lane(top, 0), f32x4.extract_lane(top, 1)),
      max(f32x4.extract_lane(top, 2), f32x4.extract_lane(top, 3)),
    );
    const square: f32 =
      (f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3)) / 128.0;
    const to = at + <usize>c * METER_BYTES;
    const fallen = load<f32>(to) * fall;
    store<f32>(to, peak > fallen ? peak : fallen > 1e-7 ? fallen : 0);
    const mean = load<f32>(to, 4);
    const next = mean + (square - mean) * share;
    store<f32>(to, next > 1e-14 ? next : 0, 4);
    if (peak > load<f32>(to, 8)) store<f32>(to, peak, 8);
    store<f32>(to, max(peak, load<f32>(to, 12) * <f32>0.85), 12);
  }
}

// Where `runMany` finds the frames of each source, and which of their blocks runs; 0 where the host puts them in itself.
let feeds: usize = 0;
let fedBlock: usize = 0;

// Two gains by which a source's frames go as they are taken: of the operations that follow, where those stand still.
let gain1: f32 = 1;
let gain2: f32 = 1;

/** Finds them, for a source of one channel. @returns the operation after those */
function gainsAfter(op: usize, buffer: i32, previous: usize, current: usize): usize {
  gain1 = gain2 = 1;
  for (let k = 0; k < 2; k++) {
    if (load<i32>(op) != OP_GAIN || load<i32>(op, 4) != buffer) return op;
    const param = <usize>load<i32>(op, 12) << 2;
    const gain = load<f32>(current + param);
    if (load<f32>(previous + param) != gain) return op;
    if (k == 0) gain1 = gain;
    else gain2 = gain;
    op += 16;
  }
  return op;
}

/** Takes a block of a source's interleaved frames. @returns whether all of them are finite */
function fed(to: usize, channels: i32, source: i32): bool {
  const from = load<usize>(feeds + (<usize>source << 4), 8) + BLOCK_BYTES * <usize>channels * fedBlock;
  const zero = f32x4.splat(0);
  let sum = zero, sum1 = zero;
  if (channels == 1) {
    const g = f32x4.splat(gain1), h = f32x4.splat(gain2);
    let i: usize = 0;
    do {
      const a = v128.load(from + i), b = v128.load(from + i, 16);
      v128.store(to + i, f32x4.mul(f32x4.mul(a, g), h));
      v128.store(to + i, f32x4.mul(f32x4.mul(b, g), h), 16);
      sum = f32x4.add(sum, f32x4.mul(a, zero));
      sum1 = f32x4.add(sum1, f32x4.mul(b, zero));
      i += 32;
    } while (i < BLOCK_BYTES);
  } else {
    for (let i: usize = 0; i < BLOCK_BYTES; i += 16) {
      const a = v128.load(from + (i << 1)), b = v128.load(from + (i << 1), 16);
      v128.store(to + i, v128.shuffle<f32>(a, b, 0, 2, 4, 6));
      v128.store(to + i, v128.shuffle<f32>(a, b, 1, 3, 5, 7), BLOCK_BYTES);
      sum = f32x4.add(sum, f32x4.mul(a, zero));
      sum1 = f32x4.add(sum1, f32x4.mul(b, zero));
    }
  }
  return !v128.any_true(f32x4.ne(f32x4.add(sum, sum1), zero));
}

/** Runs the plan at `base` for one block of 128 frames: stems stand in its source buffers, captures in theirs after. */
export function run(base: usize): void {
  advance(base);
  runSettled(base);
}

/** Runs it with its parameters as they stand. */
function runSettled(base: usize): void {
  const targets = base + load<i32>(base, H_TARGETS_OFFSET);
  const previous = base + load<i32>(base, H_PREVIOUS_OFFSET);
  const current = base + load<i32>(base, H_CURRENT_OFFSET);
  const fall = load<f32>(base, H_PEAK_FALL), share = load<f32>(base, H_RMS_SHARE);
  let op = base + load<i32>(base, H_OPS_OFFSET);
  while (true) {
    const code = load<i32>(op);
    if (code == OP_MIX) {
      mix(base, op, previous, current);
      op += 36;
    } else if (code == OP_MIX_FOUR) {
      mixFour(base, op, previous, current);
      op += 40;
    } else if (code == OP_GAIN) {
      const buffer = base + load<i32>(op, 4);
      const param = <usize>load<i32>(op, 12) << 2;
      const from = load<f32>(previous + param), to = load<f32>(current + param);
      scale(buffer, from, to);
      if (load<i32>(op, 8) == 2) scale(buffer + BLOCK_BYTES, from, to);
      op += 16;
    } else if (code == OP_METER) {
      meter(base + load<i32>(op, 4), load<i32>(op, 8), base + load<i32>(op, 12), fall, share);
      op += 16;
    } else if (code == OP_MATRIX) {
      const param = <usize>load<i32>(op, 8) << 2;
      matrix(base + load<i32>(op, 4), previous + param, current + param);
      op += 12;
    } else if (code == OP_BALANCE) {
      const buffer = base + load<i32>(op, 4);
      const param = <usize>load<i32>(op, 8) << 2;
      scale(buffer, load<f32>(previous + param), load<f32>(current + param));
      scale(buffer + BLOCK_BYTES, load<f32>(previous + param, 4), load<f32>(current + param, 4));
      op += 12;
    } else if (code == OP_PROCESS) {
      if (measuring) tick(i32(op - base));
      process(base, op, targets, previous, current);
      if (measuring) tick(-i32(op - base));
      op += 44;
    } else if (code == OP_LANES) {
      if (measuring) tick(i32(op - base));
      packed(base, op, targets, previous, current);
      if (measuring) tick(-i32(op - base));
      op += 208;
    } else if (code == OP_TAKE) {
      const buffer = base + load<i32>(op, 4), channels = load<i32>(op, 8);
      let next = op + 16;
      if (feeds != 0 && channels == 1) next = gainsAfter(next, load<i32>(op, 4), previous, current);
      if (!(feeds != 0 ? fed(buffer, channels, load<i32>(op, 12)) : finite(buffer, <usize>channels * BLOCK_BYTES))) {
        for (let at = buffer; at < buffer + <usize>channels * BLOCK_BYTES; at += 4) {
          const x = load<f32>(at);
          if (x - x != 0) store<f32>(at, 0);
        }
        fault(base, op, 1);
      }
      op = next;
    } else if (code == OP_CLEAR) {
      memory.fill(base + load<i32>(op, 4), 0, <usize>load<i32>(op, 8));
      op += 12;
    } else {
      return;
    }
  }
}

/** Puts channels together. @returns the highest sample in each lane, or `top` where that is higher */
function join(to: usize, from: usize, channels: i32, top: v128): v128 {
  for (let i: usize = 0; i < BLOCK_BYTES; i += 16) {
    const l = v128.load(from + i);
    top = f32x4.pmax(top, f32x4.abs(l));
    if (channels == 1) v128.store(to + i, l);
    else {
      const r = v128.load(from + BLOCK_BYTES + i);
      top = f32x4.pmax(top, f32x4.abs(r));
      v128.store(to + (i << 1), v128.shuffle<f32>(l, r, 0, 4, 1, 5));
      v128.store(to + (i << 1), v128.shuffle<f32>(l, r, 2, 6, 3, 7), 16);
    }
  }
  return top;
}

/** Blocks whose frames are brought near at once. */
const AHEAD = 8;
const touched: usize = memory.data(16, 16);
/**
 * Reads the next blocks of all feeds one feed after the other, so that they stand in the processor's caches when they are
 * taken block by block: to a processor so many places at once look like no order at all, and it fetches nothing ahead.
 */
function touch(feeds: usize, count: i32, block: i32, blocks: i32): void {
  let sum = 0;
  for (let f = 0; f < count; f++) {
    const at = feeds + (<usize>f << 4);
    const bytes = BLOCK_BYTES * <usize>load<i32>(at, 4);
    const from = load<usize>(at, 8) + bytes * <usize>block;
    for (let line = from; line < from + bytes * <usize>blocks; line += 64) sum += load<i32>(line);
  }
  // What is read must go somewhere, or it would not be read.
  store<i32>(touched, sum);
}

/**
 * Runs so many blocks in a row, the first of them `first` blocks into the room of its ports. Both lists hold four words
 * a port: its buffer in the plan (of a feed the plan's own operation knows it), how many channels it has, where its frames stand,
 * interleaved, and room for the highest sample of a take.
 */
export function runMany(
  base: usize, feedsAt: usize, feedCount: i32, takes: usize, takeCount: i32, first: i32, blocks: i32,
): void {
  for (let t = 0; t < takeCount; t++) store<f32>(takes + (<usize>t << 4), 0, 12);
  feeds = feedsAt;
  // Targets stay as they are meanwhile: parameters that have come there stand still.
  let moves = true;
  for (let b = first; b < first + blocks; b++) {
    if ((b - first) % AHEAD == 0) touch(feedsAt, feedCount, b, min(AHEAD, first + blocks - b));
    fedBlock = b;
    if (moves) moves = advance(base);
    runSettled(base);
    for (let t = 0; t < takeCount; t++) {
      const at = takes + (<usize>t << 4);
      const from = base + load<i32>(at), channels = load<i32>(at, 4);
      const to = load<usize>(at, 8) + BLOCK_BYTES * <usize>channels * <usize>b;
      const top = join(to, from, channels, f32x4.splat(load<f32>(at, 12)));
      const peak = max(
        max(f32x4.extract_lane(top, 0), f32x4.extract_lane(top, 1)),
        max(f32x4.extract_lane(top, 2), f32x4.extract_lane(top, 3)),
      );
      store<f32>(at, peak, 12);
    }
  }
  feeds = 0;
}
