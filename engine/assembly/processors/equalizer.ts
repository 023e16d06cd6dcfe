// Fourteen filter sections one after another; core/processors/equalizer.ts says which band each belongs to. A cut that leaps
// runs beside what it was before, and crosses over from it.
import * as its from '../../../build/engine/parameters/equalizer';
import { fourSections, cascade, finish, restsOne, section, SECTION, settledOne } from '../filter';
import { bow } from '../math';
import { current, currentOne, loadOne, loadState, signal, silent, storeOne, storeState } from '../lanes';
import { fourBytes, frames, oneBytes } from '../span';

const SECTIONS: usize = 14;
const CUT: usize = 4;
const BANDS: usize = 6;
const S_SECTIONS: usize = 16;
const S_LOW: usize = 128;
const S_HIGH: usize = 336;
const BYTES: i32 = 544;

// What a cut keeps: whether it has run, the place that it has, frames left of a crossing, how many that takes; then, a section,
// its numbers, those from which it crosses over, and the state of that.
const K_RAN: usize = 0, K_PLACE: usize = 4, K_LEFT: usize = 8, K_FADE: usize = 12, K_SECTIONS: usize = 16;
const OF_SECTION: usize = 48;
const K_WAS: usize = 20, K_STATE: usize = 40;
/** A quarter of an octave. */
const FAR: f32 = 0.25;

// @ts-ignore: decorator
@inline
function put(to: usize, v: v128, where: v128): void {
  storeState(to, v128.bitselect(v, loadState(to), where));
}

/** One of the two cuts. @param params its place and sections; @param state of its sections; @param kept what it keeps */
function cut(params: usize, state: usize, kept: usize): void {
  const place = current(params), before = loadState(kept + K_PLACE), ran = f32x4.gt(loadState(kept + K_RAN), f32x4.splat(0));
  const zero = f32x4.splat(0);
  let fading = f32x4.gt(loadState(kept + K_LEFT), zero);
  const moved = v128.andnot(f32x4.ne(place, before), fading);
  if (v128.any_true(moved) || !i32x4.all_true(ran)) {
    const leaps = v128.and(v128.and(moved, ran), f32x4.gt(f32x4.abs(f32x4.sub(place, before)), f32x4.splat(FAR)));
    const taken = v128.or(moved, v128.not(ran));
    for (let s: usize = 0; s < CUT; s++) {
      const from = params + 4 + s * SECTION, mine = kept + K_SECTIONS + s * OF_SECTION;
      for (let i: usize = 0; i < SECTION; i += 4) {
        put(mine + K_WAS + i, loadState(mine + i), leaps);
        put(mine + i, current(from + i), taken);
      }
      put(mine + K_STATE, loadState(state + (s << 3)), leaps);
      put(mine + K_STATE + 4, loadState(state + (s << 3) + 4), leaps);
    }
    put(kept + K_PLACE, place, taken);
    const fade = current(its.fade);
    put(kept + K_LEFT, fade, leaps);
    put(kept + K_FADE, fade, leaps);
    storeState(kept + K_RAN, f32x4.splat(1));
    fading = v128.or(fading, leaps);
  }
  if (!v128.any_true(fading)) {
    for (let s: usize = 0; s < CUT; s++) section(signal, params + 4 + s * SECTION, state + (s << 3));
    return;
  }
  finish(signal);
  crossing(state, kept);
}

const dry: usize = memory.data(2048, 16);

function crossing(state: usize, kept: usize): void {
  const end = <usize>frames << 4;
  memory.copy(dry, signal, end);
  fourSections(dry, kept + K_SECTIONS + K_WAS, OF_SECTION, kept + K_SECTIONS + K_STATE, OF_SECTION);
  fourSections(signal, kept + K_SECTIONS, OF_SECTION, state, 8);
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  let left = loadState(kept + K_LEFT);
  const fade = f32x4.max(one, loadState(kept + K_FADE));
  for (let i: usize = 0; i < end; i += 16) {
    left = f32x4.max(zero, f32x4.sub(left, one));
    const was = bow(f32x4.div(left, fade));
    const y = v128.load(signal + i);
    v128.store(signal + i, f32x4.add(y, f32x4.mul(was, f32x4.sub(v128.load(dry + i), y))));
  }
  storeState(kept + K_LEFT, left);
}

/** Whether nothing comes in and nothing is left of what came: then it sleeps, and wakes as it was when new. */
function sleeps(asRow: bool): bool {
  if (!silent(asRow ? oneBytes : fourBytes)) return false;
  const zero = f32x4.splat(0);
  for (let s: usize = 0; s < SECTIONS * 2; s++) {
    const at = S_SECTIONS + (s << 2);
    if (asRow ? loadOne(at) != 0 : v128.any_true(f32x4.ne(loadState(at), zero))) return false;
  }
  for (let kept = S_LOW; kept <= S_HIGH; kept += S_HIGH - S_LOW)
    for (let at: usize = K_RAN; at <= K_LEFT; at += 4)
      if (asRow) storeOne(kept + at, 0);
      else storeState(kept + at, zero);
  return true;
}

export function process(): void {
  if (sleeps(false)) return;
  cut(its.lowCut, S_SECTIONS, S_LOW);
  for (let s: usize = 0; s < BANDS; s++) section(signal, its.bands + s * SECTION, S_SECTIONS + ((CUT + s) << 3));
  cut(its.highCut, S_SECTIONS + ((CUT + BANDS) << 3), S_HIGH);
  finish(signal);
}

// Parameters and states of the sections that do something, in bytes.
const list: usize = memory.data(16 * 8, 16);
let listed = 0;

// @ts-ignore: decorator
@inline
function paramsOf(s: usize): usize {
  if (s < CUT) return its.lowCut + 4 + s * SECTION;
  if (s < CUT + BANDS) return its.bands + (s - CUT) * SECTION;
  return its.highCut + 4 + (s - CUT - BANDS) * SECTION;
}
function cutRests(params: usize, kept: usize): bool {
  return loadOne(kept + K_RAN) == 1 && loadOne(kept + K_LEFT) == 0 && currentOne(params) == loadOne(kept + K_PLACE);
}

/** Whether it can be computed as a row: while a band moves it cannot. */
export function fitsRow(): bool {
  if (!cutRests(its.lowCut, S_LOW) || !cutRests(its.highCut, S_HIGH)) return false;
  listed = 0;
  for (let s: usize = 0; s < SECTIONS; s++) {
    const params = paramsOf(s);
    if (restsOne(params)) continue;
    if (!settledOne(params)) return false;
    const at = list + (<usize>listed << 3);
    store<usize>(at, params);
    store<usize>(at, S_SECTIONS + (s << 3), 4);
    listed++;
  }
  return true;
}

/** The same for one channel alone, after `fitsRow`. */
export function row(): void {
  if (sleeps(true)) return;
  let k = 0;
  for (let s: usize = 0; s < SECTIONS; s++) {
    if (k < listed && load<usize>(list + (<usize>k << 3)) == paramsOf(s)) {
      k++;
      continue;
    }
    storeOne(S_SECTIONS + (s << 3), 0);
    storeOne(S_SECTIONS + (s << 3) + 4, 0);
  }
  for (let k = 0; k < listed; k += 8) cascade(signal, list + (<usize>k << 3), listed - k);
}

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return BYTES;
}
