import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { effectiveLevel } from '../groups/vca';
import { trace } from '../routing/trace';
import { sessions } from '../testing/arbitraries';
import { demoSession } from '../../demo/session';
import { apply } from '../edits/apply';
import { newInsert, newSend, newSession, newStrip, newVca } from '../session/defaults';
import { checkSession } from '../edits/invariants';
import type { Session, Strip } from '../session/types';
import type { Command } from '../edits/commands';
import { dissolve } from './dissolve';
import { gather } from './gather';
import { setIcons, suggestIcons } from './icons';
import { newReturn } from './returns';
import { addSources } from './strips';
import { holdByVca } from './vcas';
import { freePair, monitor, newOutput, setOuts } from './outputs';
import {
  bulkSends,
  destinations,
  faderFromSend,
  fedDestinations,
  readSend,
  senders,
  sendersNow,
  setTap,
} from './sends';
import { renameStrips, stripsBy, tidy, tidyParts } from './tidy';

const base = newSession('House');
const strip = (id: string, kind: Strip['kind'], to: string, more: Partial<Strip> = {}) =>
  newStrip({ id, kind, name: id, out: { to, on: true }, ...more });
const session = (strips: readonly Strip[], more: Partial<Session> = {}): Session => ({
  ...base,
  strips: [...strips, ...base.strips],
  ...more,
});
const of = (s: Session, id: string) => s.strips.find((t) => t.id === id)!;

describe('dissolving a submix', () => {
  const bus = (change: Partial<Strip> = {}, more: Partial<Session> = {}) =>
    session(
      [
        strip('a', 'source', 'bus', {
          faderDb: -6,
          pan: 0.3,
          sends: [
            newSend({ id: 'x', to: 'plate', levelDb: -10 }),
            newSend({ id: 'y', to: 'plate', tap: 'pre', levelDb: -4 }),
          ],
        }),
        strip('b', 'source', 'main', { sends: [newSend({ id: 'z', to: 'bus', levelDb: -3 })] }),
        strip('bus', 'submix', 'main', { faderDb: -2, trimDb: 1, ...change }),
        strip('plate', 'return', 'main', { inserts: [newInsert({ id: 'r', type: 'reverb' })] }),
      ],
      more,
    );
  /** What arrives at the output from every source by every path, by power and as one signal. */
  const arrivals = (s: Session) =>
    s.strips
      .filter((t) => t.kind === 'source')
      .flatMap((t) => {
        const f = trace(s, t.id, 'main', { most: 5000 });
        const wet = f.paths
          .filter((p) => p.spread)
          .map((p) => `${p.leftDb?.toFixed(6)}`)
          .sort()
          .join();
        return [f.leftDb ?? -300, f.rightDb ?? -300, wet];
      });
  const same = (before: Session, after: Session) => {
    const [a, b] = [arrivals(before), arrivals(after)];
    a.forEach((v, i) => (typeof v === 'number' ? expect(b[i]).toBeCloseTo(v, 6) : expect(b[i]).toBe(v)));
  };

  it('folds its gain into what feeds it, and leaves other sends at their level', () => {
    const s = bus();
    const after = apply(s, dissolve(s, 'bus')).session;
    checkSession(after);
    expect(of(after, 'a').faderDb).toBeCloseTo(-7, 9);
    expect(of(after, 'a').sends.map((x) => x.levelDb)).toEqual([-9, -4]);
    expect(of(after, 'b').sends).toMatchObject([{ to: 'main', levelDb: -4 }]);
    same(s, after);
  });
  it('lets the VCAs that held it hold its feeders, at the same levels', () => {
    const s = bus(
      {},
      {
        vcas: [
          newVca({ id: 'v', name: 'V', faderDb: -5, members: ['bus'] }),
          newVca({ id: 'w', name: 'W', faderDb: -3, members: ['a', 'bus'] }),
        ],
      },
    );
    const after = apply(s, dissolve(s, 'bus')).session;
    expect(after.vcas.map((v) => v.members)).toEqual([['a'], ['a']]);
    same(s, after);
    expect(effectiveLevel(after, of(after, 'a'))).toBeCloseTo(-6 - 3 + 1 - 2 - 5 - 3, 9);
  });
  it.each<[string, Session, RegExp]>([
    [
      'an insert',
      bus({ inserts: [newInsert({ id: 'c', type: 'compressor' })] }),
      /Compressor works on the blend/,
    ],
    ['its balance', bus({ pan: 0.2 }), /balance, width or swap/],
    ['a mute', bus({ mute: true }), /is muted/],
    ['silence', bus({ faderDb: null }), /at silence/],
    [
      'a send of the blend',
      bus({ sends: [newSend({ id: 'q', to: 'plate' })] }),
      /sent to returns as a blend/,
    ],
    ['being mono', bus({ channels: 1 }), /to mono/],
    ['leading nowhere', bus({ out: { to: null, on: true } }), /leads nowhere/],
    ['a fader’s top', bus({ faderDb: 12, trimDb: 20 }), /above its top/],
    ['its polarity with sends', bus({ invert: true }), /polarity is inverted/],
    ['its automated level', bus({ lanes: { fader: [[0, -3]] } }), /level, pan or mute is automated/],
  ])('is refused for %s, with the reason', (_what, s, text) =>
    expect(() => dissolve(s, 'bus')).toThrow(text),
  );
  it('is refused for what is no submix, and allowed with an insert that is bypassed', () => {
    expect(() => dissolve(bus(), 'plate')).toThrow(/only a submix/);
    dissolve(bus({ inserts: [newInsert({ id: 'c', type: 'compressor', on: false })] }), 'bus');
  });
  it('of the demo’s choir changes nothing that arrives', () => {
    const s = demoSession();
    same(s, apply(s, dissolve(s, 'choir')).session);
  });
  it('after a gather brings back what was, on random sessions', () => {
    fc.assert(
      fc.property(
        sessions(8),
        fc.integer({ min: 1, max: 4 }),
        fc.integer({ min: -12, max: 0 }),
        (random, n, faderDb) => {
          const s = {
            ...random,
            vcas: [],
            strips: random.strips.map((t) => ({
              ...t,
              solo: false,
              channels: 2 as const,
              inserts: [],
              sends: t.sends.map((x) => ({
                ...x,
                levelDb: x.levelDb === null ? null : Math.min(0, x.levelDb),
              })),
            })),
          };
          const to = s.strips[0]!.out.to;
          const picked = s.strips
            .filter((t) => t.kind !== 'output' && t.out.to === to)
            .slice(0, n)
            .map((t) => t.id);
          fc.pre(picked.length > 0);
          const made = gather(s, picked);
          const lower = apply(apply(s, made.commands).session, [
            { type: 'strip.set', id: made.made, patch: { faderDb } },
          ]).session;
          const after = apply(lower, dissolve(lower, made.made)).session;
          checkSession(after);
          same(lower, after);
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('sends of many strips', () => {
  const s = session([
    strip('a', 'source', 'main', {
      faderDb: -8,
      pan: -0.5,
      sends: [newSend({ id: 'x', to: 'plate', levelDb: -10 })],
    }),
    strip('b', 'source', 'main', { faderDb: null }),
    strip('bus', 'submix', 'main'),
    strip('plate', 'return', 'bus'),
    strip('slap', 'return', 'main'),
  ]);
  const run = (r: Parameters<typeof bulkSends>[2], ids = ['a', 'b']) =>
    apply(s, bulkSends(s, ids, r)).session;

  it('are added to several destinations, those that are there set, and dry paths switched off in the same step', () => {
    const after = run({
      action: 'add',
      to: ['plate', 'slap'],
      levelDb: -6,
      tap: 'pre',
      pan: 0.2,
      dryOff: true,
    });
    for (const id of ['a', 'b'])
      expect(of(after, id).sends.map(({ to, levelDb, tap, pan }) => ({ to, levelDb, tap, pan }))).toEqual([
        { to: 'plate', levelDb: -6, tap: 'pre', pan: 0.2 },
        { to: 'slap', levelDb: -6, tap: 'pre', pan: 0.2 },
      ]);
    expect(of(after, 'a').out).toEqual({ to: 'main', on: false });
  });
  it('are changed only where they are, by a level or by a step', () => {
    expect(of(run({ action: 'change', to: ['plate'], by: 3 }), 'a').sends[0]!.levelDb).toBe(-7);
    expect(of(run({ action: 'change', to: ['plate'], on: false }), 'b').sends).toEqual([]);
    expect(bulkSends(s, ['a'], { action: 'change', to: ['plate'], levelDb: -10 })).toEqual([]);
  });
  it('are removed, of destinations that the strips really feed', () => {
    expect(fedDestinations(s, ['a', 'b'])).toEqual(['plate']);
    expect(of(run({ action: 'remove', to: ['plate', 'slap'] }), 'a').sends).toEqual([]);
  });
  it('offer as destinations what takes no part in feeding the strips', () => {
    expect(destinations(s, ['a'])).toEqual(['bus', 'plate', 'slap', 'main']);
    expect(destinations(s, ['bus'])).toEqual(['slap', 'main']);
  });
  it('offer from the other end what can be sent there, and tell what is', () => {
    expect(senders(s, ['plate'])).toEqual(['a', 'b', 'slap']);
    expect(senders(s, ['slap', 'plate'])).toEqual(['a', 'b']);
    expect(senders(s, ['main'])).toEqual(['a', 'b', 'bus', 'plate', 'slap']);
    // Whatever is offered can be made, to each of them.
    for (const to of [['plate'], ['slap'], ['bus'], ['main'], ['slap', 'plate']])
      for (const id of senders(s, to))
        expect(of(run({ action: 'add', to, levelDb: -3 }, [id]), id).sends.map((x) => x.to)).toEqual(
          expect.arrayContaining(to),
        );
    expect([sendersNow(s, ['plate']), sendersNow(s, ['slap', 'main'])]).toEqual([['a'], []]);
  });
  it('that are pre-fader start from the balance as it is, where that is wanted', () => {
    const after = run({ action: 'add', to: ['slap'], tap: 'pre', copyFader: true });
    expect(of(after, 'a').sends[1]).toMatchObject({ levelDb: -8, pan: -0.5, tap: 'pre' });
    expect(of(after, 'b').sends[0]).toMatchObject({ levelDb: null });
    // The cue mix is the mix: what the pre-fader send gives is what the strip's out gives.
    const dry = trace(after, 'a', 'main').paths;
    const [out, cue] = [dry.find((p) => p.strips.length === 2)!, dry.find((p) => p.strips[1] === 'slap')!];
    expect(cue.leftDb).toBeCloseTo(out.leftDb!, 9);
    expect(cue.rightDb).toBeCloseTo(out.rightDb!, 9);
    expect(of(apply(s, setTap(s, ['a'], 'plate', 'pre', true)).session, 'a').sends[0]).toMatchObject({
      levelDb: -8,
      pan: -0.5,
    });
    expect(of(apply(s, setTap(s, ['a'], 'plate', 'pre', false)).session, 'a').sends[0]).toMatchObject({
      levelDb: -10,
      pan: 0,
    });
  });
  it('can hand their level to the fader, VCAs taken off', () => {
    const held = { ...s, vcas: [newVca({ id: 'v', name: 'V', faderDb: -4, members: ['a'] })] };
    const after = apply(held, faderFromSend(held, ['a', 'b'], 'plate')).session;
    expect(effectiveLevel(after, of(after, 'a'))).toBe(-10);
    expect(of(after, 'b').faderDb).toBeNull();
  });
  it.each([
    ['-12', { levelDb: -12 }],
    ['−6.5 dB pre', { levelDb: -6.5, tap: 'pre' }],
    ['input L30 -3', { levelDb: -3, tap: 'input', pan: -0.3 }],
    ['off', { on: false }],
    ['-inf on C', { levelDb: null, on: true, pan: 0 }],
  ])('are typed as %j', (text, patch) => expect(readSend(text)).toEqual(patch));
  it.each(['', 'loud', '40', '-12 sideways'])('are not typed as %j', (text) =>
    expect(() => readSend(text)).toThrow(/is no send/),
  );
  it('refuse when there is nothing to send, or nowhere', () => {
    expect(() => bulkSends(s, [], { action: 'add', to: ['plate'] })).toThrow('Nothing is picked');
    expect(() => bulkSends(s, ['main'], { action: 'add', to: ['plate'] })).toThrow('Nothing is picked');
    expect(() => bulkSends(s, ['a'], { action: 'add', to: [] })).toThrow('No destination');
  });
});

describe('outputs', () => {
  it('leave by pairs of their own, and one of them is heard', () => {
    let s = session([strip('a', 'source', 'main')]);
    expect(freePair(s)).toBe(3);
    for (const pair of [3, 5]) {
      const made = newOutput(s);
      s = apply(s, made.commands).session;
      expect(of(s, made.made)).toMatchObject({ kind: 'output', pair });
    }
    expect(s.strips.slice(-2).map((t) => t.name)).toEqual(['Cue', 'Cue 2']);
    s = apply(s, monitor(s, 'cue')).session;
    expect(s.monitor).toBe('cue');
    expect(monitor(s, 'cue')).toEqual([]);
    expect(() => monitor(s, 'a')).toThrow('only an output');
    expect(() => apply(s, [{ type: 'session.set', patch: { monitor: 'a' } }])).toThrow('no such output');
  });
  it('are set for many strips at once, dry paths left as they are', () => {
    const s = session([
      strip('a', 'source', 'main', { out: { to: 'main', on: false } }),
      strip('b', 'source', 'main', { out: { to: null, on: false } }),
      strip('bus', 'submix', 'main'),
    ]);
    const after = apply(s, setOuts(s, ['a', 'b', 'bus', 'main'], 'bus')).session;
    expect([of(after, 'a').out, of(after, 'b').out, of(after, 'bus').out]).toEqual([
      { to: 'bus', on: false },
      { to: 'bus', on: true },
      { to: 'main', on: true },
    ]);
  });
});

describe('icons', () => {
  const s = session([
    strip('v', 'source', 'main', { name: 'Lead Vox' }),
    strip('k', 'source', 'main', { name: 'Kick In', icon: 'tom' }),
    strip('x', 'source', 'main', { name: 'Mystery', icon: 'bell' }),
  ]);
  const held = { ...s, vcas: [newVca({ id: 'vca', name: 'Strings', members: ['v'] })] };
  const icons = (t: Session) => [...t.strips, ...t.vcas].map((x) => x.icon);
  it('are given to many strips and VCAs at once, taken away, and undone', () => {
    const all = ['v', 'k', 'x', 'vca'];
    const given = apply(held, setIcons(held, all, 'harp'));
    expect(icons(given.session)).toEqual(['harp', 'harp', 'harp', 'speaker', 'harp']);
    expect(setIcons(given.session, all, 'harp')).toEqual([]);
    expect(icons(apply(given.session, setIcons(given.session, ['v'], 'none')).session)[0]).toBe('none');
    expect(apply(given.session, given.inverse).session).toEqual(held);
  });
  it('as names suggest take the place of others, and are left where a name suggests none', () =>
    expect(icons(apply(held, suggestIcons(held, ['v', 'k', 'x', 'vca'])).session)).toEqual([
      ...['voice', 'kick', 'bell', 'speaker', 'violin'],
    ]));
  it('come with new strips: of files, submixes, returns, outputs and VCAs', () => {
    const added = apply(s, addSources(s, [{ fileName: 'Vln_01.wav', stem: 'a', channels: 1 }])).session;
    expect(added.strips.find((t) => t.stem === 'a')!.icon).toBe('violin');
    const iconOf = (made: { readonly commands: readonly Command[]; readonly made: string }) => {
      const after = apply(s, made.commands).session;
      return [...after.strips, ...after.vcas].find((x) => x.id === made.made)!.icon;
    };
    expect(iconOf(gather(s, ['k'], {}))).toBe('tom');
    expect(iconOf(newReturn(s, [], { name: 'Slap' }))).toBe('echo');
    expect(iconOf(newOutput(s))).toBe('speaker');
    expect(iconOf(holdByVca(s, ['x', 'k'], 'Choir'))).toBe('choir');
  });
});

describe('tidying', () => {
  const messy = session([
    strip('v', 'source', 'main', { name: 'Lead Vox' }),
    strip('k', 'source', 'main', { name: 'Kick In' }),
    strip('ol', 'source', 'main', { name: 'OH L' }),
    strip('x', 'source', 'main', { name: 'Mystery', family: 'Mine' }),
    strip('or', 'source', 'main', { name: 'OH R', family: 'Percussion', colour: '#cf7a5c' }),
    strip('bus', 'submix', 'main', { name: 'Drum bus' }),
  ]);
  it('offers parts: families, order, colours, pairs', () =>
    expect(tidyParts(messy).map((p) => p.title)).toEqual([
      '1 strip into the family Lead',
      '2 strips into the family Percussion',
      'Strips in the order of their families',
      '1 strip in the colour of Lead',
      '2 strips in the colour of Percussion',
      '5 icons that names suggest',
      'OH L and OH R as a stereo pair: hard left and hard right',
    ]));
  it('does all of them in one step, and then there is nothing left to tidy', () => {
    const after = apply(
      messy,
      tidy(
        messy,
        tidyParts(messy).map((p) => p.id),
      ),
    ).session;
    expect(after.strips.map((s) => s.id)).toEqual(['k', 'ol', 'or', 'v', 'x', 'bus', 'main']);
    expect(of(after, 'k')).toMatchObject({ family: 'Percussion', colour: '#cf7a5c' });
    expect([of(after, 'ol').pan, of(after, 'or').pan]).toEqual([-1, 1]);
    // A family that the engineer has made is left alone.
    expect(of(after, 'x')).toEqual(of(messy, 'x'));
    expect(after.strips.map((s) => s.icon)).toEqual([
      ...['kick', 'kit', 'kit', 'voice', 'none', 'kit', 'speaker'],
    ]);
    expect(tidyParts(after)).toEqual([]);
  });
  it('leaves out what is refused', () => {
    const after = apply(messy, tidy(messy, ['family Lead', 'order'])).session;
    expect(of(after, 'v')).toMatchObject({ family: 'Lead', colour: '#8aa0a0' });
    expect(of(after, 'k').family).toBe('');
    expect(of(after, 'ol').pan).toBe(0);
    expect(tidy(messy, [])).toEqual([]);
  });
  it('keeps every strip, and those of a family together, on random names', () => {
    const names = ['Kick', 'Snare', 'Vox', 'Room', 'Violin', 'Choir alto', 'Xq', 'Click', 'Bass DI'];
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...names), { minLength: 1, maxLength: 14 }), (list) => {
        const s = session(list.map((name, i) => strip(`s${i}`, 'source', 'main', { name })));
        const after = apply(
          s,
          tidy(
            s,
            tidyParts(s).map((p) => p.id),
          ),
        ).session;
        expect(after.strips.map((t) => t.id).sort()).toEqual(s.strips.map((t) => t.id).sort());
        const families = after.strips.map((t) => t.family);
        for (let i = 2; i < families.length; i++)
          if (families[i] !== families[i - 1]) expect(families.slice(0, i - 1)).not.toContain(families[i]);
        expect(tidyParts(after).filter((p) => p.kind !== 'pair')).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });

  it('renames by a pattern, with numbers and the old name', () => {
    const names = (pattern: string, ids = ['v', 'k', 'ol'], first?: number) =>
      ids.map((id) => of(apply(messy, renameStrips(messy, ids, pattern, first)).session, id).name);
    expect(names('Take #')).toEqual(['Take 1', 'Take 2', 'Take 3']);
    expect(names('T## *', undefined, 9)).toEqual(['T09 Lead Vox', 'T10 Kick In', 'T11 OH L']);
    expect(names('Crew')).toEqual(['Crew 1', 'Crew 2', 'Crew 3']);
    expect(names('Solo', ['v'])).toEqual(['Solo']);
    expect(names('* dry')).toEqual(['Lead Vox dry', 'Kick In dry', 'OH L dry']);
    expect(renameStrips(messy, ['v'], '*')).toEqual([]);
    expect(() => renameStrips(messy, ['v'], ' ')).toThrow('Type a name');
  });

  it('picks by family, kind, colour and by what feeds something', () => {
    const s = demoSession();
    expect(stripsBy(s, { by: 'family', value: 'Strings' })).toEqual(['fiddle-close', 'fiddle-room']);
    expect(stripsBy(s, { by: 'kind', value: 'return' })).toEqual(['plate', 'slap']);
    expect(stripsBy(s, { by: 'colour', value: of(s, 'choir').colour.toUpperCase() })).toContain('choir');
    expect(stripsBy(s, { by: 'feeds', strips: ['percussion'] })).toEqual([
      'skin',
      'rim',
      'stomp',
      'shaker',
      'claps-l',
      'claps-r',
    ]);
    // A key is followed, not heard: it feeds nothing.
    expect(stripsBy(s, { by: 'feeds', strips: ['plate'] })).not.toContain('pulse');
  });
});
