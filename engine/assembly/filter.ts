// State-variable filter sections on four lanes; core/processors/filter.ts gives their numbers and the source.
import { flush } from './math';
import { standing } from './travel';
import { fourBytes, perFrame } from './span';
import {
  current, currentOne, loadState, look, lookAside, previous, previousOne, same, storeState,
} from './lanes';

/** Bytes of a section's parameters: g, k, m0, m1, m2. */
export const SECTION: usize = 20;

// The section that waits to run beside the next one: two run in one loop, so that neither waits for itself.
let pending: bool = false;
let pendingParams: usize = 0;
let pendingState: usize = 0;
const pendingRest: usize = memory.data(16, 16);

// @ts-ignore: decorator
@inline
function passes(m0: v128, m1: v128, m2: v128): v128 {
  const none = f32x4.splat(0);
  return v128.and(v128.and(f32x4.eq(m0, f32x4.splat(1)), f32x4.eq(m1, none)), f32x4.eq(m2, none));
}
// In which lanes a section passes what comes, at the block's start and end.
// @ts-ignore: decorator
@inline
function resting(params: usize): v128 {
  const now = passes(current(params + 8), current(params + 12), current(params + 16));
  if (standing() || !v128.any_true(now)) return now;
  return v128.and(now, passes(previous(params + 8), previous(params + 12), previous(params + 16)));
}
// Keeps a section's state; of lanes in which it rests nothing is left, as if all four did.
// @ts-ignore: decorator
@inline
function keep(state: usize, s1: v128, s2: v128, rest: v128): void {
  storeState(state, v128.andnot(flush(s1), rest));
  storeState(state + 4, v128.andnot(flush(s2), rest));
}

// @ts-ignore: decorator
@inline
function settled(params: usize): bool {
  return (
    same(current(params), previous(params)) && same(current(params + 4), previous(params + 4)) &&
    same(current(params + 8), previous(params + 8)) && same(current(params + 12), previous(params + 12)) &&
    same(current(params + 16), previous(params + 16))
  );
}

/** Whether a section passes what comes in all four lanes. */
export function restsAll(params: usize): bool {
  return i32x4.all_true(resting(params));
}
/** Of the first lane alone: whether a section passes what comes. */
export function restsOne(params: usize): bool {
  return (
    currentOne(params + 8) == 1 && currentOne(params + 12) == 0 && currentOne(params + 16) == 0 &&
    previousOne(params + 8) == 1 && previousOne(params + 12) == 0 && previousOne(params + 16) == 0
  );
}
/** Of the first lane alone: whether a section's numbers stand still. */
export function settledOne(params: usize): bool {
  for (let at = params; at < params + SECTION; at += 4) if (currentOne(at) != previousOne(at)) return false;
  return true;
}

/**
 * Runs a section over a block of four lanes in place, or lets it wait for another; `finish` runs what still waits. Sections
 * are to be given in the order of the signal.
 * @param params first parameter, in bytes; @param state first state float, in bytes: two floats
 */
export function section(block: usize, params: usize, state: usize): void {
  const rest = resting(params);
  if (i32x4.all_true(rest)) {
    storeState(state, f32x4.splat(0));
    storeState(state + 4, f32x4.splat(0));
    return;
  }
  if (!standing() && !settled(params)) {
    finish(block);
    moving(block, params, state, rest);
  } else if (pending) {
    pending = false;
    two(block, pendingParams, pendingState, params, state, rest);
  } else {
    pending = true;
    pendingParams = params;
    pendingState = state;
    v128.store(pendingRest, rest);
  }
}

// The section as a step of its state, with w = x - s2 and r = b s1: r' = c r + b^2 w, s2' = s2 + r + a w, y = d w + e r + f s2. It is
// the same arithmetic as below with the step worked out: fewer operations, and a frame waits for as little as can be of the one
// before. f is the gain at 0 Hz: 1 of bells.
const C: usize = 0, SQUARE: usize = 16, A: usize = 32, D: usize = 48, E: usize = 64, F: usize = 80, B: usize = 96;
const coefficients: usize = memory.data(16 * 8, 16);
const second: usize = memory.data(16 * 8, 16);
/** How near to 1 a gain at 0 Hz is 1: its numbers are rounded. */
const UNITY: f32 = 5e-7;

/** @returns whether the gain at 0 Hz is 1 in all lanes */
function workOut(params: usize, to: usize): bool {
  const one = f32x4.splat(1), half = f32x4.splat(0.5);
  const g = f32x4.pmax(current(params), f32x4.splat(1e-9)), k = current(params + 4);
  const m0 = current(params + 8), m1 = current(params + 12), m2 = current(params + 16);
  const a1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, k))));
  const a2 = f32x4.mul(g, a1), a3 = f32x4.mul(g, a2);
  const b = f32x4.add(a2, a2);
  // A lane that passes what comes keeps nothing of it, so that it passes it to the bit.
  const idle = passes(m0, m1, m2);
  v128.store(to, f32x4.sub(f32x4.add(a1, a1), one), C);
  v128.store(to, v128.andnot(f32x4.mul(b, b), idle), SQUARE);
  v128.store(to, v128.andnot(f32x4.add(a3, a3), idle), A);
  v128.store(to, f32x4.add(m0, f32x4.add(f32x4.mul(m1, a2), f32x4.mul(m2, a3))), D);
  v128.store(to, f32x4.mul(half, f32x4.add(f32x4.div(m1, g), m2)), E);
  const still = f32x4.add(m0, m2);
  const unity = f32x4.lt(f32x4.abs(f32x4.sub(still, one)), f32x4.splat(UNITY));
  v128.store(to, v128.bitselect(one, still, unity), F);
  v128.store(to, b, B);
  return i32x4.all_true(unity);
}
// @ts-ignore: decorator
@inline
function out(numbers: usize, w: v128, r: v128, s2: v128): v128 {
  return f32x4.add(
    f32x4.mul(v128.load(numbers, D), w),
    f32x4.add(f32x4.mul(v128.load(numbers, E), r), f32x4.mul(v128.load(numbers, F), s2)),
  );
}
// The same where f is 1.
// @ts-ignore: decorator
@inline
function outOfBell(d: v128, e: v128, w: v128, r: v128, s2: v128): v128 {
  return f32x4.add(f32x4.mul(d, w), f32x4.add(f32x4.mul(e, r), s2));
}
// @ts-ignore: decorator
@inline
function next1(c: v128, square: v128, w: v128, r: v128): v128 {
  return f32x4.add(f32x4.mul(c, r), f32x4.mul(square, w));
}
// @ts-ignore: decorator
@inline
function next2(a: v128, w: v128, r: v128, s2: v128): v128 {
  return f32x4.add(f32x4.add(s2, r), f32x4.mul(a, w));
}
// r of s1, and s1 of r.
// @ts-ignore: decorator
@inline
function stepped(numbers: usize, s1: v128): v128 {
  return f32x4.mul(s1, v128.load(numbers, B));
}
// @ts-ignore: decorator
@inline
function stood(numbers: usize, r: v128): v128 {
  return f32x4.div(r, v128.load(numbers, B));
}

export function finish(block: usize): void {
  if (!pending) return;
  pending = false;
  const p = coefficients, state = pendingState;
  workOut(pendingParams, p);
  const pc = v128.load(p, C), pp = v128.load(p, SQUARE), pa = v128.load(p, A);
  const rest = v128.load(pendingRest);
  let r = v128.andnot(stepped(p, loadState(state)), rest), s2 = v128.andnot(loadState(state + 4), rest);
  const end = fourBytes;
  let i: usize = 0;
  do {
    const w = f32x4.sub(v128.load(block + i), s2);
    v128.store(block + i, out(p, w, r, s2));
    s2 = next2(pa, w, r, s2);
    r = next1(pc, pp, w, r);
    i += 16;
  } while (i < end);
  keep(state, stood(p, r), s2, rest);
}

function two(block: usize, first: usize, firstState: usize, then: usize, thenState: usize, rest: v128): void {
  const p = coefficients, q = second;
  // Both are worked out.
  const bells = i32(workOut(first, p)) & i32(workOut(then, q));
  const pc = v128.load(p, C), pp = v128.load(p, SQUARE), pa = v128.load(p, A);
  const qc = v128.load(q, C), qq = v128.load(q, SQUARE), qa = v128.load(q, A);
  const restBefore = v128.load(pendingRest);
  let r = v128.andnot(stepped(p, loadState(firstState)), restBefore), s2 = v128.andnot(loadState(firstState + 4), restBefore);
  let t = v128.andnot(stepped(q, loadState(thenState)), rest), u2 = v128.andnot(loadState(thenState + 4), rest);
  const end = fourBytes;
  let i: usize = 0;
  if (bells != 0) {
    const pd = v128.load(p, D), pe = v128.load(p, E), qd = v128.load(q, D), qe = v128.load(q, E);
    do {
      const w = f32x4.sub(v128.load(block + i), s2);
      const v = f32x4.sub(outOfBell(pd, pe, w, r, s2), u2);
      s2 = next2(pa, w, r, s2);
      r = next1(pc, pp, w, r);
      v128.store(block + i, outOfBell(qd, qe, v, t, u2));
      u2 = next2(qa, v, t, u2);
      t = next1(qc, qq, v, t);
      i += 16;
    } while (i < end);
  } else
    do {
      const w = f32x4.sub(v128.load(block + i), s2);
      const v = f32x4.sub(out(p, w, r, s2), u2);
      s2 = next2(pa, w, r, s2);
      r = next1(pc, pp, w, r);
      v128.store(block + i, out(q, v, t, u2));
      u2 = next2(qa, v, t, u2);
      t = next1(qc, qq, v, t);
      i += 16;
    } while (i < end);
  keep(firstState, stood(p, r), s2, restBefore);
  keep(thenState, stood(q, t), u2, rest);
}

// A section that passes what comes, for lanes of a cascade that have none, and its state.
const still: usize = memory.data<f32>([0, 1, 1, 0, 0], 16);
const stillState: usize = memory.data(16, 16);
// Which lanes of a cascade have begun: all, all but the last, ... none.
const begun: usize = memory.data<i32>([-1, -1, -1, -1, 0, 0, 0, 0], 16);

// The lanes that stand within the block's 128 frames when the first of them stands at a frame.
// @ts-ignore: decorator
@inline
function within(frame: i32): v128 {
  const from = v128.load(begun + (<usize>(3 - min(3, max(-1, frame))) << 2));
  const to = v128.load(begun + (<usize>(3 - min(3, max(-1, frame - 128))) << 2));
  return v128.andnot(from, to);
}

function lookAt(list: usize, count: i32): void {
  for (let k = 0; k < 4; k++) {
    const at = list + (<usize>k << 3);
    if (k < count) look(k, load<usize>(at), load<usize>(at, 4));
    else lookAside(k, still, stillState);
  }
}

/**
 * Runs up to eight settled sections one after the other on a single channel, in place: a section to a lane, each a frame
 * behind the one before it. A section computes the same, in the same order, as where it has a vector of channels.
 * @param list their parameters and states, in bytes; two words each
 */
export function cascade(channel: usize, list: usize, count: i32): void {
  const p = coefficients, q = second;
  lookAt(list + 32, count - 4);
  workOut(0, q);
  let t = stepped(q, loadState(0)), u2 = loadState(4);
  lookAt(list, count);
  workOut(0, p);
  let r = stepped(p, loadState(0)), s2 = loadState(4);
  let y = f32x4.splat(0), z = y;
  const pc = v128.load(p, C), pp = v128.load(p, SQUARE), pa = v128.load(p, A);
  const qc = v128.load(q, C), qq = v128.load(q, SQUARE), qa = v128.load(q, A);
  // The last lane is seven frames behind the first.
  let i = 0;
  do {
    const x = v128.shuffle<f32>(y, v128.load32_splat(channel + (<usize>i << 2)), 4, 0, 1, 2);
    const w = f32x4.sub(x, s2);
    y = out(p, w, r, s2);
    const u = v128.shuffle<f32>(z, y, 7, 0, 1, 2);
    const v = f32x4.sub(u, u2);
    z = out(q, v, t, u2);
    let n1 = next1(pc, pp, w, r), n2 = next2(pa, w, r, s2);
    let m1 = next1(qc, qq, v, t), m2 = next2(qa, v, t, u2);
    if (<u32>(i - 6) > 121) {
      const live = within(i), lively = within(i - 3);
      n1 = v128.bitselect(n1, r, live);
      n2 = v128.bitselect(n2, s2, live);
      m1 = v128.bitselect(m1, t, lively);
      m2 = v128.bitselect(m2, u2, lively);
    }
    r = n1;
    s2 = n2;
    t = m1;
    u2 = m2;
    if (i >= 6) v128.store_lane<f32>(channel + (<usize>(i - 6) << 2), z, 3);
  } while (++i < 134);
  storeState(0, flush(stood(p, r)));
  storeState(4, flush(s2));
  lookAt(list + 32, count - 4);
  storeState(0, flush(stood(q, t)));
  storeState(4, flush(u2));
}

/** Five numbers of a section at a block's start, then at its end. */
export const travel: usize = memory.data(16 * 10, 16);

// While its numbers move, they run straight from the block's start to its end.
function moving(block: usize, params: usize, state: usize, rest: v128): void {
  for (let i: usize = 0; i < SECTION; i += 4) {
    v128.store(travel + (i << 2), previous(params + i));
    v128.store(travel + (i << 2), current(params + i), 80);
  }
  ramped(block, state, rest);
}

/** Runs a section whose numbers go as `travel` says. */
export function ramped(block: usize, state: usize, rest: v128): void {
  const one = f32x4.splat(1), step = f32x4.splat(perFrame);
  let g = v128.load(travel), k = v128.load(travel, 16);
  let m0 = v128.load(travel, 32), m1 = v128.load(travel, 48), m2 = v128.load(travel, 64);
  const dg = f32x4.mul(step, f32x4.sub(v128.load(travel, 80), g)), dk = f32x4.mul(step, f32x4.sub(v128.load(travel, 96), k));
  const d0 = f32x4.mul(step, f32x4.sub(v128.load(travel, 112), m0)), d1 = f32x4.mul(step, f32x4.sub(v128.load(travel, 128), m1));
  const d2 = f32x4.mul(step, f32x4.sub(v128.load(travel, 144), m2));
  let s1 = loadState(state), s2 = loadState(state + 4);
  const end = fourBytes;
  let i: usize = 0;
  do {
    g = f32x4.add(g, dg);
    k = f32x4.add(k, dk);
    m0 = f32x4.add(m0, d0);
    m1 = f32x4.add(m1, d1);
    m2 = f32x4.add(m2, d2);
    const a1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, k))));
    const a2 = f32x4.mul(g, a1), a3 = f32x4.mul(g, a2);
    const x = v128.load(block + i);
    const v3 = f32x4.sub(x, s2);
    const v1 = f32x4.add(f32x4.mul(a1, s1), f32x4.mul(a2, v3));
    const v2 = f32x4.add(s2, f32x4.add(f32x4.mul(a2, s1), f32x4.mul(a3, v3)));
    s1 = f32x4.sub(f32x4.add(v1, v1), s1);
    s2 = f32x4.sub(f32x4.add(v2, v2), s2);
    v128.store(block + i, f32x4.add(f32x4.mul(m0, x), f32x4.add(f32x4.mul(m1, v1), f32x4.mul(m2, v2))));
    i += 16;
  } while (i < end);
  keep(state, s1, s2, rest);
}

// Of four sections: a1, a2, a3, m0, m1, m2, s1, s2 each.
const chain: usize = memory.data(16 * 8 * 4, 16);

/**
 * Four sections one after the other over a part of a block, by numbers that stand in the lanes' states and stay.
 * @param numbers of the first section, and how many bytes further on those of the next; @param state likewise
 */
export function fourSections(block: usize, numbers: usize, apart: usize, state: usize, stateApart: usize): void {
  const one = f32x4.splat(1);
  for (let s: usize = 0; s < 4; s++) {
    const from = numbers + s * apart, to = chain + (s << 7);
    const g = loadState(from), k = loadState(from + 4);
    const a1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, k))));
    const a2 = f32x4.mul(g, a1);
    v128.store(to, a1);
    v128.store(to, a2, 16);
    v128.store(to, f32x4.mul(g, a2), 32);
    for (let i: usize = 0; i < 3; i++) v128.store(to + (i << 4), loadState(from + 8 + (i << 2)), 48);
    v128.store(to, loadState(state + s * stateApart), 96);
    v128.store(to, loadState(state + s * stateApart + 4), 112);
  }
  for (let i: usize = 0; i < fourBytes; i += 16) {
    let x = v128.load(block + i);
    for (let s: usize = 0; s < 4; s++) {
      const at = chain + (s << 7);
      const s1 = v128.load(at, 96), s2 = v128.load(at, 112);
      const a2 = v128.load(at, 16);
      const v3 = f32x4.sub(x, s2);
      const v1 = f32x4.add(f32x4.mul(v128.load(at), s1), f32x4.mul(a2, v3));
      const v2 = f32x4.add(s2, f32x4.add(f32x4.mul(a2, s1), f32x4.mul(v128.load(at, 32), v3)));
      v128.store(at, f32x4.sub(f32x4.add(v1, v1), s1), 96);
      v128.store(at, f32x4.sub(f32x4.add(v2, v2), s2), 112);
      x = f32x4.add(
        f32x4.mul(v128.load(at, 48), x),
        f32x4.add(f32x4.mul(v128.load(at, 64), v1), f32x4.mul(v128.load(at, 80), v2)),
      );
    }
    v128.store(block + i, x);
  }
  for (let s: usize = 0; s < 4; s++) {
    storeState(state + s * stateApart, flush(v128.load(chain + (s << 7), 96)));
    storeState(state + s * stateApart + 4, flush(v128.load(chain + (s << 7), 112)));
  }
}
