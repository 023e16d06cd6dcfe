import type { Tempo } from '@core/session/types';
import { barSeconds, beatSeconds } from '@core/session/time';
import type { Seconds } from '@core/base/units';

/** The part of the song that is looked at. */
export interface TimeSpan {
  readonly start: Seconds;
  readonly length: Seconds;
}
const SHORTEST = 0.5;

/** A span of the song of at least half a second, moved so that it lies within the song. */
export function spanWithin(start: Seconds, length: Seconds, whole: Seconds): TimeSpan {
  const fits = Math.max(Math.min(SHORTEST, whole), Math.min(whole, length));
  return { start: Math.max(0, Math.min(whole - fits, start)), length: fits };
}

/** Closer by a factor, or further away, with one time kept where it is. */
export const zoomed = (span: TimeSpan, factor: number, around: Seconds, whole: Seconds): TimeSpan => {
  const length = Math.max(Math.min(SHORTEST, whole), Math.min(whole, span.length / factor));
  const share = span.length > 0 ? (around - span.start) / span.length : 0;
  return spanWithin(around - share * length, length, whole);
};

/** Times at which lines are drawn: beats or bars, or so many bars, never closer than `least` seconds. */
export function gridTimes(span: TimeSpan, tempo: Tempo, least: Seconds): readonly Seconds[] {
  const beat = beatSeconds(tempo);
  const bar = barSeconds(tempo);
  let step = beat >= least ? beat : bar;
  while (step < least) step *= 2;
  const first = Math.max(0, Math.ceil((span.start - 1e-6) / step));
  const times: Seconds[] = [];
  for (let i = first; i * step <= span.start + span.length + 1e-6; i++) times.push(i * step);
  return times;
}
