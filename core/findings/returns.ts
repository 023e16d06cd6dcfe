import { holdersOf, isMuted } from '../groups/vca';
import { processorOf } from '../processors/registry';
import type { Command } from '../edits/commands';
import { signalGraph } from '../session/graph';
import { listed, named, type Rule } from './finding';

export const dryOnReturn: Rule = {
  id: 'dry-on-return',
  title: 'A return that passes dry signal',
  *find({ session, strips }) {
    const { entering } = signalGraph(session);
    for (const s of session.strips) {
      if (s.kind !== 'return') continue;
      const ambient = s.inserts.filter((i) => processorOf(i.type).ambient);
      // One that is fully wet leaves nothing dry behind it.
      if (ambient.length === 0 || ambient.some((i) => i.on && i.mix === 1)) continue;
      const feeders = entering
        .get(s.id)!
        .filter((e) => e.kind === 'send' && e.on)
        .map((e) => strips.get(e.from)!)
        .filter((f) => f.out.on && f.out.to !== null);
      if (feeders.length === 0) continue;
      const off = ambient.every((i) => !i.on);
      const insert = ambient[0]!;
      const name = processorOf(insert.type).name.toLowerCase();
      yield {
        key: s.id,
        severity: 'risk',
        sure: off ? 'likely' : 'certain',
        what: off
          ? `The ${name} on ${named(s)} is bypassed, so the return passes the dry signal of ${listed(feeders.map(named))}.`
          : `The ${name} on ${named(s)} is ${Math.round(insert.mix * 100)} % wet: the rest is the dry signal of ${listed(feeders.map(named))}, which is heard already.`,
        why: 'The dry signal is doubled: it gets louder with every send, and the send no longer sets the effect alone.',
        where: [s.id, ...feeders.map((f) => f.id)],
        repair: {
          label: off ? `Switch the ${name} on` : `Make the ${name} fully wet`,
          commands: [
            {
              type: 'insert.set',
              strip: s.id,
              id: insert.id,
              patch: off ? { on: true, mix: 1 } : { mix: 1 },
            },
          ],
        },
      };
    }
  },
};

export const deadReturn: Rule = {
  id: 'dead-return',
  title: 'Sends to a return that is silent',
  *find({ session, effective, reachesOutput }) {
    const { entering } = signalGraph(session);
    for (const s of session.strips) {
      if (s.kind !== 'return') continue;
      const silent = s.mute
        ? 'is muted'
        : effective(s) === null
          ? 'stands at silence'
          : s.trimDb === null
            ? 'has its trim at silence'
            : !reachesOutput.has(s.id)
              ? 'leads to no output'
              : null;
      if (!silent) continue;
      const sends = entering.get(s.id)!.filter((e) => e.kind === 'send' && e.on);
      if (sends.length === 0) continue;
      const off = sends.map((e): Command => ({
        type: 'send.set',
        strip: e.from,
        id: e.id,
        patch: { on: false },
      }));
      yield {
        key: s.id,
        severity: 'risk',
        sure: 'certain',
        what: `${sends.length === 1 ? 'A strip is' : `${sends.length} strips are`} sent to ${named(s)}, which ${silent}.`,
        why: 'The sends look alive and give nothing; when the return comes back, so do all of them.',
        where: [s.id, ...sends.map((e) => e.from)],
        repair: s.mute
          ? {
              label: `Unmute ${named(s)}`,
              commands: [{ type: 'strip.set', id: s.id, patch: { mute: false } }],
            }
          : effective(s) === null
            ? {
                label: `Bring ${named(s)} back up`,
                commands: [
                  ...(s.faderDb === null
                    ? [{ type: 'strip.set', id: s.id, patch: { faderDb: 0 } } as const]
                    : []),
                  ...holdersOf(session, s.id)
                    .filter((v) => v.mute || v.faderDb === null)
                    .map((v): Command => ({
                      type: 'vca.set',
                      id: v.id,
                      patch: { mute: false, ...(v.faderDb === null ? { faderDb: 0 } : {}) },
                    })),
                ],
              }
            : { label: sends.length === 1 ? 'Switch the send off' : 'Switch the sends off', commands: off },
      };
    }
  },
};

export const preFaderLeft: Rule = {
  id: 'pre-fader-left',
  title: 'A pre-fader send that goes on',
  *find({ session, strips, effective, reachesOutput }) {
    for (const s of session.strips) {
      if (isMuted(session, s) || s.trimDb === null || effective(s) !== null) continue;
      const sends = s.sends.filter(
        (x) => x.on && x.levelDb !== null && x.tap !== 'post' && reachesOutput.has(x.to),
      );
      if (sends.length === 0) continue;
      yield {
        key: s.id,
        severity: 'risk',
        sure: 'likely',
        what: `${named(s)} is silent at its fader, and its ${sends.some((x) => x.tap === 'pre') ? 'pre-fader' : 'input'} send to ${listed(sends.map((x) => named(strips.get(x.to)!)))} goes on.`,
        why: 'Its effect is heard without it: a tail that no one can find.',
        where: [s.id, ...sends.map((x) => x.to)],
        repair: {
          label: 'Make it post-fader',
          commands: sends.map((x): Command => ({
            type: 'send.set',
            strip: s.id,
            id: x.id,
            patch: { tap: 'post' },
          })),
        },
      };
    }
  },
};

export const notSoloSafe: Rule = {
  id: 'not-solo-safe',
  title: 'A return that is not solo-safe',
  *find({ session }) {
    for (const s of session.strips)
      if (s.kind === 'return' && !s.soloSafe)
        yield {
          key: s.id,
          severity: 'note',
          sure: 'likely',
          what: `${named(s)} is not solo-safe.`,
          why: 'A strip that is not sent to it, soloed, silences it; and a solo of something else cuts its tail off.',
          where: [s.id],
          repair: {
            label: 'Make it solo-safe',
            commands: [{ type: 'strip.set', id: s.id, patch: { soloSafe: true } }],
          },
        };
  },
};
