import { afterAll, beforeAll, expect, it } from 'vitest';
import { demoSession } from '../../../demo/session';
import { newVca } from '../../../core/session/defaults';
import { startServer, type TestServer } from '../../testing/testServer';
import { SessionRow } from '../models';
import { down, up } from './2026-11-006-automation';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

it('sessions that were kept before there was automation follow lanes that they do not have', async () => {
  const document = { ...demoSession(), vcas: [newVca({ id: 'v', name: 'V', members: ['bell'] })] };
  const empty = { ...document, strips: [], vcas: [] };
  const make = (d: typeof document | typeof empty) =>
    SessionRow.create({ name: 'Old', document: d, revision: 0, openedAt: new Date() } as never);
  const rows = [await make(document), await make(empty)];
  await down(server.sequelize);
  await rows[0]!.reload();
  // As they lie in their rows: where they are read, what they lack is filled in.
  const kept = (row: SessionRow) => row.getDataValue('document');
  const old = JSON.stringify(kept(rows[0]!));
  expect(old).not.toContain('lanes');
  expect(old).not.toContain('"automation"');
  expect(rows[0]!.document).toEqual(document);
  await up(server.sequelize);
  for (const row of rows) await row.reload();
  expect(kept(rows[0]!)).toEqual(document);
  expect(kept(rows[1]!)).toEqual(empty);
});
