import { describe, expect, it } from 'vitest';
import { demoSession } from '../../../demo/session';
import { apply } from '../../edits/apply';
import { travelOf } from '../../levels/faderLaw';
import { processors } from '../../processors/registry';
import { newInsert } from '../../session/defaults';
import type { Session } from '../../session/types';
import { deskHost } from '../../testing/deskHost';
import { simulatedDesk, simulatedFaders } from '../stands/motorFaders';
import { simulatedEncoders } from '../stands/wideEncoders';
import { acrosses } from './across/registry';
import { alongs } from './along/registry';
import { insertPages } from './along/insert';
import type { Binding } from './binding';
import { fieldOf } from './field';

const demo = demoSession();
const three = [simulatedFaders, simulatedFaders, simulatedEncoders];
const WIDE = 2;
const strip = (s: Session, id: string) => s.strips.find((x) => x.id === id)!;
const voice = strip(demo, 'lead-voice');
const names = (list: Readonly<Record<string, Binding | null>>) =>
  Object.values(list).map((b) => b?.owner ?? null);

describe('across', () => {
  it('is one thing for every strip of the window: over its own faders, or over the window for a unit without any', () => {
    const h = deskHost(demo, three);
    const field = fieldOf(h.context(), h.state);
    const wide = names(field.encoders[h.unit(WIDE)]!);
    expect(wide.slice(0, 16).map((id, i) => id ?? h.slots()[i])).toEqual(h.slots());
    expect(wide.slice(16).every((id) => id === null)).toBe(true);
    const desk = deskHost(demo, [simulatedDesk]);
    expect(names(fieldOf(desk.context(), desk.state).encoders[desk.unit(0)]!).slice(0, 6)).toEqual(
      desk.slots().slice(0, 6),
    );
  });
  it.each(acrosses.map((a) => [a.id, a.word] as const))(
    '%s has a key, which says so on the display',
    (id, word) => {
      const h = deskHost(demo, three);
      h.push(`across${id[0]!.toUpperCase()}${id.slice(1)}`, null, WIDE);
      expect(h.display('page', null, WIDE)).toContain(word);
      expect(h.light(`across${id[0]!.toUpperCase()}${id.slice(1)}`, null, WIDE)).toBe(127);
    },
  );
  it('steps through the returns, by its own key and by choice', () => {
    const h = deskHost(demo, three);
    h.push('acrossSend', null, WIDE);
    expect(h.display('page', null, WIDE)).toBe('Send 1/2 Plate');
    // The skin is sent to the plate; the stomp board is not, and its encoder is dark.
    expect(h.encoderText('value', 0, 0, WIDE)).toBe('-20.0dB');
    expect(h.encoderText('value', 0, 2, WIDE)).toBe('');
    h.push('acrossSend', null, WIDE);
    expect(h.display('page', null, WIDE)).toMatch(/^Send 2\/2 Slap/);
    h.push('choiceLeft', null, WIDE);
    expect(h.display('page', null, WIDE)).toBe('Send 1/2 Plate');
  });
  it("turns one band's gain of each strip's equalizer, and with *second* its switch", () => {
    const h = deskHost(demo, three);
    h.pick(['lead-voice']);
    h.push('reachPicked');
    h.push('acrossBandGain', null, WIDE);
    for (let i = 0; i < 3; i++) h.push('choiceRight', null, WIDE);
    expect(h.display('page', null, WIDE)).toBe('Gain 4/6 Bell 3');
    const now = () => strip(h.session, 'lead-voice').inserts[0]!.params;
    const was = now().bell3Gain!;
    h.turn(0, 0, 2, WIDE);
    expect(now().bell3Gain).toBeCloseTo(was + 2 * 0.48, 0);
    h.key('second', null, true, WIDE);
    h.pushEncoder(0, 0, WIDE);
    h.key('second', null, false, WIDE);
    expect(now().bell3On).toBe(0);
  });
});

describe('along', () => {
  // Common practice, no published source: four controls a band, so that two bands lie on eight encoders and a whole equalizer of eight on 32.
  it.each([
    [8, 4],
    [32, 1],
    [16, 2],
  ])('an equalizer of eight bands on %i encoders has %i pages', (encoders, count) => {
    const eq = voice.inserts.find((i) => i.type === 'equalizer')!;
    const pages = insertPages(voice, eq, encoders);
    expect(pages).toHaveLength(count);
    const all = pages.flatMap((p) => p.bindings).filter((b): b is Binding => b !== null);
    expect(new Set(all.map((b) => b.key)).size).toBe(all.length);
    for (const page of pages)
      page.bindings.forEach((b, i) => {
        // Each band begins a group of four.
        if (b?.name.endsWith(' on')) expect(i % 4).toBe(0);
      });
  });
  it('keeps the function and the page when another strip is picked; one that lacks the thing says so, and loses nothing', () => {
    const second = apply(demo, [
      {
        type: 'insert.add',
        strip: 'whistle',
        insert: newInsert({ id: 'whistle-eq', type: 'equalizer', params: { bell1Gain: 5 } }),
        at: 0,
      },
    ]).session;
    const h = deskHost(second);
    h.pick(['lead-voice']);
    h.role('alongEqualizer');
    h.push('pageRight');
    expect(h.display('page')).toBe('EQ 2/4 Lead voice: Bell 1, Bell 2');
    h.pick(['shaker']);
    expect(h.display('page')).toBe('Shaker has no Equalizer');
    h.pick(['whistle']);
    expect(h.display('page')).toBe('EQ 2/4 Whistle: Bell 1, Bell 2');
    expect(h.display('value', 2)).toBe('+5.0 dB');
    h.pick(['lead-voice']);
    expect(h.display('page')).toBe('EQ 2/4 Lead voice: Bell 1, Bell 2');
  });
  it('lies on the unit where it was asked for, and others stay as they were', () => {
    const h = deskHost(demo, [simulatedDesk, simulatedDesk]);
    h.pick(['lead-voice']);
    h.push('insert', null, 1);
    expect(h.display('name', 0, 1)).toMatch(/^LoCut/);
    expect(h.display('name', 0, 0)).toBe('FrDrSki');
  });
  it('the list of inserts: a push switches one, a turn goes into it', () => {
    const h = deskHost(demo, three);
    h.pick(['lead-voice']);
    h.push('alongInserts', null, WIDE);
    expect(h.encoderText('name', 0, 0, WIDE)).toBe('Equaliz');
    h.pushEncoder(0, 0, WIDE);
    expect(strip(h.session, 'lead-voice').inserts[0]!.on).toBe(false);
    h.turn(0, 1, 1, WIDE);
    expect(h.display('page', null, WIDE)).toMatch(/^Comp/);
    expect(strip(h.session, 'lead-voice').inserts[1]!.on).toBe(true);
  });
  it('a lock keeps the encoders on their strip while others are picked', () => {
    const h = deskHost(demo);
    h.pick(['lead-voice']);
    h.role('alongEqualizer');
    h.push('lock');
    h.pick(['shaker']);
    expect(h.display('page')).toBe('LOCK EQ 1/4 Lead voice: Low cut, Low she');
    h.push('lock');
    expect(h.display('page')).toBe('Shaker has no Equalizer');
  });
  it('of several equalizers takes the one that the desk is set to, and goes to the next by the same key', () => {
    const two = apply(demo, [
      {
        type: 'insert.add',
        strip: 'lead-voice',
        insert: newInsert({ id: 'eq2', type: 'equalizer', place: 'post', params: { lowCutFrequency: 300 } }),
        at: voice.inserts.length,
      },
    ]).session;
    const h = deskHost(two);
    h.setDesk({ equalizer: 'afterFader' });
    h.pick(['lead-voice']);
    h.role('alongEqualizer');
    expect(h.display('value', 1)).toBe('300 Hz');
    h.role('alongEqualizer');
    expect(h.display('value', 1)).toBe('90 Hz');
    h.role('alongEqualizer');
    expect(h.display('value', 1)).toBe('300 Hz');
  });
  it('of a VCA says that it is a fader alone', () => {
    const h = deskHost(demo);
    h.role('alongSends');
    const at = h.slots().indexOf(demo.vcas.find((v) => h.slots().includes(v.id))!.id);
    h.push('pick', at);
    expect(h.display('page')).toMatch(/is a VCA/);
  });
  it.each(alongs.map((a) => [a.id]))('%s has a key, and gives pages or a reason for every strip', (id) => {
    for (const s of demo.strips) {
      const h = deskHost(demo, three);
      h.pick([s.id]);
      h.push(`along${id[0]!.toUpperCase()}${id.slice(1)}`, null, WIDE);
      expect(h.display('page', null, WIDE)).not.toBe('');
      // Every encoder that steers anything can be turned both ways and reset, and the session takes it.
      const { encoders } = fieldOf(h.context(), h.state);
      for (const b of Object.values(encoders[h.unit(WIDE)]!))
        if (b)
          for (const commands of [
            b.turn(1, false),
            b.turn(-40, false),
            b.turn(3, true),
            b.push(),
            b.toDefault(),
          ])
            expect(() => apply(demo, commands), `${s.id} ${b.key}`).not.toThrow();
    }
  });
});

describe('columns and spread', () => {
  it("columns: each strip's first parameters in its own column", () => {
    const h = deskHost(demo, three);
    h.pick(['rim', 'harp-high', 'whistle']);
    h.push('reachPicked');
    h.push('alongSends', null, WIDE);
    h.push('columns', null, WIDE);
    expect(h.display('page', null, WIDE)).toMatch(/^Columns Sends/);
    expect([0, 1, 2].map((c) => h.encoderText('value', 0, c, WIDE))).toEqual([
      '-12.0dB',
      '-14.0dB',
      '-12.0dB',
    ]);
    expect(h.encoderText('value', 1, 0, WIDE)).toBe('');
    h.push('columns', null, WIDE);
    expect(h.display('page', null, WIDE)).toBe('Pan');
  });
  it('spread: one insert over every encoder of the desk', () => {
    const h = deskHost(demo, [simulatedDesk, simulatedDesk, simulatedEncoders]);
    h.pick(['lead-voice']);
    h.role('alongEqualizer');
    h.push('spread');
    expect(h.display('page')).toMatch(/^Spread EQ Lead voice/);
    const { encoders } = fieldOf(h.context(), h.state);
    const keys = [0, 1, 2].flatMap((n) => Object.values(encoders[h.unit(n)]!)).flatMap((b) => b?.key ?? []);
    expect(new Set(keys).size).toBe(keys.length);
    expect(h.display('name', 0, 0)).toMatch(/^LoCut/);
    expect(h.display('name', 0, 1)).toMatch(/^Bell/);
  });
});

describe('an encoder', () => {
  it('goes ten times finer while *fine* is held', () => {
    const h = deskHost(demo);
    const pan = () => h.session.strips[0]!.pan;
    h.turn(0, 0, 1);
    const one = pan();
    h.key('fine', null, true);
    h.turn(0, 0, 1);
    expect(pan() - one).toBeCloseTo(one / 10, 6);
  });
  it('reaches its second parameter while *second* is held, and shows it', () => {
    const h = deskHost(demo, three);
    h.pick(['lead-voice']);
    h.push('alongEqualizer', null, WIDE);
    const params = () => strip(h.session, 'lead-voice').inserts[0]!.params;
    const { bell3Frequency, bell3Q = 1 } = params();
    h.key('second', null, true, WIDE);
    expect(h.encoderText('name', 2, 1, WIDE)).toMatch(/^Bell ?3/i);
    h.turn(2, 1, 5, WIDE);
    h.key('second', null, false, WIDE);
    expect(params().bell3Frequency).toBe(bell3Frequency);
    expect(params().bell3Q).toBeGreaterThan(bell3Q);
  });
  it('pushed goes to its default, or switches where it is a switch', () => {
    const h = deskHost(demo);
    h.turn(0, 4, 9);
    h.pushEncoder(0, 4);
    expect(h.kept.strips[4]!.pan).toBe(0);
  });
  it.each([
    ['a level from the left', 'acrossSend', 0],
    ['a pan from the centre', 'acrossPan', 1],
    ['a frequency as a dot', 'acrossBandFrequency', 2],
    ['a width opening both ways', 'acrossWidth', 3],
  ])('shows %s', (_, key, style) => {
    const h = deskHost(demo, three);
    h.pick(['lead-voice', 'skin', ...demo.strips.filter((s) => s.channels === 2).map((s) => s.id)]);
    h.push('reachPicked');
    h.push(key, null, WIDE);
    const sent = h.state.units[h.unit(WIDE)]!.sent;
    const lit = Object.entries(fieldOf(h.context(), h.state).encoders[h.unit(WIDE)]!).filter(([, b]) => b);
    expect(lit.length).toBeGreaterThan(0);
    for (const [id] of lit) expect(sent[`${id} style`]).toBe(String(style));
  });
  it('has the page follow: the insert under the hands is shown once, and not where that is switched off', () => {
    const h = deskHost(demo);
    h.pick(['lead-voice']);
    h.role('alongEqualizer');
    h.turn(0, 1, 1);
    h.turn(0, 1, 1);
    expect(h.actions.filter((a) => a.type === 'show')).toEqual([
      { type: 'show', strip: 'lead-voice', insert: voice.inserts[0]!.id },
    ]);
    const off = deskHost(demo);
    off.setDesk({ follows: false });
    off.pick(['lead-voice']);
    off.role('alongEqualizer');
    off.turn(0, 1, 1);
    expect(off.actions.filter((a) => a.type === 'show')).toEqual([]);
  });
  it('moves two parameters of one insert at once, and loses neither', () => {
    const h = deskHost(demo, three);
    h.pick(['lead-voice']);
    h.push('alongEqualizer', null, WIDE);
    for (let i = 0; i < 5; i++) {
      h.turn(2, 1, 1, WIDE);
      h.turn(2, 2, 1, WIDE);
    }
    const { bell3Frequency, bell3Gain } = strip(h.session, 'lead-voice').inserts[0]!.params;
    expect(bell3Frequency).toBeGreaterThan(3500);
    expect(bell3Gain).toBeCloseTo(2.5 + 5 * 0.48, 0);
  });
});

describe('flip', () => {
  it("one return's sends across the faders, at 14 bits, and back", () => {
    const h = deskHost(demo, three);
    h.pick(['plate']);
    h.push('sendsAcross');
    expect(h.display('page')).toBe('FLIP Send 1/2 Plate');
    const to = (n: number) => Math.round(travelOf(n) * 16383);
    h.touch(0, true);
    h.move(0, to(-7.35));
    h.touch(0, false);
    const send = strip(h.kept, 'skin').sends.find((x) => x.to === 'plate')!;
    // A hundredth of a decibel: finer than 7 bits could tell.
    expect(send.levelDb).toBeCloseTo(-7.35, 1);
    expect(Math.abs(send.levelDb! - -7.35)).toBeLessThan(0.02);
    expect(strip(h.kept, 'skin').faderDb).toBe(-6);
    // Meanwhile the encoders steer the levels.
    h.turn(0, 0, 2, WIDE);
    expect(strip(h.session, 'skin').faderDb).toBeCloseTo(-5, 0);
    h.push('sendsAcross');
    expect(h.display('page')).toBe('Send 1/2 Plate');
  });
  it("a strip's sends along the faders", () => {
    const h = deskHost(demo, three);
    const many = demo.strips.find((s) => s.sends.length > 0)!;
    h.pick([many.id]);
    h.push('alongSends', null, WIDE);
    h.push('flip');
    expect(h.display('name', 0)).toBe('Plate');
    h.touch(0, true);
    h.move(0, 12287);
    h.touch(0, false);
    expect(strip(h.kept, many.id).sends[0]!.levelDb).toBeCloseTo(0, 1);
  });
  it("a band's gain across all strips", () => {
    const h = deskHost(demo, three);
    h.pick(['lead-voice', 'main']);
    h.push('reachPicked');
    h.push('acrossBandGain', null, WIDE);
    h.push('flip', null, WIDE);
    h.touch(0, true);
    h.move(0, 16383);
    h.touch(0, false);
    expect(strip(h.kept, 'lead-voice').inserts[0]!.params.lowShelfGain).toBe(24);
  });
  it('a hand that lies on a fader while it is flipped keeps what it did, and moves nothing more', () => {
    const h = deskHost(demo, three);
    h.touch(0, true);
    h.move(0, 9000);
    h.push('acrossSend', null, WIDE);
    h.push('flip');
    const kept = strip(h.kept, 'skin');
    h.move(0, 100);
    h.touch(0, false);
    expect(strip(h.kept, 'skin')).toEqual(kept);
  });
  it('two hands on two parameters of one insert: both are kept, whoever lets go first', () => {
    for (const order of [
      [0, 1],
      [1, 0],
    ]) {
      const h = deskHost(demo, three);
      h.pick(['lead-voice']);
      h.push('alongEqualizer', null, WIDE);
      h.push('flip');
      // The frequency and the gain of a band lie side by side.
      const at = (name: string) =>
        (fieldOf(h.context(), h.state).faders[h.unit(0)] ?? []).findIndex((b) => b?.name.endsWith(name));
      const places = [at(' frequency'), at(' gain')];
      for (const p of places) h.touch(p, true);
      h.move(places[0]!, 3000);
      h.move(places[1]!, 14000);
      h.move(places[0]!, 5000);
      h.move(places[1]!, 15000);
      h.move(places[0]!, 6000);
      for (const o of order) h.touch(places[o]!, false);
      const list = fieldOf(h.context(), h.state).faders[h.unit(0)]!;
      expect(list[places[0]!]!.travel).toBeCloseTo(6000 / 16383, 2);
      expect(list[places[1]!]!.travel).toBeCloseTo(15000 / 16383, 2);
    }
  });
  it('writes a swell of a send: its edits are of the send, as automation takes them', () => {
    const h = deskHost(demo, three);
    h.pick(['plate']);
    h.push('sendsAcross');
    h.touch(0, true);
    for (const v of [3000, 6000, 9000]) h.move(0, v);
    expect(h.actions.flatMap((a) => (a.type === 'live' ? [a.commands[0]!.type] : []))).toEqual([
      'send.set',
      'send.set',
      'send.set',
    ]);
  });
});

it.each(processors.map((p) => [p.type, p] as const))(
  'of %s, put to either end of its way, gives the ends of every parameter, which the session takes',
  (type, p) => {
    const owner = p.channels === 'stereo' ? 'plate' : voice.id;
    let session = apply(demo, [
      { type: 'insert.add', strip: owner, insert: newInsert({ id: 'tried', type }), at: 0 },
    ]).session;
    const pages = () => {
      const s = strip(session, owner);
      return insertPages(
        s,
        s.inserts.find((i) => i.id === 'tried')!,
        8,
      );
    };
    for (const end of [0, 1])
      for (let page = 0; page < pages().length; page++)
        for (let k = 0; k < 8; k++) {
          const binding = pages()[page]!.bindings[k];
          if (!binding) continue;
          session = apply(session, binding.put(end)).session;
          expect(pages()[page]!.bindings[k]!.travel).toBeCloseTo(end, 9);
        }
    const { params } = strip(session, owner).inserts.find((i) => i.id === 'tried')!;
    for (const q of p.parameters) expect(params[q.id], q.id).toBe(q.max);
  },
);
