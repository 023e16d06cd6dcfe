import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { validSession } from '../formats/sessionDocument';
import { apply } from '../edits/apply';
import { newStrip } from './defaults';
import { migrate } from './migrate';
import { Refusal } from '../base/refusal';
import type { Session } from './types';

type Loose = Record<string, unknown>;
const without = (thing: object, ...names: string[]): Loose =>
  Object.fromEntries(Object.entries(thing).filter(([name]) => !names.includes(name)));
const strips = (document: Loose, change: (s: Loose) => Loose): Loose => ({
  ...document,
  strips: (document.strips as Loose[]).map(change),
});
const inside = (s: Loose, ...names: string[]): Loose => ({
  ...s,
  sends: (s.sends as Loose[]).map((x) => without(x, ...names)),
  inserts: (s.inserts as Loose[]).map((i) => without(i, ...names)),
});

/** What programs of before kept, newest first, each without what came after it: see server/database/migrations. */
const now = demoSession();
const beforeAutomation = {
  ...strips({ ...now }, (s) => inside(without(s, 'automation', 'lanes'), 'lanes')),
  vcas: now.vcas.map((v) => without(v, 'automation', 'lanes')),
};
const beforePreamplifiers = strips(beforeAutomation, (s) => without(s, 'preamp'));
const beforeLinks = without(beforePreamplifiers, 'links');
const beforeOutputs = without(
  strips(beforeLinks, (s) => without(s, 'pair')),
  'monitor',
  'dismissed',
);
const AGES = { beforeAutomation, beforePreamplifiers, beforeLinks, beforeOutputs };

describe('a document of an earlier program', () => {
  it.each(Object.entries(AGES))(
    '%s is read as a package of it is, and means what it meant',
    (_age, document) => {
      const read = migrate(document as unknown as Session);
      expect(read).toEqual(validSession(document));
      expect(read).toEqual(now);
    },
  );
  it('that lacks nothing is the same object, and so is what lacks nothing in it', () => {
    expect(migrate(now)).toBe(now);
    const old = migrate(without(now, 'links') as unknown as Session);
    expect(old.strips).toBe(now.strips);
  });
  it('of a later version is refused by the name of both', () => {
    const later = { ...now, version: 7 } as unknown as Session;
    expect(() => migrate(later)).toThrow(Refusal);
    expect(() => migrate(later)).toThrow(/version 7.*up to version 1/);
  });
});

it('an edit that was kept before lanes and links adds things that have all their fields', () => {
  const strip = newStrip({ id: 'old', kind: 'return', name: 'Old', out: { to: 'main', on: true } });
  const kept = without(strip, 'automation', 'lanes', 'soloSafe', 'preamp');
  const { session, inverse } = apply(now, [{ type: 'strip.add', strip: kept as never, at: 0 }]);
  expect(session.strips[0]).toEqual(strip);
  expect(apply(session, inverse).session).toEqual(now);
});
