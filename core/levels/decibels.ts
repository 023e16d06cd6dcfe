import type { Decibels, Gain } from '../base/units';

/** Decibels of a linear gain. Silence (null) below 1e-12. */
export const decibelsOf = (gain: Gain): Decibels => (gain > 1e-12 ? 20 * Math.log10(gain) : null);

/** Linear gain of a level: 10^(dB/20); `null` is 0. */
export const gainOf = (level: Decibels): Gain => (level === null ? 0 : 10 ** (level / 20));

/** Adds a step to a level. Silence stays silent. */
export const addDecibels = (level: Decibels, step: Decibels): Decibels =>
  level === null || step === null ? null : level + step;

/** The level of signals that add coherently: amplitudes add. */
export const coherentSum = (levels: readonly Decibels[]): Decibels =>
  decibelsOf(levels.reduce((sum: number, l) => sum + gainOf(l), 0));

/** The level of signals that are not related: powers add. */
export const powerSum = (levels: readonly Decibels[]): Decibels =>
  decibelsOf(Math.sqrt(levels.reduce((sum: number, l) => sum + gainOf(l) ** 2, 0)));

/** A level as it is written: `-6.0`, `+1.5`, `-∞`. */
export const levelText = (level: Decibels, digits = 1): string => {
  if (level === null) return '−∞';
  const rounded = Number(level.toFixed(digits));
  const text = Math.abs(rounded).toFixed(digits);
  return rounded > 0 ? `+${text}` : rounded < 0 ? `−${text}` : text;
};

/** A level as it is spoken: `minus six decibels`. */
export const levelSpoken = (level: Decibels): string => {
  if (level === null) return 'silent';
  const r = Math.round(level * 10) / 10;
  return `${r < 0 ? 'minus ' : r > 0 ? 'plus ' : ''}${Math.abs(r)} decibels`;
};

/**
 * Reads a typed level: `-6`, `−6 dB`, `+3`, `-inf`, `off`.
 * @returns undefined where the text is no level.
 */
export const readLevel = (text: string): Decibels | undefined => {
  const t = text
    .trim()
    .toLowerCase()
    .replace(/−/g, '-')
    .replace(/,/g, '.')
    .replace(/\s*db$/, '');
  if (/^(-\s*(inf|∞)(inity)?|off|silent)$/.test(t)) return null;
  return /^[+-]?\d+(\.\d+)?$/.test(t) ? Number(t) : undefined;
};
