// A compressor of the band above a frequency, on four lanes; core/processors/deEsser.ts says what its parameters mean.
import * as its from '../../../build/engine/parameters/deEsser';
import { current, loadState, paired, signal, storeState, target } from '../lanes';
import { flush, gainOf, linkedLevel, powerDecibels } from '../math';
import { fourBytes, perFrame } from '../span';

// State: 0 reduction and 4 level heard in the last block; 16 held reduction, 20 smoothed, 24 and 28 the band's filter.
const S_HELD: usize = 16;

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 32;
}

export function process(): void {
  const one = f32x4.splat(1), zero = f32x4.splat(0);
  const threshold = current(its.threshold), slope = current(its.slope), range = current(its.range);
  const attack = current(its.attack), release = current(its.release), link = current(its.link);
  const quick = f32x4.sub(one, attack), slow = f32x4.sub(one, release);
  const whole = f32x4.gt(target(its.everything), f32x4.splat(0.5)), alone = f32x4.gt(target(its.listen), f32x4.splat(0.5));
  const g = current(its.band), k = current(its.band + 4);
  const a1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, k))));
  const a2 = f32x4.mul(g, a1), a3 = f32x4.mul(g, a2);
  const pairs = v128.load(paired);
  const linked = v128.any_true(pairs);
  let held = loadState(S_HELD), smooth = loadState(S_HELD + 4), s1 = loadState(S_HELD + 8), s2 = loadState(S_HELD + 12);
  let sum = zero, most = f32x4.splat(-160);
  for (let i: usize = 0; i < fourBytes; i += 16) {
    const x = v128.load(signal + i);
    const v3 = f32x4.sub(x, s2);
    const v1 = f32x4.add(f32x4.mul(a1, s1), f32x4.mul(a2, v3));
    const v2 = f32x4.add(s2, f32x4.add(f32x4.mul(a2, s1), f32x4.mul(a3, v3)));
    s1 = f32x4.sub(f32x4.add(v1, v1), s1);
    s2 = f32x4.sub(f32x4.add(v2, v2), s2);
    const band = f32x4.sub(x, f32x4.add(f32x4.mul(k, v1), v2));
    let level = powerDecibels(f32x4.mul(band, band));
    if (linked) level = linkedLevel(level, link, pairs);
    most = f32x4.pmax(most, level);
    const down = f32x4.pmin(range, f32x4.mul(slope, f32x4.pmax(zero, f32x4.sub(level, threshold))));
    held = f32x4.pmax(down, f32x4.add(f32x4.mul(release, held), f32x4.mul(slow, down)));
    smooth = f32x4.add(f32x4.mul(attack, smooth), f32x4.mul(quick, held));
    sum = f32x4.add(sum, smooth);
    // A shelf of second order, (A^2 s^2 + k A s + 1) / (s^2 + k s + 1) with A^2 the gain, or the gain of everything.
    const half = gainOf(f32x4.mul(f32x4.splat(-0.5), smooth));
    const away = f32x4.sub(one, f32x4.mul(half, half));
    const middle = f32x4.mul(f32x4.sub(one, half), f32x4.mul(k, v1));
    const shelf = f32x4.sub(f32x4.sub(x, f32x4.mul(away, band)), middle);
    const y = v128.bitselect(f32x4.sub(x, f32x4.mul(away, x)), shelf, whole);
    v128.store(signal + i, v128.bitselect(band, y, alone));
  }
  storeState(0, f32x4.mul(sum, f32x4.splat(perFrame)));
  storeState(4, most);
  storeState(S_HELD, flush(held));
  storeState(S_HELD + 4, flush(smooth));
  storeState(S_HELD + 8, flush(s1));
  storeState(S_HELD + 12, flush(s2));
}
