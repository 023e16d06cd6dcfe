import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { apply } from '../../core/edits/apply';
import { newStrip } from '../../core/session/defaults';
import type { Change } from '../../core/edits/history';
import type { Lane, Session } from '../../core/session/types';
import { createApp } from '../app';
import { startServer, type TestServer } from '../testing/testServer';
import { compactHistories } from './compact';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

interface State {
  readonly revision: number;
  readonly document: Session;
  readonly history: readonly Change[];
  readonly undo: readonly { readonly changeId: string; readonly label: string }[];
  readonly redo: readonly { readonly changeId: string; readonly label: string }[];
}
const make = async () => (await server.ask('POST', '/sessions', { name: 'History' })).body.id as string;
const state = async (id: string) => (await server.ask('GET', `/sessions/${id}/state`)).body as State;
const send = (id: string, revision: number, change: object) =>
  server.ask('POST', `/sessions/${id}/commits`, { revision, changeId: randomUUID(), label: 'x', ...change });
const level = (n: number) => ({
  label: `edit ${n}`,
  commands: [{ type: 'strip.set', id: 'main', patch: { faderDb: -(n % 60) || 0 } }],
});
const fader = ({ document }: State) => document.strips.find((s) => s.id === 'main')!.faderDb;

it('150 edits, 120 undone, opened anew: the rest can be undone, and redo begins where undo ended', async () => {
  const id = await make();
  let revision = 0;
  for (let n = 1; n <= 150; n++) expect((await send(id, revision++, level(n))).status).toBe(200);
  for (let n = 0; n < 120; n++) expect((await send(id, revision++, { kind: 'undo' })).status).toBe(200);
  const opened = (await server.ask('POST', `/sessions/${id}/open`)).body as State;
  expect(opened.undo.map((e) => e.label)).toEqual(Array.from({ length: 30 }, (_, n) => `edit ${n + 1}`));
  expect(opened.redo.at(-1)!.label).toBe('edit 31');
  expect(fader(opened)).toBe(-30);
  // What it did is asked for by name, far beyond what came along.
  const asked = await server.ask('GET', `/sessions/${id}/changes/${opened.redo.at(-1)!.changeId}`);
  expect(asked.body.change).toMatchObject(level(31));
  for (let n = 31; n <= 150; n++) {
    const redone = await send(id, revision++, { kind: 'redo', of: (await state(id)).redo.at(-1)!.changeId });
    expect(redone.body.change.commands).toEqual(level(n).commands);
  }
  for (let n = 0; n < 150; n++) await send(id, revision++, { kind: 'undo' });
  const first = await state(id);
  expect([first.undo, fader(first), first.redo.length]).toEqual([[], 0, 150]);
});

it('an undo names its edit and does not carry it: what was accepted can be undone, however large', async () => {
  const id = await make();
  let revision = 0;
  // Three lanes of 60,000 points, with times and levels as a hand writes them.
  const lane = (n: number): Lane =>
    Array.from({ length: 60_000 }, (_, i) => [i / 100 + n / 1003, -60 * Math.abs(Math.sin(i / 300 + n))]);
  const strip = newStrip({ id: 'a', kind: 'source', name: 'A', out: { to: 'main', on: true } });
  await send(id, revision++, { commands: [{ type: 'strip.add', strip, at: 0 }] });
  for (const [control, values] of [
    ['fader', lane(1)],
    ['pan', lane(2).map(([t, v]) => [t, (v ?? 0) / 60])],
    ['mute', lane(3).map(([t], i) => [t, i % 2])],
  ] as const) {
    const lanes = { ...(await state(id)).document.strips[0]!.lanes, [control]: values };
    if (JSON.stringify(lanes).length < 4e6)
      expect(
        (await send(id, revision++, { commands: [{ type: 'strip.set', id: 'a', patch: { lanes } }] })).status,
      ).toBe(200);
  }
  const { document } = await state(id);
  expect((await send(id, revision++, { commands: [{ type: 'strip.remove', id: 'a' }] })).status).toBe(200);
  const { undo } = await state(id);
  const undone = await send(id, revision++, { kind: 'undo', of: undo.at(-1)!.changeId });
  expect(undone.status).toBe(200);
  const same = async (document: Session) =>
    expect(JSON.stringify((await state(id)).document) === JSON.stringify(document)).toBe(true);
  await same(document);
  // The same on top of what the largest edits may bring together.
  const big = document.strips[0]!;
  for (const n of [1, 2]) {
    const copy = { ...big, id: `b${n}`, lanes: { fader: big.lanes.fader } };
    expect(
      (await send(id, revision++, { commands: [{ type: 'strip.add', strip: copy, at: 0 }] })).status,
    ).toBe(200);
  }
  const before = (await state(id)).document;
  const all = ['a', 'b1', 'b2'].map((id) => ({ type: 'strip.remove', id }));
  const gone = await send(id, revision++, { commands: all });
  expect(JSON.stringify(gone.body.change.inverse).length).toBeGreaterThan(4 * 2 ** 20);
  expect((await send(id, revision++, { kind: 'undo' })).status).toBe(200);
  await same(before);
  // Opening stays light: what edits that large did is asked for when it is needed.
  const { history } = await state(id);
  expect(history.length).toBeLessThan(revision);
});

it('undo and redo are of the last edit, or refused; a change sent twice is kept once', async () => {
  const id = await make();
  expect((await send(id, 0, { kind: 'undo' })).body.error).toMatchObject({
    code: 'order',
    message: 'There is nothing to undo.',
  });
  const first = (await send(id, 0, level(1))).body.change as Change;
  const second = (await send(id, 1, level(2))).body.change as Change;
  expect((await send(id, 2, { kind: 'undo', of: first.changeId })).status).toBe(422);
  expect((await send(id, 2, { kind: 'undo', of: randomUUID() })).status).toBe(422);
  const undo = { kind: 'undo', of: second.changeId, changeId: randomUUID() };
  const kept = await send(id, 2, undo);
  const again = await send(id, 2, undo);
  expect(again.body).toEqual(kept.body);
  expect((await state(id)).revision).toBe(3);
  expect((await send(id, 3, { kind: 'redo', of: first.changeId })).status).toBe(422);
  expect((await send(id, 3, { kind: 'redo' })).body.change).toMatchObject({ of: second.changeId });
});

it('a window that was away for very long is told so, and takes the session as it is', async () => {
  const id = await make();
  for (let n = 0; n < 1050; n++) await send(id, n, level(n));
  const { changes, more } = (await server.ask('GET', `/sessions/${id}/changes?after=0`)).body;
  expect([changes.length, more]).toEqual([1000, true]);
  expect((await server.ask('GET', `/sessions/${id}/changes?after=100`)).body.more).toBe(false);
  const stale = await send(id, 0, level(1));
  expect(stale.status).toBe(409);
  expect([stale.body.error.missed.length, stale.body.error.revision]).toEqual([1000, 1050]);
  expect((await state(id)).revision).toBe(1050);
  // So many edits have had the sessions' dead rows cleared by the way: each edit leaves its whole document behind.
  await expect
    .poll(
      async () =>
        (
          (await server.sequelize.query(
            `SELECT vacuum_count::int AS n FROM pg_stat_user_tables WHERE relname = 'sessions'`,
          )) as unknown as [[{ n: number }]]
        )[0][0].n,
      { timeout: 30_000 },
    )
    .toBeGreaterThan(0);
}, 120_000);

describe('compacting', () => {
  it('lets old changes go, and no undo or redo that is left stops working', async () => {
    const id = await make();
    let revision = 0;
    for (let n = 1; n <= 60; n++) await send(id, revision++, level(n));
    for (let n = 0; n < 25; n++) await send(id, revision++, { kind: 'undo' });
    expect(await compactHistories(server.sequelize, 20)).toBeGreaterThan(30);
    const { undo, redo } = await state(id);
    // The 20 changes that stay are undos; the edits that they name stay with them.
    expect(redo.map((e) => e.label)).toEqual(Array.from({ length: 20 }, (_, n) => `edit ${55 - n}`));
    expect(undo).toEqual([]);
    for (const n of [36, 37, 38]) {
      expect((await send(id, revision++, { kind: 'redo' })).body.change.commands).toEqual(level(n).commands);
      expect(fader(await state(id))).toBe(-n);
    }
    expect((await send(id, revision, { kind: 'undo' })).status).toBe(200);
    expect(fader(await state(id))).toBe(-37);
    // Who stands before what was let go takes the session anew.
    expect((await server.ask('GET', `/sessions/${id}/changes?after=3`)).body).toEqual({
      changes: [],
      more: true,
    });
    const stale = await send(id, 3, level(1));
    expect([stale.status, stale.body.error.missed]).toEqual([409, []]);
  });
  it('never makes an edit wait', async () => {
    const ids = await Promise.all([make(), make()]);
    for (const id of ids) for (let n = 0; n < 120; n++) await send(id, n, level(n));
    let done = false;
    const compacting = compactHistories(server.sequelize, 5).finally(() => (done = true));
    let beside = 0;
    for (let n = 120; n < 160; n++) {
      for (const id of ids) expect((await send(id, n, level(n))).status).toBe(200);
      if (!done) beside++;
    }
    await compacting;
    expect(beside).toBeGreaterThan(0);
    expect((await state(ids[0])).revision).toBe(160);
  });
});

it('any order of edits, undos, redos, reopenings and compactings leaves the document that its changes give, and every undo undoes', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.constantFrom('edit', 'edit', 'edit', 'undo', 'undo', 'redo', 'reopen', 'compact'), {
        minLength: 5,
        maxLength: 40,
      }),
      async (steps) => {
        const id = await make();
        let { document, revision } = await state(id);
        let n = 0;
        const kept: Session[] = [document];
        for (const step of steps) {
          if (step === 'compact') {
            await compactHistories(server.sequelize, 3);
            continue;
          }
          const { undo, redo } = await state(id);
          if (step === 'reopen') {
            // A second instance of the program on the same database.
            const other = createApp({ sequelize: server.sequelize });
            await other.maintenance.close();
            await other.live.close();
            expect((await state(id)).undo).toEqual(undo);
            continue;
          }
          const able = step === 'edit' || (step === 'undo' ? undo : redo).length > 0;
          const answer = await send(id, revision, step === 'edit' ? level(++n) : { kind: step });
          expect(answer.status).toBe(able ? 200 : 422);
          if (!able) continue;
          revision++;
          const change = answer.body.change as Change;
          const next = apply(document, change.commands);
          expect(apply(next.session, change.inverse).session).toEqual(document);
          document = next.session;
          kept.push(document);
          expect((await state(id)).document).toEqual(document);
        }
        for (let { undo } = await state(id); undo.length; { undo } = await state(id)) {
          expect((await send(id, revision++, { kind: 'undo', of: undo.at(-1)!.changeId })).status).toBe(200);
          expect(kept.map((d) => JSON.stringify(d))).toContain(JSON.stringify((await state(id)).document));
        }
      },
    ),
    { numRuns: 12 },
  );
});

it('text that the database cannot keep is refused with the field, and what follows goes on', async () => {
  const id = await make();
  for (const name of ['a\0b', '\ud83c', 'x'.repeat(79) + '\ud83d']) {
    const answer = await send(id, 0, { commands: [{ type: 'strip.set', id: 'main', patch: { name } }] });
    expect(answer.status).toBe(422);
    expect(answer.body.error.message).toMatch(/name.*cannot be kept/);
  }
  expect((await send(id, 0, { label: 'a\0', ...{ commands: level(1).commands } })).status).toBe(400);
  for (const name of ['a\0', '\udfff'])
    expect((await server.ask('POST', '/sessions', { name })).status).toBe(400);
  expect((await server.ask('POST', '/sessions/a%00b/open')).status).toBe(404);
  expect((await server.ask('GET', '/sessions/a%00b')).status).toBe(404);
  const whole = `${'x'.repeat(78)}🎻`;
  expect(
    (await send(id, 0, { commands: [{ type: 'strip.set', id: 'main', patch: { name: whole } }] })).status,
  ).toBe(200);
});

it.each([
  ['GET', '/sessions/abc/changes', 404],
  ['GET', '/sessions/abc/state', 404],
  ['GET', '/sessions/abc/changes/def', 404],
  ['DELETE', `/presets/${'-'.repeat(36)}`, 404],
  ['PUT', `/presets/${'-'.repeat(36)}`, 422],
  ['DELETE', '/sessions/abc', 404],
  ['POST', '/sessions', 400],
  ['POST', '/presets', 422],
  ['POST', '/sessions/abc/commits', 400],
  ['GET', '/stems/%00', 404],
  ['GET', '/sessions/%zz', 400],
])(
  '%s %s without a body is refused with %i, and is no failure of the server',
  async (method, path, status) => {
    const answer = await server.ask(method, path);
    expect(answer.status).toBe(status);
    expect(answer.body.error.message).not.toMatch(/undefined|went wrong/);
  },
);

it('what hands reached for in the last hours is told: which strips, and when, of edits alone', async () => {
  const id = await make();
  const source = newStrip({ id: 'a', kind: 'source', name: 'A', out: { to: 'main', on: true } });
  await send(id, 0, { commands: [{ type: 'strip.add', at: 0, strip: source }] });
  const set = (strip: string, faderDb: number) => ({
    commands: [{ type: 'strip.set', id: strip, patch: { faderDb } }],
  });
  await send(id, 1, set('a', -3));
  await send(id, 2, set('a', -4));
  await send(id, 3, set('main', -1));
  await send(id, 4, set('a', -5));
  const { status, body } = await server.ask('GET', `/sessions/${id}/uses?hours=1`);
  expect(status).toBe(200);
  const { uses } = body as unknown as { uses: { strip: string; at: number }[] };
  expect(uses.map((u) => u.strip)).toEqual(['a', 'main', 'a']);
  expect(Math.abs(uses.at(-1)!.at - Date.now())).toBeLessThan(60_000);
  expect((await server.ask('GET', `/sessions/${id}/uses?hours=0`)).status).toBe(400);
  expect((await server.ask('GET', `/sessions/${randomUUID()}/uses`)).status).toBe(404);
});
