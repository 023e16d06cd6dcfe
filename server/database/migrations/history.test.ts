import { randomUUID } from 'node:crypto';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { newStrip } from '../../../core/session/defaults';
import { startServer, type TestServer } from '../../testing/testServer';
import { toneFile } from '../../testing/wav';
import { documentsOf } from '../../sessions/documents';
import { down, up } from './2026-11-007-history-and-references';
import * as snapshots from './2026-11-009-snapshots';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

it('histories of before know what their undos took back, and sessions hold the stems that they name', async () => {
  const { id } = (await server.ask('POST', '/sessions', { name: 'Old' })).body;
  const { stem } = (await server.ask('POST', '/stems?name=a.wav&rate=48000', toneFile(500))).body;
  const { stem: other } = (await server.ask('POST', '/stems?name=b.wav&rate=48000', toneFile(700))).body;
  const send = (revision: number, change: object) =>
    server.ask('POST', `/sessions/${id}/commits`, {
      revision,
      changeId: randomUUID(),
      label: `edit ${revision}`,
      ...change,
    });
  const strip = newStrip({ id: 'a', kind: 'source', name: 'A', stem, out: { to: 'main', on: true } });
  await send(0, { commands: [{ type: 'strip.add', strip, at: 0 }] });
  for (let n = 1; n < 6; n++)
    await send(n, { commands: [{ type: 'strip.set', id: 'main', patch: { faderDb: -n } }] });
  for (let n = 6; n < 9; n++) await send(n, { kind: 'undo' });
  await send(9, { kind: 'redo' });
  await send(10, { kind: 'undo' });
  const state = async () => (await server.ask('GET', `/sessions/${id}/state`)).body;
  const before = await state();
  expect(before.redo.map((e: { label: string }) => e.label)).toEqual(['edit 5', 'edit 4', 'edit 3']);

  // An earlier program would not find what came after a snapshot.
  await expect(snapshots.down(server.sequelize)).rejects.toThrow('would lose edits');
  await documentsOf(server.sequelize).keepAll();
  await snapshots.down(server.sequelize);
  await down(server.sequelize);
  const rows = (await server.sequelize.query('SELECT * FROM session_changes', {
    type: QueryTypes.SELECT,
  })) as { commands: unknown; inverse: unknown }[];
  // As they were written then: every change with what it did.
  expect(rows.every((r) => Array.isArray(r.commands) && Array.isArray(r.inverse))).toBe(true);
  await up(server.sequelize);
  await snapshots.up(server.sequelize);

  expect(await state()).toEqual(before);
  const held = (await server.sequelize.query(
    'SELECT s.sha256 FROM session_stems r JOIN stems s ON s.id = r.stem_id',
    { type: QueryTypes.SELECT },
  )) as { sha256: string }[];
  expect(held.map((h) => `sha256:${h.sha256.trim()}`)).toEqual([stem]);
  expect(stem).not.toBe(other);
  for (let n = 11; n < 14; n++) expect((await send(n, { kind: 'redo' })).status).toBe(200);
  expect((await state()).document.strips.at(-1).faderDb).toBe(-5);
});
