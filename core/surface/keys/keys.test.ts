import { describe, expect, it } from 'vitest';
import { demoSession } from '../../../demo/session';
import { apply } from '../../edits/apply';
import type { AutomationMode, Session } from '../../session/types';
import { deskHost } from '../../testing/deskHost';
import { simulatedDesk, simulatedFaders } from '../stands/motorFaders';
import { simulatedEncoders } from '../stands/wideEncoders';
import { keyRoles } from './registry';

const demo = demoSession();
const three = [simulatedFaders, simulatedFaders, simulatedEncoders];
const modeOf = (s: Session, id: string) => [...s.strips, ...s.vcas].find((x) => x.id === id)!.automation;
const withMode = (s: Session, id: string, automation: AutomationMode) =>
  apply(s, [{ type: 'strip.set', id, patch: { automation } }]).session;
const rolling = { rolling: true, position: 1, looping: false, loop: null };

describe('modes', () => {
  // Common practice, no published source: while the transport rolls, steps pass write by.
  it('write is never reached by stepping while it plays, and is at rest', () => {
    const h = deskHost(demo, undefined, { transport: rolling });
    const seen = new Set<string>();
    for (let i = 0; i < 12; i++) {
      h.push('mode', 0);
      seen.add(modeOf(h.kept, 'skin'));
    }
    expect(seen).toEqual(new Set(['off', 'read', 'touch', 'latch', 'trim']));
    h.set({ transport: { ...rolling, rolling: false } });
    for (let i = 0; i < 6; i++) {
      h.push('mode', 0);
      seen.add(modeOf(h.kept, 'skin'));
    }
    expect(seen).toContain('write');
  });
  it('*picked* and *all* held widen what a mode acts on: all go where this one goes', () => {
    const h = deskHost(withMode(demo, 'rim', 'latch'));
    h.pick(['rim', 'bell']);
    h.key('picked', null, true);
    h.push('mode', 0);
    h.key('picked', null, false);
    expect([modeOf(h.kept, 'rim'), modeOf(h.kept, 'bell'), modeOf(h.kept, 'skin')]).toEqual([
      'touch',
      'touch',
      'read',
    ]);
    h.key('all', null, true);
    h.push('modeOff');
    h.key('all', null, false);
    for (const s of [...h.kept.strips.filter((x) => !x.hidden), ...h.kept.vcas])
      expect(s.automation).toBe('off');
    expect(h.actions.filter((a) => a.type === 'commit')).toHaveLength(2);
  });
  it('a mode key held while strips are touched, or their pick keys, gives them that mode, and moves nothing', () => {
    const h = deskHost(demo);
    h.key('modeLatch', null, true);
    h.touch(0, true);
    h.move(0, 3000);
    h.touch(0, false);
    h.push('pick', 2);
    h.key('modeLatch', null, false);
    expect([modeOf(h.kept, 'skin'), modeOf(h.kept, 'stomp'), modeOf(h.kept, 'rim')]).toEqual([
      'latch',
      'latch',
      'read',
    ]);
    expect(h.kept.strips[0]!.faderDb).toBe(-6);
    expect(h.picked).toEqual([]);
  });
  it('a mode key pushed by itself gives it to the strip picked last; write too, as it was asked for by name', () => {
    const h = deskHost(demo, undefined, { transport: rolling });
    h.push('pick', 1);
    h.push('modeWrite');
    expect(modeOf(h.kept, 'rim')).toBe('write');
    expect(h.light('modeWrite')).toBe(127);
  });
  it('trim goes on and off, each strip back to the mode that it had', () => {
    const h = deskHost(withMode(demo, 'rim', 'latch'));
    h.pick(['rim', 'bell']);
    h.key('picked', null, true);
    h.push('trimOn');
    expect([modeOf(h.kept, 'rim'), modeOf(h.kept, 'bell')]).toEqual(['trim', 'trim']);
    h.push('trimOn');
    h.key('picked', null, false);
    expect([modeOf(h.kept, 'rim'), modeOf(h.kept, 'bell')]).toEqual(['latch', 'read']);
  });
  it('lights and letters tell read, armed and writing, of strips and of encoders', () => {
    const laned = apply(withMode(demo, 'rim', 'touch'), [
      { type: 'strip.set', id: 'skin', patch: { lanes: { pan: [[0, 0.5]] } } },
    ]).session;
    const h = deskHost(laned, [simulatedDesk]);
    expect([h.light('mode', 0), h.light('mode', 1)]).toEqual([24, 127]);
    expect([h.display('mode', 0), h.display('mode', 1)]).toEqual(['READ', 'TCH']);
    h.set({ writing: [{ part: 'strip', owner: 'rim', id: null, control: 'pan' }] });
    expect(h.display('mode', 1)).toBe('*TCH');
    const seen = new Set<number>();
    for (let i = 0; i < 6; i++) {
      h.wait(250);
      seen.add(h.light('mode', 1));
    }
    expect(seen).toEqual(new Set([0, 127]));
    const sent = () => h.state.units[h.unit(0)]!.sent;
    // Its pan has a lane: faint; another's is armed: bright; a third has none: dark.
    expect(sent()['encoder1 light']).toBe('24');
    expect(sent()['encoder3 light']).toBe('0');
    const wide = deskHost(laned, [simulatedFaders, simulatedEncoders]);
    expect([0, 1, 2].map((c) => wide.encoderText('mode', 0, c, 1))).toEqual(['auto', 'ARM', '']);
  });
});

describe('default', () => {
  it('held, a fader, an encoder or a pick key that is touched goes to its default, and the hand moves nothing', () => {
    const h = deskHost(demo);
    h.key('default', null, true);
    h.touch(0, true);
    h.move(0, 1000);
    h.touch(0, false);
    h.push('pick', 1);
    h.turn(0, 4, 5);
    h.key('default', null, false);
    expect([h.kept.strips[0]!.faderDb, h.kept.strips[1]!.faderDb, h.kept.strips[4]!.pan]).toEqual([0, 0, 0]);
  });
  it('with *picked* held, of all that is picked', () => {
    const h = deskHost(demo);
    h.pick(['rim', 'bell']);
    h.key('picked', null, true);
    h.key('default', null, true);
    h.touch(0, true);
    h.touch(0, false);
    h.key('default', null, false);
    h.key('picked', null, false);
    const level = (id: string) => h.kept.strips.find((s) => s.id === id)!.faderDb;
    expect([level('rim'), level('bell'), level('skin')]).toEqual([0, 0, -6]);
  });
});

describe('keys of the desk', () => {
  it('hide: a slip does nothing; held for a second it hides what is picked; show all brings it back', () => {
    const h = deskHost(demo);
    h.pick(['rim']);
    h.push('hide');
    h.wait(1500);
    expect(h.kept.strips[1]!.hidden).toBe(false);
    h.key('hide', null, true);
    h.wait(900);
    expect(h.kept.strips[1]!.hidden).toBe(false);
    h.wait(150);
    expect(h.kept.strips[1]!.hidden).toBe(true);
    h.wait(3000);
    h.key('hide', null, false);
    expect(h.actions.filter((a) => a.type === 'commit')).toHaveLength(1);
    h.push('showAll');
    expect(h.kept.strips[1]!.hidden).toBe(false);
  });
  it('link: links the picked, and takes that link away again', () => {
    const h = deskHost(demo);
    const before = h.kept.links.length;
    h.push('link');
    expect(h.display('page')).toBe('Pick two strips or more');
    h.pick(['skin', 'rim']);
    h.push('link');
    expect(h.kept.links).toHaveLength(before + 1);
    h.push('link');
    expect(h.kept.links).toHaveLength(before);
  });
  it('mutes and solos act on the scope, as they act on this one', () => {
    const h = deskHost(demo);
    h.pick(['skin', 'rim', 'bell']);
    h.key('picked', null, true);
    h.push('mute', 3);
    h.key('picked', null, false);
    const muted = h.kept.strips.filter((s) => s.mute).map((s) => s.id);
    expect(muted).toEqual(expect.arrayContaining(['skin', 'rim', 'bell']));
    expect(muted).not.toContain('shaker');
  });
  it('pick: alone; beside others while *second* is held', () => {
    const h = deskHost(demo);
    h.push('pick', 0);
    h.key('second', null, true);
    h.push('pick', 2);
    h.push('pick', 0);
    h.key('second', null, false);
    expect(h.picked).toEqual(['stomp']);
  });
  it('user keys do actions of the page by their ids, on two layers', () => {
    const h = deskHost(demo);
    h.setDesk({
      userKeys: [
        { key: 1, layer: 1, action: 'gather' },
        { key: 1, layer: 2, action: 'trace' },
      ],
    });
    h.push('user1');
    h.push('layer');
    h.push('user1');
    h.push('user2');
    expect(h.actions.filter((a) => a.type === 'run')).toEqual([
      { type: 'run', action: 'gather' },
      { type: 'run', action: 'trace' },
    ]);
    expect(h.display('page')).toBe('User key 2 is free');
    expect(h.light('user1')).toBe(24);
  });
  it('recent sessions: turned through on the display, pushed to open', () => {
    const h = deskHost(demo, three, {
      recent: [
        { id: 'a', name: 'First light' },
        { id: 'b', name: 'Slack water' },
      ],
    });
    h.push('recent');
    expect(h.display('page')).toBe('Open 1/2: First light');
    h.turn(0, 0, 1, 2);
    h.turn(1, 3, 1, 2);
    expect(h.display('page')).toBe('Open 2/2: Slack water');
    const pans = h.kept.strips.map((s) => s.pan);
    h.pushEncoder(0, 5, 2);
    expect(h.actions.at(-1)).toEqual({ type: 'open', session: 'b' });
    expect(h.kept.strips.map((s) => s.pan)).toEqual(pans);
    h.push('recent');
    h.push('recent');
    expect(h.display('page')).toBe('Pan');
  });
  it('transport, loop, undo and redo ask for them', () => {
    const h = deskHost(demo, undefined, { undo: true });
    for (const key of ['play', 'stop', 'loop', 'undo', 'redo']) h.push(key);
    expect(h.actions.map((a) => a.type)).toEqual(['play', 'stop', 'loop', 'undo', 'redo']);
    expect([h.light('undo'), h.light('redo')]).toEqual([127, 0]);
  });
});

it('every role has a name, a word of at most nine letters and a sentence, and ids are one of a kind', () => {
  expect(new Set(keyRoles.map((r) => r.id)).size).toBe(keyRoles.length);
  for (const r of keyRoles) {
    expect(r.word.length, r.id).toBeLessThanOrEqual(9);
    expect(r.word, r.id).toMatch(/^[\x20-\x7e]+$/);
    expect(r.about, r.id).toMatch(/\.$/);
    expect(r.name, r.id).toMatch(/^[A-Z]/);
  }
});
it('no role throws, whatever is picked and wherever it is pushed', () => {
  for (const role of keyRoles.filter((r) => r.of === 'unit'))
    for (const pick of [[], ['skin'], ['main'], ['plate', 'slap']]) {
      const h = deskHost(demo, three);
      h.pick(pick);
      for (const n of [0, 1, 2]) expect(() => h.role(role.id, n), role.id).not.toThrow();
    }
});
