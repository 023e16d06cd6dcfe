import type { Decibels } from '../base/units';

/** How a meter moves: see `ballistics.ts`. */
export type Detector =
  | { readonly kind: 'peak'; readonly fall: number }
  /** Charges through one or two resistors, the first by its share; seconds. */
  | {
      readonly kind: 'quasiPeak';
      readonly charge: readonly [number, number];
      readonly share: number;
      readonly fall: number;
    }
  | { readonly kind: 'needle' }
  | { readonly kind: 'meanSquare'; readonly seconds: number };

export type ScaleId = 'digital' | 'typeI' | 'typeIIa' | 'typeIIb' | 'volume' | `k${12 | 14 | 20}`;
/**
 * A scale by which levels are read. All levels are those of a sine, in dBFS: whatever a meter does to a signal, it reads that of a
 * steady sine of 1 kHz as its peak.
 */
export interface MeterScale {
  readonly id: ScaleId;
  readonly detector: Detector;
  /** The ends of the scale. */
  readonly low: number;
  readonly high: number;
  /** Where programme is not meant to go. */
  readonly hot: number;
  readonly marks: readonly { readonly at: number; readonly text: string }[];
  /** What a level is called on this scale. */
  read(level: Decibels): string;
  /** How far up the scale a level stands, 0..1. */
  place(level: Decibels): number;
}

const signed = (v: number, digits = 1) => {
  const r = Number(v.toFixed(digits));
  return r < 0 ? `−${(-r).toFixed(digits)}` : r > 0 ? `+${r.toFixed(digits)}` : r.toFixed(digits);
};
const clamped = (share: number) => Math.max(0, Math.min(1, share));

interface Even {
  readonly id: ScaleId;
  readonly detector: Detector;
  /** What is 0 on it, in dBFS. */
  readonly zero: number;
  /** Marks over that, in decibels. */
  readonly marks: readonly (number | readonly [number, string])[];
  readonly low: number;
  readonly high: number;
  readonly hot: number;
  readonly read?: (over: number) => string;
}
/** A scale on which a decibel is as long everywhere. */
function even({ id, detector, zero, marks, low, high, hot, read }: Even): MeterScale {
  return {
    id,
    detector,
    low: zero + low,
    high: zero + high,
    hot: zero + hot,
    marks: marks.map((m) =>
      typeof m === 'number'
        ? { at: zero + m, text: m < 0 ? `−${-m}` : m > 0 && zero !== 0 ? `+${m}` : `${m}` }
        : { at: zero + m[0], text: m[1] },
    ),
    read: (level) =>
      level === null || level - zero < -90 ? '−∞' : (read ?? ((v) => signed(v)))(level - zero),
    place: (level) => (level === null ? 0 : clamped((level - zero - low) / (high - low))),
  };
}

/** The level that programmes are lined up by: EBU R 68, -18 dBFS. */
const ALIGNMENT = -18;

/** IEC 60268-17: 0 stands at 71 % of the needle's way, and that way goes by voltage. */
function volume(): MeterScale {
  const top = 3;
  return {
    id: 'volume',
    detector: { kind: 'needle' },
    low: ALIGNMENT - 20,
    high: ALIGNMENT + top,
    hot: ALIGNMENT,
    marks: [-20, -10, -7, -5, -3, -2, -1, 0, 1, 2, 3].map((v) => ({
      at: ALIGNMENT + v,
      text: v < 0 ? `−${-v}` : v > 0 ? `+${v}` : '0',
    })),
    read: (level) => (level === null || level < ALIGNMENT - 40 ? '−∞' : signed(level - ALIGNMENT)),
    place: (level) => (level === null ? 0 : clamped(10 ** ((level - ALIGNMENT - top) / 20))),
  };
}

/** A scale of average level with so many decibels over its 0: B. Katz, Level Practices, part 2, JAES 2000. */
const headroom = (by: 12 | 14 | 20): MeterScale =>
  even({
    id: `k${by}`,
    detector: { kind: 'meanSquare', seconds: 0.6 },
    zero: -by,
    low: -40,
    high: by,
    hot: 4,
    marks: [-40, -30, -24, -18, -12, -6, 0, 4, 8, 12, 20].filter((m) => m <= by),
  });

/** What a digital meter falls by, decibels a second, and that of a programme meter of type II: from memory. */
const FALL_I = 20 / 1.7;
const FALL_II = 24 / 2.8;
/**
 * The times are fitted to what the standard says of bursts of 5 kHz (from memory), and lie within half of its tolerances: type I
 * -1 dB at 10 ms, -2 at 5, -4 at 3, -15 at 0.4; type II -2.5 dB at 10 ms, -4 at 5, -9 at 1.5, -17 at 0.5.
 */
const TYPE_I: Detector = { kind: 'quasiPeak', charge: [0.0014, 0.0014], share: 1, fall: FALL_I };
const TYPE_II: Detector = { kind: 'quasiPeak', charge: [0.0012, 0.008], share: 0.6, fall: FALL_II };

/** The scales that there are, the first of them where none was chosen. */
export const METER_SCALES: readonly MeterScale[] = [
  // IEC 60268-18: digital meters.
  even({
    id: 'digital',
    detector: { kind: 'peak', fall: FALL_I },
    zero: 0,
    low: -60,
    high: 0,
    hot: -9,
    marks: [-60, -50, -40, -30, -20, -9, 0],
  }),
  // IEC 60268-10, type I; its 0 is the highest level that programme may have, -9 dBFS by EBU R 68.
  even({
    id: 'typeI',
    detector: TYPE_I,
    zero: -9,
    low: -50,
    high: 5,
    hot: 0,
    marks: [-50, -40, -30, -20, -10, -5, 0, 5],
  }),
  // Type IIa counts from 1 to 7, 4 dB apart; 4 is the alignment level, 6 the highest that programme may have.
  even({
    id: 'typeIIa',
    detector: TYPE_II,
    zero: ALIGNMENT,
    low: -14,
    high: 14,
    hot: 8,
    marks: [1, 2, 3, 4, 5, 6, 7].map((n) => [4 * (n - 4), `${n}`] as const),
    read: (over) => (over < -14 ? '< 1' : (4 + over / 4).toFixed(1)),
  }),
  even({
    id: 'typeIIb',
    detector: TYPE_II,
    zero: ALIGNMENT,
    low: -14,
    high: 14,
    hot: 9,
    marks: [-12, -8, -4, [0, 'TEST'], 4, 8, 12],
  }),
  volume(),
  headroom(20),
  headroom(14),
  headroom(12),
];

/** The scale of that name; the first where there is none. */
export const meterScale = (id: string): MeterScale =>
  METER_SCALES.find((s) => s.id === id) ?? METER_SCALES[0]!;
