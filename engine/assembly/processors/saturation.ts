// A wave shaper at eight times the sample rate, on four lanes; core/processors/saturation.ts gives its formula.
import * as its from '../../../build/engine/parameters/saturation';
import { current, loadState, previous, signal, storeState } from '../lanes';
import { flush, powerDecibels, tanh } from '../math';
import { fourBytes, perFrame } from '../span';
import { narrow, OVERSAMPLE_FLOATS, widen, wide } from '../oversample';

// State: 0 reduction and 4 level of the last block; 16 mean that a one-sided shape leaves; 20 the filters' memories.
const S_MEAN: usize = 16;
const S_FILTERS: usize = 20;

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 20 + OVERSAMPLE_FLOATS * 4;
}

// What gives soft signals their own level back: output / (drive (1 - tanh^2 offset)).
// @ts-ignore: decorator
@inline
function scaleOf(drive: v128, rest: v128, output: v128): v128 {
  const slope = f32x4.mul(drive, f32x4.sub(f32x4.splat(1), f32x4.mul(rest, rest)));
  return f32x4.div(output, slope);
}

export function process(): void {
  let top = f32x4.splat(0);
  for (let i: usize = 0; i < fourBytes; i += 16) top = f32x4.pmax(top, f32x4.abs(v128.load(signal + i)));
  widen(signal, S_FILTERS);
  const step = f32x4.splat(<f32>0.125 * perFrame);
  let drive = previous(its.drive), offset = previous(its.offset);
  let rest = tanh(offset);
  let scale = scaleOf(drive, rest, previous(its.output));
  const drive1 = current(its.drive), offset1 = current(its.offset);
  const rest1 = tanh(offset1);
  const dDrive = f32x4.mul(step, f32x4.sub(drive1, drive)), dOffset = f32x4.mul(step, f32x4.sub(offset1, offset));
  const dRest = f32x4.mul(step, f32x4.sub(rest1, rest));
  const dScale = f32x4.mul(step, f32x4.sub(scaleOf(drive1, rest1, current(its.output)), scale));
  for (let i: usize = 0; i < fourBytes << 3; i += 16) {
    drive = f32x4.add(drive, dDrive);
    offset = f32x4.add(offset, dOffset);
    rest = f32x4.add(rest, dRest);
    scale = f32x4.add(scale, dScale);
    const bent = tanh(f32x4.add(f32x4.mul(drive, v128.load(wide + i)), offset));
    v128.store(wide + i, f32x4.mul(scale, f32x4.sub(bent, rest)));
  }
  narrow(signal, S_FILTERS);
  const follow = current(its.follow);
  let mean = loadState(S_MEAN), out = f32x4.splat(0);
  for (let i: usize = 0; i < fourBytes; i += 16) {
    const y = v128.load(signal + i);
    mean = f32x4.add(mean, f32x4.mul(follow, f32x4.sub(y, mean)));
    const centred = f32x4.sub(y, v128.and(mean, f32x4.gt(follow, f32x4.splat(0))));
    out = f32x4.pmax(out, f32x4.abs(centred));
    v128.store(signal + i, centred);
  }
  storeState(S_MEAN, flush(mean));
  const heard = powerDecibels(f32x4.mul(top, top));
  const gave = f32x4.div(out, f32x4.pmax(current(its.output), f32x4.splat(1e-9)));
  storeState(4, heard);
  storeState(0, f32x4.pmax(f32x4.splat(0), f32x4.sub(heard, powerDecibels(f32x4.mul(gave, gave)))));
}
