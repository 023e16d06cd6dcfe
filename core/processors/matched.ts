import type { Hertz } from '../base/units';
import type { Section } from './filter';

/**
 * Sections that follow their analogue prototype up to the top of hearing, where the bilinear transform squeezes what lies near
 * half the sample rate together. Poles and zeros begin where the matched z-transform puts them (s becomes e^(s / fs); L. R.
 * Rabiner and B. Gold, "Theory and application of digital signal processing", 1975, 4.7, from memory), and four numbers are then
 * moved so that the squares of the differences in level, at places that lie close where the response bends and from 20 Hz to
 * 20 kHz, add up to the least: K. Levenberg, "A method for the solution of certain non-linear problems in least squares",
 * Quarterly of Applied Mathematics 2, 1944, and D. Marquardt, SIAM 11, 1963. That magnitude, not place of poles, is what is to be
 * matched is M. Vicanek's argument, "Matched second order digital filters", 2016; a test holds both against each other.
 */

/** (n0 + n1 s + n2 s^2) / (d0 + d1 s + d2 s^2), s counted in its frequency; n over d is 1 or more everywhere. */
export interface Prototype {
  readonly n: readonly [number, number, number];
  readonly d: readonly [number, number, number];
}

/** Prototypes of the W3C Audio EQ Cookbook, for a gain of so many decibels above 0; a cut is one over them. */
export function bellPrototype(gain: number, q: number): Prototype {
  const a = 10 ** (gain / 40);
  return { n: [1, a / q, 1], d: [1, 1 / (a * q), 1] };
}
export function lowShelfPrototype(gain: number, q: number): Prototype {
  const a = 10 ** (gain / 40);
  const r = Math.sqrt(a) / q;
  return { n: [a * a, a * r, a], d: [1, r, a] };
}
export function highShelfPrototype(gain: number, q: number): Prototype {
  const a = 10 ** (gain / 40);
  const r = Math.sqrt(a) / q;
  return { n: [a, a * r, a * a], d: [a, r, 1] };
}

const powerOf = ([c0, c1, c2]: Prototype['n'], x: number) => (c0 - c2 * x) ** 2 + c1 * c1 * x;
/** A prototype's power at a frequency, counted in its own. */
export const prototypePower = ({ n, d }: Prototype, hertz: number): number =>
  powerOf(n, hertz * hertz) / powerOf(d, hertz * hertz);

/** Where the matched z-transform puts a pair of poles or zeros, as g and k of a section. */
function matchedPair(hertz: Hertz, q: number, sampleRate: Hertz): readonly [number, number] {
  const most = 0.49 * sampleRate;
  const w = (2 * Math.PI * Math.min(hertz, most)) / sampleRate;
  // What resonates beyond what the rate carries must not resonate within it.
  const damping = 1 / (2 * (hertz > most ? Math.min(q, 1) : q));
  const a2 = Math.exp(-2 * damping * w);
  const wide = Math.sqrt(Math.abs(damping * damping - 1));
  const a1 =
    damping <= 1
      ? -2 * Math.exp(-damping * w) * Math.cos(wide * w)
      : -Math.exp(-(damping - wide) * w) - Math.exp(-(damping + wide) * w);
  const g = Math.sqrt((1 + a1 + a2) / (1 - a1 + a2));
  return [g, (2 * (1 - a2)) / ((1 - a1 + a2) * g)];
}

const TOP = 20000;
/** Shares of the top at which every response is looked at. */
const PLACES = Array.from({ length: 14 }, (_, i) => 2 ** ((-i / 3) * (1 + i / 14)));
/** Places about a resonance, in its half bandwidths. */
const ABOUT = [-4, -2, -1, -0.5, 0, 0.5, 1, 2, 4] as const;
const COUNT = PLACES.length + 2 * ABOUT.length;
/** Steps of a fit; what resonates beside half the sample rate takes more. */
const STEPS = 5;
const MORE_STEPS = 15;
const MOST = Math.log(15);

// Room for one fit: squares of warped frequencies, levels that are wanted, and what was found there.
const warped = new Float64Array(COUNT);
const wanted = new Float64Array(COUNT);
const off = new Float64Array(COUNT);
const slopes = new Float64Array(COUNT * 4);
const normal = new Float64Array(20);

/** Differences of level, and their slopes by the four numbers. @returns the sum of their squares */
function look(u: readonly number[], n0: number): number {
  const scale = Math.exp(-2 * u[0]!);
  const k2 = Math.exp(2 * u[1]!);
  const n1 = Math.exp(2 * u[2]!);
  const n2 = Math.exp(u[3]!);
  let sum = 0;
  for (let i = 0; i < COUNT; i++) {
    const x = warped[i]! * scale;
    const a = n0 - n2 * x;
    const b = 1 - x;
    const above = a * a + n1 * x;
    const below = b * b + k2 * x;
    const e = Math.log(above / below) - wanted[i]!;
    off[i] = e;
    sum += e * e;
    slopes[4 * i] = -2 * x * ((n1 - 2 * a * n2) / above - (k2 - 2 * b) / below);
    slopes[4 * i + 1] = (-2 * k2 * x) / below;
    slopes[4 * i + 2] = (2 * n1 * x) / above;
    slopes[4 * i + 3] = (-2 * a * n2 * x) / above;
  }
  return sum;
}

/** The step that Levenberg and Marquardt take from where `look` looked last. */
function step(damping: number): number[] {
  normal.fill(0);
  for (let i = 0; i < COUNT; i++)
    for (let r = 0; r < 4; r++) {
      const s = slopes[4 * i + r]!;
      for (let c = r; c < 4; c++) normal[5 * r + c]! += s * slopes[4 * i + c]!;
      normal[5 * r + 4]! -= s * off[i]!;
    }
  for (let r = 0; r < 4; r++) {
    for (let c = 0; c < r; c++) normal[5 * r + c] = normal[5 * c + r]!;
    normal[6 * r] = normal[6 * r]! * (1 + damping) + 1e-9;
  }
  for (let c = 0; c < 4; c++)
    for (let r = c + 1; r < 4; r++) {
      const by = normal[5 * r + c]! / normal[6 * c]!;
      for (let k = c; k < 5; k++) normal[5 * r + k]! -= by * normal[5 * c + k]!;
    }
  const d = [0, 0, 0, 0];
  for (let r = 3; r >= 0; r--) {
    let rest = normal[5 * r + 4]!;
    for (let c = r + 1; c < 4; c++) rest -= normal[5 * r + c]! * d[c]!;
    d[r] = rest / normal[6 * r]!;
  }
  return d;
}

/**
 * A section that follows a prototype of a gain of 0 dB or more, or one over it, at a frequency in Hz.
 * @param inverse whether it cuts what the prototype lifts
 */
export function matched(prototype: Prototype, hertz: Hertz, inverse: boolean, sampleRate: Hertz): Section {
  const { n, d } = prototype;
  const top = Math.min(TOP, 0.4535 * sampleRate);
  const resonances = [d, n].map(([c0, c1, c2]) => ({
    hertz: hertz * Math.sqrt(c0 / c2),
    q: Math.sqrt(c0 * c2) / c1,
  }));
  let i = 0;
  const see = (f: Hertz) => {
    warped[i] = Math.tan((Math.PI * f) / sampleRate) ** 2;
    wanted[i++] = Math.log(prototypePower(prototype, f / hertz));
  };
  for (const share of PLACES) see(top * share);
  for (const { hertz: f, q } of resonances)
    for (const away of ABOUT) see(Math.min(top, f * Math.exp(Math.asinh(away / (2 * q)))));

  const n0 = n[0] / d[0];
  const [poles, zeros] = resonances.map((r) => matchedPair(r.hertz, r.q, sampleRate));
  const apart = poles![0] / zeros![0];
  let u = [poles![0], poles![1], n0 * zeros![1] * apart, n0 * apart * apart].map(Math.log);
  let sum = look(u, n0);
  let damping = 1e-3;
  const steps = resonances.some((r) => r.q > 2 && r.hertz > top / 3) ? MORE_STEPS : STEPS;
  for (let k = 0; k < steps; k++) {
    const by = step(damping);
    const next = u.map((v, j) => v + Math.max(-1, Math.min(1, by[j]!)));
    // Neither poles nor zeros beyond what numbers of 32 bits can tell from half the sample rate.
    next[0] = Math.min(next[0]!, MOST);
    next[3] = Math.max(next[3]!, Math.log(n0) + 2 * (next[0]! - MOST));
    const found = look(next, n0);
    if (found < sum) {
      u = next;
      sum = found;
      damping /= 8;
    } else {
      look(u, n0);
      damping *= 10;
    }
  }
  const [g, k, n1, n2] = u.map(Math.exp) as [number, number, number, number];
  if (!inverse) return section(g, k, n0, n1, n2);
  // One over it: zeros become poles, and s is counted in their frequency.
  const by = Math.sqrt(n2 / n0);
  return section(g / by, n1 / (n0 * by), 1 / n0, k / (n0 * by), 1 / (n0 * by * by));
}

/** (n0 + n1 s + n2 s^2) / (1 + k s + s^2) as a section. */
const section = (g: number, k: number, n0: number, n1: number, n2: number): Section => ({
  g,
  k,
  m0: n2,
  m1: n1 - n2 * k,
  m2: n0 - n2,
});

/** A bell of so many decibels at its centre; Q as in the cookbook's peaking filter. */
export const bell = (hertz: Hertz, gain: number, q: number, sampleRate: Hertz): Section =>
  matched(bellPrototype(Math.abs(gain), q), hertz, gain < 0, sampleRate);
/** A shelf below its frequency. */
export const lowShelf = (hertz: Hertz, gain: number, q: number, sampleRate: Hertz): Section =>
  matched(lowShelfPrototype(Math.abs(gain), q), hertz, gain < 0, sampleRate);
/** A shelf above its frequency. */
export const highShelf = (hertz: Hertz, gain: number, q: number, sampleRate: Hertz): Section =>
  matched(highShelfPrototype(Math.abs(gain), q), hertz, gain < 0, sampleRate);
