import type { Hertz } from '../base/units';

/**
 * A filter of second order as a state-variable filter by the trapezoidal rule: with s = j tan(pi f / fs) / g,
 * H = m0 + (m1 s + m2) / (s^2 + k s + 1). A. Simper, "Solving the continuous SVF equations using trapezoidal integration
 * and equivalent currents", 2013 (from memory); the cuts' responses are those of the W3C Audio EQ Cookbook, both
 * being the bilinear transform of the same prototypes, and a test holds them together; `matched.ts` makes bells and shelves. It keeps its precision at low frequencies
 * in 32-bit floats, and stays stable while its numbers move.
 */
export interface Section {
  readonly g: number;
  /** 1/Q of the poles. */
  readonly k: number;
  readonly m0: number;
  readonly m1: number;
  readonly m2: number;
}

export const SECTION_FLOATS = 5;
export const sectionFloats = (s: Section): readonly number[] => [s.g, s.k, s.m0, s.m1, s.m2];

/** tan(pi f / fs), with the frequency kept below what the sample rate carries. */
const warp = (hertz: Hertz, sampleRate: Hertz) =>
  Math.tan((Math.PI * Math.min(hertz, 0.49 * sampleRate)) / sampleRate);

/** Takes away what is below (`low`) or above (`high`) its frequency: one section of second order. */
export function passSection(kind: 'low' | 'high', hertz: Hertz, q: number, sampleRate: Hertz): Section {
  const k = 1 / q;
  const g = warp(hertz, sampleRate);
  return kind === 'low' ? { g, k, m0: 1, m1: -k, m2: -1 } : { g, k, m0: 0, m1: 0, m2: 1 };
}

/** The same of first order, as a section whose second pole its zero takes away. */
export function onePoleSection(kind: 'low' | 'high', hertz: Hertz, sampleRate: Hertz): Section {
  const g = warp(hertz, sampleRate);
  return kind === 'low' ? { g, k: 2, m0: 1, m1: -1, m2: -1 } : { g, k: 2, m0: 0, m1: 1, m2: 1 };
}

/** A section that passes all, with the poles of another, so that it can take that one's place without a jump. */
export const resting = (s: Section): Section => ({ ...s, m0: 1, m1: 0, m2: 0 });

/** Qs of the sections of second order of a Butterworth filter of order n: 1 / (2 cos(angle of each pole pair)). */
export function butterworthQs(order: number): readonly number[] {
  const pairs = Math.floor(order / 2);
  return Array.from({ length: pairs }, (_, i) => {
    const angle = order % 2 ? (Math.PI * (i + 1)) / order : (Math.PI * (2 * i + 1)) / (2 * order);
    return 1 / (2 * Math.cos(angle));
  });
}

/** A Butterworth cut of order n, -3.01 dB at its corner and 6 n dB per octave beyond. */
export function butterworthCut(
  kind: 'low' | 'high',
  hertz: Hertz,
  order: number,
  sampleRate: Hertz,
): readonly Section[] {
  const pairs = butterworthQs(order).map((q) => passSection(kind, hertz, q, sampleRate));
  return order % 2 ? [onePoleSection(kind, hertz, sampleRate), ...pairs] : pairs;
}

/**
 * A cut of 12 dB per octave for a key or a detector. At its resting frequency, and beyond what the sample rate carries, it
 * passes all.
 */
export function restableCut(kind: 'low' | 'high', hertz: Hertz, rest: Hertz, sampleRate: Hertz): Section {
  const section = passSection(kind, hertz, Math.SQRT1_2, sampleRate);
  return hertz === rest || hertz >= 0.49 * sampleRate ? resting(section) : section;
}

/** A complex gain. */
export interface Transfer {
  readonly re: number;
  readonly im: number;
}
export const times = (a: Transfer, b: Transfer): Transfer => ({
  re: a.re * b.re - a.im * b.im,
  im: a.re * b.im + a.im * b.re,
});

/** A section's transfer at a frequency: m0 + (m2 + j m1 w) / (1 - w^2 + j k w). */
export function sectionTransfer(s: Section, hertz: Hertz, sampleRate: Hertz): Transfer {
  const w = Math.tan((Math.PI * hertz) / sampleRate) / s.g;
  if (!Number.isFinite(w) || w > 1e8) return { re: s.m0, im: 0 };
  const re = 1 - w * w;
  const im = s.k * w;
  const power = re * re + im * im;
  return {
    re: s.m0 + (s.m2 * re + s.m1 * w * im) / power,
    im: (s.m1 * w * re - s.m2 * im) / power,
  };
}

/** Transfer of sections one after another. */
export const sectionsTransfer = (sections: readonly Section[], hertz: Hertz, sampleRate: Hertz): Transfer =>
  sections.reduce((t, s) => times(t, sectionTransfer(s, hertz, sampleRate)), { re: 1, im: 0 });

/** Gain in decibels of sections one after another. */
export function sectionsResponse(sections: readonly Section[], hertz: Hertz, sampleRate: Hertz): number {
  const { re, im } = sectionsTransfer(sections, hertz, sampleRate);
  return 20 * Math.log10(Math.max(1e-15, Math.hypot(re, im)));
}
