// How high a signal stands between its samples: by the filter of BS.1770, annex 2, and at sixteen times the sample rate, by a sinc under
// Kaiser's window for 50 dB. That one
// is true up to 0.48 of the sample rate. Beyond, what stands between samples depends on all of the past and the future; `settle` takes
// that off, as a filter of its own for 60 dB.
import { kaiser, lowPass, sinc } from './window';

/** Taps a phase; what is measured lies between the two samples in their middle. */
export const TAPS: usize = 72;
export const REACH: usize = TAPS / 2;
const PHASES: usize = 16;
const BETA = 4.5513; // 0.5842 (A - 21)^0.4 + 0.07886 (A - 21) at A = 50 dB

// The interpolating filter of ITU-R BS.1770-5, annex 2, table: four phases of twelve taps (from memory; the phases' sums
// and their symmetry are held by a test). One vector a tap, its lanes the phases.
const standard: usize = memory.data<f32>([
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
const STANDARD_TAPS: usize = 12;

// Sixteen phases of the sinc, the oldest sample's taps first: four vectors a tap, of which the first has every fourth phase.
const taps: usize = memory.data(72 * 16 * 4, 16);
let ready: bool = false;
// The most that the filter makes of samples of 1.
let most: f32 = 0;

function design(): void {
  ready = true;
  lowPass(low, i32(LOW_TAPS), LOW_CORNER, LOW_BETA);
  for (let phase: usize = 0; phase < PHASES; phase++) {
    // Phases lie at 0, 1/16 .. 15/16 of the way from the sample before the middle to the one after it.
    const vector: usize = phase % 4 == 0 ? 0 : phase % 4 == 2 ? 1 : phase % 4 == 1 ? 2 : 3;
    const to = taps + (vector << 4) + ((phase / 4) << 2);
    let sum: f64 = 0, all: f64 = 0;
    for (let pass = 0; pass < 2; pass++)
      for (let k: usize = 0; k < TAPS; k++) {
        const t = f64(k) - f64(REACH - 1) - f64(phase) / f64(PHASES);
        const tap = sinc(t) * kaiser(t / f64(REACH), BETA);
        if (pass == 0) sum += tap;
        else {
          store<f32>(to + k * PHASES * 4, f32(tap / sum));
          all += abs(tap / sum);
        }
      }
    most = max(most, f32(all));
  }
}

/** Taps of the filter that takes off what lies above 0.48 of the sample rate; it passes what lies below 0.4535: 20 kHz of 44.1 kHz. */
export const LOW_TAPS: usize = 137;
const LOW_CORNER: f64 = 0.46675;
const LOW_BETA: f64 = 5.6533; // 0.1102 (A - 8.7) at A = 60 dB
const low: usize = memory.data(140 * 4, 16);

/** The sample in the middle of the last `LOW_TAPS` without what lies highest. @param at the oldest of them, and three that are not heard */
export function settle(at: usize): f32 {
  if (!ready) design();
  let a = f32x4.splat(0), b = a;
  for (let k: usize = 0; k < 136; k += 8) {
    a = f32x4.add(a, f32x4.mul(v128.load(at + (k << 2)), v128.load(low + (k << 2))));
    b = f32x4.add(b, f32x4.mul(v128.load(at + (k << 2), 16), v128.load(low + (k << 2), 16)));
  }
  a = f32x4.add(a, b);
  const last: f32 = load<f32>(at, 136 * 4) * load<f32>(low, 136 * 4);
  return last + f32x4.extract_lane(a, 0) + f32x4.extract_lane(a, 1) + (f32x4.extract_lane(a, 2) + f32x4.extract_lane(a, 3));
}

// @ts-ignore: decorator
@inline
function highest(v: v128): f32 {
  return max(
    max(f32x4.extract_lane(v, 0), f32x4.extract_lane(v, 1)), max(f32x4.extract_lane(v, 2), f32x4.extract_lane(v, 3)),
  );
}

/**
 * The highest value, either way, from the sample before the middle of the last `TAPS` samples to the one after it.
 * @param at the oldest of them
 * @param ceiling below which it need not be exact, as long as it is told to be below
 */
export function truePeak(at: usize, ceiling: f32): f32 {
  if (!ready) design();
  let top = f32x4.abs(v128.load(at));
  for (let k: usize = 16; k < TAPS * 4; k += 16) top = f32x4.pmax(top, f32x4.abs(v128.load(at + k)));
  const here = max(abs(load<f32>(at, (REACH - 1) * 4)), abs(load<f32>(at, REACH * 4)));
  if (highest(top) * most <= ceiling) return here;
  let a = f32x4.splat(0), s = a;
  for (let k: usize = 0; k < TAPS; k++)
    a = f32x4.add(a, f32x4.mul(v128.load32_splat(at + (k << 2)), v128.load(taps + (k << 6))));
  // Newest first, as the standard has it.
  const newest = at + (REACH + STANDARD_TAPS / 2 - 1) * 4;
  for (let k: usize = 0; k < STANDARD_TAPS; k++)
    s = f32x4.add(s, f32x4.mul(v128.load32_splat(newest - (k << 2)), v128.load(standard + (k << 4))));
  let peak = max(highest(f32x4.pmax(f32x4.abs(a), f32x4.abs(s))), here);
  // Between every fourth phase it rises by 0.7 dB at most, at half the sample rate: 1 / cos(pi/8).
  if (peak * <f32>1.09 <= ceiling) return peak;
  let b = f32x4.splat(0), c = b, d = b;
  for (let k: usize = 0; k < TAPS; k++) {
    const x = v128.load32_splat(at + (k << 2));
    b = f32x4.add(b, f32x4.mul(x, v128.load(taps + (k << 6), 16)));
    c = f32x4.add(c, f32x4.mul(x, v128.load(taps + (k << 6), 32)));
    d = f32x4.add(d, f32x4.mul(x, v128.load(taps + (k << 6), 48)));
  }
  peak = max(peak, highest(f32x4.pmax(f32x4.abs(b), f32x4.pmax(f32x4.abs(c), f32x4.abs(d)))));
  return peak;
}
