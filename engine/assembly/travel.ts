// How parameters move within a block. By hand they follow as through three one-pole filters (core/plan/compile.ts gives their
// time), by a cubic that has the places and speeds of that at both ends of the block. By lanes they go straight, or as the host
// wrote it, a value a frame (engine/drive.ts). The value at the block's end is that of its last frame.
import {
  BLOCK_BYTES, H_CURRENT_OFFSET, H_ENDS_OFFSET, H_HURRY, H_PARAM_COUNT, H_PATHS_OFFSET, H_PREVIOUS_OFFSET, H_SMOOTHING, H_STARTS_OFFSET,
  H_TARGETS_OFFSET, H_TURNS_OFFSET,
} from '../../build/engine/layout';
import { span } from './span';
import { rampStart, rampStep } from './ramp';

/** A path that goes by hand; greater ones are where the values stand, with a bit for those that jump. */
const BY_HAND: usize = 1;
/** Frames that a kernel computes at once while a parameter moves: by a lane, by hand, in a jump. */
const BY_LANE = 16;
const WITH_HAND = 4;
const JUMPING = 1;

let targets: usize = 0;
let previous: usize = 0;
let current: usize = 0;
let starts: usize = 0;
let ends: usize = 0;
let turns: usize = 0;
let paths: usize = 0;
/** Whether any parameter of the plan moves in this block. */
export let anyMoves: bool = false;

/** Looks at a plan's tables from now on. @param moves whether any parameter moves in this block */
export function lookAt(base: usize, moves: bool): void {
  targets = base + load<i32>(base, H_TARGETS_OFFSET);
  previous = base + load<i32>(base, H_PREVIOUS_OFFSET);
  current = base + load<i32>(base, H_CURRENT_OFFSET);
  starts = base + load<i32>(base, H_STARTS_OFFSET);
  ends = base + load<i32>(base, H_ENDS_OFFSET);
  turns = base + load<i32>(base, H_TURNS_OFFSET);
  paths = base + load<i32>(base, H_PATHS_OFFSET);
  anyMoves = moves;
}

/** Moves every parameter one block towards its target. @returns whether any was not there yet */
export function advance(base: usize): bool {
  lookAt(base, false);
  const a = f32x4.splat(load<f32>(base, H_HURRY)), e = f32x4.splat(load<f32>(base, H_SMOOTHING));
  const near = f32x4.splat(1e-6), half = f32x4.splat(0.5), hand = i32x4.splat(<i32>BY_HAND);
  let apart = f32x4.splat(0);
  const bytes = <usize>load<i32>(base, H_PARAM_COUNT) << 2;
  for (let at: usize = 0; at < bytes; at += 16) {
    const target = v128.load(targets + at), now = v128.load(current + at), speed = v128.load(ends + at), turn = v128.load(turns + at);
    v128.store(previous + at, now);
    v128.store(starts + at, speed);
    // (d/dt + a)^3 (x - target) = 0, a block a unit of time: x = target + (gap + p t + q t^2/2) e^(-a t), p = x' + a gap, q = (x' + a gap)' + a p.
    const gap = f32x4.sub(now, target);
    const away = v128.or(v128.or(gap, speed), turn);
    apart = v128.or(apart, away);
    const p = f32x4.add(speed, f32x4.mul(a, gap));
    const q = f32x4.add(f32x4.add(turn, f32x4.mul(a, speed)), f32x4.mul(a, p));
    const sum = f32x4.add(gap, f32x4.add(p, f32x4.mul(half, q))), slope = f32x4.add(p, q), bend = f32x4.sub(slope, f32x4.mul(a, sum));
    const left = f32x4.mul(e, sum), going = f32x4.mul(e, bend);
    const turning = f32x4.mul(e, f32x4.sub(f32x4.sub(q, f32x4.mul(a, slope)), f32x4.mul(a, bend)));
    const there = v128.and(v128.and(f32x4.le(f32x4.abs(left), near), f32x4.le(f32x4.abs(going), near)), f32x4.le(f32x4.abs(turning), near));
    v128.store(current + at, v128.bitselect(target, f32x4.add(target, left), there));
    v128.store(ends + at, v128.andnot(going, there));
    v128.store(turns + at, v128.andnot(turning, there));
    v128.store(paths + at, v128.and(hand, f32x4.ne(away, f32x4.splat(0))));
  }
  anyMoves = v128.any_true(apart);
  return anyMoves;
}

// @ts-ignore: decorator
@inline
export function pathOf(param: usize): usize {
  return load<usize>(paths + param);
}

// @ts-ignore: decorator
@inline
export function before(param: usize): f32 {
  return load<f32>(previous + param);
}
// @ts-ignore: decorator
@inline
export function after(param: usize): f32 {
  return load<f32>(current + param);
}
/** Whether one, or the one behind it, moves other than straight. */
// @ts-ignore: decorator
@inline
export function bends(param: usize): bool {
  return anyMoves && load<usize>(paths + param) != 0;
}
// @ts-ignore: decorator
@inline
export function twoBend(param: usize): bool {
  return anyMoves && load<u64>(paths + param) != 0;
}
/** Whether two go on as they stand, and are not both zero. */
// @ts-ignore: decorator
@inline
export function twoStand(param: usize): bool {
  return load<u64>(previous + param) == load<u64>(current + param) && !twoBend(param) && load<u64>(current + param) != 0;
}

// What a move by hand from x to y has come to at a share of the block.
function byHand(param: usize, t: f32, x: f32, y: f32): f32 {
  const u: f32 = t * t;
  const s: f32 = u * (<f32>3 - <f32>2 * t);
  return x + (y - x) * s + load<f32>(starts + param) * (t * (<f32>1 - t) * (<f32>1 - t)) - load<f32>(ends + param) * (u * (<f32>1 - t));
}

const rooms: usize = memory.data(4 * 512, 16);
/** A parameter's value at each of the block's frames. @param room one of four that it may stand in */
export function rowOf(param: usize, room: usize): usize {
  const path = pathOf(param);
  if (path > BY_HAND) return path & ~1;
  const to = rooms + (room << 9);
  if (path == BY_HAND) {
    for (let i: usize = 0; i < 128; i++) store<f32>(to + (i << 2), byHand(param, <f32>(i + 1) * <f32>0.0078125, before(param), after(param)));
    store<f32>(to, after(param), 508);
    return to;
  }
  let v = rampStart(before(param), after(param));
  const step = rampStep(before(param), after(param));
  for (let i: usize = 0; i < BLOCK_BYTES; i += 16) {
    v128.store(to + i, v);
    v = f32x4.add(v, step);
  }
  return to;
}

// Where up to four runs of parameters stood as a kernel's parts began: previous and current, 256 of each.
const MOST: usize = 256;
const kept: usize = memory.data(4 * 2 * 1024, 16);
const firsts: usize = memory.data(16, 16);
const counts: usize = memory.data(16, 16);
let runs: i32 = 0;
let part: i32 = 128;
let partFrom: i32 = 0;

/** Begins to look whether a kernel's parameters move in this block. */
export function forget(): void {
  runs = 0;
  part = 128;
}
/** Looks at a run of them. @param first in bytes */
export function consider(first: usize, count: usize): void {
  for (let r = 0; r < runs; r++) if (load<usize>(firsts + (<usize>r << 2)) == first) return;
  store<usize>(firsts + (<usize>runs << 2), first);
  store<usize>(counts + (<usize>runs << 2), min(count, MOST));
  runs++;
  for (let at = first; at < first + (count << 2); at += 4) {
    const path = pathOf(at);
    if (path == 0 && load<u32>(previous + at) == load<u32>(current + at)) continue;
    part = min(part, path == BY_HAND ? WITH_HAND : BY_LANE);
    if (path > BY_HAND && (path & 1) != 0) {
      part = JUMPING;
      return;
    }
  }
}

/** @returns frames that a kernel is to compute at once; a whole block where nothing moves */
export function partFrames(): i32 {
  return part;
}
/** Whether no number of the kernel that runs moves in this block. */
// @ts-ignore: decorator
@inline
export function standing(): bool {
  return part == 128;
}
/** Whether what a kernel computes begins a block. */
export function begins(): bool {
  return part == 128 || partFrom == 0;
}
/** How far a parameter goes in this block, where the kernel that runs has considered it. */
export function sweep(param: usize): f32 {
  if (part == 128) return 0;
  for (let r: usize = 0; r < <usize>runs; r++) {
    const at = param - load<usize>(firsts + (r << 2));
    if (at >= load<usize>(counts + (r << 2)) << 2) continue;
    const room = kept + (r << 11) + at;
    return abs(load<f32>(room, 1024) - load<f32>(room));
  }
  return 0;
}
function each(visit: (at: usize, kept: usize, from: i32, to: i32) => void, from: i32, to: i32): void {
  for (let r: usize = 0; r < <usize>runs; r++) {
    const first = load<usize>(firsts + (r << 2)), count = load<usize>(counts + (r << 2));
    for (let k: usize = 0; k < count; k++) visit(first + (k << 2), kept + (r << 11) + (k << 2), from, to);
  }
}
/** Remembers where they stand at the block's start and end. */
export function keepEnds(): void {
  each((at, room, from, to) => {
    store<f32>(room, before(at));
    store<f32>(room, after(at), 1024);
  }, 0, 0);
}
/** Brings them to where they are at the start and end of a part of the block, and has kernels compute that part alone. */
export function bring(from: i32, to: i32): void {
  span(to - from);
  partFrom = from;
  each((at, room, from, to) => {
    const path = pathOf(at);
    const x = load<f32>(room), y = load<f32>(room, 1024);
    if (path == 0 && x == y) return;
    const last = from == 0 ? x : after(at);
    let next = y;
    if (to < 128) {
      if (path > BY_HAND) next = load<f32>((path & ~1) + (<usize>(to - 1) << 2));
      else {
        const t: f32 = <f32>to * <f32>0.0078125;
        if (path == 0) next = x + (y - x) * t;
        else next = byHand(at, t, x, y);
      }
    }
    store<f32>(previous + at, last);
    store<f32>(current + at, next);
  }, from, to);
}
/**
 * A parameter's values at the four frames of a part of four, between whose ends it need not go straight.
 * @param at where it stands in the table of current values; one that was considered
 */
export function fourOf(at: usize): v128 {
  const param = at - current;
  const path = pathOf(param);
  if (path > BY_HAND) return v128.load((path & ~1) + (<usize>partFrom << 2));
  if (path == BY_HAND)
    for (let r: usize = 0; r < <usize>runs; r++) {
      const first = load<usize>(firsts + (r << 2));
      if (param < first || param >= first + (load<usize>(counts + (r << 2)) << 2)) continue;
      const room = kept + (r << 11) + (param - first), x = load<f32>(room), y = load<f32>(room, 1024);
      const t: f32 = <f32>partFrom * <f32>0.0078125, step: f32 = 0.0078125;
      return f32x4(byHand(param, t + step, x, y), byHand(param, t + 2 * step, x, y), byHand(param, t + 3 * step, x, y), byHand(param, t + 4 * step, x, y));
    }
  return f32x4.add(f32x4.splat(before(param)), f32x4.mul(f32x4.splat(<f32>0.25 * (after(param) - before(param))), f32x4(1, 2, 3, 4)));
}

/** Puts them back: the block is whole again. */
export function restore(): void {
  span(128);
  each((at, room, from, to) => {
    store<f32>(previous + at, load<f32>(room));
    store<f32>(current + at, load<f32>(room, 1024));
  }, 0, 0);
}
