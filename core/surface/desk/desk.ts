import { field, type Values } from '../../session/fields/shape';

/** How a control that no motor moves takes hold of a value. */
export const PICKUPS = ['catch', 'scale', 'jump'] as const;
/** Which of several equalizers, or compressors, of a strip the encoders take first. */
export const FIRSTS = ['first', 'last', 'afterFader'] as const;

export const UNIT = {
  id: field({ kind: 'id' }),
  name: field({ kind: 'text', most: 80 }, { default: '' }),
  profile: field(
    { kind: 'text', most: 40 },
    { about: 'The id of the profile by which it speaks; empty for a device that has yet to be learned.' },
  ),
  connection: field(
    {
      kind: 'oneOf',
      by: 'type',
      of: {
        simulated: {
          device: field(
            { kind: 'text', most: 40, nullable: true },
            { default: null, about: 'The stand-in that speaks; null: the one of its profile.' },
          ),
        },
        midi: {
          input: field({ kind: 'text', most: 200 }, { about: 'Name of the port that it is heard by.' }),
          output: field(
            { kind: 'text', most: 200, nullable: true },
            { default: null, about: 'Name of the port that it is answered by.' },
          ),
          nth: field(
            { kind: 'number', min: 0, max: 63, whole: true },
            { default: 0, about: 'Which of several ports of that name, from 0.' },
          ),
        },
      },
    },
    { default: { type: 'simulated', device: null } },
  ),
  pickup: field(
    { kind: 'choice', values: ['profile', ...PICKUPS] },
    { default: 'profile', about: 'How controls without motors take hold; `profile`: as its profile says.' },
  ),
} as const;

export const USER_KEY = {
  key: field({ kind: 'number', min: 1, max: 32, whole: true }),
  layer: field({ kind: 'choice', values: [1, 2] }, { default: 1 }),
  action: field({ kind: 'text', least: 1, most: 80 }, { about: 'The id of an action of the palette.' }),
} as const;

/** Fields of a desk: the units of a studio in their order, and how they work together. */
export const DESK = {
  id: field({ kind: 'id' }),
  name: field({ kind: 'text', least: 1, most: 80 }),
  units: field({ kind: 'list', of: { kind: 'object', fields: UNIT }, most: 16 }, { default: [] }),
  joined: field({ kind: 'flag' }, { default: true, about: 'Whether its units share one window.' }),
  bankBy: field(
    { kind: 'choice', values: ['width', 'eight'] },
    { default: 'width', about: 'How far a bank key goes.' },
  ),
  reach: field(
    { kind: 'text', least: 1, most: 40 },
    { default: 'all', about: 'What the joined window shows.' },
  ),
  follows: field(
    { kind: 'flag' },
    { default: true, about: 'Whether the page opens the editor of what is under the encoders.' },
  ),
  equalizer: field(
    { kind: 'choice', values: FIRSTS },
    { default: 'first', about: 'Which equalizer of a strip comes up first.' },
  ),
  compressor: field(
    { kind: 'choice', values: FIRSTS },
    { default: 'first', about: 'Which compressor of a strip comes up first.' },
  ),
  userKeys: field({ kind: 'list', of: { kind: 'object', fields: USER_KEY }, most: 64 }, { default: [] }),
} as const;

export interface Desk extends Values<typeof DESK> {
  readonly format: 'zonula-desk';
  readonly version: 1;
}
export type Unit = Desk['units'][number];
export type DeskPatch = Partial<Omit<Desk, 'format' | 'version' | 'id'>>;
export type Pickup = (typeof PICKUPS)[number];

/** A unit of a desk, an id that no other has. */
export function newUnit(desk: Pick<Desk, 'units'>, profile: { id: string; name: string }): Unit {
  const used = new Set(desk.units.map((u) => u.id));
  let n = 1;
  while (used.has(`unit-${n}`)) n++;
  const same = desk.units.filter((u) => u.profile === profile.id).length;
  return {
    id: `unit-${n}`,
    name: same ? `${profile.name} ${same + 1}` : profile.name,
    profile: profile.id,
    connection: { type: 'simulated', device: null },
    pickup: 'profile',
  };
}

/** A desk of these profiles, in their order. */
export function newDesk(
  id: string,
  name: string,
  profiles: readonly { readonly id: string; readonly name: string }[],
): Desk {
  let desk: Desk = {
    format: 'zonula-desk',
    version: 1,
    id,
    name,
    units: [],
    joined: true,
    bankBy: 'width',
    reach: 'all',
    follows: true,
    equalizer: 'first',
    compressor: 'first',
    userKeys: [],
  };
  for (const p of profiles) desk = { ...desk, units: [...desk.units, newUnit(desk, p)] };
  return desk;
}
