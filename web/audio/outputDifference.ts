import { monitoredOutput } from '@core/session/lookup';
import type { Session } from '@core/session/types';
import { compareExcerpts } from './measuring';
import type { useTransport } from './transport';

/** Seconds that are measured, from a little before the playhead. */
const SECONDS = 8;
/** The most by which one sound is turned up or down to be as loud as another. */
const MOST_DB = 18;

/**
 * By how many decibels the monitored output is louder after a change than before: over the loop, or about the playhead.
 * @returns null where one of the two is silent
 * @throws Error with the worker's reason; `AbortError` when it was stopped
 */
export async function outputDifference(
  before: Session,
  after: Session,
  stems: Parameters<typeof compareExcerpts>[0]['stems'],
  transport: ReturnType<typeof useTransport>,
  signal: AbortSignal,
): Promise<number | null> {
  const span = transport.looping && transport.loop;
  const start = span
    ? span.start
    : Math.max(0, Math.min(transport.position - SECONDS / 4, transport.length - SECONDS));
  const seconds = Math.max(1, span ? span.end - span.start : Math.min(SECONDS, transport.length - start));
  const output = monitoredOutput(after)?.id;
  const result = await compareExcerpts(
    {
      before,
      after,
      start: Math.round(start * after.sampleRate),
      frames: Math.round(seconds * after.sampleRate),
      stems,
    },
    () => {},
    signal,
  );
  const read = (list: typeof result.before) => list.strips.find((s) => s.strip === output)?.loudness ?? null;
  const [was, is] = [read(result.before), read(result.after)];
  return was === null || is === null ? null : is - was;
}

/** The gain that takes so many decibels back, within what is safe; 1 where the difference is not known. */
export const matching = (difference: number | null): number =>
  difference === null ? 1 : 10 ** (Math.max(-MOST_DB, Math.min(MOST_DB, difference)) / 20);
