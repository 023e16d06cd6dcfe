// A delay with filtered feedback; core/processors/delay.ts says what its parameters mean and sizes the state.
import { BLOCK } from './layout';

// State: 0 write position, 4 time in frames, 8 whether it has run, 16.. low-cut and high-cut memory of each side, 64.. rings.
const S_FILTERS: usize = 16;
const S_RINGS: usize = 64;

function ringFrames(sampleRate: i32): i32 {
  let p = 1;
  while (p < 2 * sampleRate + 4) p <<= 1;
  return p;
}

export function delayStateBytes(sampleRate: i32): i32 {
  return 64 + ringFrames(sampleRate) * 8;
}

// @ts-ignore: decorator
@inline
function flush(x: f32): f32 {
  return abs(x) > 1e-15 ? x : 0;
}

// What is fed back, through a high cut and a low cut of one pole each; a low pole of 1 and a high pole of 0 pass all.
// @ts-ignore: decorator
@inline
function darken(x: f32, low: f32, high: f32, memory: usize): f32 {
  const soft: f32 = flush((1 - high) * x + high * load<f32>(memory));
  store<f32>(memory, soft);
  if (low == 1) return soft;
  const rumble: f32 = flush((1 - low) * soft + low * load<f32>(memory, 4));
  store<f32>(memory, rumble, 4);
  return soft - rumble;
}

/** Puts the repeats in place of the signal: params are time in frames, feedback, low pole, high pole, ping-pong. */
export function delay(buffer: usize, channels: i32, targets: usize, current: usize, state: usize, sampleRate: i32): void {
  const frames = ringFrames(sampleRate);
  const mask = frames - 1;
  const ring = state + S_RINGS;
  const other = ring + (<usize>frames << 2);
  let position = load<i32>(state);
  const want = i32(load<f32>(targets));
  const was = load<i32>(state, 8) == 0 ? want : load<i32>(state, 4);
  store<i32>(state, want, 4);
  store<i32>(state, 1, 8);
  const feedback = load<f32>(current, 4), low = load<f32>(targets, 8), high = load<f32>(targets, 12);
  const cross = load<f32>(targets, 16) == 1 && channels == 2;
  const right = buffer + 512;
  for (let i = 0; i < BLOCK; i++) {
    const at = <usize>i << 2;
    let l = load<f32>(ring + (<usize>((position - want) & mask) << 2));
    let r = channels == 2 ? load<f32>(other + (<usize>((position - want) & mask) << 2)) : <f32>0;
    if (was != want) {
      // The time jumps; this block fades from the old repeat to the new one.
      const t: f32 = f32(i + 1) * <f32>0.0078125;
      l = l * t + load<f32>(ring + (<usize>((position - was) & mask) << 2)) * (1 - t);
      if (channels == 2) r = r * t + load<f32>(other + (<usize>((position - was) & mask) << 2)) * (1 - t);
    }
    const write = <usize>(position & mask) << 2;
    const x = load<f32>(buffer + at);
    if (channels == 2) {
      const y = load<f32>(right + at);
      const backL = feedback * darken(l, low, high, state + S_FILTERS);
      const backR = feedback * darken(r, low, high, state + S_FILTERS + 8);
      store<f32>(ring + write, cross ? <f32>0.5 * (x + y) + backR : x + backL);
      store<f32>(other + write, cross ? backL : y + backR);
      store<f32>(right + at, r);
    } else store<f32>(ring + write, x + feedback * darken(l, low, high, state + S_FILTERS));
    store<f32>(buffer + at, l);
    position++;
  }
  store<i32>(state, position);
}
