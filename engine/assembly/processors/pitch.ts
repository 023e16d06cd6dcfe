// Pitch by a reading place that runs at another speed; core/processors/pitchShift.ts says how and from which source.
import * as its from '../../../build/engine/parameters/pitch';
import { frames as count, perFrame } from '../span';
import { ringOf } from '../math';

// State: 0 write position, 4 delay of the reading place, 8 delay of the place that fades out, 12 frames of fade that are
// left, 16 whether it has run; 64.. a ring a channel.
const S_DELAY: usize = 4;
const S_OLD: usize = 8;
const S_FADE: usize = 12;
const S_RUN: usize = 16;
const S_RINGS: usize = 64;

/** Points of the coarse past in which the best place is searched. */
const POINTS = 2048;
const coarse: usize = memory.data((POINTS + 8) * 4, 16);

function ringFrames(sampleRate: i32): i32 {
  return ringOf(0.12 * f64(sampleRate) + 1024);
}
export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 64 + ringFrames(sampleRate) * 8;
}

// One read between frames, by a cubic through four points (Hermite).
// @ts-ignore: decorator
@inline
function read(ring: usize, mask: i32, position: i32, delay: f32): f32 {
  const whole = i32(delay);
  const f: f32 = delay - f32(whole);
  const at = position - whole;
  const b = load<f32>(ring + (<usize>(at & mask) << 2));
  if (f == 0) return b;
  const a = load<f32>(ring + (<usize>((at + 1) & mask) << 2));
  const c = load<f32>(ring + (<usize>((at - 1) & mask) << 2));
  const d = load<f32>(ring + (<usize>((at - 2) & mask) << 2));
  const c1: f32 = <f32>0.5 * (c - a);
  const c2: f32 = a - <f32>2.5 * b + <f32>2 * c - <f32>0.5 * d;
  const c3: f32 = <f32>0.5 * (d - a) + <f32>1.5 * (b - c);
  return b + f * (c1 + f * (c2 + f * c3));
}

// @ts-ignore: decorator
@inline
function past(ring: usize, other: usize, mask: i32, at: i32): f32 {
  const place = <usize>(at & mask) << 2;
  return other != 0 ? load<f32>(ring + place) + load<f32>(other + place) : load<f32>(ring + place);
}

/**
 * How far from the reading place, between `reach` and twice that, the wave continues most alike; `way` is 1 for further
 * back and -1 for nearer. A coarse search by vectors, then a fine one around its best.
 */
function jump(ring: usize, other: usize, mask: i32, position: i32, delay: i32, reach: i32, way: i32): i32 {
  const longest = delay + (way > 0 ? 2 * reach : 0) + reach;
  const every = longest / POINTS + 2;
  const points = longest / every;
  for (let i = 0; i < points; i++)
    store<f32>(coarse + (<usize>i << 2), past(ring, other, mask, position - i * every));
  // What is compared: half a reach of the past at each place.
  const length = (reach / 2 / every) & ~3;
  const here = coarse + (<usize>(delay / every) << 2);
  let best = reach, bestScore: f32 = -1e30;
  for (let j = reach / every; j <= 2 * reach / every; j++) {
    const place = delay / every + way * j;
    if (place < 1 || place + length > points) continue;
    const there = coarse + (<usize>place << 2);
    let product = f32x4.splat(0), power = f32x4.splat(1e-12);
    for (let k: usize = 0; k < <usize>length << 2; k += 16) {
      const x = v128.load(there + k);
      product = f32x4.add(product, f32x4.mul(x, v128.load(here + k)));
      power = f32x4.add(power, f32x4.mul(x, x));
    }
    const score: f32 = lanesOf(product) / sqrt(lanesOf(power));
    if (score > bestScore) {
      bestScore = score;
      best = j * every;
    }
  }
  let fine = best;
  bestScore = -1e30;
  const span = min(256, reach / 2);
  for (let j = best - every; j <= best + every; j++) {
    if (delay + way * j < 2) continue;
    let product: f32 = 0, power: f32 = 1e-12;
    for (let k = 0; k < span; k++) {
      const x = past(ring, other, mask, position - delay - way * j - k);
      product += x * past(ring, other, mask, position - delay - k);
      power += x * x;
    }
    const score: f32 = product / sqrt(power);
    if (score > bestScore) {
      bestScore = score;
      fine = j;
    }
  }
  return fine;
}

// @ts-ignore: decorator
@inline
function lanesOf(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3));
}

/** The reading place strays between one and three reaches; two is where it rests. */
export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const frames = ringFrames(sampleRate);
  const mask = frames - 1;
  const ring = state + S_RINGS;
  const other: usize = channels == 2 ? ring + (<usize>frames << 2) : 0;
  const right = buffer + 512;
  const reach = i32(load<f32>(targets, its.reach));
  const lowest = f32(reach), highest: f32 = <f32>3 * f32(reach), middle: f32 = <f32>2 * f32(reach);
  const fadeFrames = reach / 4;
  let position = load<i32>(state);
  let delay = load<f32>(state, S_DELAY), old = load<f32>(state, S_OLD);
  let fade = load<i32>(state, S_FADE);
  if (load<i32>(state, S_RUN) != reach) {
    store<i32>(state, reach, S_RUN);
    delay = middle;
    fade = 0;
  }
  let ratio = load<f32>(previous, its.ratio);
  const step: f32 = (load<f32>(current, its.ratio) - ratio) * perFrame;
  for (let i = 0; i < count; i++) {
    const at = <usize>i << 2;
    ratio += step;
    const place = <usize>(position & mask) << 2;
    store<f32>(ring + place, load<f32>(buffer + at));
    if (other != 0) store<f32>(other + place, load<f32>(right + at));
    const drift: f32 = 1 - ratio;
    delay += drift;
    old += drift;
    if (fade == 0) {
      let to = delay;
      if (ratio == 1) to = middle;
      else if (delay <= lowest) to = delay + f32(jump(ring, other, mask, position, i32(delay), reach, 1));
      else if (delay >= highest) to = delay - f32(jump(ring, other, mask, position, i32(delay), reach, -1));
      if (to != delay) {
        old = delay;
        delay = to;
        fade = fadeFrames;
      }
    }
    let l = read(ring, mask, position, delay);
    let r = other != 0 ? read(other, mask, position, delay) : l;
    if (fade > 0) {
      // Both places carry the same wave, so that their amplitudes add.
      const t: f32 = f32(fade) / f32(fadeFrames);
      const gone = max(<f32>1, old);
      l = l + (read(ring, mask, position, gone) - l) * t;
      if (other != 0) r = r + (read(other, mask, position, gone) - r) * t;
      fade--;
    }
    store<f32>(buffer + at, l);
    if (other != 0) store<f32>(right + at, r);
    position++;
  }
  store<i32>(state, position);
  store<f32>(state, delay, S_DELAY);
  store<f32>(state, old, S_OLD);
  store<i32>(state, fade, S_FADE);
}
