// A delay with filtered feedback, both sides in one vector; core/processors/delay.ts says what its parameters mean and sizes
// the state.
import { BLOCK } from './layout';
import { flush, ringOf } from './math';

// State: 0 write position, 4 time in frames, 8 whether it has run, 16 high-cut and 32 low-cut memory, 64.. pairs of a ring.
const S_SOFT: usize = 16;
const S_RUMBLE: usize = 32;
const S_RING: usize = 64;

function ringFrames(sampleRate: i32): i32 {
  return ringOf(4 * f64(sampleRate) + 4);
}

export function delayBytes(sampleRate: i32): i32 {
  return 64 + ringFrames(sampleRate) * 8;
}

/** Puts the repeats in place of the signal: params are time in frames, feedback, low pole, high pole, ping-pong. */
export function delay(buffer: usize, channels: i32, targets: usize, current: usize, state: usize, sampleRate: i32): void {
  const mask = ringFrames(sampleRate) - 1;
  const ring = state + S_RING;
  let position = load<i32>(state);
  const want = i32(load<f32>(targets));
  const was = load<i32>(state, 8) == 0 ? want : load<i32>(state, 4);
  store<i32>(state, want, 4);
  store<i32>(state, 1, 8);
  const feedback = f32x4.splat(load<f32>(current, 4));
  const low = load<f32>(targets, 8), high = load<f32>(targets, 12);
  const lowKeeps = f32x4.splat(low), lowTakes = f32x4.splat(1 - low);
  const highKeeps = f32x4.splat(high), highTakes = f32x4.splat(1 - high);
  const cross = load<f32>(targets, 16) == 1 && channels == 2;
  const right = channels == 2 ? buffer + 512 : buffer;
  let soft = v128.load(state, S_SOFT), rumble = v128.load(state, S_RUMBLE);
  for (let i = 0; i < BLOCK; i++) {
    const at = <usize>i << 2;
    let out = v128.load64_zero(ring + (<usize>((position - want) & mask) << 3));
    if (was != want) {
      // The time jumps; this block fades from the old repeat to the new one.
      const t: f32 = f32(i + 1) * <f32>0.0078125;
      const old = v128.load64_zero(ring + (<usize>((position - was) & mask) << 3));
      out = f32x4.add(f32x4.mul(out, f32x4.splat(t)), f32x4.mul(old, f32x4.splat(1 - t)));
    }
    // What is fed back, through a high cut and a low cut of one pole each; poles of 0 and 1 pass all.
    soft = flush(f32x4.add(f32x4.mul(highTakes, out), f32x4.mul(highKeeps, soft)));
    let back = soft;
    if (low != 1) {
      rumble = flush(f32x4.add(f32x4.mul(lowTakes, soft), f32x4.mul(lowKeeps, rumble)));
      back = f32x4.sub(soft, rumble);
    }
    back = f32x4.mul(feedback, back);
    const x = load<f32>(buffer + at), y = load<f32>(right + at);
    if (cross) {
      back = v128.shuffle<f32>(back, back, 1, 0, 2, 3);
      back = f32x4.add(back, f32x4(<f32>0.5 * (x + y), 0, 0, 0));
    } else back = f32x4.add(back, f32x4(x, y, 0, 0));
    v128.store64_lane(ring + (<usize>(position & mask) << 3), back, 0);
    v128.store32_lane(buffer + at, out, 0);
    if (channels == 2) v128.store32_lane(right + at, out, 1);
    position++;
  }
  v128.store(state, soft, S_SOFT);
  v128.store(state, rumble, S_RUMBLE);
  store<i32>(state, position);
}
