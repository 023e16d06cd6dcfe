// What filters share that leap to other numbers: they run beside what they were, and cross over from it.
import { loadState, signal, storeState } from './lanes';
import { bow } from './math';
import { fourBytes } from './span';

/** How near a filter's own numbers have to be to those that it is sent to, so that it goes by these again. */
export const NEAR: f32 = 1e-5;
/** How far it leaps: a quarter of an octave. */
export const FAR: f32 = 0.25;
/** The fourth power of g at about 500 Hz and 48 kHz. */
const SLOW: f32 = 1e-6;

/** What it was gives this, beside the signal. */
export const dry: usize = memory.data(2048, 16);

/** Keeps a number in some lanes' states. */
// @ts-ignore: decorator
@inline
export function put(to: usize, v: v128, where: v128): void {
  storeState(to, v128.bitselect(v, loadState(to), where));
}

/** The share of what comes that a section of this g has in its second state where that has stood for long, as far as it is slow against it. */
export function stood(g: v128): v128 {
  const square = f32x4.mul(g, g), bent = f32x4.mul(square, square);
  return f32x4.div(bent, f32x4.add(bent, f32x4.splat(SLOW)));
}

/**
 * Lets what comes set off softly from where it stood as it leapt, while a filter crosses over: a narrow one would ring for long if it
 * were struck.
 * @param left where a lane keeps the frames that are left, and behind them how many it takes; @param came where it keeps what came
 */
export function soften(left: usize, came: usize): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  let frames = loadState(left);
  const fade = f32x4.max(one, loadState(left + 4)), from = loadState(came);
  for (let i: usize = 0; i < fourBytes; i += 16) {
    frames = f32x4.max(zero, f32x4.sub(frames, one));
    const share = f32x4.sub(one, f32x4.div(frames, fade));
    const x = v128.load(signal + i);
    const soft = f32x4.add(from, f32x4.mul(bow(share), f32x4.sub(x, from)));
    v128.store(signal + i, v128.bitselect(soft, x, f32x4.lt(share, one)));
  }
}

/** Crosses over from `dry` to the signal, in lanes in which frames of that are left. @param left as above */
export function crossOver(left: usize): void {
  const end = fourBytes;
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  let frames = loadState(left);
  const fade = f32x4.max(one, loadState(left + 4));
  for (let i: usize = 0; i < end; i += 16) {
    frames = f32x4.max(zero, f32x4.sub(frames, one));
    const was = bow(f32x4.div(frames, fade));
    const y = v128.load(signal + i);
    v128.store(signal + i, f32x4.add(y, f32x4.mul(was, f32x4.sub(v128.load(dry + i), y))));
  }
  storeState(left, frames);
}
