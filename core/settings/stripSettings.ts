import { processorOf } from '../processors/registry';
import { reach } from '../session/graph';
import { freshId, nameOf, stripMap, stripOf } from '../session/lookup';
import type { Command } from '../edits/commands';
import type { Insert, Out, Send, Session, Strip } from '../session/types';
import type { Id } from '../base/units';

/** What of a strip can be given to others, a part at a time. */
export const SETTINGS_PARTS = ['inserts', 'sends', 'out', 'fader', 'input', 'colour'] as const;
export type SettingsPart = (typeof SETTINGS_PARTS)[number];
export const PART_NAMES: Readonly<Record<SettingsPart, string>> = {
  inserts: 'Inserts',
  sends: 'Sends',
  out: 'Out',
  fader: 'Fader and pan',
  input: 'Trim, polarity, width',
  colour: 'Colour, icon and family',
};

/** A strip's settings as they stand at one moment, apart from what it is. */
export interface StripSettings {
  /** Name of the strip that they come from. */
  readonly from: string;
  readonly channels: 1 | 2;
  readonly inserts: readonly Insert[];
  readonly sends: readonly Send[];
  readonly out: Out;
  readonly fader: Pick<Strip, 'faderDb' | 'pan'>;
  readonly input: Pick<Strip, 'trimDb' | 'invert' | 'swap' | 'width'>;
  readonly colour: Pick<Strip, 'colour' | 'family' | 'icon'>;
}

export const settingsOf = (session: Session, id: Id): StripSettings => {
  const s = stripOf(session, id);
  return {
    from: nameOf(session, id),
    channels: s.channels,
    inserts: s.inserts,
    sends: s.sends,
    out: s.out,
    fader: { faderDb: s.faderDb, pan: s.pan },
    input: { trimDb: s.trimDb, invert: s.invert, swap: s.swap, width: s.width },
    colour: { colour: s.colour, family: s.family, icon: s.icon },
  };
};

export interface Pasted {
  readonly commands: readonly Command[];
  /** What could not be given to whom, and why. */
  readonly left: readonly string[];
}

/**
 * Gives settings to strips, in the chosen parts. Inserts and sends take the place of those that are there. What a strip
 * cannot take is left out and told: a send to itself or to what feeds it, a processor for two channels on a mono strip,
 * a key that has gone.
 */
export function pasteSettings(
  session: Session,
  settings: StripSettings,
  targets: readonly Id[],
  parts: readonly SettingsPart[],
): Pasted {
  const commands: Command[] = [];
  const left: string[] = [];
  const taken = new Set<Id>();
  const strips = stripMap(session);
  const fresh = (name: string) => {
    const id = freshId(session, name, taken);
    taken.add(id);
    return id;
  };
  for (const id of targets) {
    const s = stripOf(session, id);
    const name = nameOf(session, id);
    // Everything that leads here: a send or an out there would make a loop.
    const upstream = reach(session, [id], 'upstream');
    const downstream = reach(session, [id], 'downstream');
    const takes = (to: Id | null) => {
      const goal = to === null ? undefined : strips.get(to);
      return goal !== undefined && goal.kind !== 'source' && to !== id && !upstream.has(goal.id);
    };
    if (parts.includes('input')) {
      const { swap, width, ...mono } = settings.input;
      commands.push({
        type: 'strip.set',
        id,
        patch: s.channels === 2 && settings.channels === 2 ? { ...mono, swap, width } : mono,
      });
    }
    if (parts.includes('fader')) commands.push({ type: 'strip.set', id, patch: settings.fader });
    if (parts.includes('colour')) commands.push({ type: 'strip.set', id, patch: settings.colour });
    if (parts.includes('inserts')) {
      if (s.inserts.some((i) => Object.keys(i.lanes).length > 0))
        left.push(`The automation of \`${name}\`’s inserts goes with them.`);
      for (const i of s.inserts) commands.push({ type: 'insert.remove', strip: id, id: i.id });
      let at = 0;
      for (const i of settings.inserts) {
        const processor = processorOf(i.type);
        if (processor.channels === 'stereo' && s.channels === 1) {
          left.push(`${processor.name} needs two channels: \`${name}\` is mono.`);
          continue;
        }
        const keyGone = i.key !== null && (i.key === id || !strips.has(i.key) || downstream.has(i.key));
        if (keyGone)
          left.push(`The key of ${processor.name} cannot key \`${name}\`: it hears its own signal there.`);
        commands.push({
          type: 'insert.add',
          strip: id,
          insert: { ...i, id: fresh(`${id}-${i.type}`), key: keyGone ? null : i.key, lanes: {} },
          at: at++,
        });
      }
    }
    if (parts.includes('sends') && s.kind !== 'output') {
      if (s.sends.some((x) => Object.keys(x.lanes).length > 0))
        left.push(`The automation of \`${name}\`’s sends goes with them.`);
      for (const x of s.sends) commands.push({ type: 'send.remove', strip: id, id: x.id });
      let at = 0;
      for (const x of settings.sends) {
        if (!takes(x.to)) {
          left.push(`\`${name}\` cannot be sent to \`${nameOf(session, x.to)}\`.`);
          continue;
        }
        commands.push({
          type: 'send.add',
          strip: id,
          send: { ...x, id: fresh(`${id}-to-${x.to}`), lanes: {} },
          at: at++,
        });
      }
    }
    if (parts.includes('out') && s.kind !== 'output') {
      if (takes(settings.out.to)) commands.push({ type: 'strip.out', id, out: settings.out });
      else if (settings.out.to !== null)
        left.push(`\`${name}\` cannot lead to \`${nameOf(session, settings.out.to)}\`.`);
    }
  }
  return { commands, left };
}
