import type { Insert, Lanes, Link, Send, Session, Strip, StripKind, Vca } from './types';

/** The values that the session format gives to fields that are left out. */
export const stripDefaults = (kind: StripKind) =>
  ({
    family: '',
    colour: '#8aa0a0',
    channels: kind === 'source' ? 1 : 2,
    stem: null,
    trimDb: 0,
    invert: false,
    swap: false,
    width: 1,
    faderDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    soloSafe: kind === 'return',
    hidden: false,
    pair: kind === 'output' ? 1 : null,
    preamp: null,
    automation: 'read',
    lanes: {},
    inserts: [],
    sends: [],
  }) as const;

export const newStrip = (fields: Pick<Strip, 'id' | 'kind' | 'name' | 'out'> & Partial<Strip>): Strip => ({
  ...stripDefaults(fields.kind),
  ...fields,
});

export const newSend = (fields: Pick<Send, 'id' | 'to'> & Partial<Send>): Send => ({
  tap: 'post',
  levelDb: 0,
  pan: 0,
  on: true,
  lanes: {},
  ...fields,
});

export const newInsert = (fields: Pick<Insert, 'id' | 'type'> & Partial<Insert>): Insert => ({
  place: 'pre',
  on: true,
  mix: 1,
  params: {},
  key: null,
  lanes: {},
  ...fields,
});

/** Things out of the history of edits, kept before they had lanes. */
export const withLanes = <T extends { readonly lanes?: Lanes }>(thing: T): T & { readonly lanes: Lanes } => ({
  ...thing,
  lanes: thing.lanes ?? {},
});

export const newVca = (fields: Pick<Vca, 'id' | 'name'> & Partial<Vca>): Vca => ({
  colour: '#8aa0a0',
  faderDb: 0,
  mute: false,
  solo: false,
  automation: 'read',
  lanes: {},
  members: [],
  ...fields,
});

export const LINK_PARTS = ['fader', 'pan', 'mute', 'solo', 'sends', 'inserts', 'automation'] as const;

export const newLink = (fields: Pick<Link, 'id' | 'name'> & Partial<Link>): Link => ({
  on: true,
  members: [],
  parts: ['fader', 'mute', 'solo'],
  keeps: true,
  ...fields,
});

/** An empty session: one output, ready for stems. */
export const newSession = (name: string, sampleRate = 48000): Session => ({
  format: 'zonula-session',
  version: 1,
  name,
  sampleRate,
  panLaw: -3,
  tempo: { bpm: 120, beatsPerBar: 4, beatUnit: 4 },
  sections: [],
  strips: [newStrip({ id: 'main', kind: 'output', name: 'Main', out: { to: null, on: true } })],
  vcas: [],
  links: [],
  monitor: null,
  dismissed: [],
});
