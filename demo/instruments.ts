import type { Hertz, Seconds } from '../core/base/units';

/** A repeatable source of noise: mulberry32, a public-domain generator. */
export function random(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = a;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

export const midiHertz = (note: number): Hertz => 440 * 2 ** ((note - 69) / 12);

/** What an instrument writes into: one channel of a stem. */
export interface Take {
  readonly audio: Float32Array;
  readonly rate: Hertz;
  readonly rnd: () => number;
}

function each(take: Take, at: Seconds, length: Seconds, sample: (t: Seconds, n: number) => number) {
  const first = Math.max(0, Math.round(at * take.rate));
  const last = Math.min(take.audio.length, Math.round((at + length) * take.rate));
  for (let i = first; i < last; i++) take.audio[i]! += sample((i - first) / take.rate, i - first);
}

/** A membrane: a sine that falls to its pitch, with a knock of noise. */
export function drum(take: Take, at: Seconds, level: number, pitch: Hertz, ring: Seconds, knock: number) {
  let phase = 0;
  let low = 0;
  each(take, at, ring * 5, (t) => {
    phase += (2 * Math.PI * pitch * (1 + 0.9 * Math.exp(-t * 45))) / take.rate;
    low += 0.35 * (take.rnd() * 2 - 1 - low);
    return level * (Math.sin(phase) * Math.exp(-t / ring) + knock * low * Math.exp(-t * 160));
  });
}

/** A burst of filtered noise: rims, shakers, claps. @param tone 0 (dark) .. 1 (bright) */
export function burst(
  take: Take,
  at: Seconds,
  level: number,
  length: Seconds,
  tone: number,
  rise: Seconds = 0.001,
) {
  let low = 0;
  each(take, at, length * 6, (t) => {
    const n = take.rnd() * 2 - 1;
    low += (0.05 + 0.4 * tone) * (n - low);
    return level * (n * tone + low * (1 - tone)) * (1 - Math.exp(-t / rise)) * Math.exp(-t / length);
  });
}

/** A plucked string: Karplus and Strong, "Digital synthesis of plucked-string and drum timbres", CMJ 7(2), 1983. */
export function pluck(take: Take, at: Seconds, level: number, pitch: Hertz, bright: number, length: Seconds) {
  const period = Math.max(2, Math.round(take.rate / pitch));
  const line = new Float32Array(period);
  let last = 0;
  for (let i = 0; i < period; i++) line[i] = last += bright * (take.rnd() * 2 - 1 - last);
  const loss = 0.5 ** (1 / (pitch * length * 0.6));
  each(take, at, length * 2, (_t, n) => {
    const here = n % period;
    const out = line[here]!;
    line[here] = loss * 0.5 * (out + line[(here + 1) % period]!);
    return level * out;
  });
}

/** A sustained tone of harmonics with a soft start and end, vibrato, breath and a slow swell. */
export function sustain(
  take: Take,
  at: Seconds,
  length: Seconds,
  level: number,
  pitch: Hertz,
  voice: {
    readonly harmonics: readonly number[];
    readonly vibrato: number;
    readonly breath: number;
    readonly attack: Seconds;
  },
) {
  let phase = 0;
  let low = 0;
  const drift = take.rnd() * 6.28;
  const most = voice.harmonics.filter((_, k) => pitch * (k + 1) < take.rate * 0.45);
  each(take, at, length + 0.12, (t) => {
    const depth = voice.vibrato * Math.min(1, t / 0.35);
    phase +=
      (2 * Math.PI * pitch * (1 + depth * 0.006 * Math.sin(2 * Math.PI * 5.3 * t + drift))) / take.rate;
    // sin((k+1)x) = 2 cos(x) sin(kx) - sin((k-1)x)
    const twice = 2 * Math.cos(phase);
    let before = 0;
    let now = Math.sin(phase);
    let v = 0;
    for (let k = 0; k < most.length; k++) {
      v += most[k]! * now;
      [before, now] = [now, twice * now - before];
    }
    low += 0.3 * (take.rnd() * 2 - 1 - low);
    const envelope = Math.min(1, t / voice.attack) * (t > length ? Math.max(0, 1 - (t - length) / 0.12) : 1);
    return level * envelope * (v + voice.breath * low);
  });
}

/** Formant weights of a sung vowel: harmonics near 600, 1000 and 2700 Hz stand out. */
export function sung(pitch: Hertz): readonly number[] {
  return Array.from({ length: 18 }, (_, k) => {
    const f = pitch * (k + 1);
    const near = (at: number, wide: number) => Math.exp(-(((f - at) / wide) ** 2));
    return (0.25 + near(620, 180) + 0.7 * near(1050, 220) + 0.35 * near(2700, 400)) / (k + 1) ** 0.9 / 2.2;
  });
}

/** One-pole low-pass over a whole channel. */
export function darken(audio: Float32Array, rate: Hertz, cutoff: Hertz): Float32Array {
  const out = new Float32Array(audio.length);
  const k = 1 - Math.exp((-2 * Math.PI * cutoff) / rate);
  let y = 0;
  for (let i = 0; i < audio.length; i++) out[i] = y += k * (audio[i]! - y);
  return out;
}

/** The same sound heard from farther away: later, darker, with a few reflections. */
export function fromAfar(audio: Float32Array, rate: Hertz, distance: Seconds, seed: number): Float32Array {
  const rnd = random(seed);
  const dark = darken(audio, rate, 4200);
  const out = new Float32Array(audio.length);
  const taps = Array.from({ length: 14 }, (_, k) => ({
    at: Math.round((distance + (k === 0 ? 0 : 0.008 + rnd() * 0.19)) * rate),
    gain: k === 0 ? 0.7 : (rnd() * 2 - 1) * 0.3,
  }));
  for (const { at, gain } of taps) for (let i = at; i < out.length; i++) out[i]! += gain * dark[i - at]!;
  return out;
}
