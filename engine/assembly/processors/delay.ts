// A delay with filtered feedback, both sides in one vector; core/processors/delay.ts says what its parameters mean and sizes
// the state.
import * as its from '../../../build/engine/parameters/delay';
import { frames, perFrame } from '../span';
import { flush, ringOf } from '../math';

// State: 0 write position, 4 time in frames, 8 whether it has run, 16 high-cut and 32 low-cut memory, 64.. pairs of a ring, the first
// of them once more behind the last.
const S_SOFT: usize = 16;
const S_RUMBLE: usize = 32;
const S_RING: usize = 64;

function ringFrames(sampleRate: i32): i32 {
  return ringOf(4 * f64(sampleRate) + 4);
}

export const FINEST = 2;
export function bytes(sampleRate: i32): i32 {
  return 64 + (ringFrames(sampleRate) + 1) * 8;
}

/** Puts the repeats in place of the signal. */
export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const mask = ringFrames(sampleRate) - 1;
  const ring = state + S_RING;
  let position = load<i32>(state);
  const want = i32(load<f32>(targets, its.frames));
  const was = load<i32>(state, 8) == 0 ? want : load<i32>(state, 4);
  store<i32>(state, want, 4);
  store<i32>(state, 1, 8);
  const feedback = f32x4.splat(load<f32>(current, its.feedback));
  const low = load<f32>(targets, its.lowPole), high = load<f32>(targets, its.highPole);
  const lowKeeps = f32x4.splat(low), lowTakes = f32x4.splat(1 - low);
  const highKeeps = f32x4.splat(high), highTakes = f32x4.splat(1 - high);
  const cross = load<f32>(targets, its.pingPong) == 1 && channels == 2;
  const right = channels == 2 ? buffer + 512 : buffer;
  const half = f32x4.splat(0.5), zero = f32x4.splat(0);
  let soft = v128.load(state, S_SOFT), rumble = v128.load(state, S_RUMBLE);
  let i = 0;
  do {
    // Two frames to a vector where they are read and written, a frame after the other where they go through the filters.
    const place = position & mask;
    let out = v128.load(ring + (<usize>((position - want) & mask) << 3));
    if (was != want) {
      // The time jumps; this block fades from the old repeat to the new one.
      const t = f32x4.mul(f32x4.splat(perFrame), f32x4.add(f32x4.splat(f32(i)), f32x4(1, 1, 2, 2)));
      const old = v128.load(ring + (<usize>((position - was) & mask) << 3));
      out = f32x4.add(f32x4.mul(out, t), f32x4.mul(old, f32x4.sub(f32x4.splat(1), t)));
    }
    // What is fed back, through a high cut and a low cut of one pole each; poles of 0 and 1 pass all.
    const taken = f32x4.mul(highTakes, out);
    const one = f32x4.add(taken, f32x4.mul(highKeeps, soft));
    soft = f32x4.add(v128.shuffle<f64>(taken, taken, 1, 1), f32x4.mul(highKeeps, one));
    let back = v128.shuffle<f64>(one, soft, 0, 2);
    if (low != 1) {
      const more = f32x4.mul(lowTakes, back);
      const two = f32x4.add(more, f32x4.mul(lowKeeps, rumble));
      rumble = f32x4.add(v128.shuffle<f64>(more, more, 1, 1), f32x4.mul(lowKeeps, two));
      back = f32x4.sub(back, v128.shuffle<f64>(two, rumble, 0, 2));
    }
    back = f32x4.mul(feedback, flush(back));
    const at = <usize>i << 2;
    const x = v128.load64_zero(buffer + at), y = v128.load64_zero(right + at);
    if (cross) {
      // Both sides go in on the left, and each repeat to the other side.
      const both = f32x4.mul(half, f32x4.add(x, y));
      back = f32x4.add(v128.shuffle<f32>(back, back, 1, 0, 3, 2), v128.shuffle<f32>(both, zero, 0, 4, 1, 5));
    } else back = f32x4.add(back, v128.shuffle<f32>(x, y, 0, 4, 1, 5));
    v128.store(ring + (<usize>place << 3), back);
    // The first frame stands once more behind the last, so that two are read at once there too.
    if (place == 0) v128.store64_lane(ring + (<usize>(mask + 1) << 3), back, 0);
    const apart = v128.shuffle<f32>(out, out, 0, 2, 1, 3);
    v128.store64_lane(buffer + at, apart, 0);
    if (channels == 2) v128.store64_lane(right + at, apart, 1);
    position += 2;
    i += 2;
  } while (i < frames);
  v128.store(state, flush(soft), S_SOFT);
  v128.store(state, flush(rumble), S_RUMBLE);
  store<i32>(state, position);
}
