// Four bands that move by what they hear, on four lanes; core/processors/dynamicEqualizer.ts says how, and gives their numbers.
import * as its from '../../../build/engine/parameters/dynamicEqualizer';
import { DECIBELS, ease, eased, eases, keepEase, leaps, sectionLeaps, SHARE } from '../ease';
import { finish, SECTION } from '../filter';
import { current, heard, loadState, paired, previous, signal, storeState } from '../lanes';
import {
  B_HELD, crossOver, dry, FAR, K_FADE, K_LEFT, K_PLACE, K_RAN, leapingSection, NEAR, put, soften, stood,
} from '../leap';
import { exp2, exp2By, flush, k, linkedLevel, powerDecibels, powerOctaves } from '../math';
import { loud, toOctaves } from '../octaves';
import { quietOne } from '../quiet';
import { fourBytes, perFrame } from '../span';
import { standing } from '../travel';

const BANDS: usize = 4;
/** Bytes of a band's numbers: g, k and a numerator, from its lowest power up, at none, a quarter, three quarters and all of its way. */
const TRAVEL: usize = 80;

// State: 0 reduction and 4 level heard in the last block, in dB; 16 by how many each band has gone from its gain; then, of each band, what
// leap.ts says of one, as far as whether it goes by numbers of its own; what came as it leapt; states of its section and of its detector; how
// far it is to go, how far it has gone, as shares of its way; what is eased; the state of what it was; its own numbers, and those of what it
// was; for how many frames it stays; and what its detector keeps.
const S_MOVES: usize = 16, S_BANDS: usize = 32, OF_ALL: usize = 312;
const B_CAME: usize = 20;
const B_STATE: usize = 24, B_HEARS: usize = 32, B_WANTS: usize = 40, B_GONE: usize = 44, B_EASE: usize = 48;
const B_WAS_STATE: usize = 64, B_MINE: usize = 72, B_WAS: usize = 152, B_STAYS: usize = 232, B_LISTENER: usize = 240;

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return i32(S_BANDS + BANDS * OF_ALL);
}

/** Shares of a way that are none: less than a hundred-thousandth of a decibel. */
const NONE: f32 = 1e-7;
/** Octaves of power that a decibel is, as controls leap. */
const LEAPS: f32 = DECIBELS / 3.01029996;

/** Shares by which a peak may lie under the one that holds a band and still do so: frames do not meet the tops of one wave after the other alike. */
const NEARLY: f32 = 2e-4;

// What all bands hear, what one hears of it, its levels, and how far it goes; what is heard of bands alone.
const input: usize = memory.data(2048, 16);
const part: usize = memory.data(2048, 16);
const levels: usize = memory.data(2048, 16);
const alone: usize = memory.data(2048, 16);
// A band's numbers at a part's start, and at its end; then, of their logarithms, what each gets with t, its square, its cube.
const from: usize = memory.data(16 * 20, 16);
const to: usize = memory.data(16 * 20, 16);

/** Whether nothing comes in, by itself or by its key, nothing is left of what came, and nothing moves. */
function sleeps(): bool {
  if (!standing() || !quietOne(signal, fourBytes) || !quietOne(heard(), fourBytes)) return false;
  const zero = f32x4.splat(0);
  let busy = zero;
  for (let s: usize = 0; s < BANDS; s++) {
    const kept = S_BANDS + s * OF_ALL;
    busy = v128.or(busy, f32x4.eq(loadState(kept + K_RAN), zero));
    busy = v128.or(busy, f32x4.ne(loadState(kept + K_PLACE), current(its.bandPlaces + (s << 2))));
    busy = v128.or(busy, f32x4.ne(loadState(kept + K_LEFT), zero));
    busy = v128.or(busy, f32x4.ne(loadState(kept + B_HELD), zero));
    for (let at = B_STATE; at <= B_EASE; at += 4) busy = v128.or(busy, f32x4.ne(loadState(kept + at), zero));
    const listener = kept + B_LISTENER;
    busy = v128.or(busy, v128.or(f32x4.ne(loadState(listener + K_LEFT), zero), f32x4.ne(loadState(listener + B_HELD), zero)));
    const fresh = f32x4.eq(loadState(listener + K_RAN), zero), elsewhere = f32x4.ne(loadState(listener + K_PLACE), current(its.hearPlaces + (s << 2)));
    busy = v128.or(busy, v128.andnot(v128.or(fresh, elsewhere), isDeaf(s)));
  }
  if (v128.any_true(busy)) return false;
  storeState(0, zero);
  storeState(4, f32x4.splat(-160));
  for (let s: usize = 0; s < BANDS; s++) storeState(S_MOVES + (s << 2), zero);
  return true;
}

export function process(): void {
  if (sleeps()) return;
  const end = fourBytes, zero = f32x4.splat(0);
  memory.copy(input, heard(), end);
  let listens = zero;
  for (let s: usize = 0; s < BANDS; s++) {
    const at = its.listens + (s << 2);
    listens = v128.or(listens, v128.or(current(at), previous(at)));
  }
  const apart = v128.any_true(f32x4.ne(listens, zero));
  if (apart) memory.fill(alone, 0, end);
  let top = zero, down = zero;
  for (let s: usize = 0; s < BANDS; s++) {
    leapWhereAsked(s);
    const deaf = isDeaf(s);
    if (i32x4.all_true(deaf)) {
      forget(s, deaf);
      storeState(S_MOVES + (s << 2), zero);
      apply(s);
      continue;
    }
    top = f32x4.pmax(top, v128.andnot(hear(s, deaf), deaf));
    if (apart) hearAlone(s);
    const goes = f32x4.mul(current(its.reaches + (s << 2)), follow(s));
    storeState(S_MOVES + (s << 2), goes);
    down = f32x4.pmax(down, f32x4.neg(goes));
    apply(s);
  }
  if (apart) partOver();
  storeState(0, down);
  storeState(4, powerDecibels(top));
}

/** Lanes in which a band passes what comes. */
function rests(s: usize): v128 {
  const at = its.works + (s << 2), zero = f32x4.splat(0);
  const still = v128.and(f32x4.eq(current(at), zero), f32x4.eq(previous(at), zero));
  return v128.andnot(still, f32x4.gt(loadState(S_BANDS + s * OF_ALL + B_HELD), zero));
}

/** Lanes in which nobody asks what a band hears. */
function isDeaf(s: usize): v128 {
  const at = its.listens + (s << 2), zero = f32x4.splat(0);
  return v128.and(rests(s), v128.and(f32x4.eq(current(at), zero), f32x4.eq(previous(at), zero)));
}

/** Keeps nothing of what a band has heard. */
function forget(s: usize, where: v128): void {
  const kept = S_BANDS + s * OF_ALL;
  const zero = f32x4.splat(0);
  put(kept + B_HEARS, zero, where);
  put(kept + B_HEARS + 4, zero, where);
  put(kept + B_LISTENER + K_RAN, zero, where);
  put(kept + B_LISTENER + K_LEFT, zero, where);
  put(kept + B_LISTENER + B_HELD, zero, where);
}

/** Puts what a band hears into `part`, and its levels, in octaves of power; below its threshold they need not be exact. @returns the highest power */
function hear(s: usize, deaf: v128): v128 {
  const kept = S_BANDS + s * OF_ALL, end = fourBytes;
  memory.copy(part, input, end);
  const at = s * SECTION;
  leapingSection(part, its.detectors + at, its.detectorsAtOnce + at, its.hearPlaces + (s << 2), its.fade, kept + B_HEARS, kept + B_LISTENER);
  finish(part);
  forget(s, deaf);
  return toOctaves(part, false, levels, levels + end, exp2(f32x4.sub(current(its.thresholds + (s << 2)), f32x4.splat(0.0003))));
}

/** Adds as much of what a band hears to what is heard alone as is asked. */
function hearAlone(s: usize): void {
  const at = its.listens + (s << 2);
  let share = previous(at);
  const step = f32x4.mul(f32x4.splat(perFrame), f32x4.sub(current(at), share));
  for (let i: usize = 0; i < fourBytes; i += 16) {
    share = f32x4.add(share, step);
    v128.store(alone + i, f32x4.add(v128.load(alone + i), f32x4.mul(share, v128.load(part + i))));
  }
}
/** What is heard alone takes the place of what is left. */
function partOver(): void {
  let share = f32x4.splat(0), goal = share;
  for (let s: usize = 0; s < BANDS; s++) {
    share = f32x4.add(share, previous(its.listens + (s << 2)));
    goal = f32x4.add(goal, current(its.listens + (s << 2)));
  }
  const step = f32x4.mul(f32x4.splat(perFrame), f32x4.sub(goal, share)), one = f32x4.splat(1);
  for (let i: usize = 0; i < fourBytes; i += 16) {
    share = f32x4.add(share, step);
    const rest = f32x4.mul(f32x4.sub(one, share), v128.load(signal + i));
    v128.store(signal + i, f32x4.add(rest, v128.load(alone + i)));
  }
}

/** Lanes in which what a band hears, or what it makes of it, leaps. */
function leaping(s: usize): v128 {
  if (standing()) return f32x4.splat(0);
  const numbers = v128.or(leaps(its.thresholds + (s << 2), LEAPS), leaps(its.shares + (s << 2), SHARE));
  return v128.or(v128.or(numbers, leaps(its.link, SHARE)), sectionLeaps(its.detectors + s * SECTION));
}

/** Puts how far a band goes, from 0 to 1, where its levels stand. @returns the mean of that */
function follow(s: usize): v128 {
  const kept = S_BANDS + s * OF_ALL, at4 = s << 2, end = levels + fourBytes;
  const zero = f32x4.splat(0), one = f32x4.splat(1), rest = rests(s);
  const attack = current(its.attacks + at4), release = current(its.releases + at4);
  const quick = f32x4.sub(one, attack), slow = f32x4.sub(one, release);
  let wants = loadState(kept + B_WANTS), gone = loadState(kept + B_GONE);
  const speed = f32x4.mul(f32x4.div(quick, f32x4.pmax(attack, f32x4.splat(1e-3))), f32x4.sub(wants, gone));
  ease(kept + B_EASE, v128.andnot(leaping(s), rest), current(its.ease), current(its.easeBlocks), gone, speed);
  const easy = eases;
  let sum = zero;
  if (!loud && !easy && !v128.any_true(v128.or(wants, gone))) {
    memory.fill(levels, 0, fourBytes);
    storeState(kept + B_STAYS, zero);
    return zero;
  }
  const hold = current(its.holds + at4), nearly = f32x4.splat(NEARLY);
  let stays = loadState(kept + B_STAYS);
  const threshold = current(its.thresholds + at4), share = v128.andnot(current(its.shares + at4), rest);
  const pairs = v128.load(paired), link = current(its.link), linked = v128.any_true(pairs);
  for (let at = levels; at < end; at += 16) {
    let level = v128.load(at);
    if (linked) level = linkedLevel(level, link, pairs);
    const asks = f32x4.pmin(one, f32x4.pmax(zero, f32x4.mul(share, f32x4.sub(level, threshold))));
    const falls = v128.bitselect(wants, f32x4.add(f32x4.mul(release, wants), f32x4.mul(slow, asks)), f32x4.gt(stays, zero));
    // With nothing asked nothing is held.
    const goes = v128.or(f32x4.lt(f32x4.add(asks, nearly), falls), f32x4.eq(asks, zero));
    stays = v128.bitselect(f32x4.pmax(zero, f32x4.sub(stays, one)), hold, goes);
    wants = f32x4.pmax(asks, falls);
    gone = f32x4.add(f32x4.mul(attack, gone), f32x4.mul(quick, wants));
    const shown = easy ? eased(gone) : gone;
    sum = f32x4.add(sum, shown);
    v128.store(at, shown);
  }
  if (easy) keepEase(kept + B_EASE);
  storeState(kept + B_STAYS, v128.andnot(stays, rest));
  const some = f32x4.splat(NONE);
  storeState(kept + B_WANTS, v128.andnot(v128.and(wants, f32x4.gt(wants, some)), rest));
  storeState(kept + B_GONE, v128.andnot(v128.and(gone, f32x4.gt(gone, some)), rest));
  return f32x4.mul(sum, f32x4.splat(perFrame));
}

/** Makes of numbers at four places of a way the cubics that their logarithms follow: the constants, then what stands with t and its powers. */
function bend(table: usize): void {
  const third = f32x4.splat(<f32>(1.0 / 3.0)), eight = f32x4.splat(8);
  for (let i: usize = table; i < table + 80; i += 16) {
    const still = powerOctaves(v128.load(i));
    const a = f32x4.sub(powerOctaves(v128.load(i, 80)), still), b = f32x4.sub(powerOctaves(v128.load(i, 160)), still);
    const c = f32x4.sub(powerOctaves(v128.load(i, 240)), still);
    // Through 0, a at 1/4, b at 3/4 and c at 1, in thirds: (24 a - 8 b + 3 c) t + (-56 a + 40 b - 16 c) t^2 + (32 a - 32 b + 16 c) t^3.
    const ab = f32x4.sub(a, b), c2 = f32x4.add(c, c);
    const first = f32x4.add(f32x4.mul(eight, f32x4.sub(f32x4.mul(f32x4.splat(3), a), b)), f32x4.add(c2, c));
    const second = f32x4.mul(eight, f32x4.sub(f32x4.sub(f32x4.mul(f32x4.splat(5), b), f32x4.mul(f32x4.splat(7), a)), c2));
    const cube = f32x4.mul(eight, f32x4.add(f32x4.mul(f32x4.splat(4), ab), c2));
    v128.store(i, still);
    v128.store(i, f32x4.mul(third, first), 80);
    v128.store(i, f32x4.mul(third, second), 160);
    v128.store(i, f32x4.mul(third, cube), 240);
  }
}

/** One of a section's numbers where a band has gone a share of its way, as a logarithm. */
// @ts-ignore: decorator
@inline
function numberAt(table: usize, t: v128): v128 {
  const high = f32x4.add(v128.load(table, 160), f32x4.mul(t, v128.load(table, 240)));
  return f32x4.add(v128.load(table), f32x4.mul(t, f32x4.add(v128.load(table, 80), f32x4.mul(t, high))));
}

/** A band's section over a part of a block, by how far it goes. @param state its two numbers; @param moves whether `from` is not `to` */
function run(block: usize, state: usize, moves: bool): void {
  const one = f32x4.splat(1), step = f32x4.splat(perFrame);
  const rounds = k(13), c0 = k(7), c1 = k(8), c2 = k(9), c3 = k(10), c4 = k(11), c5 = k(12);
  let s1 = loadState(state), s2 = loadState(state + 4);
  let g = one, damp = one, n0 = one, n1 = one, n2 = one, a1 = one, a2 = one, a3 = one;
  let share = f32x4.splat(0), before = f32x4.splat(-1);
  for (let i: usize = 0; i < fourBytes; i += 16) {
    const t = v128.load(levels + i);
    if (moves || v128.any_true(f32x4.ne(t, before))) {
      let l0 = numberAt(from, t), l1 = numberAt(from + 16, t), l2 = numberAt(from + 32, t), l3 = numberAt(from + 48, t), l4 = numberAt(from + 64, t);
      if (moves) {
        share = f32x4.add(share, step);
        l0 = f32x4.add(l0, f32x4.mul(share, f32x4.sub(numberAt(to, t), l0)));
        l1 = f32x4.add(l1, f32x4.mul(share, f32x4.sub(numberAt(to + 16, t), l1)));
        l2 = f32x4.add(l2, f32x4.mul(share, f32x4.sub(numberAt(to + 32, t), l2)));
        l3 = f32x4.add(l3, f32x4.mul(share, f32x4.sub(numberAt(to + 48, t), l3)));
        l4 = f32x4.add(l4, f32x4.mul(share, f32x4.sub(numberAt(to + 64, t), l4)));
      }
      before = t;
      g = exp2By(l0, rounds, c0, c1, c2, c3, c4, c5);
      damp = exp2By(l1, rounds, c0, c1, c2, c3, c4, c5);
      n0 = exp2By(l2, rounds, c0, c1, c2, c3, c4, c5);
      n1 = exp2By(l3, rounds, c0, c1, c2, c3, c4, c5);
      n2 = exp2By(l4, rounds, c0, c1, c2, c3, c4, c5);
      a1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, damp))));
      a2 = f32x4.mul(g, a1);
      a3 = f32x4.mul(g, a2);
    }
    const x = v128.load(block + i);
    const v3 = f32x4.sub(x, s2);
    const v1 = f32x4.add(f32x4.mul(a1, s1), f32x4.mul(a2, v3));
    const v2 = f32x4.add(s2, f32x4.add(f32x4.mul(a2, s1), f32x4.mul(a3, v3)));
    s1 = f32x4.sub(f32x4.add(v1, v1), s1);
    s2 = f32x4.sub(f32x4.add(v2, v2), s2);
    const high = f32x4.sub(x, f32x4.add(f32x4.mul(damp, v1), v2));
    v128.store(block + i, f32x4.add(f32x4.mul(n2, high), f32x4.add(f32x4.mul(n1, v1), f32x4.mul(n0, v2))));
  }
  storeState(state, flush(s1));
  storeState(state + 4, flush(s2));
}

/** Has a band that leaps run beside what it was, and go by numbers of its own. */
function leap(s: usize, kept: usize, where: v128, held: v128): void {
  const zero = f32x4.splat(0), params = its.bands + s * TRAVEL, once = its.bandsAtOnce + s * TRAVEL;
  for (let i: usize = 0; i < TRAVEL; i += 4) {
    put(kept + B_WAS + i, v128.bitselect(loadState(kept + B_MINE + i), previous(params + i), held), where);
    put(kept + B_MINE + i, current(once + i), where);
  }
  // It begins as if what comes had stood for long, where that is slow against it, so that it is not struck; else from rest.
  put(kept + B_WAS_STATE, loadState(kept + B_STATE), where);
  put(kept + B_WAS_STATE + 4, loadState(kept + B_STATE + 4), where);
  put(kept + B_STATE, zero, where);
  put(kept + B_STATE + 4, f32x4.mul(stood(current(once)), v128.load(signal)), where);
  put(kept + B_CAME, v128.load(signal), where);
  const fade = current(its.fade);
  put(kept + K_LEFT, fade, where);
  put(kept + K_FADE, fade, where);
  put(kept + B_HELD, f32x4.splat(1), where);
}

/** Has a band leap in lanes in which it is asked to be somewhere else. */
function leapWhereAsked(s: usize): void {
  const kept = S_BANDS + s * OF_ALL, zero = f32x4.splat(0);
  const place = current(its.bandPlaces + (s << 2)), before = loadState(kept + K_PLACE), ran = f32x4.gt(loadState(kept + K_RAN), zero);
  const moved = v128.andnot(f32x4.ne(place, before), f32x4.gt(loadState(kept + K_LEFT), zero));
  if (v128.any_true(moved) || !i32x4.all_true(ran)) {
    const far = v128.and(v128.and(moved, ran), f32x4.gt(f32x4.abs(f32x4.sub(place, before)), f32x4.splat(FAR)));
    if (v128.any_true(far)) leap(s, kept, far, f32x4.gt(loadState(kept + B_HELD), zero));
    put(kept + K_PLACE, place, v128.or(moved, v128.not(ran)));
    storeState(kept + K_RAN, f32x4.splat(1));
  }
}

/** Has a band do its work on the signal. */
function apply(s: usize): void {
  const kept = S_BANDS + s * OF_ALL, params = its.bands + s * TRAVEL, once = its.bandsAtOnce + s * TRAVEL;
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  const held = f32x4.gt(loadState(kept + B_HELD), zero), rest = rests(s);
  if (i32x4.all_true(rest)) return keepNothing(kept, rest);
  const crosses = v128.any_true(f32x4.gt(loadState(kept + K_LEFT), zero));
  // What rests passes to the bit.
  memory.copy(part, signal, fourBytes);
  if (crosses) {
    memory.copy(dry, signal, fourBytes);
    for (let i: usize = 0; i < TRAVEL; i += 4) v128.store(from + (i << 2), loadState(kept + B_WAS + i));
    bend(from);
    run(dry, kept + B_WAS_STATE, false);
    soften(signal, kept + K_LEFT, kept + B_CAME);
  }
  let there = i32x4.splat(-1), still = there;
  for (let i: usize = 0; i < TRAVEL; i += 4) {
    const now = current(params + i), goal = current(once + i), end = v128.bitselect(goal, now, held);
    const start = v128.bitselect(loadState(kept + B_MINE + i), previous(params + i), held);
    v128.store(from + (i << 2), start);
    v128.store(to + (i << 2), end);
    still = v128.and(still, f32x4.eq(start, end));
    put(kept + B_MINE + i, end, held);
    const near = f32x4.mul(f32x4.splat(NEAR), f32x4.max(one, f32x4.abs(goal)));
    there = v128.and(there, f32x4.le(f32x4.abs(f32x4.sub(now, goal)), near));
  }
  const moves = !i32x4.all_true(still);
  bend(from);
  if (moves) bend(to);
  run(signal, kept + B_STATE, moves);
  if (crosses) crossOver(signal, kept + K_LEFT);
  put(kept + B_HELD, zero, v128.andnot(there, f32x4.gt(loadState(kept + K_LEFT), zero)));
  keepNothing(kept, rest);
  if (!v128.any_true(rest)) return;
  for (let i: usize = 0; i < fourBytes; i += 16)
    v128.store(signal + i, v128.bitselect(v128.load(part + i), v128.load(signal + i), rest));
}

/** Lanes in which a band rests keep nothing of what came. */
function keepNothing(kept: usize, rest: v128): void {
  const zero = f32x4.splat(0);
  put(kept + B_STATE, zero, rest);
  put(kept + B_STATE + 4, zero, rest);
  put(kept + B_WANTS, zero, rest);
  put(kept + B_GONE, zero, rest);
  put(kept + B_STAYS, zero, rest);
  put(kept + B_EASE, zero, rest);
}
