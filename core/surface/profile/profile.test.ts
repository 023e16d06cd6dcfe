import Ajv2020 from 'ajv/dist/2020';
import { describe, expect, it } from 'vitest';
import { deskJsonSchema, validDesk } from '../desk/validDesk';
import { newDesk } from '../desk/desk';
import { standIns } from '../stands/stands';
import { simulatedDesk } from '../stands/motorFaders';
import version1 from './fixtures/version1.json';
import { profileJsonSchema, validProfile } from './validProfile';

const ajv = new Ajv2020({ strict: false, useDefaults: false });
const profileSchema = ajv.compile(profileJsonSchema() as object);
const deskSchema = ajv.compile(deskJsonSchema() as object);
const fader = (more: object = {}) => ({
  id: 'f',
  kind: 'fader',
  position: 0,
  in: { type: 'control14', channel: 1, controller: 1 },
  ...more,
});
const profile = (controls: readonly object[], more: object = {}) => ({
  format: 'zonula-surface',
  version: 2,
  id: 'mine',
  name: 'Mine',
  width: 2,
  controls,
  ...more,
});

describe('a profile', () => {
  it.each(standIns.map((p) => [p.id, p] as const))(
    'of the stand-in %s is a valid one, by both descriptions',
    (_, p) => {
      expect(validProfile(p)).toEqual(p);
      expect(profileSchema(p), JSON.stringify(profileSchema.errors)).toBe(true);
    },
  );
  it('of version 1 still opens: buttons are keys, relative messages a coding, rings things of their own', () => {
    const read = validProfile(version1);
    expect(read.version).toBe(2);
    expect(read.controls).toHaveLength(version1.controls.length);
    expect(read.controls.find((c) => c.id === 'encoder1')).toMatchObject({
      kind: 'encoder',
      coding: 'offset',
      in: { type: 'control', channel: 15, controller: 70 },
      ring: { address: { type: 'control', channel: 15, controller: 70 } },
    });
    expect(read.controls.find((c) => c.id === 'bankRight')).toMatchObject({
      kind: 'key',
      role: 'bankRight',
      light: { on: 127 },
    });
    // What it said to a device then, the stand-in of today still understands.
    for (const id of ['fader1', 'mute3', 'play'])
      expect(read.controls.find((c) => c.id === id)).toMatchObject({
        in: (simulatedDesk.controls.find((c) => c.id === id) as { in: object }).in,
      });
  });
  it.each([
    ['no controls', profile([]), /"controls"/],
    [
      'a channel that there is not',
      profile([fader({ in: { type: 'control14', channel: 17, controller: 1 } })]),
      /"controls\[0\]\.in\.channel"/,
    ],
    ['a field that there is not', { ...profile([fader()]), surprise: true }, /"surprise"/],
    ['a kind that there is not', profile([{ id: 'x', kind: 'lever' }]), /"controls\[0\]\.kind"/],
    [
      'a role that there is not',
      profile([{ id: 'k', kind: 'key', role: 'coffee', in: { type: 'note', channel: 1, note: 1 } }]),
      /"controls\[0\]\.role"/,
    ],
    ['a place beyond its width', profile([fader({ position: 5 })]), /"controls\[0\]\.position"/],
    [
      'two controls of one id',
      profile([fader(), fader({ in: { type: 'pitchBend', channel: 2 } })]),
      /"controls\[1\]\.id"/,
    ],
    [
      'two that say the same',
      profile([fader(), fader({ id: 'g', position: 1 })]),
      /"controls\[1\]\.in".*cannot be told apart/,
    ],
    [
      'one whose lower half another says',
      profile([
        fader(),
        fader({ id: 'g', position: 1, in: { type: 'control', channel: 1, controller: 33 } }),
      ]),
      /"controls\[1\]\.in"/,
    ],
    [
      'a user key without a number',
      profile([{ id: 'k', kind: 'key', role: 'user', in: { type: 'note', channel: 1, note: 1 } }]),
      /"controls\[0\]\.user"/,
    ],
    [
      "a strip's key without a place",
      profile([{ id: 'k', kind: 'key', role: 'mute', in: { type: 'note', channel: 1, note: 1 } }]),
      /"controls\[0\]\.position"/,
    ],
    [
      'controls that overlap',
      profile([
        fader({ place: { x: 0, y: 0, width: 20, height: 90 } }),
        fader({
          id: 'g',
          position: 1,
          in: { type: 'pitchBend', channel: 2 },
          place: { x: 19, y: 50, width: 20, height: 90 },
        }),
      ]),
      /"controls\[1\]\.place" lies over that of controls\[0\]/,
    ],
    [
      'a control beside the device',
      profile([fader({ place: { x: 90, y: 0, width: 20, height: 90 } })], {
        size: { width: 100, height: 100 },
      }),
      /"controls\[0\]\.place" reaches beyond/,
    ],
    ['a later version', { ...profile([fader()]), version: 3 }, /"version"/],
    ['text for a number', { ...profile([fader()]), width: '2' }, /"width"/],
    ['nothing', null, /not understood/],
  ])("with %s is refused by the field's path", (_, raw, message) => {
    expect(() => validProfile(raw)).toThrow(message);
  });
  it('touching places do not overlap', () => {
    expect(() =>
      validProfile(
        profile([
          fader({ place: { x: 0, y: 0, width: 20, height: 90 } }),
          fader({
            id: 'g',
            position: 1,
            in: { type: 'pitchBend', channel: 2 },
            place: { x: 20, y: 0, width: 20, height: 90 },
          }),
        ]),
      ),
    ).not.toThrow();
  });
});

describe('a desk', () => {
  const desk = newDesk('d', 'D', standIns);
  it('is valid by both descriptions, and units of one profile have names of their own', () => {
    expect(validDesk(desk)).toEqual(desk);
    expect(deskSchema(desk), JSON.stringify(deskSchema.errors)).toBe(true);
    const two = newDesk('d', 'D', [standIns[0]!, standIns[0]!]);
    expect(new Set(two.units.map((u) => u.name)).size).toBe(2);
  });
  it.each([
    ['two units of one id', { ...desk, units: [desk.units[0], desk.units[0]] }, /two units `unit-1`/],
    [
      'a user key twice',
      {
        ...desk,
        userKeys: [
          { key: 1, layer: 1, action: 'a' },
          { key: 1, layer: 1, action: 'b' },
        ],
      },
      /user key 1 on layer 1/,
    ],
    [
      'a layer that there is not',
      { ...desk, userKeys: [{ key: 1, layer: 3, action: 'a' }] },
      /"userKeys\[0\]\.layer"/,
    ],
    [
      'a connection that there is not',
      { ...desk, units: [{ ...desk.units[0], connection: { type: 'wire' } }] },
      /"units\[0\]\.connection\.type"/,
    ],
    ['no name', { ...desk, name: '' }, /"name"/],
  ])('with %s is refused', (_, raw, message) => expect(() => validDesk(raw)).toThrow(message));
});
