import type { Parameter } from './description';

/** What of a parameter its travel depends on. */
export type Travel = Pick<Parameter, 'min' | 'max' | 'step'> & { readonly law?: Parameter['law'] };

/** Where a value stands on a parameter's way, 0..1: in equal steps, or in equal ratios under the log law. */
export function travelAt(p: Travel, value: number): number {
  const v = Math.max(p.min, Math.min(p.max, value));
  const t = p.law === 'log' ? Math.log(v / p.min) / Math.log(p.max / p.min) : (v - p.min) / (p.max - p.min);
  return Math.max(0, Math.min(1, t));
}

/** The value at a place of the way, not yet rounded to a step. */
export function valueAtTravel(p: Travel, travel: number): number {
  const t = Math.max(0, Math.min(1, travel));
  return p.law === 'log' ? p.min * (p.max / p.min) ** t : p.min + t * (p.max - p.min);
}

/** A value brought into range and onto a step. */
export const onStep = (p: Travel, value: number): number =>
  Math.max(p.min, Math.min(p.max, Number((Math.round(value / p.step) * p.step).toPrecision(12))));

/** Detents of an encoder across a parameter's whole way. */
const DETENTS = 100;

/** A value after so many detents of an encoder: a hundredth of the way each, at least one step, one choice a detent. */
export function turned(p: Parameter, value: number, detents: number): number {
  if (p.choices) return onStep(p, value + Math.sign(detents) * Math.max(1, Math.floor(Math.abs(detents))));
  const next = onStep(p, valueAtTravel(p, travelAt(p, value) + detents / DETENTS));
  return next === value ? onStep(p, value + Math.sign(detents) * p.step) : next;
}
