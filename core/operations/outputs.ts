import { newStrip } from '../session/defaults';
import { freshId, stripOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Command } from '../edits/commands';
import type { Session } from '../session/types';
import type { Id } from '../base/units';
import type { Operation } from './gather';

/** First channel of the next pair that no output leaves by. */
export function freePair(session: Session): number {
  const used = new Set(session.strips.map((s) => s.pair));
  let pair = 1;
  while (used.has(pair)) pair += 2;
  return pair;
}

/** A new output on the next free channel pair. @param name `Cue`, numbered where it is taken */
export function newOutput(session: Session, name = 'Cue'): Operation {
  const names = new Set(session.strips.map((s) => s.name));
  let free = name;
  for (let n = 2; names.has(free); n++) free = `${name} ${n}`;
  const made = freshId(session, free);
  return {
    made,
    label: `new output ${free}`,
    commands: [
      {
        type: 'strip.add',
        at: session.strips.length,
        strip: newStrip({
          id: made,
          kind: 'output',
          name: free,
          family: 'Outputs',
          colour: '#94a8a2',
          icon: 'speaker',
          pair: freePair(session),
          out: { to: null, on: true },
        }),
      },
    ],
  };
}

/** Chooses the output that is heard. @throws Refusal `kind` for a strip that is no output */
export function monitor(session: Session, id: Id): readonly Command[] {
  const strip = stripOf(session, id);
  if (strip.kind !== 'output')
    throw new Refusal(
      'kind',
      `\`${strip.name || id}\` is a ${strip.kind}: only an output can be heard by itself.`,
      [id],
    );
  return session.monitor === id ? [] : [{ type: 'session.set', patch: { monitor: id } }];
}

/** Sets many strips' outs at once. Dry paths that are off stay off. */
export const setOuts = (session: Session, ids: readonly Id[], to: Id): readonly Command[] =>
  ids
    .map((id) => stripOf(session, id))
    .filter((s) => s.kind !== 'output' && s.id !== to && s.out.to !== to)
    .map((s) => ({ type: 'strip.out', id: s.id, out: { to, on: s.out.to === null ? true : s.out.on } }));
