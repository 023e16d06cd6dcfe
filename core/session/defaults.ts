import { defaultsOf } from './fields/shape';
import { INSERT, LINK, SEND, SESSION, STRIP, VCA } from './fields/tables';
import type { Insert, Link, Send, Session, Strip, StripKind, Vca } from './types';

export { LINK_PARTS } from './fields/tables';

/** The values that the session format gives to fields of a strip that are left out. */
export const stripDefaults = (kind: StripKind) =>
  defaultsOf(STRIP, kind) as unknown as Omit<Strip, 'id' | 'kind'>;

export const newStrip = (fields: Pick<Strip, 'id' | 'kind' | 'name' | 'out'> & Partial<Strip>): Strip => ({
  ...stripDefaults(fields.kind),
  ...fields,
});

const SEND_DEFAULTS = defaultsOf(SEND) as unknown as Omit<Send, 'id' | 'to'>;
export const newSend = (fields: Pick<Send, 'id' | 'to'> & Partial<Send>): Send => ({
  ...SEND_DEFAULTS,
  ...fields,
});

const INSERT_DEFAULTS = defaultsOf(INSERT) as unknown as Omit<Insert, 'id' | 'type'>;
export const newInsert = (fields: Pick<Insert, 'id' | 'type'> & Partial<Insert>): Insert => ({
  ...INSERT_DEFAULTS,
  ...fields,
});

const VCA_DEFAULTS = defaultsOf(VCA) as unknown as Omit<Vca, 'id' | 'name'>;
export const newVca = (fields: Pick<Vca, 'id' | 'name'> & Partial<Vca>): Vca => ({
  ...VCA_DEFAULTS,
  ...fields,
});

const LINK_DEFAULTS = defaultsOf(LINK) as unknown as Omit<Link, 'id' | 'name'>;
export const newLink = (fields: Pick<Link, 'id' | 'name'> & Partial<Link>): Link => ({
  ...LINK_DEFAULTS,
  ...fields,
});

/** An empty session: one output, ready for stems. */
export const newSession = (name: string, sampleRate = 48000): Session => ({
  format: 'zonula-session',
  version: 1,
  ...(defaultsOf(SESSION) as unknown as Omit<
    Session,
    'format' | 'version' | 'name' | 'sampleRate' | 'strips'
  >),
  name,
  sampleRate,
  strips: [
    newStrip({ id: 'main', kind: 'output', name: 'Main', icon: 'speaker', out: { to: null, on: true } }),
  ],
});
