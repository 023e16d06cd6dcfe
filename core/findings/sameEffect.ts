import { processorOf } from '../processors/registry';
import { valueOf } from '../processors/description';
import { newReturn } from '../operations/returns';
import type { Command } from '../edits/commands';
import type { Insert, Strip } from '../session/types';
import { listed, named, type Rule } from './finding';

/** Parameters differ by less than this share of their range. */
const NEAR = 0.02;

const alike = (a: Insert, b: Insert) => {
  const p = processorOf(a.type);
  return (
    a.type === b.type &&
    p.parameters.every((x) => Math.abs(valueOf(x, a.params) - valueOf(x, b.params)) <= NEAR * (x.max - x.min))
  );
};

const FEWEST = 3;

/**
 * Ambient effects of the same settings on three strips or more. In place of an insert of mix w before a fader F stands a
 * fader of (1 - w) F and a post-fader send of w / (1 - w): the dry signal and the effect's input stay the same.
 */
export const sameEffect: Rule = {
  id: 'same-effect',
  title: 'One effect on many strips',
  *find({ session }) {
    const groups: { insert: Insert; on: { strip: Strip; insert: Insert }[] }[] = [];
    for (const strip of session.strips) {
      if (strip.kind === 'return' || strip.kind === 'output') continue;
      for (const insert of strip.inserts) {
        if (!insert.on || insert.mix === 0 || !processorOf(insert.type).ambient) continue;
        const group = groups.find((g) => alike(g.insert, insert));
        if (group) group.on.push({ strip, insert });
        else groups.push({ insert, on: [{ strip, insert }] });
      }
    }
    for (const { insert, on } of groups) {
      const strips = [...new Set(on.map((x) => x.strip))];
      if (strips.length < FEWEST) continue;
      const { name } = processorOf(insert.type);
      const made = newReturn(session, [], {
        name: `${name} for ${strips.length}`,
        effect: insert.type,
        params: insert.params,
      });
      const commands: Command[] = [...made.commands];
      const faders = new Map(strips.map((s) => [s.id, s.faderDb]));
      on.forEach(({ strip, insert: i }, k) => {
        commands.push({ type: 'insert.remove', strip: strip.id, id: i.id });
        const fader = faders.get(strip.id)!;
        if (i.mix === 1) commands.push({ type: 'strip.out', id: strip.id, out: { ...strip.out, on: false } });
        else if (fader !== null) {
          const lower = fader + 20 * Math.log10(1 - i.mix);
          faders.set(strip.id, lower);
          commands.push({ type: 'strip.set', id: strip.id, patch: { faderDb: lower } });
        }
        commands.push({
          type: 'send.add',
          strip: strip.id,
          at: strip.sends.length,
          send: {
            id: `${strip.id}-to-${made.made}-${k}`.slice(0, 64),
            to: made.made,
            tap: 'post',
            levelDb: i.mix === 1 ? 0 : Math.min(12, 20 * Math.log10(i.mix / (1 - i.mix))),
            pan: 0,
            on: true,
            lanes: {},
          },
        });
      });
      yield {
        key: `${insert.type} ${strips
          .map((s) => s.id)
          .sort()
          .join(' ')}`.slice(0, 250),
        severity: 'note',
        sure: 'likely',
        what: `${listed(strips.map(named))} each have a ${name.toLowerCase()} of the same settings.`,
        why: `One return would give them one sound and one set of controls, for one ${name.toLowerCase()} instead of ${on.length}.`,
        where: strips.map((s) => s.id),
        repair: { label: `Make one return of the ${on.length}`, commands },
      };
    }
  },
};
