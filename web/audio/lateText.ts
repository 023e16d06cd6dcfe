import type { Session } from '@core/session/types';
import type { LateSource } from './feeder';
import { say } from './texts';

/** Names that are told; of more, their number. */
const NAMED = 3;

/** What is told of sources that were not there in time: which, why, and what can be done. */
export function lateText(session: Session | null, late: ReadonlyMap<string, LateSource>): string {
  const sources = [...late.values()];
  const names = sources.map((s) => session?.strips.find((x) => x.id === s.strip)?.name ?? s.strip);
  const named = names.slice(0, NAMED).join(', ');
  const which =
    names.length > NAMED ? say('lateAndOthers', { names: named, others: names.length - NAMED }) : named;
  // What is worst is what is told of all.
  const why = (['gone', 'away', 'slow'] as const).find((w) => sources.some((s) => s.why === w)) ?? 'slow';
  if (why === 'gone') return say('lateGone', { which });
  if (why === 'away') return say('lateAway', { which });
  const waits = Math.max(0, ...sources.map((s) => s.waits)) / 1000;
  return say('lateSlow', { which, seconds: waits.toFixed(1) });
}
