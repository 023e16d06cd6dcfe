// What happens to a signal before it comes into the space: its cuts, and how far it turns down what is heard.
import * as its from '../../../build/engine/parameters/reverb';
import { oneBytes, perFrame } from '../span';
import { S_CUTS, S_DUCKED, S_HIGH, S_LEVEL, S_LOW } from './state';

// A cut of 12 dB an octave, one frame: the state-variable filter of core/processors/filter.ts. @returns what is above, or below
// @ts-ignore: decorator
@inline
function cut(memoryAt: usize, x: f32, g: f32, low: bool): f32 {
  const k: f32 = 1.4142135;
  const s1 = load<f32>(memoryAt), s2 = load<f32>(memoryAt, 4);
  const a1: f32 = <f32>1 / (<f32>1 + g * (g + k)), a2: f32 = g * a1;
  const v3: f32 = x - s2;
  const v1: f32 = a1 * s1 + a2 * v3, v2: f32 = s2 + a2 * s1 + g * a2 * v3;
  store<f32>(memoryAt, v1 + v1 - s1);
  store<f32>(memoryAt, v2 + v2 - s2, 4);
  return low ? x - k * v1 - v2 : v2;
}
// The greatest that a cut is; beyond it, and below 4 Hz, it cuts nothing.
const MOST: f32 = 6.3;
/** Where a cut's g stands after this part of the block: it goes by octaves. */
function followed(now: f32, target: f32, none: f32, kept: f32): f32 {
  if (now == target) return now;
  const from: f32 = now == 0 ? none : now, to: f32 = target == 0 ? none : target;
  const next = Mathf.exp(Mathf.log(to) + kept * (Mathf.log(from) - Mathf.log(to)));
  return abs(next / to - 1) < 0.001 ? target : next;
}
export function cuts(left: usize, right: usize, state: usize, current: usize, kept: f32, sampleRate: i32): void {
  const least: f32 = <f32>12.6 / <f32>sampleRate;
  const low0 = load<f32>(state, S_LOW), high0 = load<f32>(state, S_HIGH);
  const low1 = followed(low0, load<f32>(current, its.lowCut), least, kept);
  const high1 = followed(high0, load<f32>(current, its.highCut), MOST, kept);
  store<f32>(state, low1, S_LOW);
  store<f32>(state, high1, S_HIGH);
  const at = state + S_CUTS;
  if (low0 != 0 || low1 != 0) {
    let g = low0 == 0 ? least : low0;
    const step: f32 = perFrame * ((low1 == 0 ? least : low1) - g);
    for (let i: usize = 0; i < oneBytes; i += 4) {
      g += step;
      // What hardly cuts is heard beside what is not cut, so that it comes and goes without a step.
      const share: f32 = min(<f32>1, (g / least - 1) * <f32>0.25);
      const l = load<f32>(left + i), r = load<f32>(right + i);
      store<f32>(left + i, l + share * (cut(at, l, g, true) - l));
      store<f32>(right + i, r + share * (cut(at + 8, r, g, true) - r));
    }
  } else memory.fill(at, 0, 16);
  if (high0 != 0 || high1 != 0) {
    let g = high0 == 0 ? MOST : high0;
    const step: f32 = perFrame * ((high1 == 0 ? MOST : high1) - g);
    if (high0 == 0) {
      store<f32>(at, load<f32>(left), 20);
      store<f32>(at, load<f32>(right), 28);
    }
    for (let i: usize = 0; i < oneBytes; i += 4) {
      g += step;
      const share: f32 = min(<f32>1, <f32>3 * (MOST / g - 1));
      const l = load<f32>(left + i), r = load<f32>(right + i);
      store<f32>(left + i, l + share * (cut(at + 16, l, g, false) - l));
      store<f32>(right + i, r + share * (cut(at + 24, r, g, false) - r));
    }
  } else memory.fill(at + 16, 0, 16);
}

// How far ducking turns down, a value a frame. @returns whether it does
export const ducks: usize = memory.data(512, 16);
export function ducking(left: usize, right: usize, state: usize, previous: usize, current: usize, sampleRate: i32): bool {
  let duck = load<f32>(previous, its.duck);
  const step: f32 = perFrame * (load<f32>(current, its.duck) - duck);
  let ducked = load<f32>(state, S_DUCKED);
  if (duck == 0 && step == 0 && ducked == 0) {
    store<f32>(state, 0, S_LEVEL);
    return false;
  }
  let level = load<f32>(state, S_LEVEL);
  const rises = load<f32>(current, its.rises), falls = load<f32>(current, its.falls);
  const rounds: f32 = <f32>1 / max(<f32>1, <f32>0.001 * f32(sampleRate));
  for (let i: usize = 0; i < oneBytes; i += 4) {
    duck += step;
    const x = max(abs(load<f32>(left + i)), abs(load<f32>(right + i)));
    level = x + (x > level ? rises : falls) * (level - x);
    let takes: f32 = 0;
    // From -40 dB on, all of it at -20 dB.
    if (duck > 0 && level > 0.01) takes = <f32>1 - Mathf.pow(10, -duck * min(<f32>1, Mathf.log10(level * 100)) * <f32>0.05);
    ducked += rounds * (takes - ducked);
    store<f32>(ducks + i, <f32>1 - ducked);
  }
  store<f32>(state, level, S_LEVEL);
  store<f32>(state, abs(ducked) < 1e-6 ? 0 : ducked, S_DUCKED);
  return true;
}
