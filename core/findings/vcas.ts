import type { Id } from '../base/units';
import { heldBy } from '../groups/vca';
import type { Strip } from '../session/types';
import { reach } from '../session/graph';
import { betterMembers, drivenBy } from '../routing/vcaEffect';
import { listed, named, type Rule } from './finding';

const typeOf = (strip: Strip, insert: Id) => strip.inserts.find((i) => i.id === insert)?.type;
const signal = (e: { readonly kind: string; readonly on: boolean }) => e.kind !== 'key' && e.on;

export const countedTwice: Rule = {
  id: 'vca-counted-twice',
  title: 'A VCA over a submix and its feeders',
  *find({ session, strips }) {
    for (const v of session.vcas) {
      const held = heldBy(session, v.id);
      const buses = held.filter((s) => s.kind !== 'source');
      if (buses.length === 0 || held.length < 2) continue;
      const feeders = new Set<string>();
      const under = new Set<string>();
      for (const bus of buses) {
        // What reaches the bus by its fader: outs and post-fader sends.
        const up = reach(
          session,
          [bus.id],
          'upstream',
          (e) => signal(e) && !(e.kind === 'send' && e.tap !== 'post'),
        );
        for (const s of held)
          if (s.id !== bus.id && up.has(s.id)) {
            feeders.add(s.id);
            under.add(bus.id);
          }
      }
      if (feeders.size === 0) continue;
      // A VCA that holds nothing but feeders goes too; where a feeder would still be held, no single step mends it.
      const isVca = new Set(session.vcas.map((x) => x.id));
      const direct = v.members.filter(
        (m) => feeders.has(m) || (isVca.has(m) && heldBy(session, m).every((s) => feeders.has(s.id))),
      );
      const members = v.members.filter((m) => !direct.includes(m));
      const left = {
        ...session,
        vcas: session.vcas.map((x) => (x.id === v.id ? { ...x, members } : x)),
      };
      const mends = direct.length > 0 && !heldBy(left, v.id).some((s) => feeders.has(s.id));
      yield {
        key: v.id,
        severity: 'fault',
        sure: 'certain',
        what: `${named(v)} holds ${listed([...under].map((id) => named(strips.get(id)!)))} and also ${listed([...feeders].map((id) => named(strips.get(id)!)))}, which feeds it.`,
        why: 'Its decibels are counted twice on that way: 3 dB at the VCA are 6 dB at the output.',
        where: [v.id, ...feeders, ...under],
        repair: mends
          ? {
              label: `Let go of ${listed(direct.map((id) => named(strips.get(id) ?? session.vcas.find((x) => x.id === id)!)))}, and hold the bus`,
              commands: [{ type: 'vca.members', id: v.id, members }],
            }
          : null,
      };
    }
  },
};

export const drivesProcessors: Rule = {
  id: 'vca-drives-processors',
  title: 'A VCA that changes more than level',
  *find({ session, strips }) {
    for (const v of session.vcas) {
      if (v.members.length === 0) continue;
      const held = heldBy(session, v.id).map((s) => s.id);
      // A limiter on the sum is there to be driven: it is no risk by itself.
      const driven = drivenBy(session, v.id, new Set(held)).filter(
        (d) => strips.get(d.strip)!.kind !== 'output' || typeOf(strips.get(d.strip)!, d.insert) !== 'limiter',
      );
      if (driven.length === 0) continue;
      const first = driven.map((d) => d.strip);
      yield {
        key: v.id,
        severity: 'risk',
        sure: 'certain',
        what: `Moving ${named(v)} drives ${listed([...new Set(first)].map((id) => `what is on ${named(strips.get(id)!)}`))} differently.`,
        why: 'A few decibels at the end of a mix change the sound of the compression, not the level alone.',
        where: [v.id, ...first],
        repair: betterMembers(session, v.id),
      };
    }
  },
};
