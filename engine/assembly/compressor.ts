// A feed-forward compressor; its formulas and their source stand in core/processors/compressor.ts.
import { BLOCK } from './layout';

// State: 0 gain reduction of the last block in dB; 16.. for each of two channels: held level, smoothed level, mean
// square, spare; 48.. for each of two channels: four numbers of memory for each of the key's two cuts.
const S_LEVEL: usize = 16;
const S_CUTS: usize = 48;

// Params: 0 threshold, 4 slope, 8 knee, 12 attack, 16 release, 20 make-up, 24 RMS share, 28 link, 32 low cut, 52 high cut.

// 20 log10(x) by the exponent's bits and a polynomial of the mantissa: Abramowitz and Stegun, 4.1.44, divided by ln 2
// (coefficients from memory; a test holds the result against Math.log10).
// @ts-ignore: decorator
@inline
function decibels(x: f32): f32 {
  const bits = reinterpret<i32>(max(x, <f32>1e-8));
  const exponent: f32 = f32((bits >> 23) - 127);
  const m: f32 = reinterpret<f32>((bits & 0x7fffff) | 0x3f800000) - 1;
  const p: f32 = m * (<f32>1.4426899 + m * (<f32>-0.7211659 + m * (<f32>0.4786848 + m * (<f32>-0.3473055 + m * (<f32>0.2418737 + m * (<f32>-0.1375313 + m * (<f32>0.0520647 + m * <f32>-0.0093105)))))));
  return <f32>6.0205999 * (exponent + p);
}

// 10^(x/20), by a power of two and a polynomial of the rest (Taylor terms of 2^f on 0..1, error below 2e-6).
// @ts-ignore: decorator
@inline
function gain(x: f32): f32 {
  const y: f32 = max(x * <f32>0.16609640474, <f32>-120);
  const whole: f32 = floor(y);
  const f: f32 = y - whole;
  const p: f32 = 1 + f * (<f32>0.69314718 + f * (<f32>0.24022651 + f * (<f32>0.05550411 + f * (<f32>0.00961813 + f * (<f32>0.00133336 + f * <f32>0.00015469)))));
  return p * reinterpret<f32>((i32(whole) + 127) << 23);
}

// @ts-ignore: decorator
@inline
function flush(x: f32): f32 {
  return abs(x) > 1e-15 ? x : 0;
}

// One step of a filter in transposed direct form II.
// @ts-ignore: decorator
@inline
function filter(x: f32, c: usize, s: usize): f32 {
  const y: f32 = load<f32>(c) * x + load<f32>(s);
  store<f32>(s, flush(load<f32>(c, 4) * x - load<f32>(c, 12) * y + load<f32>(s, 4)));
  store<f32>(s, flush(load<f32>(c, 8) * x - load<f32>(c, 16) * y), 4);
  return y;
}

// How far the signal is to be turned down, in positive decibels: eq. 4 as x - y.
// @ts-ignore: decorator
@inline
function wanted(level: f32, threshold: f32, slope: f32, knee: f32): f32 {
  const over: f32 = level - threshold;
  if (over + over < -knee) return 0;
  if (abs(over + over) <= knee && knee > 0) {
    const into: f32 = over + knee * <f32>0.5;
    return -slope * into * into / (knee + knee);
  }
  return -slope * over;
}

/** Turns the buffers down by what the key asks for. */
export function compressor(
  buffer: usize, channels: i32, key: usize, keyChannels: i32, previous: usize, current: usize, state: usize,
): void {
  const threshold = load<f32>(current), slope = load<f32>(current, 4), knee = load<f32>(current, 8);
  const attack = load<f32>(current, 12), release = load<f32>(current, 16);
  const square = load<f32>(current, 24), link = load<f32>(current, 28);
  const make0 = load<f32>(previous, 20), make1 = load<f32>(current, 20);
  const low = current + 32, high = current + 52;
  const lowOn = load<f32>(low) != 1 || load<f32>(low, 4) != 0, highOn = load<f32>(high) != 1 || load<f32>(high, 4) != 0;
  const second = keyChannels == 2;
  let held0 = load<f32>(state + S_LEVEL), smooth0 = load<f32>(state + S_LEVEL, 4), mean0 = load<f32>(state + S_LEVEL, 8);
  let held1 = load<f32>(state + S_LEVEL, 16), smooth1 = load<f32>(state + S_LEVEL, 20), mean1 = load<f32>(state + S_LEVEL, 24);
  let sum: f32 = 0;
  for (let i = 0; i < BLOCK; i++) {
    const at = <usize>i << 2;
    let x = load<f32>(key + at);
    let y = second ? load<f32>(key + at, 512) : x;
    if (lowOn) {
      x = filter(x, low, state + S_CUTS);
      if (second) y = filter(y, low, state + S_CUTS + 16);
    }
    if (highOn) {
      x = filter(x, high, state + S_CUTS + 8);
      if (second) y = filter(y, high, state + S_CUTS + 24);
    }
    if (!second) y = x;
    let a: f32, b: f32;
    if (square > 0) {
      mean0 = flush(square * mean0 + (1 - square) * x * x);
      mean1 = flush(square * mean1 + (1 - square) * y * y);
      a = <f32>0.5 * decibels(mean0);
      b = second ? <f32>0.5 * decibels(mean1) : a;
    } else {
      a = decibels(abs(x));
      b = second ? decibels(abs(y)) : a;
    }
    const top = max(a, b);
    const down0 = wanted(a + (top - a) * link, threshold, slope, knee);
    held0 = flush(max(down0, release * held0 + (1 - release) * down0));
    smooth0 = flush(attack * smooth0 + (1 - attack) * held0);
    const makeUp: f32 = make0 + (make1 - make0) * (f32(i + 1) * <f32>0.0078125);
    store<f32>(buffer + at, load<f32>(buffer + at) * gain(makeUp - smooth0));
    if (channels == 2) {
      const down1 = wanted(b + (top - b) * link, threshold, slope, knee);
      held1 = flush(max(down1, release * held1 + (1 - release) * down1));
      smooth1 = flush(attack * smooth1 + (1 - attack) * held1);
      store<f32>(buffer + at, load<f32>(buffer + at, 512) * gain(makeUp - smooth1), 512);
      sum += max(smooth0, smooth1);
    } else sum += smooth0;
  }
  store<f32>(state, sum * <f32>0.0078125);
  store<f32>(state + S_LEVEL, held0);
  store<f32>(state + S_LEVEL, smooth0, 4);
  store<f32>(state + S_LEVEL, mean0, 8);
  store<f32>(state + S_LEVEL, held1, 16);
  store<f32>(state + S_LEVEL, smooth1, 20);
  store<f32>(state + S_LEVEL, mean1, 24);
}
