import type { Hertz, Samples, Seconds } from '../base/units';

/**
 * What a space is built of, at 100 % size: our own values, chosen by ear and by the figures that tests take of them. Times in
 * milliseconds.
 */
interface Space {
  readonly name: string;
  /** The shortest and the longest of its delay lines; the others lie between, evenly by powers. */
  readonly lines: readonly [number, number];
  /** Factor of the diffusers' lengths: how far a reflection is smeared. */
  readonly smear: number;
  /** How long its first reflections come, how strong they are, and how much of their level they gain on the way, in decibels. */
  readonly reflections: readonly [span: number, level: number, rise: number];
  /** Every so many of them is a wall by itself, stronger than the others by this factor. */
  readonly walls: readonly [every: number, factor: number];
}

/** In the order of the choice: new ones are added behind. */
export const SPACES: readonly Space[] = [
  { name: 'Plate', lines: [11, 75], smear: 1, reflections: [20, 0.85, 0], walls: [1, 1] },
  { name: 'Room', lines: [9, 47], smear: 0.55, reflections: [30, 1.35, 0], walls: [4, 4] },
  { name: 'Hall', lines: [30, 140], smear: 2.2, reflections: [90, 0.9, 3], walls: [5, 2.5] },
  { name: 'Chamber', lines: [17, 66], smear: 1.5, reflections: [40, 1.5, 0], walls: [1, 1] },
  { name: 'Cathedral', lines: [42, 165], smear: 3.2, reflections: [130, 0.4, 6], walls: [1, 1] },
];

export const LINES = 16;
/** Reflections a side. */
export const REFLECTIONS = 20;
const DIFFUSERS_MS = [0.7, 1.3, 2.3, 3.7, 0.8, 1.2, 2.1, 3.9] as const;
export const DIFFUSERS = DIFFUSERS_MS.length;

/** Largest factor of all lengths: the parameter's end. */
export const LARGEST = 2;
const longest = (pick: (s: Space) => number) => LARGEST * Math.max(...SPACES.map(pick));
/** The longest line, reflection and diffuser, in seconds; the engine sizes its rings by them too. */
export const LONGEST_LINE: Seconds = longest((s) => s.lines[1]) / 1000;
export const LONGEST_REFLECTION: Seconds = longest((s) => s.reflections[0]) / 1000;
export const LONGEST_DIFFUSER: Seconds = longest((s) => s.smear * Math.max(...DIFFUSERS_MS)) / 1000;

/** Numbers between 0 and 1 that look as if by chance, and are always the same: the generator of Numerical Recipes, 2nd ed., 7.1. */
function scattered(seed: number, count: number): readonly number[] {
  let x = seed;
  return Array.from({ length: count }, () => (x = (x * 1664525 + 1013904223) % 4294967296) / 4294967296);
}

/** Chosen so that left and right have little in common. */
const SEEDS = [10194, 32, 15, 9, 15] as const;

/** A space's lengths as it stands, in milliseconds; reflections left, then right, with their gains before any decay. */
interface Plan {
  readonly lines: readonly number[];
  readonly reflections: readonly number[];
  readonly gains: readonly number[];
}
const plans: readonly Plan[] = SPACES.map(({ lines: [from, to], reflections, walls }, n) => {
  const chance = scattered(SEEDS[n]!, 2 * LINES + 4 * REFLECTIONS);
  const even = Array.from(
    { length: LINES },
    (_, i) => from * (to / from) ** ((i + 0.6 * (chance[i]! - 0.5)) / (LINES - 1)),
  );
  // In an order that puts no two neighbours into one half of the matrix by rule.
  const order = even.map((_, i) => i).sort((a, b) => chance[LINES + a]! - chance[LINES + b]!);
  const [span, level, rise] = reflections;
  const [every, factor] = walls;
  const at = (k: number) => chance[2 * LINES + k]!;
  const count = 2 * REFLECTIONS;
  const share = (k: number) => ((k % REFLECTIONS) + at(k)) / REFLECTIONS;
  const raw = Array.from({ length: count }, (_, k) => {
    const sign = at(count + k) < 0.5 ? -1 : 1;
    const wall = every === 1 || k % every === 0 ? factor : 1;
    return sign * wall * 10 ** ((rise * (share(k) - 1)) / 20);
  });
  const norm = level / Math.sqrt(raw.reduce((s, g) => s + g * g, 0) / 2);
  return {
    lines: order.map((i) => even[i]!),
    // The first of each side comes at once.
    reflections: Array.from(
      { length: count },
      (_, k) => span * (k % REFLECTIONS === 0 ? at(k) / 50 : share(k)),
    ),
    gains: raw.map((g) => g * norm),
  };
});

/** What of a space stands still until its walls are moved. */
export interface Geometry {
  readonly lines: readonly Samples[];
  readonly diffusers: readonly Samples[];
  readonly reflections: readonly Samples[];
  readonly gains: readonly number[];
}

/** The longest line is at most this share of the decay: walls farther apart would be heard as repeats, not as a decay. */
const MOST_OF_DECAY = 0.25;

/**
 * Lengths of a space in frames.
 * @param space its place in `SPACES`; @param size factor of its lengths; @param decay to -60 dB
 */
export function geometryOf(space: number, size: number, decay: Seconds, sampleRate: Hertz): Geometry {
  const { lines, reflections, gains } = plans[space]!;
  const { smear } = SPACES[space]!;
  const scale = Math.min(size, (MOST_OF_DECAY * decay * 1000) / Math.max(...lines));
  const frames = (ms: number) => Math.round((ms / 1000) * scale * sampleRate);
  return {
    lines: lines.map((ms) => Math.max(8, frames(ms))),
    diffusers: DIFFUSERS_MS.map((ms) => Math.max(4, frames(ms * smear))),
    reflections: reflections.map(frames),
    gains: reflections.map((ms, k) => gains[k]! * 10 ** ((-3 * ms * scale) / 1000 / decay)),
  };
}
