import { randomUUID } from 'node:crypto';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { apply } from '../../core/edits/apply';
import { newStrip } from '../../core/session/defaults';
import type { Session } from '../../core/session/types';
import { automatedSessions, sessions } from '../../core/testing/arbitraries';
import { connect } from '../database/database';
import { startServer, type TestServer } from '../testing/testServer';
import { bytesOf, documentsOf, documentText, SNAPSHOT_EVERY } from './documents';
import { findSession } from './sessions';

let server: TestServer;
let id: string;
let revision: number;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());
beforeEach(async () => {
  ({ id } = (await server.ask('POST', '/sessions', { name: 'Edited' })).body);
  revision = 0;
  await send({
    commands: [
      {
        type: 'strip.add',
        at: 0,
        strip: newStrip({ id: 'a', kind: 'source', name: 'A', out: { to: 'main', on: true } }),
      },
    ],
  });
});

const send = async (change: object) => {
  const label = `edit ${revision}`;
  const answer = await server.ask('POST', `/sessions/${id}/commits`, {
    revision,
    changeId: randomUUID(),
    label,
    ...change,
  });
  if (answer.status === 200) revision++;
  return answer;
};
const level = (faderDb: number) => ({ commands: [{ type: 'strip.set', id: 'a', patch: { faderDb } }] });
const sql = async <T>(text: string): Promise<T> =>
  ((await server.sequelize.query(text, { bind: [id], type: QueryTypes.SELECT })) as T[])[0]!;
const snapshot = () =>
  sql<{ revision: number; document: string }>(
    'SELECT revision, document FROM session_snapshots WHERE session_id = $1',
  );
/** As a program sees it that has nothing in memory. */
const afresh = async () => {
  const other = connect(server.url);
  try {
    return await findSession(other, id);
  } finally {
    await other.close();
  }
};

describe('a document', () => {
  it('is not written by an edit, and is found by whoever comes anew', async () => {
    for (let n = 1; n < 12; n++) await send(level(-n));
    await send({ kind: 'undo' });
    await send({ kind: 'undo' });
    await send({ kind: 'redo' });
    expect((await snapshot()).revision).toBe(0);
    const found = await afresh();
    expect(found.revision).toBe(revision);
    expect(found.document.strips.find((s) => s.id === 'a')!.faderDb).toBe(-10);
    expect((await server.ask('GET', `/sessions/${id}/state`)).body.document).toEqual(found.document);
  });

  it('is written now and then, so that no long past has to be done again', async () => {
    for (let n = 1; n < SNAPSHOT_EVERY + 5; n++) await send(level(-n / 10));
    await documentsOf(server.sequelize).settled();
    const { revision: at, document } = await snapshot();
    expect(at).toBe(SNAPSHOT_EVERY);
    const kept = JSON.parse(document) as Session;
    expect(kept.strips.find((s) => s.id === 'a')!.faderDb).toBe(-(SNAPSHOT_EVERY - 1) / 10);
    expect((await afresh()).document.strips.find((s) => s.id === 'a')!.faderDb).toBe(
      -(SNAPSHOT_EVERY + 4) / 10,
    );
  });

  it('in memory gives way to what another program has kept', async () => {
    await send(level(-3));
    // Another program puts another past of the same length in its place, as a restored backup does.
    await server.sequelize.query(
      `UPDATE session_snapshots SET revision = 2, document = (
         SELECT jsonb_set(document::jsonb, '{name}', '"Restored"')::text FROM session_snapshots WHERE session_id = $1)
       WHERE session_id = $1`,
      { bind: [id] },
    );
    await server.sequelize.query('UPDATE sessions SET updated_at = now() WHERE id = $1', { bind: [id] });
    expect((await server.ask('GET', `/sessions/${id}/state`)).body.document.name).toBe('Restored');
  });

  it('whose edit was refused is what it was, in memory too', async () => {
    await send(level(-3));
    const refused = await send({ commands: [...level(-9).commands, { type: 'strip.remove', id: 'nobody' }] });
    expect(refused.status).toBe(404);
    const { document } = (await server.ask('GET', `/sessions/${id}/state`)).body;
    expect(document).toEqual((await afresh()).document);
    expect(document.strips[0].faderDb).toBe(-3);
  });

  it('that is missing, or whose changes are, is told by the doctor and by who asks', async () => {
    await send(level(-3));
    await server.sequelize.query('DELETE FROM session_changes WHERE session_id = $1 AND revision = 1', {
      bind: [id],
    });
    await expect(afresh()).rejects.toThrow('Changes of session');
    await server.sequelize.query('DELETE FROM session_snapshots WHERE session_id = $1', { bind: [id] });
    await expect(afresh()).rejects.toThrow('is missing from the database');
    await server.ask('DELETE', `/sessions/${id}`);
  });
});

it('a document is written as JSON writes it, and counted as large, before an edit and after', () => {
  fc.assert(
    fc.property(fc.oneof(sessions(8), automatedSessions(5)), (session) => {
      const [first] = session.strips;
      const next = apply(session, [
        { type: 'strip.set', id: first!.id, patch: { name: 'Größer ♪' } },
      ]).session;
      for (const s of [session, next, { ...session, strips: [] }]) {
        expect(documentText(s)).toBe(JSON.stringify(s));
        expect(bytesOf(s)).toBe(Buffer.byteLength(JSON.stringify(s)));
      }
    }),
  );
});
