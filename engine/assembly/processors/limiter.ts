// A look-ahead limiter by true peak; core/processors/limiter.ts says how it works and what its parameters mean.
import * as its from '../../../build/engine/parameters/limiter';
import { frames as count, perFrame } from '../span';
import { flushOne, ringOf } from '../math';

// State: 0 reduction and 4 level of the last block; 16 position, 20 window, 24 and 28 head and tail of the left queue, 32 and
// 36 of the right, 40 spare; then, for each channel, 96 bytes (12 floats of the filter's past, 16 the release, 20 sum as
// f64 at 72), and four rings: audio, envelope, the queue's values, the queue's places.
const S_POSITION: usize = 16;
const S_WINDOW: usize = 20;
const S_HEADS: usize = 24;
const S_CHANNELS: usize = 48;
const C_HISTORY: usize = 0; // 12 floats
const C_RELEASED: usize = 48;
const C_SUM: usize = 56; // f64
const C_RINGS: usize = 96;

// The interpolating filter of ITU-R BS.1770-4, annex 2, table: four phases of twelve taps (from memory; the phases' sums
// and their symmetry are held by a test). One vector a tap, its lanes the phases.
const taps: usize = memory.data<f32>([
  0.001708984375, -0.0291748046875, -0.0189208984375, -0.00830078125,
  0.010986328125, 0.029296875, 0.0330810546875, 0.0148925781250,
  -0.0196533203125, -0.0517578125, -0.0582275390625, -0.0266113281250,
  0.033203125, 0.0891113281250, 0.1015625, 0.0476074218750,
  -0.0594482421875, -0.1665039062500, -0.2003173828125, -0.1022949218750,
  0.1373291015625, 0.4650878906250, 0.7797851562500, 0.9721679687500,
  0.9721679687500, 0.7797851562500, 0.4650878906250, 0.1373291015625,
  -0.1022949218750, -0.2003173828125, -0.1665039062500, -0.0594482421875,
  0.0476074218750, 0.1015625, 0.0891113281250, 0.0332031250000,
  -0.0266113281250, -0.0582275390625, -0.0517578125, -0.0196533203125,
  0.0148925781250, 0.0330810546875, 0.029296875, 0.0109863281250,
  -0.0083007812500, -0.0189208984375, -0.0291748046875, 0.0017089843750,
], 16);

function ringFrames(sampleRate: i32): i32 {
  return ringOf(0.01 * f64(sampleRate) + 64);
}
export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 48 + 2 * (96 + 16 * ringFrames(sampleRate));
}

// The highest of the sample and the four values between it and the last.
// @ts-ignore: decorator
@inline
function truePeak(history: usize, x: f32): f32 {
  memory.copy(history + 4, history, 44);
  store<f32>(history, x);
  let sum = f32x4.splat(0);
  for (let k: usize = 0; k < 12; k++)
    sum = f32x4.add(sum, f32x4.mul(v128.load(taps + (k << 4)), v128.load32_splat(history + (k << 2))));
  const a = f32x4.abs(sum);
  return max(
    max(max(f32x4.extract_lane(a, 0), f32x4.extract_lane(a, 1)), max(f32x4.extract_lane(a, 2), f32x4.extract_lane(a, 3))),
    abs(load<f32>(history, 24)),
  );
}

export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const frames = ringFrames(sampleRate);
  const mask = frames - 1;
  const bytes = <usize>frames << 2;
  const window = i32(load<f32>(targets, its.window));
  const late = window + 6;
  const release = load<f32>(targets, its.release), link = load<f32>(targets, its.link);
  const ceiling0 = load<f32>(previous, its.ceiling), ceiling1 = load<f32>(current, its.ceiling);
  const gain0 = load<f32>(previous, its.gain), gain1 = load<f32>(current, its.gain);
  let position = load<i32>(state, S_POSITION);
  const channelBytes = C_RINGS + bytes * 4;
  if (load<i32>(state, S_WINDOW) != window) {
    // A new window starts from rest: gains of 1 all along, empty queues.
    store<i32>(state, window, S_WINDOW);
    for (let c = 0; c < 2; c++) {
      const own = state + S_CHANNELS + <usize>c * channelBytes;
      const ring = own + C_RINGS;
      for (let i: usize = 0; i < bytes; i += 4) store<f32>(ring + bytes + i, 1);
      store<f64>(own, f64(window), C_SUM);
      store<f32>(own, 1, C_RELEASED);
      store<i32>(state + S_HEADS + (<usize>c << 3), 0);
      store<i32>(state + S_HEADS + (<usize>c << 3), 0, 4);
    }
  }
  let most: f32 = 1e-8, least: f32 = 1;
  for (let i = 0; i < count; i++) {
    const at = <usize>i << 2;
    const t: f32 = f32(i + 1) * perFrame;
    const drive: f32 = gain0 + (gain1 - gain0) * t;
    const ceiling: f32 = ceiling0 + (ceiling1 - ceiling0) * t;
    let peak0: f32 = 0, peak1: f32 = 0;
    for (let c = 0; c < channels; c++) {
      const own = state + S_CHANNELS + <usize>c * channelBytes;
      const x = load<f32>(buffer + <usize>c * 512 + at) * drive;
      store<f32>(own + C_RINGS + (<usize>(position & mask) << 2), x);
      const peak = truePeak(own + C_HISTORY, x);
      if (c == 0) peak0 = peak;
      else peak1 = peak;
    }
    const top = max(peak0, peak1);
    most = max(most, top);
    for (let c = 0; c < channels; c++) {
      const own = state + S_CHANNELS + <usize>c * channelBytes;
      const audio = own + C_RINGS, envelope = audio + bytes, values = envelope + bytes, places = values + bytes;
      const heads = state + S_HEADS + (<usize>c << 3);
      let peak = c == 0 ? peak0 : peak1;
      peak = peak + (top - peak) * link;
      const wanted: f32 = peak > ceiling ? ceiling / peak : 1;
      // The lowest gain of the window and the filter's reach, by a queue whose values rise from head to tail.
      let head = load<i32>(heads), tail = load<i32>(heads, 4);
      while (tail != head && load<f32>(values + (<usize>((tail - 1) & mask) << 2)) >= wanted) tail--;
      store<f32>(values + (<usize>(tail & mask) << 2), wanted);
      store<i32>(places + (<usize>(tail & mask) << 2), position);
      tail++;
      while (position - load<i32>(places + (<usize>(head & mask) << 2)) >= window + 12) head++;
      store<i32>(heads, head);
      store<i32>(heads, tail, 4);
      const lowest = load<f32>(values + (<usize>(head & mask) << 2));
      const before = load<f32>(own, C_RELEASED);
      const released: f32 = lowest < before ? lowest : lowest + (before - lowest) * release;
      store<f32>(own, released, C_RELEASED);
      // The average of as many as the window holds.
      const place = <usize>(position & mask) << 2;
      const old = load<f32>(envelope + (<usize>((position - window) & mask) << 2));
      const sum = load<f64>(own, C_SUM) + f64(released) - f64(old);
      store<f64>(own, sum, C_SUM);
      store<f32>(envelope + place, released);
      const gain = f32(sum / f64(window));
      if (gain < least) least = gain;
      store<f32>(
        buffer + <usize>c * 512 + at,
        flushOne(load<f32>(audio + (<usize>((position - late) & mask) << 2)) * gain),
      );
    }
    position++;
  }
  store<i32>(state, position, S_POSITION);
  store<f32>(state, f32(-20 * Math.log10(max(f64(least), 1e-8))));
  store<f32>(state, f32(20 * Math.log10(f64(most))), 4);
}
