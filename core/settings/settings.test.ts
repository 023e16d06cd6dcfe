import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { apply } from '../edits/apply';
import { checkSession } from '../edits/invariants';
import { stripOf } from '../session/lookup';
import {
  applyPreset,
  presetMatches,
  presetOfInsert,
  presetOfStrip,
  validPreset,
  type Preset,
} from './preset';
import { SHIPPED_PRESETS } from './shipped';
import { pasteSettings, settingsOf, SETTINGS_PARTS } from './stripSettings';

const demo = demoSession();
const pasted = (from: string, to: readonly string[], parts: readonly (typeof SETTINGS_PARTS)[number][]) => {
  const { commands, left } = pasteSettings(demo, settingsOf(demo, from), to, parts);
  const session = apply(demo, commands).session;
  checkSession(session);
  return { session, left };
};

describe('settings that are given to other strips', () => {
  it('are given in the chosen parts alone', () => {
    const { session } = pasted('plate', ['slap'], ['fader', 'input']);
    const [from, to] = [stripOf(demo, 'plate'), stripOf(session, 'slap')];
    expect(to).toMatchObject({ faderDb: from.faderDb, pan: from.pan, trimDb: from.trimDb });
    expect(to.inserts).toEqual(stripOf(demo, 'slap').inserts);
    expect(to.colour).toBe(stripOf(demo, 'slap').colour);
    expect(to.icon).toBe('echo');
    expect(stripOf(pasted('plate', ['slap'], ['colour']).session, 'slap').icon).toBe('reverb');
  });

  it('put inserts and sends in the place of those that were there, each with an id of its own', () => {
    const { session } = pasted('choir', ['percussion', 'fiddle-close'], ['inserts', 'sends']);
    const from = stripOf(demo, 'choir');
    for (const id of ['percussion', 'fiddle-close']) {
      const to = stripOf(session, id);
      expect(to.inserts.map((i) => [i.type, i.params, i.mix])).toEqual(
        from.inserts.map((i) => [i.type, i.params, i.mix]),
      );
      expect(to.sends.map((x) => [x.to, x.levelDb, x.tap])).toEqual(
        from.sends.map((x) => [x.to, x.levelDb, x.tap]),
      );
      for (const i of to.inserts) expect(from.inserts.some((j) => j.id === i.id)).toBe(false);
    }
  });

  it('leave out what would make a loop, and tell it', () => {
    const source = demo.strips.find((s) => s.sends.some((x) => x.to === 'plate'))!;
    const { session, left } = pasted(source.id, ['plate'], ['sends', 'out']);
    expect(stripOf(session, 'plate').sends.some((x) => x.to === 'plate')).toBe(false);
    expect(left.join()).toMatch(/Plate/);
  });

  it('whole, undone, leave everything as it was', () => {
    const { commands } = pasteSettings(
      demo,
      settingsOf(demo, 'lead-voice'),
      ['lead-double', 'whistle'],
      SETTINGS_PARTS,
    );
    const done = apply(demo, commands);
    expect(apply(done.session, done.inverse).session).toEqual(demo);
  });
});

describe('presets', () => {
  it('that are shipped are valid, have names of their own, and fit every stereo strip', () => {
    expect(new Set(SHIPPED_PRESETS.map((p) => p.name)).size).toBe(SHIPPED_PRESETS.length);
    for (const p of SHIPPED_PRESETS) {
      expect(JSON.parse(JSON.stringify(validPreset(JSON.parse(JSON.stringify(p)))))).toEqual(
        JSON.parse(JSON.stringify(p)),
      );
      const { commands } = applyPreset(demo, p, ['choir']);
      checkSession(apply(demo, commands).session);
    }
  });

  it('keep a strip and bring it back in another session, by the names of returns and keys', () => {
    const preset = validPreset(JSON.parse(JSON.stringify(presetOfStrip(demo, 'plate', 'My plate'))));
    const other = {
      ...demo,
      strips: demo.strips.map((s) => (s.id === 'pulse' ? { ...s, name: 'Other' } : s)),
    };
    const here = applyPreset(demo, preset, ['slap']);
    expect(here.left).toEqual([]);
    const made = stripOf(apply(demo, here.commands).session, 'slap');
    expect(made.inserts.map((i) => [i.type, i.params, i.key])).toEqual(
      stripOf(demo, 'plate').inserts.map((i) => [i.type, i.params, i.key]),
    );
    expect(made.icon).toBe('reverb');
    // A preset that was kept before there were icons leaves the strip’s own.
    const before = { ...preset, icon: undefined };
    const old = applyPreset(demo, validPreset(before), ['slap']);
    expect(stripOf(apply(demo, old.commands).session, 'slap').icon).toBe('echo');
    expect(() => validPreset({ ...before, icon: 'zither' })).toThrow(/icon/);
    expect(applyPreset(other, preset, ['slap']).left.join()).toMatch(/Pulse/);
  });

  it('of one processor set the insert that is shown, and add one elsewhere', () => {
    const strip = demo.strips.find((s) => s.inserts.some((i) => i.type === 'compressor'))!;
    const insert = strip.inserts.find((i) => i.type === 'compressor')!;
    const preset = presetOfInsert(demo, strip.id, { ...insert, params: { ratio: 7 } }, 'Seven');
    const set = apply(demo, applyPreset(demo, preset, [strip.id], insert.id).commands).session;
    expect(stripOf(set, strip.id).inserts).toHaveLength(strip.inserts.length);
    expect(stripOf(set, strip.id).inserts.find((i) => i.id === insert.id)!.params).toEqual({ ratio: 7 });
    const added = apply(demo, applyPreset(demo, preset, ['fiddle-close', 'harp-low']).commands).session;
    expect(stripOf(added, 'fiddle-close').inserts.at(-1)!.params).toEqual({ ratio: 7 });
    expect(stripOf(added, 'fiddle-close').inserts).toHaveLength(
      stripOf(demo, 'fiddle-close').inserts.length + 1,
    );
  });

  it('are found by words of their name, purpose and processors, in any order', () => {
    const found = (q: string) => SHIPPED_PRESETS.filter((p) => presetMatches(p, q)).map((p) => p.name);
    expect(found('tail ducked')).toEqual(['Ducked tail']);
    expect(found('reverb return').length).toBeGreaterThan(2);
    expect(found('nothing of the kind')).toEqual([]);
    expect(found('')).toHaveLength(SHIPPED_PRESETS.length);
  });

  it('that are wrong are refused by the field; those of a later version by their version', () => {
    const good = SHIPPED_PRESETS[0]! as Preset & { inserts: unknown[] };
    const json = (more: object) => ({ ...JSON.parse(JSON.stringify(good)), ...more });
    expect(() => validPreset(json({ version: 2 }))).toThrow(/later version/);
    expect(() => validPreset(json({ inserts: [{ type: 'compressor', params: { ratio: 900 } }] }))).toThrow(
      /ratio/,
    );
    expect(() => validPreset(json({ kind: 'song' }))).toThrow(/kind/);
    expect(() => validPreset(json({ swing: 1 }))).toThrow(/swing/);
  });

  it('have a published schema that says the same', async () => {
    const { default: Ajv } = await import('ajv/dist/2020');
    const schema = JSON.parse(
      readFileSync(new URL('../../docs/preset.schema.json', import.meta.url), 'utf8'),
    );
    const check = new Ajv({ strict: false }).compile(schema);
    for (const p of SHIPPED_PRESETS)
      expect(check(JSON.parse(JSON.stringify(p))), JSON.stringify(check.errors)).toBe(true);
    expect(check({ format: 'zonula-preset', version: 1, kind: 'strip', name: '' })).toBe(false);
    expect(
      check({
        format: 'zonula-preset',
        version: 1,
        kind: 'processor',
        name: 'x',
        insert: { type: 'gate', params: { hold: -1 } },
      }),
    ).toBe(false);
    const { presetJsonSchema } = await import('../formats/presetSchema');
    expect(schema).toEqual(JSON.parse(JSON.stringify(presetJsonSchema())));
  });
});
