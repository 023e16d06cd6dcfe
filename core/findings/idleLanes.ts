import { follows } from '../session/mode';
import type { Lanes, Strip, Vca } from '../session/types';
import { listed, named, type Rule } from './finding';

const some = (lanes: Lanes) => Object.values(lanes).some((lane) => lane.length > 0);
const anyOf = (s: Strip | Vca) =>
  some(s.lanes) ||
  ('inserts' in s && (s.inserts.some((i) => some(i.lanes)) || s.sends.some((x) => some(x.lanes))));

/** Lanes that are written and move nothing. */
export const idleLanes: Rule = {
  id: 'idle-lanes',
  title: 'Lanes that do nothing',
  *find({ session }) {
    for (const s of [...session.strips, ...session.vcas]) {
      if (!anyOf(s)) continue;
      const isStrip = 'inserts' in s;
      if (!follows(s.automation)) {
        yield {
          key: `${s.id} off`,
          severity: 'risk',
          sure: 'certain',
          what: `${named(s)} has lanes, and its automation is off.`,
          why: 'What was written is not heard, and not printed.',
          where: [s.id],
          repair: {
            label: 'Let it read its lanes',
            commands: [
              isStrip
                ? { type: 'strip.set', id: s.id, patch: { automation: 'read' } }
                : { type: 'vca.set', id: s.id, patch: { automation: 'read' } },
            ],
          },
        };
        continue;
      }
      if (s.mute && !s.lanes.mute?.length)
        yield {
          key: `${s.id} muted`,
          severity: 'risk',
          sure: 'certain',
          what: `${named(s)} has lanes, and is muted.`,
          why: 'They move what cannot be heard.',
          where: [s.id],
          repair: {
            label: `Unmute ${named(s)}`,
            commands: [
              isStrip
                ? { type: 'strip.set', id: s.id, patch: { mute: false } }
                : { type: 'vca.set', id: s.id, patch: { mute: false } },
            ],
          },
        };
      if (!isStrip) continue;
      const inserts = s.inserts.filter((i) => !i.on && !i.lanes.on?.length && some(i.lanes));
      const sends = s.sends.filter((x) => !x.on && !x.lanes.on?.length && some(x.lanes));
      if (inserts.length + sends.length === 0) continue;
      const what = [
        ...(inserts.length ? [inserts.length === 1 ? 'an insert' : `${inserts.length} inserts`] : []),
        ...(sends.length ? [sends.length === 1 ? 'a send' : `${sends.length} sends`] : []),
      ];
      yield {
        key: `${s.id} parts`,
        severity: 'note',
        sure: 'certain',
        what: `${named(s)} has lanes on ${listed(what)} that ${inserts.length + sends.length === 1 ? 'is' : 'are'} off.`,
        why: 'They move what is not heard.',
        where: [s.id],
        repair: {
          label: 'Switch on what they move',
          commands: [
            ...inserts.map(
              (i) => ({ type: 'insert.set', strip: s.id, id: i.id, patch: { on: true } }) as const,
            ),
            ...sends.map((x) => ({ type: 'send.set', strip: s.id, id: x.id, patch: { on: true } }) as const),
          ],
        },
      };
    }
  },
};
