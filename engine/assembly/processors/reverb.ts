// A feedback delay network of sixteen lines, four frames of a line to a vector; the absorbent filters, which go from frame to
// frame, take four lines to a vector. Its parts stand in engine/assembly/reverb; the numbers of its gains in
// core/processors/reverb.ts and spaces.ts, which also size the state; a test holds the two together.
import * as its from '../../../build/engine/parameters/reverb';
import { BLOCK, BLOCK_BYTES } from '../../../build/engine/layout';
import { nearer, ringOf } from '../math';
import { cuts, ducking, ducks } from '../reverb/entrance';
import { eight, feedFour, hear, heard, mixFour, olds, reads, turn, workOut } from '../reverb/network';
import {
  DIFFUSERS, G_DIFFUSERS, G_LINES, LINES, NUMBERS, S_AWAKE, S_GAIN, S_HIGH, S_LEFT, S_LOW, S_NEW, S_OLD, S_POSITION, S_QUIET, S_RINGS,
} from '../reverb/state';
import { across, back, beginAt, crossing, diffuse, diffused, framesAt, offset, placeOf, reflect, walls, weigh, wrap } from '../reverb/walls';
import { frames, oneBytes, perFrame } from '../span';
import { anyMoves, fourOf } from '../travel';

function lineFrames(sampleRate: i32): i32 {
  return ringOf(Math.max(BLOCK, Math.ceil(0.33 * f64(sampleRate)) + 4));
}
function preDelayFrames(sampleRate: i32): i32 {
  return ringOf(Math.max(BLOCK, Math.ceil(0.25 * f64(sampleRate)) + 4));
}
function diffuserFrames(sampleRate: i32): i32 {
  return ringOf(Math.max(BLOCK, Math.ceil(0.02496 * f64(sampleRate)) + 4));
}
function tapFrames(sampleRate: i32): i32 {
  return ringOf(Math.max(BLOCK, Math.ceil(0.26 * f64(sampleRate)) + 4));
}

export const FINEST = 4;
export function bytes(sampleRate: i32): i32 {
  return i32(S_RINGS) + 4 * (
    16 * (lineFrames(sampleRate) + BLOCK) + 2 * (preDelayFrames(sampleRate) + BLOCK) +
    8 * (diffuserFrames(sampleRate) + BLOCK) + 2 * (tapFrames(sampleRate) + BLOCK)
  );
}

/** What is not told from silence any more: -180 dBFS. */
const SILENT: f32 = 1e-9;

function silent(block: usize): bool {
  let any = v128.load(block);
  for (let at: usize = 16; at < oneBytes; at += 16) any = v128.or(any, v128.load(block + at));
  return !v128.any_true(v128.and(any, i32x4.splat(0x7fffffff)));
}
function peak(block: usize): f32 {
  let m = f32x4.splat(0);
  for (let at: usize = 0; at < oneBytes; at += 16) m = f32x4.pmax(m, f32x4.abs(v128.load(block + at)));
  return max(
    max(f32x4.extract_lane(m, 0), f32x4.extract_lane(m, 1)), max(f32x4.extract_lane(m, 2), f32x4.extract_lane(m, 3)),
  );
}

// Gains of what is heard, at each of four frames, and how far they go in four; in a part of four they go as they are told to.
const gains: usize = memory.data(128, 16);
function gain(n: usize, from: f32, to: f32): void {
  const at = gains + (n << 4);
  const step: f32 = perFrame * (to - from);
  v128.store(at, f32x4.add(f32x4.splat(from), f32x4.mul(f32x4.splat(step), f32x4(1, 2, 3, 4))));
  v128.store(at, f32x4.splat(4 * step), 64);
}
function told(n: usize, previous: usize, current: usize, param: usize): void {
  if (frames == 4 && anyMoves) v128.store(gains + (n << 4), fourOf(current + param));
  else gain(n, load<f32>(previous + param), load<f32>(current + param));
}

/** Takes up another space or size, once the last has taken its place. */
function settle(state: usize, current: usize): void {
  const asked = current + its.preDelay;
  if (load<i32>(state, S_AWAKE) == 0) {
    memory.copy(state + S_NEW, asked, NUMBERS << 2);
    store<f32>(state, 0, S_LEFT);
    store<f32>(state, load<f32>(current, its.lowCut), S_LOW);
    store<f32>(state, load<f32>(current, its.highCut), S_HIGH);
    for (let n: usize = 0; n < 12; n += 4) store<f32>(state + n, load<f32>(current, its.level), S_GAIN);
    store<i32>(state, 1, S_AWAKE);
    return;
  }
  if (load<f32>(state, S_LEFT) > 0 || memory.compare(state + S_NEW, asked, NUMBERS << 2) == 0) return;
  memory.copy(state + S_OLD, state + S_NEW, NUMBERS << 2);
  memory.copy(state + S_NEW, asked, NUMBERS << 2);
  store<f32>(state, load<f32>(current, its.moves), S_LEFT);
}

/** Frames that the shortest line holds, of what is heard. */
function shortest(geometry: usize, was: usize): i32 {
  let least = 128;
  for (let k: usize = 0; k < LINES; k++) {
    least = min(least, framesAt(geometry, G_LINES + (k << 2)));
    if (crossing) least = min(least, framesAt(was, G_LINES + (k << 2)));
  }
  return least;
}

/** Puts the wet signal in place of the dry. */
export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const other = channels == 2 ? buffer + BLOCK_BYTES : buffer;
  const quiet = silent(buffer) && silent(other);
  if (quiet && load<i32>(state, S_AWAKE) == 0) return;
  settle(state, current);
  weigh(state, load<f32>(current, its.moves));

  const size = lineFrames(sampleRate), preSize = preDelayFrames(sampleRate);
  const difSize = diffuserFrames(sampleRate), tapSize = tapFrames(sampleRate);
  const apart = <usize>(size + BLOCK) << 2, preBytes = <usize>(preSize + BLOCK) << 2;
  const difBytes = <usize>(difSize + BLOCK) << 2, tapBytes = <usize>(tapSize + BLOCK) << 2;
  const rings = state + S_RINGS;
  const preL = rings + apart * LINES, preR = preL + preBytes;
  const dif = preR + preBytes;
  const tapL = dif + difBytes * DIFFUSERS, tapR = tapL + tapBytes;

  const position = load<i32>(state, S_POSITION);
  beginAt(<usize>(position & 127) << 2);
  const place = placeOf(position, size), prePlace = placeOf(position, preSize);
  const difPlace = placeOf(position, difSize), tapPlace = placeOf(position, tapSize);
  const geometry = state + S_NEW, was = state + S_OLD;
  const kept: f32 = <f32>1 - (<f32>1 - load<f32>(current, its.follows)) * <f32>frames / 128;
  const ducked = ducking(buffer, other, state, previous, current, sampleRate);

  // What comes in, cut, waits for its pre-delay.
  const inL = preL + (<usize>prePlace << 2) + offset, inR = preR + (<usize>prePlace << 2) + offset;
  memory.copy(inL, buffer, oneBytes);
  memory.copy(inR, other, oneBytes);
  cuts(inL, inR, state, current, kept, sampleRate);
  for (let side: usize = 0; side < 2; side++) {
    const ring = side == 0 ? preL : preR, to = diffused + (side << 9);
    memory.copy(to, back(ring, prePlace, framesAt(geometry, 0), preSize) + offset, oneBytes);
    if (crossing) {
      const old = back(ring, prePlace, framesAt(was, 0), preSize) + offset;
      for (let at: usize = 0; at < oneBytes; at += 16) v128.store(to + at, across(v128.load(to + at), old, at, 8));
    }
    diffuse(to, dif + difBytes * (side << 2), difBytes, difPlace, difSize, geometry + G_DIFFUSERS + (side << 4), was + G_DIFFUSERS + (side << 4));
    memory.copy((side == 0 ? tapL : tapR) + (<usize>tapPlace << 2) + offset, to, oneBytes);
  }
  reflect(walls, 0, geometry, was, tapL, tapR, tapPlace, tapSize);
  reflect(walls + 512, 1, geometry, was, tapL, tapR, tapPlace, tapSize);

  for (let k: usize = 0; k < LINES; k++) {
    const ring = rings + apart * k;
    store<usize>(reads + (k << 2), back(ring, place, framesAt(geometry, G_LINES + (k << 2)), size) + offset);
    store<usize>(olds + (k << 2), back(ring, place, framesAt(was, G_LINES + (k << 2)), size) + offset);
  }
  workOut(previous, current);
  turn(state, current);
  const level0 = load<f32>(state + 8, S_GAIN), wanted = load<f32>(current, its.level);
  const level1 = nearer(state + S_GAIN, wanted, <f32>1 - kept * kept * kept, wanted * <f32>1e-6);
  gain(0, level0, level1);
  told(1, previous, current, its.early);
  told(2, previous, current, its.own);
  told(3, previous, current, its.other);
  const deltas = gains + 64;
  let loud = v128.load(gains), early = v128.load(gains, 16), own = v128.load(gains, 32), cross = v128.load(gains, 48);
  const into = rings + (<usize>place << 2) + offset;
  // No more at once than the shortest line holds: what is read has been written.
  const most = min(oneBytes, <usize>(shortest(geometry, was) & ~3) << 2);
  for (let from: usize = 0; from < oneBytes; from += most) {
    const end = min(oneBytes, from + most);
    eight(0, state, from, end);
    eight(8, state, from, end);
    hear(from, end);
    for (let k: usize = 0; k < 4; k++) mixFour(k, from, end);
    feedFour(0, into, apart, diffused, diffused + 512, false, false, false, from, end);
    feedFour(4, into, apart, diffused, diffused + 512, false, false, true, from, end);
    feedFour(8, into, apart, diffused, diffused + 512, true, false, false, from, end);
    feedFour(12, into, apart, diffused, diffused + 512, false, true, true, from, end);
  }

  for (let at: usize = 0; at < oneBytes; at += 16) {
    const tail = f32x4.mul(f32x4.splat(0.25), loud), first = f32x4.mul(early, loud);
    const l = f32x4.add(f32x4.mul(tail, v128.load(heard + at)), f32x4.mul(first, v128.load(walls + at)));
    const r = f32x4.add(f32x4.mul(tail, v128.load(heard + at, 512)), f32x4.mul(first, v128.load(walls + at, 512)));
    let outL = f32x4.add(f32x4.mul(own, l), f32x4.mul(cross, r)), outR = f32x4.add(f32x4.mul(own, r), f32x4.mul(cross, l));
    if (ducked) {
      outL = f32x4.mul(outL, v128.load(ducks + at));
      outR = f32x4.mul(outR, v128.load(ducks + at));
    }
    loud = f32x4.add(loud, v128.load(deltas));
    early = f32x4.add(early, v128.load(deltas, 16));
    own = f32x4.add(own, v128.load(deltas, 32));
    cross = f32x4.add(cross, v128.load(deltas, 48));
    if (channels == 2) {
      v128.store(buffer + at, outL);
      v128.store(other + at, outR);
    } else v128.store(buffer + at, f32x4.mul(f32x4.splat(0.70710678), f32x4.add(outL, outR)));
  }
  if ((position & 127) + frames == BLOCK) {
    for (let k: usize = 0; k < LINES; k++) wrap(rings + apart * k, place, size);
    for (let k: usize = 0; k < DIFFUSERS; k++) wrap(dif + difBytes * k, difPlace, difSize);
    wrap(preL, prePlace, preSize);
    wrap(preR, prePlace, preSize);
    wrap(tapL, tapPlace, tapSize);
    wrap(tapR, tapPlace, tapSize);
  }
  store<i32>(state, position + frames, S_POSITION);

  // Once nothing has been heard for as long as anything can wait in it, it sleeps.
  if (!quiet || peak(buffer) > SILENT || peak(other) > SILENT) {
    store<i32>(state, 0, S_QUIET);
    return;
  }
  const waited = load<i32>(state, S_QUIET) + frames;
  store<i32>(state, waited, S_QUIET);
  if (waited > size + preSize + tapSize) memory.fill(state, 0, bytes(sampleRate));
}
