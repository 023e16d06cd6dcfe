// Fourteen filter sections one after another; core/processors/equalizer.ts says which band each belongs to. A cut that leaps
// runs beside what it was before, and crosses over from it.
import * as its from '../../../build/engine/parameters/equalizer';
import { fourSections, cascade, finish, restsAll, restsOne, section, SECTION, settledOne } from '../filter';
import {
  B_HELD, crossOver, dry, FAR, K_FADE, K_LEFT, K_PLACE, K_RAN, leapingSection, OF_BAND, put, soften, stood,
} from '../leap';
import {
  current, currentOne, found, loadOne, loadState, overlook, remember, signal, silent, storeOne, storeState,
} from '../lanes';
import { fourBytes, oneBytes } from '../span';
import { standing } from '../travel';

const SECTIONS: usize = 14;
const CUT: usize = 4;
const BANDS: usize = 6;
const S_SECTIONS: usize = 16;
const S_LOW: usize = 128;
const S_HIGH: usize = 340;
const S_BANDS: usize = 552;
const BYTES: i32 = 984;

// What a cut keeps: whether it has run, the place that it has, frames left of a crossing, how many that takes; then, a section,
// its numbers, those from which it crosses over, and the state of that; what came as it leapt. It begins as what a band keeps: see leap.ts.
const K_SECTIONS: usize = 16;
const OF_SECTION: usize = 48;
const K_WAS: usize = 20, K_STATE: usize = 40, K_CAME: usize = 208;

/** One of the two cuts. @param params its place and sections; @param state of its sections; @param kept what it keeps */
function cut(params: usize, state: usize, kept: usize): void {
  const place = current(params), before = loadState(kept + K_PLACE), ran = f32x4.gt(loadState(kept + K_RAN), f32x4.splat(0));
  const zero = f32x4.splat(0);
  let fading = f32x4.gt(loadState(kept + K_LEFT), zero);
  const moved = v128.andnot(f32x4.ne(place, before), fading);
  if (v128.any_true(moved) || !i32x4.all_true(ran)) {
    const leaps = v128.and(v128.and(moved, ran), f32x4.gt(f32x4.abs(f32x4.sub(place, before)), f32x4.splat(FAR)));
    const taken = v128.or(moved, v128.not(ran));
    // Sections begin as if what comes had stood for long: see `stood`.
    finish(signal);
    let comes = v128.load(signal);
    put(kept + K_CAME, comes, leaps);
    for (let s: usize = 0; s < CUT; s++) {
      const from = params + 4 + s * SECTION, mine = kept + K_SECTIONS + s * OF_SECTION;
      for (let i: usize = 0; i < SECTION; i += 4) {
        put(mine + K_WAS + i, loadState(mine + i), leaps);
        put(mine + i, current(from + i), taken);
      }
      put(mine + K_STATE, loadState(state + (s << 3)), leaps);
      put(mine + K_STATE + 4, loadState(state + (s << 3) + 4), leaps);
      put(state + (s << 3), zero, leaps);
      put(state + (s << 3) + 4, f32x4.mul(stood(current(from)), comes), leaps);
      comes = f32x4.mul(f32x4.add(current(from + 8), current(from + 16)), comes);
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

function crossing(state: usize, kept: usize): void {
  memory.copy(dry, signal, fourBytes);
  fourSections(dry, kept + K_SECTIONS + K_WAS, OF_SECTION, kept + K_SECTIONS + K_STATE, OF_SECTION);
  soften(signal, kept + K_LEFT, kept + K_CAME);
  fourSections(signal, kept + K_SECTIONS, OF_SECTION, state, 8);
  crossOver(signal, kept + K_LEFT);
}

/** A shelf or a bell. */
function band(s: usize): void {
  const at = s * SECTION, state = S_SECTIONS + ((CUT + s) << 3);
  leapingSection(signal, its.bands + at, its.bandsAtOnce + at, its.bandPlaces + (s << 2), its.fade, state, S_BANDS + s * OF_BAND);
}

/** Whether a band goes by its smoothed numbers, and is not asked to leap: the first lane's alone. */
function bandRests(place: usize, kept: usize): bool {
  return cutRests(place, kept) && loadOne(kept + B_HELD) == 0;
}
/** The same of all four, and of cuts, which hold no numbers of their own. */
function bandsRest(place: usize, kept: usize, holds: bool): bool {
  const zero = f32x4.splat(0);
  let busy = f32x4.gt(loadState(kept + K_LEFT), zero);
  if (holds) busy = v128.or(busy, f32x4.gt(loadState(kept + B_HELD), zero));
  const asked = v128.or(f32x4.ne(current(place), loadState(kept + K_PLACE)), f32x4.eq(loadState(kept + K_RAN), zero));
  return !v128.any_true(v128.or(busy, asked));
}

/** Whether nothing comes in and nothing is left of what came: then it sleeps, and wakes as it was when new. */
function sleeps(asRow: bool): bool {
  if (!silent(asRow ? oneBytes : fourBytes)) return false;
  const zero = f32x4.splat(0);
  for (let s: usize = 0; s < SECTIONS * 2; s++) {
    const at = S_SECTIONS + (s << 2);
    if (asRow ? loadOne(at) != 0 : v128.any_true(f32x4.ne(loadState(at), zero))) return false;
  }
  // A band that leaps in silence does so as it would beside others that sound.
  for (let s: usize = 0; s < BANDS; s++) {
    const place = its.bandPlaces + (s << 2), kept = S_BANDS + s * OF_BAND;
    if (asRow ? !bandRests(place, kept) : !bandsRest(place, kept, true)) return false;
  }
  for (let kept = S_LOW; kept <= S_HIGH; kept += S_HIGH - S_LOW)
    for (let at: usize = K_RAN; at <= K_LEFT; at += 4)
      if (asRow) storeOne(kept + at, 0);
      else storeState(kept + at, zero);
  return true;
}

/** Whether nothing of it moves, leaps or crosses over, so that it is what its sections are. */
function rests(): bool {
  if (!standing() || !bandsRest(its.lowCut, S_LOW, false) || !bandsRest(its.highCut, S_HIGH, false)) return false;
  for (let s: usize = 0; s < BANDS; s++) if (!bandsRest(its.bandPlaces + (s << 2), S_BANDS + s * OF_BAND, true)) return false;
  return true;
}

export function process(): void {
  if (sleeps(false)) return overlook();
  let which = found();
  if (which < 0 && rests()) {
    which = 0;
    for (let s: usize = 0; s < SECTIONS; s++) {
      const state = S_SECTIONS + (s << 3);
      if (!restsAll(paramsOf(s))) which |= 1 << i32(s);
      else {
        storeState(state, f32x4.splat(0));
        storeState(state + 4, f32x4.splat(0));
      }
    }
    remember(which);
  }
  if (which >= 0) {
    for (let s: usize = 0; s < SECTIONS; s++) if ((which & (1 << i32(s))) != 0) section(signal, paramsOf(s), S_SECTIONS + (s << 3));
    return finish(signal);
  }
  cut(its.lowCut, S_SECTIONS, S_LOW);
  for (let s: usize = 0; s < BANDS; s++) band(s);
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
  for (let s: usize = 0; s < BANDS; s++) {
    if (!bandRests(its.bandPlaces + (s << 2), S_BANDS + s * OF_BAND)) return false;
  }
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
