import fc from 'fast-check';
import type { Command } from '../edits/commands';
import { newInsert, newLink, newSend, newSession, newStrip, newVca } from '../session/defaults';
import { AUTOMATION_MODES } from '../session/fields/tables';
import type { Insert, Lane, Lanes, Send, Session, Strip, StripKind } from '../session/types';

/** Hundredths between two numbers; never the zero that has a sign, which JSON does not know. */
export const hundredths = (min: number, max: number) =>
  fc.integer({ min: min * 100, max: max * 100 }).map((n) => (n === 0 ? 0 : n / 100));

export const level = fc.oneof(
  { weight: 8, arbitrary: hundredths(-60, 12) },
  { weight: 1, arbitrary: fc.constant(null) },
);
export const pan = hundredths(-1, 1);

const KINDS: readonly StripKind[] = ['source', 'source', 'source', 'submix', 'return', 'output'];

/**
 * Sessions of 2 to `most` strips that keep every rule: signals run from earlier strips to later ones, so nothing feeds
 * itself, and outputs come last.
 */
export const sessions = (most = 14): fc.Arbitrary<Session> =>
  fc
    .array(
      fc.record({
        kind: fc.constantFrom(...KINDS.slice(0, 5)),
        channels: fc.constantFrom<1 | 2>(1, 2),
        trimDb: level,
        faderDb: level,
        pan,
        width: hundredths(0, 2),
        flags: fc.array(fc.boolean(), { minLength: 6, maxLength: 6 }),
        out: fc.record({ pick: fc.nat(), on: fc.boolean() }),
        sends: fc.array(
          fc.record({
            pick: fc.nat(),
            tap: fc.constantFrom('input', 'pre', 'post'),
            levelDb: level,
            pan,
            on: fc.boolean(),
          }),
          { maxLength: 3 },
        ),
        inserts: fc.array(
          fc.record({
            place: fc.constantFrom('pre', 'post'),
            on: fc.boolean(),
            mix: hundredths(0, 1),
            decay: fc.integer({ min: 1, max: 200 }).map((n) => n / 10),
            damping: fc.integer({ min: 0, max: 100 }),
          }),
          { maxLength: 1 },
        ),
      }),
      { minLength: 1, maxLength: most - 1 },
    )
    .chain((drafts) =>
      fc.record({
        drafts: fc.constant(drafts),
        law: fc.constantFrom<0 | -3 | -4.5 | -6>(0, -3, -4.5, -6),
        vcas: fc.array(
          fc.record({
            faderDb: level,
            mute: fc.boolean(),
            solo: fc.boolean(),
            members: fc.array(fc.nat(), { maxLength: 5 }),
          }),
          { maxLength: 3 },
        ),
      }),
    )
    .map(({ drafts, law, vcas }) => {
      const ordered = [...drafts].sort((a, b) => Number(a.kind !== 'source') - Number(b.kind !== 'source'));
      const ids = [...ordered.map((_, i) => `s${i}`), 'main'];
      const kinds: StripKind[] = [...ordered.map((d) => d.kind), 'output'];
      const later = (i: number, pick: number) => {
        const goals = ids.filter((_, k) => k > i && kinds[k] !== 'source');
        return goals[pick % goals.length]!;
      };
      const strips: Strip[] = ordered.map((d, i) => {
        const [invert, swap, mute, solo, soloSafe, hidden] = d.flags.map((f, k) =>
          k === 3 || k === 2 ? f && i % 3 === 0 : f,
        );
        return newStrip({
          id: ids[i]!,
          kind: d.kind,
          name: `Strip ${i}`,
          channels: d.channels,
          trimDb: d.trimDb,
          faderDb: d.faderDb,
          pan: d.pan,
          width: d.width,
          invert: invert!,
          swap: swap!,
          mute: mute!,
          solo: solo!,
          soloSafe: soloSafe!,
          hidden: hidden!,
          sends: d.sends.map((x, k): Send =>
            newSend({
              id: `x${i}-${k}`,
              to: later(i, x.pick),
              tap: x.tap,
              levelDb: x.levelDb,
              pan: x.pan,
              on: x.on,
            }),
          ),
          inserts: d.inserts.map((x, k): Insert =>
            newInsert({
              id: `i${i}-${k}`,
              type: 'reverb',
              place: x.place,
              on: x.on,
              mix: x.mix,
              params: { decay: x.decay, damping: x.damping },
            }),
          ),
          out: { to: later(i, d.out.pick), on: d.out.on },
        });
      });
      strips.push(newStrip({ id: 'main', kind: 'output', name: 'Main', out: { to: null, on: true } }));
      return {
        ...newSession('Random'),
        panLaw: law,
        strips,
        links: [newLink({ id: 'l0', name: 'Ends', members: [ids[0]!, 'main'] })],
        vcas: vcas.map((v, i) =>
          newVca({
            id: `v${i}`,
            name: `VCA ${i}`,
            faderDb: v.faderDb,
            mute: v.mute && i === 1,
            solo: v.solo && i === 2,
            // A VCA holds strips and the VCAs before it: never itself.
            members: [
              ...new Set(v.members.map((m) => (i > 0 && m % 5 === 0 ? `v${m % i}` : ids[m % ids.length]!))),
            ],
          }),
        ),
      };
    });

const laneOf = (value: fc.Arbitrary<number | null>): fc.Arbitrary<Lane> =>
  fc.array(fc.tuple(fc.integer({ min: 0, max: 250 }), value), { minLength: 1, maxLength: 6 }).map((points) =>
    points
      .map(([t, v]) => [t / 1000, v] as const)
      .sort((a, b) => a[0] - b[0])
      .filter((p, i, all) => i < 2 || all[i - 2]![0] !== p[0]),
  );
const flag = fc.constantFrom(0, 1);
const some = (lanes: Record<string, fc.Arbitrary<Lane>>): fc.Arbitrary<Lanes> =>
  fc.record(lanes, { requiredKeys: [] }) as fc.Arbitrary<Lanes>;

/** The same sessions with lanes of a quarter of a second on what can be automated. */
export const automatedSessions = (most = 8): fc.Arbitrary<Session> =>
  sessions(most).chain((session) =>
    fc
      .record({
        strips: fc.tuple(
          ...session.strips.map((s) =>
            fc.record({
              automation: fc.constantFrom(...AUTOMATION_MODES),
              lanes: some({ fader: laneOf(level), pan: laneOf(pan), mute: laneOf(flag) }),
              sends: fc.tuple(
                ...s.sends.map((x) =>
                  some({ level: laneOf(level), pan: laneOf(pan), on: laneOf(flag) }).map((lanes) => ({
                    ...x,
                    lanes,
                  })),
                ),
              ),
              inserts: fc.tuple(
                ...s.inserts.map((i) =>
                  some({
                    on: laneOf(flag),
                    mix: laneOf(hundredths(0, 1)),
                    decay: laneOf(hundredths(1, 4)),
                  }).map((lanes) => ({ ...i, lanes })),
                ),
              ),
            }),
          ),
        ),
        vcas: fc.tuple(
          ...session.vcas.map((v) =>
            some({ fader: laneOf(level), mute: laneOf(flag) }).map((lanes) => ({ ...v, lanes })),
          ),
        ),
      })
      .map(({ strips, vcas }) => ({
        ...session,
        strips: session.strips.map((s, i) => ({ ...s, ...strips[i]! })),
        vcas,
      })),
  );

/** An edit that keeps the rules of this session. */
export const commandsFor = (session: Session): fc.Arbitrary<Command> => {
  const ids = session.strips.map((s) => s.id);
  const strip = fc.constantFrom(...session.strips);
  const choices: fc.Arbitrary<Command>[] = [
    fc
      .record({ name: fc.string({ minLength: 1, maxLength: 20 }) })
      .map((patch) => ({ type: 'session.set', patch })),
    fc
      .tuple(strip, level, pan, fc.boolean())
      .map(([s, faderDb, p, mute]) => ({ type: 'strip.set', id: s.id, patch: { faderDb, pan: p, mute } })),
    fc.tuple(strip, fc.constantFrom(...AUTOMATION_MODES), laneOf(level)).map(([s, automation, fader]) => ({
      type: 'strip.set',
      id: s.id,
      patch: { automation, lanes: { fader } },
    })),
    fc.tuple(strip, fc.boolean()).map(([s, on]) => ({ type: 'strip.out', id: s.id, out: { ...s.out, on } })),
    fc
      .shuffledSubarray(ids, { minLength: ids.length, maxLength: ids.length })
      .map((order) => ({ type: 'strips.order', order })),
    fc.nat(30).map((at) => ({
      type: 'strip.add',
      at,
      strip: newStrip({ id: 'fresh', kind: 'source', name: 'Fresh', out: { to: 'main', on: true } }),
    })),
    fc
      .tuple(strip, level)
      .filter(([s]) => s.kind !== 'output')
      .map(([s, levelDb]) => ({
        type: 'send.add',
        strip: s.id,
        at: 0,
        send: newSend({ id: 'fresh-send', to: 'main', levelDb }),
      })),
    strip.map((s) => ({
      type: 'insert.add',
      strip: s.id,
      at: s.inserts.length,
      insert: newInsert({ id: 'fresh-insert', type: 'reverb' }),
    })),
    fc.shuffledSubarray(ids).map((members) => ({
      type: 'vca.add',
      at: 0,
      vca: newVca({ id: 'fresh-vca', name: 'Fresh', members }),
    })),
    fc.constant<Command>({ type: 'sections.set', sections: [{ id: 'sec', name: 'A', start: 0, end: 4 }] }),
  ];
  for (const s of session.strips) {
    if (s.sends[0]) {
      const id = s.sends[0].id;
      choices.push(fc.constant({ type: 'send.remove', strip: s.id, id }));
      choices.push(
        level.map((levelDb) => ({ type: 'send.set', strip: s.id, id, patch: { levelDb, tap: 'pre' } })),
      );
    }
    if (s.inserts[0]) {
      const id = s.inserts[0].id;
      choices.push(fc.constant({ type: 'insert.remove', strip: s.id, id }));
      choices.push(
        fc
          .boolean()
          .map((on) => ({ type: 'insert.set', strip: s.id, id, patch: { on, params: { decay: 3 } } })),
      );
    }
  }
  if (ids.length > 1)
    choices.push(
      fc.tuple(fc.shuffledSubarray(ids, { minLength: 2 }), fc.boolean()).map(([members, keeps]) => ({
        type: 'link.add',
        at: 0,
        link: newLink({ id: 'fresh-link', name: 'Fresh', members, keeps }),
      })),
    );
  for (const l of session.links) {
    choices.push(fc.constant({ type: 'link.remove', id: l.id }));
    choices.push(fc.boolean().map((on) => ({ type: 'link.set', id: l.id, patch: { on } })));
  }
  for (const v of session.vcas) {
    choices.push(level.map((faderDb) => ({ type: 'vca.set', id: v.id, patch: { faderDb } })));
    choices.push(fc.shuffledSubarray(ids).map((members) => ({ type: 'vca.members', id: v.id, members })));
    if (!session.vcas.some((o) => o.members.includes(v.id)))
      choices.push(fc.constant({ type: 'vca.remove', id: v.id }));
  }
  return fc.oneof(...choices);
};
