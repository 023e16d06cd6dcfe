import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { effectiveLevel } from '../groups/vca';
import { FADER_FLOOR, FADER_TOP } from '../levels/faderLaw';
import { sessions } from '../testing/arbitraries';
import { apply } from '../edits/apply';
import { newSession } from '../session/defaults';
import { checkSession } from '../edits/invariants';
import { stripOf } from '../session/lookup';
import type { Session } from '../session/types';
import {
  cellValue,
  copyCell,
  makeSends,
  readCell,
  resetCell,
  setCell,
  shiftCell,
  type ValueCell,
} from './cells';
import { busName, gather, positionFor } from './gather';
import { NEW_SEND_DB, newReturn, removeSends, sendTo, setSends } from './returns';
import {
  addSources,
  moveStrips,
  removeStrips,
  sheetOrder,
  shiftFaders,
  stepLevel,
  toggleDryPath,
  toggleFlag,
  toggleVca,
} from './strips';
import { holdByVca, setMembers } from './vcas';

const demo = demoSession();
const after = (s: Session, commands: Parameters<typeof apply>[1]) => {
  const next = apply(s, commands).session;
  checkSession(next);
  return next;
};
const bass = ['bass-di', 'bass-mic', 'bass-cab'];

describe('gather', () => {
  it('routes the picked strips through a new submix to where they went', () => {
    const g = gather(demo, bass);
    const s = after(demo, g.commands);
    expect(g.label).toBe('gather Bass blend');
    expect(stripOf(s, g.made)).toMatchObject({
      kind: 'submix',
      name: 'Bass blend',
      family: 'Bass',
      channels: 2,
      faderDb: 0,
      out: { to: 'main', on: true },
    });
    for (const id of bass) expect(stripOf(s, id).out).toEqual({ to: g.made, on: true });
  });
  it('stands after the last picked strip, or before the outputs', () => {
    expect(positionFor(demo, bass, 'after')).toBe(demo.strips.findIndex((s) => s.id === 'bass-cab') + 1);
    expect(positionFor(demo, bass, 'end')).toBe(demo.strips.findIndex((s) => s.kind === 'output'));
    expect(positionFor(newSession('Empty'), [], 'after')).toBe(0);
  });
  it('keeps a dry path off that is off', () => {
    const off = after(demo, toggleDryPath(demo, ['bass-mic']));
    const s = after(off, gather(off, bass).commands);
    expect(stripOf(s, 'bass-mic').out).toEqual({ to: 'bass-blend', on: false });
  });
  it('gathers submixes into submixes', () => {
    const s = after(demo, gather(demo, ['percussion', 'choir'], { name: 'Everything' }).commands);
    expect(stripOf(s, 'choir').out.to).toBe('everything');
  });
  it.each<[string, string[], RegExp]>([
    ['nothing', [], /Nothing is picked/],
    ['an output', ['main'], /output/],
    ['strips that lead to different places', ['bass-di', 'skin'], /Main, Percussion|Percussion, Main/],
    ['what is not there', ['ghost'], /ghost/],
  ])('refuses %s', (_what, picked, text) => expect(() => gather(demo, picked)).toThrow(text));
  it('finds a name that is free', () => {
    const once = after(demo, gather(demo, ['bass-di']).commands);
    expect(busName(once, [stripOf(once, 'bass-mic')], 'Blend')).toBe('Bass blend 2');
    expect(busName(demo, [stripOf(demo, 'bass-mic'), stripOf(demo, 'skin')], 'Blend')).toBe('Blend');
  });
});

describe('returns and sends', () => {
  it('a new return is fully wet, solo-safe, goes to the main output, and is fed by the picked strips after their faders', () => {
    const r = newReturn(demo, bass);
    const s = after(demo, r.commands);
    const made = stripOf(s, r.made);
    // There is a plate already: the name is taken.
    expect(made).toMatchObject({
      kind: 'return',
      name: 'Plate 2',
      soloSafe: true,
      out: { to: 'main', on: true },
    });
    expect(made.inserts).toMatchObject([{ type: 'reverb', place: 'pre', on: true, mix: 1 }]);
    for (const id of bass)
      expect(sendTo(s, id, r.made)).toMatchObject({ tap: 'post', levelDb: NEW_SEND_DB, on: true });
    // The dry signal keeps its own path.
    for (const id of bass) expect(stripOf(s, id).out).toEqual({ to: 'main', on: true });
  });
  it('can be without an effect, and pre-fader at a level', () => {
    const r = newReturn(demo, ['bass-di', 'main'], { name: 'Cue', effect: null, tap: 'pre', levelDb: 0 });
    const s = after(demo, r.commands);
    expect(stripOf(s, r.made).inserts).toEqual([]);
    expect(sendTo(s, 'bass-di', r.made)).toMatchObject({ tap: 'pre', levelDb: 0 });
    expect(sendTo(s, 'main', r.made)).toBeUndefined();
  });
  it('sends are changed where they are and made where they are not', () => {
    const s = after(demo, setSends(demo, ['skin', 'stomp'], 'plate', { levelDb: -3, tap: 'pre' }));
    expect(sendTo(s, 'skin', 'plate')).toMatchObject({ id: 'skin-plate', levelDb: -3, tap: 'pre' });
    expect(sendTo(s, 'stomp', 'plate')).toMatchObject({ levelDb: -3, tap: 'pre' });
    expect(makeSends(s, ['skin', 'stomp'], 'plate', 'post')).toEqual([]);
    const gone = after(s, removeSends(s, ['skin', 'stomp', 'rim'], 'plate'));
    for (const id of ['skin', 'stomp', 'rim']) expect(sendTo(gone, id, 'plate')).toBeUndefined();
  });
  it('a return is not sent to itself', () => {
    expect(() => setSends(demo, ['plate'], 'plate', {})).toThrow(/itself/);
    expect(setSends(demo, ['plate', 'skin'], 'plate', { levelDb: -1 })).toHaveLength(1);
  });
});

describe('VCAs', () => {
  it('hold the picked strips, and are named after their family', () => {
    const v = holdByVca(demo, bass);
    const s = after(demo, v.commands);
    expect(s.vcas.at(-1)).toMatchObject({ name: 'Bass', members: bass, faderDb: 0 });
    expect(() => holdByVca(demo, [])).toThrow(/Nothing is picked/);
    expect(after(s, holdByVca(s, ['bass-di']).commands).vcas.at(-1)!.name).toBe('Bass 2');
  });
  it('members come and go; nothing is done where nothing changes', () => {
    expect(setMembers(demo, 'vca-choir', ['choir'], true)).toEqual([]);
    const s = after(demo, setMembers(demo, 'vca-choir', ['slap', 'choir'], true));
    expect(s.vcas[0]!.members).toEqual(['choir', 'plate', 'slap']);
    expect(after(s, setMembers(s, 'vca-choir', ['choir', 'plate', 'slap'], false)).vcas[0]!.members).toEqual(
      [],
    );
    expect(after(demo, toggleVca(demo, 'vca-choir', 'mute')).vcas[0]!.mute).toBe(true);
  });
});

describe('removing strips', () => {
  it('takes what leads to them away, and sends what fed a bus on to where the bus went', () => {
    const s = after(demo, removeStrips(demo, ['percussion', 'plate']));
    expect(s.strips.some((x) => x.id === 'percussion' || x.id === 'plate')).toBe(false);
    for (const id of ['skin', 'rim', 'shaker']) expect(stripOf(s, id).out).toEqual({ to: 'main', on: true });
    expect(stripOf(s, 'skin').sends).toEqual([]);
    expect(s.vcas[0]!.members).toEqual(['choir']);
  });
  it('of any strips of any session keeps every rule, and is undone in one', () => {
    fc.assert(
      fc.property(sessions(), fc.array(fc.nat(20), { minLength: 1, maxLength: 6 }), (s, picks) => {
        const ids = [...new Set(picks.map((n) => s.strips[n % s.strips.length]!))]
          .filter((x) => x.kind !== 'output')
          .map((x) => x.id);
        fc.pre(ids.length > 0);
        const done = apply(s, removeStrips(s, ids));
        checkSession(done.session);
        expect(apply(done.session, done.inverse).session).toEqual(s);
      }),
    );
  });
  it('keeps the last output', () => expect(() => removeStrips(demo, ['main'])).toThrow(/last output/));
});

describe('moving, adding, switching', () => {
  it('moves strips together, in their own order', () => {
    const order = (s: Session) => s.strips.slice(0, 5).map((x) => x.id);
    expect(order(after(demo, moveStrips(demo, ['shaker', 'rim'], 'skin')))).toEqual([
      'rim',
      'shaker',
      'skin',
      'stomp',
      'claps-l',
    ]);
    expect(after(demo, moveStrips(demo, ['skin'], null)).strips.at(-1)!.id).toBe('skin');
    expect(moveStrips(demo, ['skin'], 'rim')).toEqual([]);
  });
  it('adds stems after the other sources, each with an id of its own', () => {
    const stems = ['Kick.wav', 'Kick.wav', 'Kick.wav'].map((fileName, i) => ({
      fileName,
      stem: `sha256:${i}`,
      channels: 1 as const,
    }));
    const s = after(demo, addSources(demo, stems));
    const at = demo.strips.findIndex((x) => x.id === 'pulse') + 1;
    expect(s.strips.slice(at, at + 3).map((x) => [x.id, x.stem])).toEqual([
      ['kick', 'sha256:0'],
      ['kick-2', 'sha256:1'],
      ['kick-3', 'sha256:2'],
    ]);
  });
  it('names strips of files without what says which take they are, unless that alone tells them apart', () => {
    const names = (...files: string[]) =>
      addSources(
        demo,
        files.map((fileName, i) => ({ fileName, stem: `sha256:${i}`, channels: 1 as const })),
      ).map((c) => (c as { strip: { name: string } }).strip.name);
    expect(names('Skin_take3.wav', 'Rim 2026-05-14.wav', 'Pulse_T02.flac')).toEqual(['Skin', 'Rim', 'Pulse']);
    expect(names('Skin_take1.wav', 'Skin_take2.wav', 'Rim_take2.wav')).toEqual([
      'Skin take1',
      'Skin take2',
      'Rim',
    ]);
    const parts = (['front', 'lfe', null] as const).map((place) => ({
      ...{ fileName: 'Hall_take4.wav', stem: 'sha256:0', channels: 1 as const, place },
    }));
    expect(addSources(demo, parts).map((c) => (c as { strip: { name: string } }).strip.name)).toEqual([
      'Hall front',
      'Hall LFE',
      'Hall',
    ]);
  });
  it('switches on all of them unless all are on', () => {
    const one = after(demo, toggleFlag(demo, ['skin'], 'mute'));
    const all = after(one, toggleFlag(one, ['skin', 'rim'], 'mute'));
    expect([stripOf(all, 'skin').mute, stripOf(all, 'rim').mute]).toEqual([true, true]);
    const none = after(all, toggleFlag(all, ['skin', 'rim'], 'mute'));
    expect([stripOf(none, 'skin').mute, stripOf(none, 'rim').mute]).toEqual([false, false]);
  });
  it('shows sources first, then submixes, returns and outputs, and no hidden ones', () => {
    const s = after(demo, toggleFlag(demo, ['bell', 'slap'], 'hidden'));
    const { sources, landing } = sheetOrder(s);
    expect(sources.some((x) => x.id === 'bell')).toBe(false);
    expect(landing.map((x) => x.id)).toEqual(['percussion', 'choir', 'plate', 'main']);
  });
});

describe('a value on many strips', () => {
  const level: ValueCell = { kind: 'level' };
  const plate: ValueCell = { kind: 'send', to: 'plate' };

  it('is moved by the same decibels: differences are kept (common practice, no published source)', () => {
    fc.assert(
      fc.property(fc.integer({ min: -10, max: 10 }), (step) => {
        const s = after(demo, shiftCell(demo, bass, level, step));
        for (const id of bass)
          expect(stripOf(s, id).faderDb! - stripOf(demo, id).faderDb!).toBeCloseTo(step, 6);
      }),
    );
  });
  it('that is set on one moves the others by as much', () => {
    const s = after(demo, setCell(demo, 'bass-di', bass, level, -12));
    expect(bass.map((id) => stripOf(s, id).faderDb)).toEqual([-12, -14, -15]);
    const silent = after(demo, setCell(demo, 'bass-di', bass, level, null));
    expect(bass.map((id) => stripOf(silent, id).faderDb)).toEqual([null, null, null]);
    // From silence there is no difference to keep.
    expect(
      bass.map((id) => stripOf(after(silent, setCell(silent, 'bass-di', bass, level, -6)), id).faderDb),
    ).toEqual([-6, -6, -6]);
  });
  it('stays within the range of a fader', () => {
    const up = after(demo, shiftFaders(demo, bass, 100));
    for (const id of bass) expect(stripOf(up, id).faderDb).toBe(FADER_TOP);
    expect(stepLevel(null, 1)).toBe(FADER_FLOOR);
    expect(stepLevel(FADER_FLOOR, -1)).toBeNull();
    expect(stepLevel(null, -1)).toBeNull();
  });
  it('is copied exactly, with tap, pan and switch where it is a send', () => {
    const src = after(
      demo,
      setSends(demo, ['rim'], 'plate', { tap: 'input', pan: 0.5, on: false, levelDb: -7 }),
    );
    const s = after(src, copyCell(src, 'rim', [...bass, 'rim', 'plate', 'main'], plate));
    for (const id of bass)
      expect(sendTo(s, id, 'plate')).toMatchObject({ tap: 'input', pan: 0.5, on: false, levelDb: -7 });
    expect(sendTo(s, 'plate', 'plate')).toBeUndefined();
    expect(copyCell(demo, 'bass-di', ['bass-mic'], plate)).toEqual([]);
    const levels = after(demo, copyCell(demo, 'bass-di', bass, level));
    expect(bass.map((id) => stripOf(levels, id).faderDb)).toEqual([-9, -9, -9]);
  });
  it('returns to its default', () => {
    const s = after(demo, [
      ...resetCell(demo, ['stomp', 'rim'], { kind: 'input' }),
      ...resetCell(demo, ['rim'], { kind: 'pan' }),
      ...resetCell(demo, ['rim', 'stomp'], plate),
    ]);
    expect(stripOf(s, 'stomp').trimDb).toBe(0);
    expect(stripOf(s, 'rim').pan).toBe(0);
    expect(sendTo(s, 'rim', 'plate')!.levelDb).toBe(0);
    // What is not there is not made by returning it to its default.
    expect(sendTo(s, 'stomp', 'plate')).toBeUndefined();
  });
  it('moves pan within the field, and trims to their top', () => {
    expect(
      cellValue(after(demo, shiftCell(demo, ['claps-r'], { kind: 'pan' }, 3)), 'claps-r', { kind: 'pan' }),
    ).toBe(1);
    expect(
      cellValue(after(demo, shiftCell(demo, ['skin'], { kind: 'input' }, 500)), 'skin', { kind: 'input' }),
    ).toBe(48);
  });
  it.each<[ValueCell, string, number | null]>([
    [level, '-6', -6],
    [level, '−6 dB', -6],
    [level, 'off', null],
    [{ kind: 'pan' }, 'L30', -0.3],
    [{ kind: 'input' }, '+24', 24],
  ])('%j reads %j as %s', (cell, text, value) => expect(readCell(cell, text)).toBe(value));
  it.each<[ValueCell, string, RegExp]>([
    [level, '+13', /up to 12/],
    [level, 'loud', /no level/],
    [{ kind: 'pan' }, 'left', /L30/],
    [{ kind: 'input' }, '49', /up to 48/],
  ])('%j does not read %j, and says what can be typed', (cell, text, message) =>
    expect(() => readCell(cell, text)).toThrow(message),
  );
  it('under a VCA shows its gap in the effective level alone', () => {
    const s = after(demo, setCell(demo, 'choir', ['choir'], level, -10));
    expect(stripOf(s, 'choir').faderDb).toBe(-10);
    expect(effectiveLevel(s, stripOf(s, 'choir'))).toBe(-11.5);
  });
});
