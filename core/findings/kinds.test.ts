import { expect, it } from 'vitest';
import { largeSession } from '../../demo/large';
import { apply } from '../edits/apply';
import { checkSession } from '../edits/invariants';
import { dismissAll, findings } from './findings';
import { mendedTogether, toldTogether } from './kinds';

const large = largeSession();
/** Returns that a solo would silence, and nothing else that is new. */
const unsafe = {
  ...large,
  strips: large.strips.map((s) => (s.kind === 'return' ? { ...s, soloSafe: false } : s)),
};

it('findings of one rule are told as one where there are many, and each is in it once', () => {
  const all = findings(unsafe);
  const told = toldTogether(all);
  expect(told.length).toBeLessThan(12);
  const inside = told.flatMap((t) => (t.kind === 'one' ? [t.finding] : t.list));
  expect(new Set(inside.map((f) => f.key))).toEqual(new Set(all.map((f) => f.key)));
  expect(inside).toHaveLength(all.length);
  const kinds = told.map((t) => (t.kind === 'one' ? t.finding : t.list[0]!));
  expect(new Set(kinds.map((f) => `${f.severity} ${f.rule}`)).size).toBe(kinds.length);
  const two = all.filter((f) => f.rule === 'not-solo-safe').slice(0, 2);
  expect(toldTogether(two).map((t) => t.kind)).toEqual(['one', 'one']);
});
it('all of a kind are mended in one step, and are not found again', () => {
  const list = findings(unsafe).filter((f) => f.rule === 'not-solo-safe');
  expect(list).toHaveLength(10);
  const { commands, mended } = mendedTogether(unsafe, list);
  expect(mended).toEqual(list);
  const { session, inverse } = apply(unsafe, commands);
  checkSession(session);
  expect(findings(session).filter((f) => f.rule === 'not-solo-safe')).toEqual([]);
  expect(apply(session, inverse).session).toEqual(unsafe);
});
it('what cannot follow on another repair is left out, and the rest is done', () => {
  const [first, second] = findings(unsafe).filter((f) => f.rule === 'not-solo-safe') as [
    ReturnType<typeof findings>[number],
    ReturnType<typeof findings>[number],
  ];
  const gone = {
    ...first,
    repair: { label: 'of what is not there', commands: [{ type: 'strip.remove', id: 'nobody' }] },
  } as typeof first;
  const { mended } = mendedTogether(unsafe, [gone, second]);
  expect(mended).toEqual([second]);
});
it('all of a kind are let stand in one step', () => {
  const list = findings(unsafe).filter((f) => f.rule === 'not-solo-safe');
  const { session } = apply(unsafe, dismissAll(unsafe, list));
  expect(session.dismissed).toEqual(list.map((f) => f.key));
});
