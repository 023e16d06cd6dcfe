import { isMuted } from '../groups/vca';
import type { Command } from '../edits/commands';
import { removeVca } from '../operations/vcas';
import { signalGraph } from '../session/graph';
import type { Strip } from '../session/types';
import { listed, named, type Context, type Rule } from './finding';

const some = (lanes: Strip['lanes']) => Object.keys(lanes).length > 0;
/** Whether something can come in over one of a strip's ways in, now or by a lane. */
function isFed({ session, strips }: Context, strip: Strip): boolean {
  return signalGraph(session)
    .entering.get(strip.id)!
    .some(
      (e) => e.kind !== 'key' && (e.on || (e.kind === 'send' && some(sendLanes(strips.get(e.from)!, e.id)))),
    );
}
const sendLanes = (from: Strip, id: string): Strip['lanes'] =>
  from.sends.find((x) => x.id === id)?.lanes ?? {};

/** Whether a source plays nothing: it has no stem, and no preamplifier by which something comes in. */
const playsNothing = (s: Strip) => s.kind === 'source' && s.stem === null && s.preamp === null;

export const noStem: Rule = {
  id: 'no-stem',
  title: 'A source without a stem',
  *find({ session }) {
    const empty = session.strips.filter((s) => playsNothing(s) && !s.hidden);
    if (empty.length === 0) return;
    yield {
      severity: 'risk',
      sure: 'certain',
      what: `${listed(empty.map(named))} ${empty.length === 1 ? 'has' : 'have'} no stem.`,
      why: 'A source without audio is silent, and takes a place on the Sheet and on the surface.',
      where: empty.map((s) => s.id),
      repair: {
        label: empty.length === 1 ? 'Hide it until a stem is there' : 'Hide them until stems are there',
        commands: empty.map((s): Command => ({ type: 'strip.set', id: s.id, patch: { hidden: true } })),
      },
    };
  },
};

export const unfed: Rule = {
  id: 'unfed',
  title: 'A strip that nothing feeds',
  *find(c) {
    const { session } = c;
    // An empty session is one that was just begun.
    if (!session.strips.some((s) => s.kind === 'source')) return;
    for (const s of session.strips) {
      if (s.kind === 'source' || s.hidden || isFed(c, s)) continue;
      yield {
        key: s.id,
        severity: 'risk',
        sure: 'certain',
        what: `Nothing feeds ${named(s)}: no out and no send that is on leads to it.`,
        why:
          s.kind === 'output'
            ? 'What leaves by its pair is silence.'
            : `A ${s.kind} without a feeder is silent, whatever its fader says.`,
        where: [s.id],
        repair:
          s.kind === 'output'
            ? null
            : {
                label: 'Hide it until something feeds it',
                commands: [{ type: 'strip.set', id: s.id, patch: { hidden: true } }],
              },
      };
    }
  },
};

export const silentKey: Rule = {
  id: 'silent-key',
  title: 'A key that is silent',
  *find(c) {
    const { session, strips, effective } = c;
    for (const s of session.strips)
      for (const insert of s.inserts) {
        if (insert.key === null || !insert.on) continue;
        const key = strips.get(insert.key);
        if (!key) continue;
        const moved = key.lanes.mute || key.lanes.fader;
        const why = playsNothing(key)
          ? 'has no stem'
          : key.kind !== 'source' && !isFed(c, key)
            ? 'is fed by nothing'
            : key.trimDb === null
              ? 'has its trim at silence'
              : moved
                ? null
                : isMuted(session, key)
                  ? 'is muted'
                  : effective(key) === null
                    ? 'stands at silence'
                    : null;
        if (why === null) continue;
        yield {
          key: `${s.id} ${insert.id}`,
          severity: 'fault',
          sure: 'certain',
          what: `${named(key)} keys a processor on ${named(s)}, and ${why}.`,
          why: 'A processor that hears nothing at its key does nothing, or never opens.',
          where: [s.id, key.id],
          repair: key.mute
            ? {
                label: `Unmute ${named(key)}`,
                commands: [{ type: 'strip.set', id: key.id, patch: { mute: false } }],
              }
            : {
                label: `Let it follow ${named(s)} itself`,
                commands: [{ type: 'insert.set', strip: s.id, id: insert.id, patch: { key: null } }],
              },
        };
      }
  },
};

export const emptyVca: Rule = {
  id: 'empty-vca',
  title: 'A VCA without members',
  *find({ session }) {
    for (const v of session.vcas)
      if (v.members.length === 0)
        yield {
          key: v.id,
          severity: 'note',
          sure: 'certain',
          what: `${named(v)} holds nothing.`,
          why: 'Its fader, mute and solo move nothing.',
          where: [v.id],
          repair: { label: 'Remove it', commands: removeVca(session, v.id) },
        };
  },
};

export const samePair: Rule = {
  id: 'same-pair',
  title: 'Two outputs on one pair',
  *find({ session }) {
    const by = new Map<number, Strip[]>();
    for (const s of session.strips)
      if (s.kind === 'output' && s.pair !== null && s.out.on && !isMuted(session, s))
        // Pairs that share one channel meet there.
        for (const channel of [s.pair, s.pair + 1]) by.set(channel, [...(by.get(channel) ?? []), s]);
    const told = new Set<string>();
    for (const [channel, same] of by) {
      const key = same.map((s) => s.id).join(' ');
      if (same.length < 2 || told.has(key)) continue;
      told.add(key);
      const last = same.at(-1)!;
      const taken = new Set(
        session.strips.flatMap((s) => (s.kind === 'output' && s.pair !== null ? [s.pair, s.pair + 1] : [])),
      );
      let free = 1;
      while (taken.has(free) || taken.has(free + 1)) free += 2;
      yield {
        key,
        severity: 'risk',
        sure: 'certain',
        what: `${listed(same.map(named))} leave by the same channel, ${channel}.`,
        why: 'They add up there: the converter gives both at once, and its meter belongs to neither.',
        where: same.map((s) => s.id),
        repair: {
          label: `Move ${named(last)} to ${free}–${free + 1}`,
          commands: [{ type: 'strip.set', id: last.id, patch: { pair: free } }],
        },
      };
    }
  },
};

export const downSends: Rule = {
  id: 'down-sends',
  title: 'Sends behind a fader that is down',
  *find({ session, strips }) {
    for (const s of session.strips) {
      if (s.faderDb !== null || isMuted(session, s) || s.lanes.fader) continue;
      const sends = s.sends.filter((x) => x.on && x.levelDb !== null && x.tap === 'post');
      if (sends.length === 0) continue;
      yield {
        key: s.id,
        severity: 'risk',
        sure: 'likely',
        what: `${named(s)} stands at silence, and so its post-fader ${sends.length === 1 ? 'send' : 'sends'} to ${listed(sends.map((x) => named(strips.get(x.to)!)))} ${sends.length === 1 ? 'gives' : 'give'} nothing.`,
        why: 'The sends look alive on the Sheet; what was meant to be heard by them alone is not.',
        where: [s.id, ...sends.map((x) => x.to)],
        repair: {
          label: sends.length === 1 ? 'Make the send pre-fader' : 'Make the sends pre-fader',
          commands: sends.map((x): Command => ({
            type: 'send.set',
            strip: s.id,
            id: x.id,
            patch: { tap: 'pre' },
          })),
        },
      };
    }
  },
};
