// The engine knows no strips: it runs a plan, 128 frames at a time, and allocates nothing. Loops that run often test at their
// end: compilers of the host move out of a loop only what every way through it needs.
import {
  BLOCK_BYTES, H_ASLEEP_OFFSET, H_CURRENT_OFFSET, H_FAULTS, H_FAULT_OP, H_FED_BLOCK, H_FEEDS_OFFSET, H_OPS_OFFSET, H_PEAK_FALL, H_PREVIOUS_OFFSET, H_RMS_SHARE, H_SAMPLE_RATE, H_TARGETS_OFFSET,
  LANE_BYTES, LANES_BYTES, LANES_FIRST, METER_BYTES, OP_BALANCE, OP_CLEAR, OP_GAIN, OP_LANES, OP_MATRIX, OP_METER, OP_MIX, OP_MIX_FOUR, OP_PROCESS, OP_TAKE, OP_WAIT, RING_HEADER_BYTES,
} from '../../build/engine/layout';
import { addBy, addScaled, blendBy, finite, matrix, matrixBy, scale, scaleBy, spread, spreadFour } from './ramp';
import { address, close, firstOf, goesOn, mixOf, open, partAt, passBy, throughRing } from './lanes';
import { keepProbe, probedOp } from './probe';
import { after, anyMoves, before, bends, bring, consider, forget, keepEnds, lookAt, partFrames, restore, rowOf, twoBend, twoStand } from './travel';
import { bytesOf, finestOf, fitsRow, hearsKey, looksAhead, paramsOf, processLanes, processOne } from '../../build/engine/processors';

export { advance } from './travel';
export { probe, probed } from './probe';

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

// Adds a channel by the gain that a parameter is.
// @ts-ignore: decorator
@inline
function add(destination: usize, source: usize, param: usize): void {
  if (bends(param)) addBy(destination, source, rowOf(param, 0));
  else addScaled(destination, source, before(param), after(param));
}
// @ts-ignore: decorator
@inline
function gain(buffer: usize, param: usize): void {
  if (bends(param)) scaleBy(buffer, rowOf(param, 0));
  else scale(buffer, before(param), after(param));
}

function mix(base: usize, op: usize): void {
  let source = base + load<i32>(op, 4);
  const destination = base + load<i32>(op, 8);
  const from = load<i32>(op, 12), to = load<i32>(op, 16);
  const param = <usize>load<i32>(op, 20) << 2;
  const delay = load<i32>(op, 24);
  if (delay > 0) {
    source = heldBack(source, from, delay, base + load<i32>(op, 28), load<i32>(op, 32));
  }
  if (from == 1 && to == 2) {
    mixOne(destination, source, param);
    return;
  }
  add(destination, source, param);
  if (from == 1) return;
  add(destination + (to == 2 ? BLOCK_BYTES : 0), source + BLOCK_BYTES, param + 4);
}

/** One channel into two. */
function mixOne(destination: usize, source: usize, param: usize): void {
  const l = after(param), r = after(param + 4);
  if (before(param) == l && before(param + 4) == r && !twoBend(param)) spread(destination, source, l, r);
  else {
    add(destination, source, param);
    add(destination + BLOCK_BYTES, source, param + 4);
  }
}

function mixFour(base: usize, op: usize): void {
  const to = base + load<i32>(op, 4);
  const a = base + load<i32>(op, 8), b = base + load<i32>(op, 16), c = base + load<i32>(op, 24), d = base + load<i32>(op, 32);
  const pa = <usize>load<i32>(op, 12) << 2, pb = <usize>load<i32>(op, 20) << 2;
  const pc = <usize>load<i32>(op, 28) << 2, pd = <usize>load<i32>(op, 36) << 2;
  if (twoStand(pa) && twoStand(pb) && twoStand(pc) && twoStand(pd)) {
    spreadFour(
      to, a, b, c, d, after(pa), after(pa + 4), after(pb), after(pb + 4), after(pc), after(pc + 4), after(pd), after(pd + 4),
    );
    return;
  }
  mixOne(to, a, pa);
  mixOne(to, b, pb);
  mixOne(to, c, pc);
  mixOne(to, d, pd);
}

function wait(base: usize, op: usize): void {
  const buffer = base + load<i32>(op, 4), channels = load<i32>(op, 8);
  const held = heldBack(buffer, channels, load<i32>(op, 12), base + load<i32>(op, 16), load<i32>(op, 20));
  memory.copy(buffer, held, <usize>channels * BLOCK_BYTES);
}

/** Blocks in which the input of an insert that wakes comes up, so that nothing that it keeps begins with a step. */
const WAKES = 8;
/** Where it says of an insert whether it sleeps (1), or how far it has come up (2 and more), by its mix. @param wetAt bytes into the parameters */
function sleepAt(base: usize, wetAt: usize): usize {
  return base + load<i32>(base, H_ASLEEP_OFFSET) + (wetAt >> 2);
}
/** Whether an insert has been bypassed for so long that it is not computed. */
function sleeps(base: usize, wetAt: usize): bool {
  return load<u8>(sleepAt(base, wetAt)) == 1;
}
/** Brings up the input of one that wakes. */
function wake(at: usize, buffer: usize, channels: i32): void {
  const step = <i32>load<u8>(at) - 2;
  store<u8>(at, step + 1 == WAKES ? 0 : <u8>(step + 3));
  for (let i: usize = 0; i < BLOCK_BYTES; i += 4) {
    const t = (<f32>step + <f32>(i >> 2) * <f32>0.0078125) / <f32>WAKES;
    const g = t * t * (<f32>3 - <f32>2 * t);
    store<f32>(buffer + i, g * load<f32>(buffer + i));
    if (channels == 2) store<f32>(buffer + BLOCK_BYTES + i, g * load<f32>(buffer + BLOCK_BYTES + i));
  }
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
  if (sleeps(base, wetAt)) {
    if (late > 0) memory.copy(buffer, beside, bytes);
    return;
  }
  const waking = sleepAt(base, wetAt);
  if (load<u8>(waking) > 1) wake(waking, buffer, channels);
  const t = targets + first, p = previous + first, c = current + first;
  forget();
  if (anyMoves) consider(first, paramsOf(code));
  const part = max(partFrames(), finestOf(code));
  if (part == 128) {
    if (!processOne(code, buffer, channels, t, p, c, state, rate)) return;
  } else {
    keepEnds();
    for (let at = 0; at < 128; at += part) {
      bring(at, at + part);
      processOne(code, buffer + (<usize>at << 2), channels, t, p, c, state, rate);
    }
    restore();
  }
  if (!finite(buffer, bytes)) {
    memory.fill(buffer, 0, bytes);
    memory.fill(state, 0, stateBytes);
    if (!finite(beside, bytes)) memory.fill(beside, 0, bytes);
    fault(base, op, 1);
  }
  const w0 = before(wetAt), w1 = after(wetAt);
  const bent = bends(wetAt);
  if (w0 == 1 && w1 == 1 && !bent) return;
  const row = bent ? rowOf(wetAt, 0) : 0;
  for (let c: usize = 0; c < bytes; c += BLOCK_BYTES) {
    if (bent) blendBy(buffer + c, beside + c, row);
    else {
      scale(buffer + c, w0, w1);
      addScaled(buffer + c, beside + c, <f32>1 - w0, <f32>1 - w1);
    }
  }
}

function fault(base: usize, op: usize, times: i32): void {
  store<i32>(base, load<i32>(base, H_FAULTS) + times, H_FAULTS);
  store<i32>(base, i32(op - base), H_FAULT_OP);
}

/** Whether the operation behind one of lanes goes on with what that gives, so that it need not be put into the strips' buffers between. */
function goOn(base: usize, op: usize): bool {
  const next = op + LANES_BYTES;
  if (load<i32>(next) != OP_LANES || load<i32>(op, 8) != 4 || load<i32>(next, 8) != 4 || load<i32>(next, 12) != 0) return false;
  // Who looks at either looks into the buffers.
  if (op == probedOp || next == probedOp || !goesOn(next + LANES_FIRST)) return false;
  for (let lane: usize = 0; lane < 4; lane++) if (sleeps(base, <usize>load<i32>(next + LANES_FIRST + lane * LANE_BYTES, 8) << 2)) return false;
  return true;
}

function packed(base: usize, op: usize, targets: usize, previous: usize, current: usize): void {
  const code = load<i32>(op, 4), count = load<i32>(op, 8);
  address(op, base, targets, previous, current);
  const latency = load<i32>(op, 12);
  let asleep = true;
  for (let lane = 0; lane < count; lane++) if (!sleeps(base, mixOf(lane))) asleep = false;
  if (asleep) {
    passBy(count, hearsKey(code), latency);
    return;
  }
  forget();
  if (anyMoves) for (let lane = 0; lane < count; lane++) consider(firstOf(lane), paramsOf(code));
  const part = max(partFrames(), finestOf(code));
  const row = count == 1 && part == 128 && fitsRow(code);
  open(count, hearsKey(code), row, looksAhead(code) ? latency : 0);
  if (part == 128) {
    if (!processLanes(code, row)) return;
  } else {
    keepEnds();
    for (let at = 0; at < 128; at += part) {
      bring(at, at + part);
      partAt(at);
      processLanes(code, false);
    }
    partAt(0);
    restore();
  }
  const faults = close(count, latency, goOn(base, op));
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

// Where the frames of each source are found, and which of their blocks runs.
let feeds: usize = 0;
let fedBlock: usize = 0;

// Two gains by which a source's frames go as they are taken: of the operations that follow, where those stand still.
let gain1: f32 = 1;
let gain2: f32 = 1;

/** Finds them, for a source of one channel. @returns the operation after those */
function gainsAfter(op: usize, buffer: i32): usize {
  gain1 = gain2 = 1;
  for (let k = 0; k < 2; k++) {
    if (load<i32>(op) != OP_GAIN || load<i32>(op, 4) != buffer) return op;
    const param = <usize>load<i32>(op, 12) << 2;
    const gain = after(param);
    if (before(param) != gain || bends(param)) return op;
    if (k == 0) gain1 = gain;
    else gain2 = gain;
    op += 16;
  }
  return op;
}

/** Takes a block of a source's frames, interleaved or a channel after the other. @returns whether all of them are finite */
function fed(to: usize, channels: i32, source: i32): bool {
  const at = feeds + (<usize>source << 4);
  const from = load<usize>(at, 8) + BLOCK_BYTES * <usize>channels * fedBlock;
  const apart = load<usize>(at, 12);
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
  } else if (apart != 0) {
    const left = load<usize>(at, 8) + BLOCK_BYTES * fedBlock;
    for (let i: usize = 0; i < BLOCK_BYTES; i += 16) {
      const a = v128.load(left + i), b = v128.load(left + apart + i);
      v128.store(to + i, a);
      v128.store(to + i, b, BLOCK_BYTES);
      sum = f32x4.add(sum, f32x4.mul(a, zero));
      sum1 = f32x4.add(sum1, f32x4.mul(b, zero));
    }
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

/**
 * Runs the plan at `base` for one block of 128 frames: stems stand where the header says, captures in their buffers
 * after. Its parameters stand as `advance` and the host left them.
 * @param moves whether any of them moves in this block
 */
export function run(base: usize, moves: bool): void {
  feeds = base + load<i32>(base, H_FEEDS_OFFSET);
  fedBlock = load<i32>(base, H_FED_BLOCK) - 1;
  runBlock(base, moves);
}

function runBlock(base: usize, moves: bool): void {
  lookAt(base, moves);
  const targets = base + load<i32>(base, H_TARGETS_OFFSET);
  const previous = base + load<i32>(base, H_PREVIOUS_OFFSET);
  const current = base + load<i32>(base, H_CURRENT_OFFSET);
  const fall = load<f32>(base, H_PEAK_FALL), share = load<f32>(base, H_RMS_SHARE);
  let op = base + load<i32>(base, H_OPS_OFFSET);
  while (true) {
    const code = load<i32>(op);
    if (code == OP_MIX) {
      mix(base, op);
      op += 36;
    } else if (code == OP_MIX_FOUR) {
      mixFour(base, op);
      op += 40;
    } else if (code == OP_GAIN) {
      const buffer = base + load<i32>(op, 4);
      const param = <usize>load<i32>(op, 12) << 2;
      gain(buffer, param);
      if (load<i32>(op, 8) == 2) gain(buffer + BLOCK_BYTES, param);
      op += 16;
    } else if (code == OP_METER) {
      meter(base + load<i32>(op, 4), load<i32>(op, 8), base + load<i32>(op, 12), fall, share);
      op += 16;
    } else if (code == OP_MATRIX) {
      const param = <usize>load<i32>(op, 8) << 2;
      const buffer = base + load<i32>(op, 4);
      if (twoBend(param) || twoBend(param + 8))
        matrixBy(buffer, rowOf(param, 0), rowOf(param + 4, 1), rowOf(param + 8, 2), rowOf(param + 12, 3));
      else matrix(buffer, previous + param, current + param);
      op += 12;
    } else if (code == OP_BALANCE) {
      const buffer = base + load<i32>(op, 4);
      const param = <usize>load<i32>(op, 8) << 2;
      gain(buffer, param);
      gain(buffer + BLOCK_BYTES, param + 4);
      op += 12;
    } else if (code == OP_PROCESS) {
      if (measuring) tick(i32(op - base));
      if (op == probedOp) keepProbe(0);
      process(base, op, targets, previous, current);
      if (op == probedOp) keepProbe(BLOCK_BYTES);
      if (measuring) tick(-i32(op - base));
      op += 44;
    } else if (code == OP_LANES) {
      if (measuring) tick(i32(op - base));
      if (op == probedOp) keepProbe(0);
      packed(base, op, targets, previous, current);
      if (op == probedOp) keepProbe(BLOCK_BYTES);
      if (measuring) tick(-i32(op - base));
      op += LANES_BYTES;
    } else if (code == OP_TAKE) {
      const buffer = base + load<i32>(op, 4), channels = load<i32>(op, 8);
      let next = op + 16;
      if (channels == 1) next = gainsAfter(next, load<i32>(op, 4));
      if (!fed(buffer, channels, load<i32>(op, 12))) {
        for (let at = buffer; at < buffer + <usize>channels * BLOCK_BYTES; at += 4) {
          const x = load<f32>(at);
          if (x - x != 0) store<f32>(at, 0);
        }
        fault(base, op, 1);
      }
      op = next;
    } else if (code == OP_WAIT) {
      wait(base, op);
      op += 24;
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
 * Runs so many blocks in a row, with parameters that stand still if there are several, the first of them `first` blocks into the room of its ports. Both lists hold four words
 * a port: its buffer in the plan (of a feed the plan's own operation knows it), how many channels it has, where its frames stand,
 * and room for the highest sample of a take; of a feed, how many bytes its right channel stands behind its left one, 0 where they
 * are interleaved.
 */
export function runMany(
  base: usize, feedsAt: usize, feedCount: i32, takes: usize, takeCount: i32, first: i32, blocks: i32, moves: bool,
): void {
  for (let t = 0; t < takeCount; t++) store<f32>(takes + (<usize>t << 4), 0, 12);
  feeds = feedsAt;
  for (let b = first; b < first + blocks; b++) {
    if ((b - first) % AHEAD == 0) touch(feedsAt, feedCount, b, min(AHEAD, first + blocks - b));
    fedBlock = b;
    runBlock(base, moves);
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
}
