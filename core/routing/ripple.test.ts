import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { newInsert, newSend, newSession, newStrip, newVca } from '../session/defaults';
import type { Session, Strip, Vca } from '../session/types';
import { sessions } from '../testing/arbitraries';
import { changeText, commandsOf, ripple, rippleOf } from './ripple';
import { trace } from './trace';
import { betterMembers, drivenBy, levelAlone, membersAtTheEnd, vcaEffect } from './vcaEffect';
import { heldBy } from '../groups/vca';

const base = newSession('Ripple');
const strip = (id: string, kind: Strip['kind'], to: string, more: Partial<Strip> = {}) =>
  newStrip({ id, kind, name: id, out: { to, on: true }, ...more });
const compressor = (id: string, key: string | null = null) =>
  newInsert({ id, type: 'compressor', params: { threshold: -20, ratio: 4 }, key });
const toPlate = (id: string, tap: 'pre' | 'post' = 'post') =>
  newSend({ id: `${id}-x`, to: 'plate', tap, levelDb: -10 });

/** Two drums into a compressed submix, each sent to a reverb that nothing else feeds; a voice beside them. */
const drums = (vcas: readonly Vca[] = []): Session => ({
  ...base,
  vcas,
  strips: [
    strip('kick', 'source', 'drums', { sends: [toPlate('kick')] }),
    strip('snare', 'source', 'drums', { sends: [toPlate('snare')] }),
    strip('voice', 'source', 'main'),
    strip('drums', 'submix', 'main', { inserts: [compressor('glue')] }),
    strip('plate', 'return', 'main', { inserts: [newInsert({ id: 'r', type: 'reverb' })] }),
    ...base.strips,
  ],
});
const vca = (members: readonly string[], more: Partial<Vca> = {}) =>
  newVca({ id: 'v', name: 'Drums', members, ...more });

describe('ripple', () => {
  it('of a source’s fader: the bus compressor’s drive, and what arrives', () => {
    const r = rippleOf(drums(), { kind: 'fader', strip: 'kick', by: -3 });
    expect(r.driven).toEqual([
      { strip: 'drums', insert: 'glue', keyed: false, change: { low: -3, high: 0, within: false } },
    ]);
    // Its post-fader send goes along, and the compressor turns it down less: the balance moves within a range.
    expect(r.outputs[0]!.unchanged).toBe(1);
    expect(r.outputs[0]!.sources.map((s) => s.strip)).toEqual(['kick', 'snare']);
  });

  // Common practice, no published source: a VCA over sources changes a bus compressor's drive by the same decibels.
  it('of a VCA over sources: the bus compressor is driven by as many decibels less', () => {
    for (const by of [-6, -2.5, 4]) {
      const r = rippleOf(drums([vca(['kick', 'snare'])]), { kind: 'vca', vca: 'v', by });
      expect(r.driven.map((d) => d.change)).toEqual([{ low: by, high: by, within: false }]);
    }
  });
  // Common practice, no published source: a VCA over bus and returns changes the drive by none.
  it('of a VCA over the submix and its return: nothing but level', () => {
    const r = rippleOf(drums([vca(['drums', 'plate'])]), { kind: 'vca', vca: 'v', by: -6 });
    expect(r.driven).toEqual([]);
    expect(r.balances).toEqual([]);
    expect(r.outputs[0]).toEqual({
      output: 'main',
      sources: ['kick', 'snare'].map((s) => ({ strip: s, change: { low: -6, high: -6, within: false } })),
      unchanged: 1,
    });
  });
  // Common practice, no published source: lowering a submix leaves post-fader sends at the same level; a VCA takes them along.
  it('of a submix: the sends of its feeders stay where they are, so that the wet signal gains on the dry one', () => {
    const r = rippleOf(drums(), { kind: 'fader', strip: 'drums', by: -6 });
    expect(r.driven).toEqual([]);
    expect(r.balances).toEqual(
      ['kick', 'snare'].map((s) => ({
        strip: s,
        through: 'plate',
        output: 'main',
        change: { low: 6, high: 6, within: false },
      })),
    );
  });
  it('of a pre-fader send’s strip: wet stays, dry moves', () => {
    const s = drums();
    const pre = {
      ...s,
      strips: s.strips.map((t) =>
        t.id === 'voice' ? { ...t, sends: [newSend({ id: 'p', to: 'plate', tap: 'pre', levelDb: -8 })] } : t,
      ),
    };
    const r = rippleOf(pre, { kind: 'fader', strip: 'voice', by: -4 });
    expect(r.balances).toEqual([
      { strip: 'voice', through: 'plate', output: 'main', change: { low: 4, high: 4, within: false } },
    ]);
    expect(rippleOf(pre, { kind: 'send', strip: 'voice', send: 'p', by: 2 }).balances[0]!.change.low).toBe(2);
  });
  it('of a mute: silence, sends and all; and of taking it away: sound', () => {
    const r = rippleOf(drums(), { kind: 'mute', strip: 'voice' });
    expect(r.outputs[0]!.sources).toEqual([
      { strip: 'voice', change: { low: -Infinity, high: -Infinity, within: false } },
    ]);
    const s = drums();
    const muted = { ...s, strips: s.strips.map((t) => (t.id === 'voice' ? { ...t, mute: true } : t)) };
    expect(rippleOf(muted, { kind: 'mute', strip: 'voice' }).outputs[0]!.sources[0]!.change.low).toBe(
      Infinity,
    );
  });
  it('of a key’s fader: the keyed compressor, and the signal that it turns down within a range', () => {
    const s = drums();
    const keyed: Session = {
      ...s,
      strips: s.strips.map((t) =>
        t.id === 'voice'
          ? { ...t, out: { to: 'main', on: false } }
          : t.id === 'plate'
            ? { ...t, inserts: [...t.inserts, compressor('duck', 'voice')] }
            : t,
      ),
    };
    const r = rippleOf(keyed, { kind: 'fader', strip: 'voice', by: 3 });
    expect(r.driven).toEqual([
      { strip: 'plate', insert: 'duck', keyed: true, change: { low: 3, high: 3, within: false } },
    ]);
    expect(
      r.outputs[0]!.sources.every((x) => x.change.within && x.change.low === -3 && x.change.high === 0),
    ).toBe(true);
  });
  it('after a compressor lies between what goes in and nothing, and never beyond what it does at full scale', () => {
    const r = rippleOf(drums(), { kind: 'trim', strip: 'kick', by: 40 });
    const kick = r.outputs[0]!.sources.find((s) => s.strip === 'kick')!;
    // 4:1 above -20 dB turns full scale down by 15 dB.
    expect(kick.change).toMatchObject({ within: true, high: 40 });
    expect(kick.change.low).toBeCloseTo(25, 6);
  });

  it('says of every source exactly what the trace says before and after, where nothing depends on level', () => {
    fc.assert(
      fc.property(
        sessions(10),
        fc.record({ pick: fc.nat(), faderDb: fc.integer({ min: -30, max: 10 }), mute: fc.boolean() }),
        (s, move) => {
          const target = s.strips[move.pick % s.strips.length]!;
          const after: Session = {
            ...s,
            strips: s.strips.map((t) =>
              t.id === target.id ? { ...t, faderDb: move.faderDb, mute: move.mute } : t,
            ),
          };
          const r = ripple(s, after);
          expect(r.driven).toEqual([]);
          for (const source of s.strips.filter((t) => t.kind === 'source')) {
            const paths = (x: Session) =>
              trace(x, source.id, 'main', { most: 4000 }).paths.map((p) => ({
                key: p.edges.join(' '),
                closed: p.stages.some((g) => g.stops),
                db:
                  p.leftDb === null && p.rightDb === null
                    ? null
                    : Math.max(p.leftDb ?? -999, p.rightDb ?? -999),
              }));
            let faint = false;
            const old = new Map(paths(s).map((p) => [p.key, p]));
            const changes = paths(after).flatMap((p) => {
              const then = old.get(p.key);
              const was = then?.db ?? null;
              // The trace takes what is below 1e-12 for silence.
              if (was === null && p.db === null) {
                faint ||= !p.closed || then?.closed === false;
                return [];
              }
              if ((was ?? 0) < -150 || (p.db ?? 0) < -150) {
                faint = true;
                return [];
              }
              return [was === null ? Infinity : p.db === null ? -Infinity : p.db - was];
            });
            const said = r.outputs[0]!.sources.find((x) => x.strip === source.id)?.change;
            const [low, high] = [Math.min(...changes, Infinity), Math.max(...changes, -Infinity)];
            if (changes.length === 0 || (faint && !said)) continue;
            else if (!faint && Math.abs(low) < 1e-6 && Math.abs(high) < 1e-6) expect(said).toBeUndefined();
            else {
              // Pan can close a way that levels leave open; a range may be wider for that, never narrower.
              expect(said!.low).toBeLessThanOrEqual(low + 1e-6);
              expect(said!.high).toBeGreaterThanOrEqual(high - 1e-6);
            }
          }
        },
      ),
      { numRuns: 120 },
    );
  });

  it('is empty where nothing changes', () => {
    fc.assert(
      fc.property(sessions(10), (s) => {
        const r = ripple(s, s);
        expect(r.driven).toEqual([]);
        expect(r.balances).toEqual([]);
        expect(r.outputs.every((o) => o.sources.length === 0)).toBe(true);
      }),
    );
  });

  it('refuses what is not there', () => {
    expect(() => commandsOf(drums(), { kind: 'send', strip: 'kick', send: 'no', by: 1 })).toThrow('no send');
    expect(() => commandsOf(drums(), { kind: 'vca', vca: 'no', by: 1 })).toThrow('no VCA');
  });
  it('writes changes in words', () => {
    const c = (low: number, high: number) => changeText({ low, high, within: false });
    expect(c(-3, -3)).toBe('−3.0 dB');
    expect(c(-3, 0)).toBe('between −3.0 and 0.0 dB');
    expect(c(2, 2)).toBe('+2.0 dB');
    expect(c(-Infinity, -Infinity)).toBe('falls silent');
    expect(c(Infinity, Infinity)).toBe('begins to sound');
    expect(c(-Infinity, 0)).toBe('between silence and 0.0 dB');
  });
});

describe('a VCA', () => {
  it('over sources is told to change more than level, and offers the membership that would not', () => {
    const e = vcaEffect(drums([vca(['kick', 'snare'])]), 'v');
    expect(e.levelAlone).toBe(false);
    expect(e.sentence).toBe(
      'Drums changes more than level: it drives the compressor on drums differently and shifts dry against plate.',
    );
    expect(e.better!.members).toEqual(['drums', 'plate']);
    expect(e.better!.label).toBe('Let Drums hold drums and plate instead');
  });
  it('over bus and return changes level alone', () => {
    const e = vcaEffect(drums([vca(['drums', 'plate'])]), 'v');
    expect(e).toMatchObject({ levelAlone: true, better: null });
    expect(e.sentence).toMatch(/changes level alone/);
  });
  it('over the submix without its return shifts dry against wet', () => {
    const e = vcaEffect(drums([vca(['drums'])]), 'v');
    expect(e.sentence).toBe('Drums changes more than level: it shifts dry against plate.');
  });
  it('over a bus and its feeders counts twice, and says so', () => {
    const e = vcaEffect(drums([vca(['kick', 'snare', 'drums'])]), 'v');
    expect(e.sentence).toMatch(/holds them twice/);
    expect(e.better!.members).toEqual(['drums', 'plate']);
  });
  it('cannot be bettered where its return serves others too', () => {
    const s = drums([vca(['kick', 'snare'])]);
    const shared = {
      ...s,
      strips: s.strips.map((t) => (t.id === 'voice' ? { ...t, sends: [toPlate('voice')] } : t)),
    };
    expect(membersAtTheEnd(shared, ['kick', 'snare'])).toEqual(['kick', 'snare', 'drums']);
    expect(vcaEffect(shared, 'v').better).toBeNull();
  });
  it('that holds through another VCA is judged by all that it holds', () => {
    const e = vcaEffect(
      drums([vca(['all']), newVca({ id: 'all', name: 'All', members: ['kick', 'snare'] })]),
      'v',
    );
    expect(e.levelAlone).toBe(false);
  });
  it('at silence or muted is judged by what it does when it is up', () => {
    expect(vcaEffect(drums([vca(['drums', 'plate'], { faderDb: null })]), 'v').levelAlone).toBe(true);
    expect(vcaEffect(drums([vca(['drums', 'plate'], { mute: true })]), 'v').levelAlone).toBe(true);
  });
  it('without members holds nothing', () => {
    expect(vcaEffect(drums([vca([])]), 'v').sentence).toBe('Drums holds nothing.');
  });
  it('is judged by the ways of the graph as by the ripple of its move, on random sessions with compressors', () => {
    fc.assert(
      fc.property(sessions(10), fc.array(fc.nat(), { maxLength: 4 }), (random, picks) => {
        const s: Session = {
          ...random,
          strips: random.strips.map((t, i) => ({
            ...t,
            inserts: t.kind === 'submix' || i % 4 === 0 ? [compressor(`c${i}`)] : [],
          })),
          vcas: [vca([...new Set(picks.map((p) => random.strips[p % random.strips.length]!.id))])],
        };
        const held = new Set(heldBy(s, 'v').map((t) => t.id));
        const at = (faderDb: number): Session => ({ ...s, vcas: [{ ...s.vcas[0]!, faderDb }] });
        const r = ripple(at(0), at(-6));
        expect(
          drivenBy(s, 'v', held)
            .map((d) => `${d.strip} ${d.insert}`)
            .sort(),
        ).toEqual(r.driven.map((d) => `${d.strip} ${d.insert}`).sort());
        const changes = r.outputs.flatMap((o) => o.sources.map((x) => x.change));
        const better = betterMembers(s, 'v');
        if (better) expect(levelAlone(s, 'v', new Set(better.members))).toBe(true);
        expect(levelAlone(s, 'v', held)).toBe(
          r.driven.length === 0 &&
            changes.every((c) => Math.abs(c.low + 6) < 1e-6 && Math.abs(c.high + 6) < 1e-6),
        );
      }),
      { numRuns: 300 },
    );
  });
});
