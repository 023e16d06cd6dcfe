// A signal between its frames, by a sinc under Kaiser's window for 80 dB, true up to 0.42 of the rate.
import { kaiser, sinc } from './window';

/** Frames that a value between two of them is made of: as many on either side. */
export const REACH = 16;
const TAPS = 32;
const PHASES = 512;
const BETA = 7.857; // 0.1102 (A - 8.7) at A = 80 dB
const table: usize = memory.data(65664, 16);
let ready: bool = false;

function design(): void {
  ready = true;
  for (let p = 0; p <= PHASES; p++) {
    const to = table + (<usize>p << 7);
    let sum: f64 = 0;
    for (let k = 0; k < TAPS; k++) {
      const t = f64(k - REACH + 1) - f64(p) / f64(PHASES);
      const tap = sinc(t) * kaiser(t / f64(REACH), BETA);
      store<f32>(to + (<usize>k << 2), f32(tap));
      sum += tap;
    }
    for (let k: usize = 0; k < 128; k += 4) store<f32>(to + k, f32(f64(load<f32>(to + k)) / sum));
  }
}

/**
 * The value a share of the way from a frame to the next.
 * @param at where the frame stands that lies `REACH` - 1 before it: `2 REACH` frames from there on have to be there
 */
export function between(at: usize, share: f32): f32 {
  if (!ready) design();
  const place: f32 = share * <f32>PHASES;
  const phase = i32(place);
  const f = f32x4.splat(place - f32(phase));
  let row = table + (<usize>phase << 7);
  let a = f32x4.splat(0), b = a;
  for (let k: usize = 0; k < 128; k += 32) {
    const h = v128.load(row + k), i = v128.load(row + k, 128);
    const g = v128.load(row + k, 16), j = v128.load(row + k, 144);
    a = f32x4.add(a, f32x4.mul(v128.load(at + k), f32x4.add(h, f32x4.mul(f, f32x4.sub(i, h)))));
    b = f32x4.add(b, f32x4.mul(v128.load(at + k, 16), f32x4.add(g, f32x4.mul(f, f32x4.sub(j, g)))));
  }
  a = f32x4.add(a, b);
  return f32x4.extract_lane(a, 0) + f32x4.extract_lane(a, 1) + (f32x4.extract_lane(a, 2) + f32x4.extract_lane(a, 3));
}
