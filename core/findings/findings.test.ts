import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply } from '../edits/apply';
import { newInsert, newSend, newSession, newStrip, newVca } from '../session/defaults';
import { checkSession } from '../edits/invariants';
import type { Insert, Session, Strip } from '../session/types';
import { sessions } from '../testing/arbitraries';
import { trace } from '../routing/trace';
import { shiftBetween, StemMeter, type PairMeasure, type StemMeasure } from '../metering/stemMeasure';
import { dismiss, findings, rules } from './findings';
import { pairsToMeasure } from './stems';
import type { Finding, Peaks } from './finding';

const base = newSession('Findings');
const strip = (id: string, kind: Strip['kind'], to: string | null, more: Partial<Strip> = {}) =>
  newStrip({
    id,
    kind,
    name: id,
    channels: 2,
    out: { to, on: true },
    ...(kind === 'source' ? { stem: `stems/${id}.wav` } : {}),
    ...more,
  });
const reverb = (id: string, more: Partial<Insert> = {}) => newInsert({ id, type: 'reverb', ...more });
const send = (to: string, more: Partial<ReturnType<typeof newSend>> = {}) =>
  newSend({ id: `to-${to}`, to, levelDb: -6, ...more });

/** A session in which nothing is wrong: sources, a submix, a return with a wet reverb, a trigger that keys it. */
const clean = (changes: Record<string, Partial<Strip>> = {}, more: Partial<Session> = {}): Session => ({
  ...base,
  strips: [
    strip('drum', 'source', 'rhythm', { sends: [send('plate')] }),
    strip('shaker', 'source', 'rhythm'),
    strip('voice', 'source', 'main', { sends: [send('plate')] }),
    strip('pulse', 'source', 'main', { family: 'Triggers', out: { to: 'main', on: false } }),
    strip('rhythm', 'submix', 'main'),
    strip('plate', 'return', 'main', {
      inserts: [reverb('r'), newInsert({ id: 'duck', type: 'compressor', key: 'pulse' })],
    }),
    ...base.strips,
  ].map((s) => ({ ...s, ...changes[s.id] })),
  ...more,
});
const of = (s: Session, rule: string, peaks: Peaks | null = null) =>
  findings(s, peaks).filter((f) => f.rule === rule);
const only = (s: Session, rule: string, peaks: Peaks | null = null): Finding => {
  const found = of(s, rule, peaks);
  expect(found.map((f) => f.what)).toHaveLength(1);
  return found[0]!;
};
/** Does the repair, and expects the finding to be gone. */
function mended(s: Session, rule: string, peaks: Peaks | null = null): Session {
  const f = only(s, rule, peaks);
  const next = apply(s, f.repair!.commands).session;
  checkSession(next);
  expect(of(next, rule)).toEqual([]);
  return next;
}

describe('findings', () => {
  it('are none in a session in which nothing is wrong', () => expect(findings(clean())).toEqual([]));
  it('have rules with ids and titles of their own', () => {
    expect(new Set(rules.map((r) => r.id)).size).toBe(rules.length);
    expect(new Set(rules.map((r) => r.title)).size).toBe(rules.length);
  });

  it('no path: leads nowhere, is switched off, or leads to what leads nowhere', () => {
    const nowhere = clean({ shaker: { out: { to: null, on: true } } });
    expect(only(nowhere, 'no-path').what).toBe('shaker leads nowhere.');
    expect(mended(nowhere, 'no-path').strips.find((s) => s.id === 'shaker')!.out.to).toBe('main');
    mended(clean({ shaker: { out: { to: 'rhythm', on: false } } }), 'no-path');
    const blind = clean({ rhythm: { out: { to: 'main', on: false } }, drum: { sends: [] } });
    expect(of(blind, 'no-path').map((f) => f.where[0])).toEqual(['drum', 'shaker', 'rhythm']);
    // A strip with its dry path off that is sent somewhere is heard there.
    expect(of(clean({ voice: { out: { to: 'main', on: false } } }), 'no-path')).toEqual([]);
  });

  it('names: missing ones and doubled ones', () => {
    const s = clean({ shaker: { name: ' ', stem: null }, voice: { name: 'drum' } });
    expect(only(s, 'unnamed').where).toEqual(['shaker']);
    expect(mended(s, 'unnamed').strips.find((x) => x.id === 'shaker')!.name).toBe('Source 1');
    expect(mended(s, 'duplicate-names').strips.find((x) => x.id === 'voice')!.name).toBe('drum 2');
  });

  it('a return that is partly dry, or whose effect is bypassed, while its feeders are heard', () => {
    const partly = clean({ plate: { inserts: [reverb('r', { mix: 0.4 })] } });
    expect(only(partly, 'dry-on-return')).toMatchObject({ sure: 'certain' });
    expect(only(partly, 'dry-on-return').what).toContain('40 % wet');
    // The dry signal really is doubled: the trace finds a direct copy through the return.
    expect(trace(partly, 'voice', 'main').leftDb!).toBeGreaterThan(0.5);
    expect(trace(mended(partly, 'dry-on-return'), 'voice', 'main').leftDb!).toBeCloseTo(0, 9);
    const bypassed = clean({ plate: { inserts: [reverb('r', { on: false })] } });
    expect(only(bypassed, 'dry-on-return').sure).toBe('likely');
    mended(bypassed, 'dry-on-return');
    // All feeders' dry paths off: the return is where they are heard.
    const parallel = clean({
      plate: { inserts: [reverb('r', { mix: 0.4 })] },
      drum: { out: { to: 'rhythm', on: false } },
      voice: { out: { to: 'main', on: false } },
    });
    expect(of(parallel, 'dry-on-return')).toEqual([]);
  });

  it('a strip that is heard twice: by 6.02 dB more where both ways are equal', () => {
    const s = clean({ voice: { sends: [send('rhythm', { levelDb: 0 })] } });
    const f = only(s, 'doubled');
    expect(f).toMatchObject({ sure: 'certain', severity: 'risk' });
    expect(f.what).toContain('6.0 dB louder');
    expect(trace(mended(s, 'doubled'), 'voice', 'main').leftDb!).toBeCloseTo(0, 9);
    // Of opposite polarity it is cancelled.
    expect(
      only(
        clean(
          { voice: { sends: [send('echo', { levelDb: 0 })] } },
          {
            strips: [
              ...clean({ voice: { sends: [send('echo', { levelDb: 0 })] } }).strips.slice(0, -1),
              strip('echo', 'submix', 'main', { invert: true }),
              ...base.strips,
            ],
          },
        ),
        'doubled',
      ).what,
    ).toContain('cancelled');
  });
  it('a parallel compressor is a note that depends on what is meant', () => {
    const s = clean({
      voice: { sends: [send('rhythm', { levelDb: -3 })] },
      rhythm: { inserts: [newInsert({ id: 'c', type: 'compressor' })] },
    });
    expect(only(s, 'doubled')).toMatchObject({ sure: 'possible', severity: 'note' });
  });
  it('a strip that reaches an output twice at different times, with the first notch at 1/(2T)', () => {
    const s = clean({
      voice: { sends: [send('plate', { levelDb: -3 })] },
      plate: { inserts: [newInsert({ id: 'd', type: 'delay', params: { time: 5 } })] },
    });
    const found = of(s, 'comb');
    expect(found.map((f) => f.where[0])).toEqual(['voice', 'drum']);
    // 1 - 10^(-3/20) = 0.292: 10.7 dB.
    expect(found[0]!.why).toBe('The two make a comb: 100 Hz and its odd multiples are turned down by 11 dB.');
    expect(
      of(
        clean({
          voice: { sends: [send('plate', { levelDb: -3 })] },
          plate: { inserts: [newInsert({ id: 'd', type: 'delay', params: { time: 120 } })] },
        }),
        'comb',
      ),
    ).toEqual([]);
  });

  it('sends to a return that is muted, down, or leads nowhere', () => {
    for (const change of [
      { mute: true },
      { faderDb: null },
      { trimDb: null },
      { out: { to: null, on: true } },
    ])
      mended(clean({ plate: change }), 'dead-return');
    expect(only(clean({ plate: { mute: true } }), 'dead-return').what).toBe(
      '2 strips are sent to plate, which is muted.',
    );
  });
  it('a pre-fader send that goes on when the fader is down', () => {
    const s = clean({ voice: { faderDb: null, sends: [send('plate', { tap: 'pre' })] } });
    expect(only(s, 'pre-fader-left').what).toContain('its pre-fader send to plate goes on');
    expect(mended(s, 'pre-fader-left').strips.find((x) => x.id === 'voice')!.sends[0]!.tap).toBe('post');
    expect(of(clean({ voice: { faderDb: null } }), 'pre-fader-left')).toEqual([]);
    // With a mute nothing leaves the strip, by no tap.
    expect(
      of(
        clean({ voice: { faderDb: null, mute: true, sends: [send('plate', { tap: 'pre' })] } }),
        'pre-fader-left',
      ),
    ).toEqual([]);
  });

  it('a trigger that is heard, and one that keys nothing', () => {
    const heard = clean({ pulse: { out: { to: 'main', on: true }, sends: [send('rhythm')] } });
    const after = mended(heard, 'heard-key');
    expect(findings(after).map((f) => f.rule)).toEqual([]);
    const useless = clean({ plate: { inserts: [reverb('r')] } });
    expect(mended(useless, 'unused-key').strips.find((s) => s.id === 'pulse')!.hidden).toBe(true);
    // A drum that keys something is meant to be heard.
    const drum = clean({
      plate: { inserts: [reverb('r'), newInsert({ id: 'duck', type: 'compressor', key: 'drum' })] },
    });
    expect(of(drum, 'heard-key')).toEqual([]);
  });

  it('a VCA over a submix and its feeders: 3 dB at the VCA are 6 at the output', () => {
    const s = clean(
      {},
      { vcas: [newVca({ id: 'v', name: 'Rhythm', members: ['rhythm', 'drum', 'shaker'] })] },
    );
    expect(only(s, 'vca-counted-twice').where).toEqual(['v', 'drum', 'shaker', 'rhythm']);
    const at = (x: Session, faderDb: number) =>
      trace({ ...x, vcas: x.vcas.map((v) => ({ ...v, faderDb })) }, 'shaker', 'main').leftDb!;
    expect(at(s, 3) - at(s, 0)).toBeCloseTo(6, 9);
    const after = mended(s, 'vca-counted-twice');
    expect(at(after, 3) - at(after, 0)).toBeCloseTo(3, 9);
  });
  it('a VCA over sources before a compressor, and the membership that changes level alone', () => {
    const s = clean(
      { rhythm: { inserts: [newInsert({ id: 'c', type: 'compressor' })] }, drum: { sends: [] } },
      { vcas: [newVca({ id: 'v', name: 'Rhythm', members: ['drum', 'shaker'] })] },
    );
    expect(mended(s, 'vca-drives-processors').vcas[0]!.members).toEqual(['rhythm']);
    expect(
      of(clean({}, { vcas: [newVca({ id: 'v', name: 'V', members: ['rhythm'] })] }), 'vca-drives-processors'),
    ).toEqual([]);
  });

  it('a return that a solo would cut off, and a solo left on', () => {
    mended(clean({ plate: { soloSafe: false } }), 'not-solo-safe');
    const s = clean(
      { drum: { solo: true } },
      { vcas: [newVca({ id: 'v', name: 'V', solo: true, members: ['voice'] })] },
    );
    expect(only(s, 'solo-left').where).toEqual(['drum', 'v']);
    mended(s, 'solo-left');
    // A solo hides none of the others.
    const vcas = [newVca({ id: 'v', name: 'V', members: ['drum', 'shaker'] })];
    const driven = clean({ rhythm: { inserts: [newInsert({ id: 'c', type: 'compressor' })] } }, { vcas });
    const alone = {
      ...driven,
      strips: driven.strips.map((x) => (x.id === 'voice' ? { ...x, solo: true } : x)),
    };
    expect(of(alone, 'vca-drives-processors')).toHaveLength(1);
  });

  it('clipping, with the first strip that exceeds full scale, when it was measured', () => {
    const s = clean();
    const peaks = new Map([
      ['drum', 0.8],
      ['rhythm', 1.2],
      ['main', 1.5],
    ]);
    expect(of(s, 'clipping')).toEqual([]);
    const f = only(s, 'clipping', peaks);
    // 20 log10(1.5) = 3.52 dB
    expect(f).toMatchObject({ sure: 'measured', where: ['main', 'rhythm'] });
    expect(f.what).toBe(
      'main'.replace('m', 'M') + ' peaks 3.5 dB above full scale; rhythm is the first to exceed it.',
    );
    const lower = apply(s, f.repair!.commands).session.strips.find((x) => x.id === 'main')!.faderDb!;
    expect(1.5 * 10 ** (lower / 20)).toBeLessThan(1);
    expect(of(s, 'clipping', new Map([['main', 1]]))).toEqual([]);
  });

  it('one effect on three strips; its repair keeps the dry level and the level into the effect', () => {
    const mix = 0.25;
    const s = clean({
      drum: { inserts: [reverb('a', { mix })], sends: [] },
      shaker: { inserts: [reverb('b', { mix })], faderDb: -4 },
      voice: { inserts: [reverb('c', { mix })], sends: [] },
    });
    const after = mended(s, 'same-effect');
    for (const id of ['drum', 'shaker', 'voice']) {
      expect(trace(after, id, 'main').leftDb!).toBeCloseTo(trace(s, id, 'main').leftDb!, 9);
      const wet = (x: Session) =>
        trace(x, id, 'main').paths.reduce((p, q) => {
          const direct = q.arrivals.reduce((t, a) => t + a.left ** 2, 0);
          return p + 10 ** ((q.leftDb ?? -Infinity) / 10) - direct;
        }, 0);
      expect(wet(after)).toBeCloseTo(wet(s), 9);
    }
    expect(
      of(
        clean({ drum: { inserts: [reverb('a', { mix })] }, voice: { inserts: [reverb('c', { mix })] } }),
        'same-effect',
      ),
    ).toEqual([]);
    const other = { params: { decay: 5 } };
    expect(
      of(
        clean({
          drum: { inserts: [reverb('a', { mix })] },
          shaker: { inserts: [reverb('b', { mix, ...other })] },
          voice: { inserts: [reverb('c', { mix })] },
        }),
        'same-effect',
      ),
    ).toEqual([]);
  });

  it('stand the gravest first, and bear keys that stay the same while other things change', () => {
    const s = clean({ shaker: { out: { to: null, on: true }, name: 'voice' }, plate: { soloSafe: false } });
    expect(findings(s).map((f) => f.severity)).toEqual(['fault', 'note', 'note']);
    const keys = findings(s).map((f) => f.key);
    const moved = { ...s, strips: [...s.strips].reverse().map((t) => ({ ...t, faderDb: -3 })) };
    expect(
      findings(moved)
        .map((f) => f.key)
        .sort(),
    ).toEqual([...keys].sort());
  });
  it('that are dismissed are kept by their keys, and can be brought back', () => {
    const s = clean({ plate: { soloSafe: false } });
    const { key } = only(s, 'not-solo-safe');
    const let1 = apply(s, dismiss(s, key)).session;
    expect(let1.dismissed).toEqual([key]);
    expect(apply(let1, dismiss(let1, key)).session.dismissed).toEqual([key]);
    expect(apply(let1, dismiss(let1, key, false)).session.dismissed).toEqual([]);
  });

  it('a strip that nothing feeds, an output among them, but not in a session that was just begun', () => {
    const lone = { ...clean(), strips: [...clean().strips, strip('echo', 'return', 'main')] };
    expect(only(lone, 'unfed').where).toEqual(['echo']);
    mended(lone, 'unfed');
    const out = { ...clean(), strips: [...clean().strips, strip('cue', 'output', null, { pair: 3 })] };
    expect(only(out, 'unfed').what).toContain('Nothing feeds cue');
    // A send that is off feeds nothing, unless a lane switches it on.
    const off = (lanes: Strip['lanes']) => ({
      ...lone,
      strips: lone.strips.map((s) =>
        s.id === 'voice' ? { ...s, sends: [...s.sends, send('echo', { on: false, lanes })] } : s,
      ),
    });
    expect(of(off({}), 'unfed')).toHaveLength(1);
    expect(of(off({ on: [[2, 1]] }), 'unfed')).toEqual([]);
    expect(findings(base)).toEqual([]);
  });
  it('one stem on two strips, and cancelled where one of them is turned round', () => {
    const twice = clean({ shaker: { stem: 'stems/drum.wav', out: { to: 'main', on: true } } });
    expect(only(twice, 'same-stem')).toMatchObject({ severity: 'risk', where: ['drum', 'shaker'] });
    mended(twice, 'same-stem');
    const turned = clean({ shaker: { stem: 'stems/drum.wav', invert: true } });
    const f = only(turned, 'same-stem');
    expect(f).toMatchObject({ severity: 'fault', sure: 'certain' });
    expect(f.what).toContain('they cancel each other to silence');
    expect(of(clean({ shaker: { stem: 'stems/drum.wav', mute: true } }), 'same-stem')).toEqual([]);
  });
  it('a VCA without members, one that is held by another among them', () => {
    const s = clean(
      {},
      { vcas: [newVca({ id: 'v', name: 'V' }), newVca({ id: 'w', name: 'W', members: ['v', 'drum'] })] },
    );
    expect(mended(s, 'empty-vca').vcas.map((v) => [v.id, v.members])).toEqual([['w', ['drum']]]);
  });
  it('a key that is silent: muted, down, without a stem, or fed by nothing', () => {
    for (const change of [{ mute: true }, { faderDb: null }, { trimDb: null }, { stem: null }]) {
      const s = clean({ pulse: change });
      expect(only(s, 'silent-key')).toMatchObject({ severity: 'fault', where: ['plate', 'pulse'] });
      mended(s, 'silent-key');
    }
    const held = clean({}, { vcas: [newVca({ id: 'v', name: 'V', mute: true, members: ['pulse'] })] });
    expect(only(held, 'silent-key').what).toContain('is muted');
    // One that a lane opens is not silent.
    expect(of(clean({ pulse: { mute: true, lanes: { mute: [[1, 0]] } } }), 'silent-key')).toEqual([]);
  });
  it('a source without a stem, unless a preamplifier feeds it', () => {
    mended(clean({ shaker: { stem: null } }), 'no-stem');
    const preamp = { input: 1, gainDb: 20, pad: false, phantom: false, lowCut: false, invert: false };
    expect(of(clean({ shaker: { stem: null, preamp } }), 'no-stem')).toEqual([]);
  });
  it('two outputs on one pair, or on one channel of it', () => {
    for (const pair of [1, 2]) {
      const s = {
        ...clean({ voice: { sends: [send('cue', { levelDb: -40 })] } }),
        strips: [
          ...clean({ voice: { sends: [send('cue', { levelDb: -40 })] } }).strips,
          strip('cue', 'output', null, { pair }),
        ],
      };
      mended(s, 'same-pair');
    }
  });
  it('a fader at silence before post-fader sends', () => {
    const s = clean({ voice: { faderDb: null } });
    expect(only(s, 'down-sends').what).toContain('its post-fader send to plate gives nothing');
    expect(mended(s, 'down-sends').strips.find((x) => x.id === 'voice')!.sends[0]!.tap).toBe('pre');
    expect(of(clean({ voice: { faderDb: null, lanes: { fader: [[1, 0]] } } }), 'down-sends')).toEqual([]);
  });
  it('lanes that do nothing: off, muted, or on what is off', () => {
    const lanes = { fader: [[0, -3]] } as Strip['lanes'];
    mended(clean({ voice: { lanes, automation: 'off' } }), 'idle-lanes');
    mended(clean({ voice: { lanes, mute: true } }), 'idle-lanes');
    expect(of(clean({ voice: { lanes: { ...lanes, mute: [[1, 0]] }, mute: true } }), 'idle-lanes')).toEqual(
      [],
    );
    mended(
      clean({ voice: { sends: [send('plate', { on: false, lanes: { level: [[0, -6]] } })] } }),
      'idle-lanes',
    );
    mended(
      clean({
        voice: { inserts: [newInsert({ id: 'e', type: 'gain', on: false, lanes: { gain: [[0, 1]] } })] },
      }),
      'idle-lanes',
    );
    expect(of(clean({ voice: { lanes } }), 'idle-lanes')).toEqual([]);
    const vcas = [
      newVca({ id: 'v', name: 'V', members: ['voice'], lanes: { fader: [[0, -3]] }, automation: 'off' }),
    ];
    mended(clean({}, { vcas }), 'idle-lanes');
  });
  it('a path that is more than 20 ms late, the worse where someone plays', () => {
    const late = { inserts: [newInsert({ id: 'p', type: 'pitch', params: { semitones: 3 } })] };
    expect(only(clean({ voice: late }), 'late-live')).toMatchObject({ severity: 'note' });
    mended(clean({ voice: late }), 'late-live');
    const preamp = { input: 1, gainDb: 20, pad: false, phantom: false, lowCut: false, invert: false };
    expect(only(clean({ voice: late, drum: { preamp } }), 'late-live')).toMatchObject({
      severity: 'risk',
      where: ['voice', 'main', 'drum'],
    });
    const limited = clean({ main: { inserts: [newInsert({ id: 'l', type: 'limiter' })] } });
    expect(findings(limited)).toEqual([]);
  });
  it('a limiter on the sum is no risk under a VCA', () => {
    const vcas = [newVca({ id: 'v', name: 'V', members: ['voice'] })];
    const s = clean(
      { main: { inserts: [newInsert({ id: 'l', type: 'limiter' })] }, voice: { sends: [] } },
      { vcas },
    );
    expect(findings(s)).toEqual([]);
  });

  const told = (id: string, channels: readonly Float32Array[]) => {
    const meter = new StemMeter(channels.length as 1 | 2);
    const audio = new Float32Array(channels.length * channels[0]!.length);
    channels.forEach((x, c) => x.forEach((v, i) => (audio[i * channels.length + c] = v)));
    for (let at = 0; at < audio.length; at += 4096) meter.add(audio.subarray(at, at + 4096));
    return [id, meter.measure(channels[0]!.length)] as const;
  };
  /** Noise by a generator of our own, always the same. */
  const hiss = (frames: number, seed = 1) => {
    let x = seed;
    return Float32Array.from({ length: frames }, () => {
      x = (x * 1664525 + 1013904223) % 4294967296;
      return (x / 2147483648 - 1) * 0.3;
    });
  };
  const measured = (
    s: Session,
    strips: readonly (readonly [string, StemMeasure])[],
    pairs: readonly PairMeasure[] = [],
  ) => findings(s, null, { strips: new Map(strips), pairs });
  it('stems that are silent, clip, cancel in mono, or are shorter than their family', () => {
    const n = 48000;
    const sound = hiss(n);
    const clipped = sound.map((v) => Math.max(-1, Math.min(1, v * 5)));
    const wide = hiss(n, 9);
    expect(measured(clean(), [told('drum', [sound]), told('voice', [sound, wide])])).toEqual([]);
    expect(measured(clean(), [told('drum', [new Float32Array(n)])])).toMatchObject([{ rule: 'silent-stem' }]);
    expect(measured(clean(), [told('drum', [clipped])])).toMatchObject([{ rule: 'clipped-stem' }]);
    // One sample at full scale, or two, is a peak.
    expect(measured(clean(), [told('drum', [sound.map((v, i) => (i % 500 < 2 ? 1 : v))])])).toEqual([]);
    const f = measured(clean(), [told('voice', [sound, sound.map((v) => -v)])]);
    expect(f).toMatchObject([{ rule: 'mono-loss', sure: 'measured' }]);
    expect(f[0]!.what).toContain('is gone');
    const family = clean({
      drum: { family: 'Drums' },
      shaker: { family: 'Drums' },
      voice: { family: 'Drums' },
    });
    expect(
      measured(family, [told('drum', [sound]), told('shaker', [hiss(n)]), told('voice', [hiss(30000)])]),
    ).toMatchObject([{ rule: 'uneven-family', where: ['voice'] }]);
  });
  it('stems of one family whose files say that they begin at different times', () => {
    const family = clean({
      drum: { family: 'Drums' },
      shaker: { family: 'Drums' },
      voice: { family: 'Drums' },
    });
    const at = (times: readonly (number | null)[]) =>
      measured(
        family,
        ['drum', 'shaker', 'voice'].map((id, k) => {
          const [, measure] = told(id, [hiss(4800, k + 1)]);
          return [id, { ...measure, begins: times[k]! }] as const;
        }),
      );
    // An hour into the day, all of them; or not told; or told by some alone.
    for (const sound of [
      [3600, 3600, 3600],
      [null, null, null],
      [3600, null, 3600.02],
      [null, 12, null],
    ])
      expect(at(sound)).toEqual([]);
    const f = at([3600, 3612.5, 3600]);
    expect(f).toMatchObject([
      { rule: 'uneven-start', where: ['shaker'], severity: 'risk', sure: 'measured' },
    ]);
    expect(f[0]!.what).toContain('(12.50 s later) begins at another time');
    expect(at([0.2, 0.2, 0])).toMatchObject([{ where: ['voice'] }]);
    // Of two that differ, the earlier is the one to go by.
    expect(at([7, null, 5])).toMatchObject([{ where: ['drum'] }]);
  });
  it('a stem that is shifted against its pair, by a millisecond or a tenth of a second, turned round or not', () => {
    const n = 48000;
    const sound = hiss(n + 10000);
    const room = hiss(n, 5);
    const pair = clean({ drum: { name: 'Room L' }, shaker: { name: 'Room R' } });
    const at = (shift: number, g = 1) => ({
      left: 'drum',
      right: 'shaker',
      ...shiftBetween(
        sound.slice(9600, 9600 + n),
        Float32Array.from({ length: n }, (_, i) => g * sound[9600 + i - shift]! + 0.2 * room[i]!),
        48000,
      ),
    });
    for (const [shift, g] of [
      [0, 1],
      [20, 1],
    ] as const)
      expect(measured(pair, [], [at(shift, g)])).toEqual([]);
    for (const [shift, g] of [
      [60, 1],
      [480, -1],
      [4800, 0.7],
      [-240, 1],
    ] as const) {
      const found = at(shift, g);
      expect(found.shift).toBe(shift);
      expect(measured(pair, [], [found])).toMatchObject([
        { rule: 'shifted-pair', where: shift > 0 ? ['shaker', 'drum'] : ['drum', 'shaker'] },
      ]);
    }
    // Two that have nothing in common are no shifted pair.
    expect(
      measured(pair, [], [{ left: 'drum', right: 'shaker', ...shiftBetween(hiss(n, 3), hiss(n, 4), 48000) }]),
    ).toEqual([]);
    expect(
      pairsToMeasure(
        clean({ drum: { name: 'Room L', channels: 1 }, shaker: { name: 'Room R', channels: 1 } }).strips,
      ).map((p) => p.map((s) => s.id)),
    ).toEqual([['drum', 'shaker']]);
  });

  it('of a sound session of 200 strips are none', () => {
    const families = ['Drums', 'Percussion', 'Bass', 'Guitars', 'Keys', 'Strings', 'Choir', 'Voices'];
    const sources = Array.from({ length: 176 }, (_, i) => {
      const bus = i % families.length;
      return strip(`s${i}`, 'source', `bus${bus}`, {
        name: `${families[bus]} ${i}`,
        family: families[bus]!,
        channels: i % 3 === 0 ? 2 : 1,
        pan: i % 3 === 0 ? 0 : ((i % 7) - 3) / 4,
        faderDb: -((i * 7) % 20),
        inserts: [
          newInsert({ id: `e${i}`, type: 'equalizer', params: { bell1Gain: 2, lowCutOn: 1 } }),
          ...(i % 4 === 0 ? [newInsert({ id: `c${i}`, type: 'compressor' })] : []),
          ...(i % 11 === 0 ? [newInsert({ id: `g${i}`, type: 'gate' })] : []),
        ],
        sends: [send(`fx${i % 8}`, { levelDb: -12 - (i % 9) })],
        lanes:
          i % 10 === 0
            ? {
                fader: [
                  [0, -6],
                  [10, -3],
                ],
              }
            : {},
        ...(i % 25 === 0 ? { mute: true, sends: [], lanes: {} } : {}),
      });
    });
    const buses = families.map((name, b) =>
      strip(`bus${b}`, 'submix', 'main', {
        name,
        family: name,
        inserts: [newInsert({ id: `bc${b}`, type: 'compressor', ...(b === 2 ? { key: 's0' } : {}) })],
      }),
    );
    const returns = Array.from({ length: 8 }, (_, n) =>
      strip(`fx${n}`, 'return', 'main', {
        name: `Return ${n}`,
        inserts:
          n % 2
            ? [newInsert({ id: `d${n}`, type: 'delay', params: { time: 250 + 10 * n } })]
            : [newInsert({ id: `r${n}`, type: 'reverb', params: { decay: 0.5 + n / 3 } })],
      }),
    );
    const s: Session = {
      ...base,
      strips: [
        ...sources.map((x) => (x.id === 's0' ? { ...x, mute: false } : x)),
        ...buses,
        ...returns,
        ...base.strips.map((x) =>
          x.kind === 'output' ? { ...x, inserts: [newInsert({ id: 'lim', type: 'limiter' })] } : x,
        ),
      ],
      vcas: families.map((name, b) => newVca({ id: `v${b}`, name: `${name} VCA`, members: [`bus${b}`] })),
    };
    expect(s.strips.length).toBeGreaterThan(190);
    expect(findings(s).map((f) => f.what)).toEqual([]);
  });

  it('of any session have keys of their own, name strips that are there, and repairs that keep every rule', () => {
    fc.assert(
      fc.property(sessions(12), (s) => {
        const found = findings(s);
        expect(new Set(found.map((f) => f.key)).size).toBe(found.length);
        const ids = new Set([...s.strips, ...s.vcas].map((x) => x.id));
        for (const f of found) {
          expect(f.where.every((id) => ids.has(id))).toBe(true);
          expect(f.where.length).toBeGreaterThan(0);
          expect(f.what.endsWith('.') && f.why.endsWith('.')).toBe(true);
          if (!f.repair) continue;
          expect(f.repair.commands.length).toBeGreaterThan(0);
          const { session, inverse } = apply(s, f.repair.commands);
          expect(findings(session).some((g) => g.key === f.key && g.what === f.what)).toBe(false);
          expect(apply(session, inverse).session).toEqual(s);
        }
      }),
      { numRuns: 150 },
    );
  });

  it('of a strip with very many ways are told by the strongest, and are few', () => {
    const returns = Array.from({ length: 120 }, (_, n) =>
      strip(`r${n}`, 'return', 'main', { soloSafe: true }),
    );
    const s: Session = {
      ...base,
      strips: [
        ...Array.from({ length: 40 }, (_, n) =>
          strip(`s${n}`, 'source', 'main', { sends: returns.map((r) => send(r.id, { levelDb: 0 })) }),
        ),
        ...returns,
        ...base.strips,
      ],
    };
    const found = of(s, 'doubled');
    // Each against each would be 7,140 for every source.
    expect(found).toHaveLength(40 * 12);
    expect(found[0]!.what).toMatch(/^s\d+ reaches Main twice/);
  });
});
