// What filters share that leap to other numbers: they run beside what they were, and cross over from it.
import { finish, ramped, section, SECTION, travel } from './filter';
import { current, loadState, previous, storeState } from './lanes';
import { bow } from './math';
import { fourBytes } from './span';

/** How near a filter's own numbers have to be to those that it is sent to, so that it goes by these again. */
export const NEAR: f32 = 1e-5;
/** How far it leaps: a quarter of an octave. */
export const FAR: f32 = 0.25;
/** The fourth power of g at about 500 Hz and 48 kHz. */
const SLOW: f32 = 1e-6;

// What a section keeps that leaps: whether it has run, the place that it has, frames left of a crossing, how many that takes; whether it
// runs by numbers of its own, those, those from which it crosses over, the state of that; what came as it leapt.
export const K_RAN: usize = 0, K_PLACE: usize = 4, K_LEFT: usize = 8, K_FADE: usize = 12, B_HELD: usize = 16;
const B_MINE: usize = 20, B_WAS: usize = 40, B_STATE: usize = 60, B_CAME: usize = 68;
export const OF_BAND: usize = 72;

/** What it was gives this, beside the signal. */
export const dry: usize = memory.data(2048, 16);

/** Keeps a number in some lanes' states. */
// @ts-ignore: decorator
@inline
export function put(to: usize, v: v128, where: v128): void {
  storeState(to, v128.bitselect(v, loadState(to), where));
}

/** The share of what comes that a section of this g has in its second state where that has stood for long, as far as it is slow against it. */
export function stood(g: v128): v128 {
  const square = f32x4.mul(g, g), bent = f32x4.mul(square, square);
  return f32x4.div(bent, f32x4.add(bent, f32x4.splat(SLOW)));
}

/**
 * Lets what comes set off softly from where it stood as it leapt, while a filter crosses over: a narrow one would ring for long if it
 * were struck.
 * @param block what comes; @param left where a lane keeps the frames that are left, and behind them how many it takes; @param came where it keeps what came
 */
export function soften(block: usize, left: usize, came: usize): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  let frames = loadState(left);
  const fade = f32x4.max(one, loadState(left + 4)), from = loadState(came);
  for (let i: usize = 0; i < fourBytes; i += 16) {
    frames = f32x4.max(zero, f32x4.sub(frames, one));
    const share = f32x4.sub(one, f32x4.div(frames, fade));
    const x = v128.load(block + i);
    const soft = f32x4.add(from, f32x4.mul(bow(share), f32x4.sub(x, from)));
    v128.store(block + i, v128.bitselect(soft, x, f32x4.lt(share, one)));
  }
}

/** Crosses over from `dry` to a block, in lanes in which frames of that are left. @param left as above */
export function crossOver(block: usize, left: usize): void {
  const end = fourBytes;
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  let frames = loadState(left);
  const fade = f32x4.max(one, loadState(left + 4));
  for (let i: usize = 0; i < end; i += 16) {
    frames = f32x4.max(zero, f32x4.sub(frames, one));
    const was = bow(f32x4.div(frames, fade));
    const y = v128.load(block + i);
    v128.store(block + i, f32x4.add(y, f32x4.mul(was, f32x4.sub(v128.load(dry + i), y))));
  }
  storeState(left, frames);
}

/**
 * Runs a section over a block. Where its place leaps, what it becomes runs beside what it was, and takes its place; it goes by its own
 * numbers then, until the smoothed ones have arrived.
 * @param params its smoothed numbers; @param once what they are sent to; @param place a number that tells where it stands; @param fade frames of a
 * crossing; @param state its two numbers; @param kept where it keeps what is said above
 */
export function leapingSection(block: usize, params: usize, once: usize, place: usize, fade: usize, state: usize, kept: usize): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  const now = current(place), before = loadState(kept + K_PLACE), ran = f32x4.gt(loadState(kept + K_RAN), zero);
  let held = f32x4.gt(loadState(kept + B_HELD), zero), fading = f32x4.gt(loadState(kept + K_LEFT), zero);
  const moved = v128.andnot(f32x4.ne(now, before), fading);
  if (v128.any_true(moved) || !i32x4.all_true(ran)) {
    const leaps = v128.and(v128.and(moved, ran), f32x4.gt(f32x4.abs(f32x4.sub(now, before)), f32x4.splat(FAR)));
    if (v128.any_true(leaps)) {
      for (let i: usize = 0; i < SECTION; i += 4) {
        put(kept + B_WAS + i, v128.bitselect(loadState(kept + B_MINE + i), previous(params + i), held), leaps);
        put(kept + B_MINE + i, current(once + i), leaps);
      }
      // It begins as if what comes had stood for long, where that is slow against it, so that it is not struck; else from rest.
      finish(block);
      put(kept + B_STATE, loadState(state), leaps);
      put(kept + B_STATE + 4, loadState(state + 4), leaps);
      put(state, zero, leaps);
      put(state + 4, f32x4.mul(stood(current(once)), v128.load(block)), leaps);
      put(kept + B_CAME, v128.load(block), leaps);
      const frames = current(fade);
      put(kept + K_LEFT, frames, leaps);
      put(kept + K_FADE, frames, leaps);
      put(kept + B_HELD, one, leaps);
      held = v128.or(held, leaps);
      fading = v128.or(fading, leaps);
    }
    put(kept + K_PLACE, now, v128.or(moved, v128.not(ran)));
    storeState(kept + K_RAN, one);
  }
  if (!v128.any_true(held)) return section(block, params, state);
  finish(block);
  const crosses = v128.any_true(fading);
  if (crosses) {
    memory.copy(dry, block, fourBytes);
    for (let i: usize = 0; i < SECTION; i += 4) {
      const was = loadState(kept + B_WAS + i);
      v128.store(travel + (i << 2), was);
      v128.store(travel + (i << 2), was, 80);
    }
    ramped(dry, kept + B_STATE, zero);
    soften(block, kept + K_LEFT, kept + B_CAME);
  }
  let there = i32x4.splat(-1);
  for (let i: usize = 0; i < SECTION; i += 4) {
    const smooth = current(params + i), goal = current(once + i), to = v128.bitselect(goal, smooth, held);
    v128.store(travel + (i << 2), v128.bitselect(loadState(kept + B_MINE + i), previous(params + i), held));
    v128.store(travel + (i << 2), to, 80);
    put(kept + B_MINE + i, to, held);
    const near = f32x4.mul(f32x4.splat(NEAR), f32x4.max(one, f32x4.abs(goal)));
    there = v128.and(there, f32x4.le(f32x4.abs(f32x4.sub(smooth, goal)), near));
  }
  ramped(block, state, zero);
  if (crosses) crossOver(block, kept + K_LEFT);
  there = v128.andnot(there, f32x4.gt(loadState(kept + K_LEFT), zero));
  put(kept + B_HELD, zero, there);
}
