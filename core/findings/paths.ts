import { isMuted } from '../groups/vca';
import { mainOutput } from '../session/lookup';
import type { Command } from '../edits/commands';
import { isTrigger } from '../naming/suggest';
import { named, type Rule } from './finding';

export const noPath: Rule = {
  id: 'no-path',
  title: 'No path to any output',
  *find({ session, strips, reachesOutput, keys }) {
    for (const s of session.strips) {
      if (s.kind === 'output' || reachesOutput.has(s.id) || keys.has(s.id)) continue;
      // A trigger that nothing uses is told by a rule of its own.
      if (s.kind === 'source' && isTrigger(s)) continue;
      const next = s.out.to === null ? undefined : strips.get(s.out.to);
      const main = mainOutput(session);
      const blind = s.out.on && next && !reachesOutput.has(next.id);
      const to = s.out.to === null || blind ? (main?.id ?? null) : s.out.to;
      yield {
        key: s.id,
        severity: 'fault',
        sure: 'certain',
        what: blind
          ? `${named(s)} leads to ${named(next)}, and from there nothing leads to an output.`
          : s.out.to === null
            ? `${named(s)} leads nowhere.`
            : `The dry path of ${named(s)} is off, and no send of it leads to an output.`,
        why: 'It cannot be heard, whatever its fader says.',
        where: [s.id],
        repair:
          to === null
            ? null
            : {
                label: to === s.out.to ? 'Switch its dry path on' : `Lead it to ${named(main!)}`,
                commands: [{ type: 'strip.out', id: s.id, out: { to, on: true } }],
              },
      };
    }
  },
};

export const unusedKey: Rule = {
  id: 'unused-key',
  title: 'A key that no one uses',
  *find({ session, reachesOutput, keys }) {
    for (const s of session.strips)
      if (s.kind === 'source' && !reachesOutput.has(s.id) && !keys.has(s.id) && !s.hidden && isTrigger(s))
        yield {
          key: s.id,
          severity: 'note',
          sure: 'certain',
          what: `${named(s)} is heard nowhere and keys nothing.`,
          why: 'It takes a place on the Sheet and on the surface, and does nothing.',
          where: [s.id],
          repair: {
            label: 'Hide it',
            commands: [{ type: 'strip.set', id: s.id, patch: { hidden: true } }],
          },
        };
  },
};

export const heardKey: Rule = {
  id: 'heard-key',
  title: 'A key that is heard',
  *find({ session, keys, effective, reachesOutput }) {
    for (const s of session.strips) {
      if (!keys.has(s.id) || !isTrigger(s) || isMuted(session, s) || !reachesOutput.has(s.id)) continue;
      const commands: Command[] = [];
      if (s.out.on && s.out.to !== null && effective(s) !== null)
        commands.push({ type: 'strip.out', id: s.id, out: { ...s.out, on: false } });
      for (const x of s.sends)
        if (x.on && x.levelDb !== null)
          commands.push({ type: 'send.set', strip: s.id, id: x.id, patch: { on: false } });
      if (commands.length === 0) continue;
      yield {
        key: s.id,
        severity: 'risk',
        sure: 'likely',
        what: `${named(s)} keys a processor, and is heard as well.`,
        why: 'A trigger is there to be followed, not to be listened to: it clicks through the mix.',
        where: [s.id],
        repair: { label: 'Take it out of what is heard; it goes on keying', commands },
      };
    }
  },
};

export const soloLeft: Rule = {
  id: 'solo-left',
  title: 'A solo left on',
  *find({ soloed: { strips, vcas } }) {
    const all = [...strips, ...vcas];
    if (all.length === 0) return;
    yield {
      severity: 'risk',
      sure: 'certain',
      what: `${all.map(named).slice(0, 4).join(', ')}${all.length > 4 ? ` and ${all.length - 4} more` : ''} ${all.length === 1 ? 'is' : 'are'} soloed.`,
      why: 'A print holds what is heard: everything else is missing from it.',
      where: all.map((s) => s.id),
      repair: {
        label: all.length === 1 ? 'Take the solo off' : 'Take all solos off',
        commands: [
          ...strips.map((s): Command => ({ type: 'strip.set', id: s.id, patch: { solo: false } })),
          ...vcas.map((v): Command => ({ type: 'vca.set', id: v.id, patch: { solo: false } })),
        ],
      },
    };
  },
};
