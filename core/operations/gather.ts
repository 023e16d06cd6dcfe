import { sharedIcon } from '../naming/icons';
import { newStrip } from '../session/defaults';
import { freshId, mainOutput, stripMap, stripOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Command } from '../edits/commands';
import type { Session, Strip } from '../session/types';
import type { Id } from '../base/units';

/** What an operation gives: the edit, its sentence, and the strip or VCA that it makes. */
export interface Operation {
  readonly commands: readonly Command[];
  readonly made: Id;
  readonly label: string;
}

/** Where a new bus stands among its kind: after the last picked strip, or at the end. */
export type Placement = 'after' | 'end';

/** Position for a new strip. After the last of these strips, or after the last strip before the outputs. */
export function positionFor(session: Session, picked: readonly Id[], placement: Placement): number {
  const at = (id: Id) => session.strips.findIndex((s) => s.id === id);
  if (placement === 'after' && picked.length) return Math.max(...picked.map(at)) + 1;
  const outputs = session.strips.findIndex((s) => s.kind === 'output');
  return outputs < 0 ? session.strips.length : outputs;
}

const refuseNone = (picked: readonly Id[], what: string) => {
  if (picked.length === 0) throw new Refusal('range', `Nothing is picked: pick the strips to ${what} first.`);
};

/** Name for a bus over these strips: their family where they share one. */
export function busName(session: Session, strips: readonly Strip[], fallback: string): string {
  const family = strips[0]?.family ?? '';
  const base = family && strips.every((s) => s.family === family) ? `${family} blend` : fallback;
  const names = new Set([...session.strips, ...session.vcas].map((s) => s.name));
  let name = base;
  for (let n = 2; names.has(name); n++) name = `${base} ${n}`;
  return name;
}

/**
 * Routes the strips into a new submix that goes where they went. At 0 dB, centre and width 1 the submix passes what it
 * gets, so that what reaches their destination stays the same. Dry paths that are off stay off.
 * @throws Refusal `range` when nothing is picked, `kind` for an output, `in-use` when the strips lead to different places
 */
export function gather(
  session: Session,
  picked: readonly Id[],
  options: { readonly name?: string; readonly placement?: Placement } = {},
): Operation {
  refuseNone(picked, 'gather');
  const strips = picked.map((id) => stripOf(session, id));
  for (const s of strips)
    if (s.kind === 'output')
      throw new Refusal(
        'kind',
        `\`${s.name || s.id}\` is an output: it leaves the session and cannot be gathered.`,
        [s.id],
      );
  const goals = new Set(strips.map((s) => s.out.to).filter((to): to is Id => to !== null));
  if (goals.size > 1)
    throw new Refusal(
      'in-use',
      `The picked strips lead to different places (${[...goals].map((g) => stripOf(session, g).name || g).join(', ')}), so one submix cannot keep the blend. Set their outs to one place, or pick fewer.`,
      [...goals],
    );
  const to = [...goals][0] ?? mainOutput(session)?.id ?? null;
  const name = options.name ?? busName(session, strips, 'Blend');
  const made = freshId(session, name);
  const channels = to === null ? 2 : stripMap(session).get(to)!.channels;
  const submix = newStrip({
    id: made,
    kind: 'submix',
    name,
    family: strips.every((s) => s.family === strips[0]!.family) ? strips[0]!.family : '',
    colour: strips[0]!.colour,
    icon: sharedIcon(strips, name, 'submix'),
    channels,
    out: { to, on: true },
  });
  return {
    made,
    label: `gather ${name}`,
    commands: [
      { type: 'strip.add', strip: submix, at: positionFor(session, picked, options.placement ?? 'after') },
      ...strips.map((s): Command => ({
        type: 'strip.out',
        id: s.id,
        out: { to: made, on: s.out.to !== null && s.out.on },
      })),
    ],
  };
}
