import { effectiveLevel, holdersOf } from '@core/groups/vca';
import { levelText } from '@core/levels/decibels';
import { panText } from '@core/levels/pan';
import { processorOf } from '@core/processors/registry';
import { nameOf } from '@core/session/lookup';
import type { Insert, Session, Strip } from '@core/session/types';
import { tapWord } from '@/session/words';
import { say } from './texts';

/** What stands on a strip's way, as the inspector lists it. */
export interface Stage {
  readonly name: string;
  readonly level: string;
  /** Whether the signal comes in or goes out here. */
  readonly kind: 'stage' | 'tap';
  readonly insert?: string;
  /** Share of real time that it takes, where that has been measured. */
  readonly cost?: number;
  /** Name of the strip that keys it. */
  readonly key?: string | null;
}
/** What feeds a strip, and by what. */
export interface Feed {
  readonly id: string;
  readonly name: string;
  readonly by: string;
}

export const feedsOf = (session: Session, id: string): readonly Feed[] =>
  session.strips.flatMap((s) => [
    ...(s.out.to === id ? [{ id: s.id, name: s.name || s.id, by: say('out') }] : []),
    ...s.sends
      .filter((x) => x.to === id)
      .map((x) => ({ id: s.id, name: s.name || s.id, by: say('tapSend', { tap: tapWord(x.tap) }) })),
  ]);

/** The strip's stages in signal order, each with what it adds. @param costs shares of real time, by `strip insert` */
export function stagesOf(
  session: Session,
  s: Strip,
  feeds: number,
  costs: ReadonlyMap<string, number>,
): readonly Stage[] {
  const stage = (name: string, level: string): Stage => ({ name, level, kind: 'stage' });
  const insert = (i: Insert): Stage => ({
    ...stage(
      processorOf(i.type).name,
      i.on ? (i.mix < 1 ? `${Math.round(i.mix * 100)} %` : '') : say('bypassed'),
    ),
    cost: costs.get(`${s.id} ${i.id}`),
    insert: i.id,
    key: i.key === null ? null : nameOf(session, i.key),
  });
  const place = (p: Insert['place']) => s.inserts.filter((i) => i.place === p).map(insert);
  const holders = holdersOf(session, s.id);
  return [
    { name: s.kind === 'source' ? say('stem') : say('feedsFeeding', { feeds }), level: '', kind: 'tap' },
    ...(s.trimDb !== 0 ? [stage(say('trimTitle'), levelText(s.trimDb))] : []),
    ...place('pre'),
    stage(say('fader'), levelText(s.faderDb)),
    ...holders.map((v) =>
      stage(say('vcaName', { name: v.name }), v.mute ? say('muted') : levelText(v.faderDb)),
    ),
    ...(holders.length ? [stage(say('effective'), levelText(effectiveLevel(session, s)))] : []),
    ...place('post'),
    stage(s.channels === 1 ? say('panTitle') : say('balance'), panText(s.pan)),
    {
      name:
        s.kind === 'output'
          ? say('leavesTheSession')
          : s.out.to === null
            ? say('nowhere')
            : nameOf(session, s.out.to),
      level: s.out.on ? '' : say('dryPathOff'),
      kind: 'tap',
    },
  ];
}
