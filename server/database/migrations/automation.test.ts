import { randomUUID } from 'node:crypto';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { demoSession } from '../../../demo/session';
import { migrate } from '../../../core/session/migrate';
import type { Session } from '../../../core/session/types';
import { newVca } from '../../../core/session/defaults';
import { startServer, type TestServer } from '../../testing/testServer';
import { down, up } from './2026-11-006-automation';
import * as snapshots from './2026-11-009-snapshots';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

it('sessions that were kept before there was automation follow lanes that they do not have', async () => {
  const document = { ...demoSession(), vcas: [newVca({ id: 'v', name: 'V', members: ['bell'] })] };
  const empty = { ...document, strips: [], vcas: [] };
  const ids = [randomUUID(), randomUUID()] as const;
  await snapshots.down(server.sequelize);
  for (const [i, d] of [document, empty].entries())
    await server.sequelize.query('INSERT INTO sessions (id, name, document) VALUES ($1, $2, $3::jsonb)', {
      bind: [ids[i], 'Old', JSON.stringify(d)],
    });
  const kept = async (id: string) => {
    const [row] = (await server.sequelize.query('SELECT document FROM sessions WHERE id = $1', {
      bind: [id],
      type: QueryTypes.SELECT,
    })) as { document: Session }[];
    return row!.document;
  };
  await down(server.sequelize);
  // As they lie in their rows: where they are read, what they lack is filled in.
  const old = await kept(ids[0]);
  expect(JSON.stringify(old)).not.toContain('lanes');
  expect(JSON.stringify(old)).not.toContain('"automation"');
  expect(migrate(old)).toEqual(document);
  await up(server.sequelize);
  expect(await kept(ids[0])).toEqual(document);
  expect(await kept(ids[1])).toEqual(empty);

  // Then documents have a place of their own; the list knows of them what it knew.
  await snapshots.up(server.sequelize);
  for (const [i, d] of [document, empty].entries()) {
    const { body } = await server.ask('GET', `/sessions/${ids[i]}/state`);
    expect(body.document).toEqual(d);
    const { sessions } = (await server.ask('GET', '/sessions')).body;
    expect(sessions.find((s: { id: string }) => s.id === ids[i])).toMatchObject({
      strips: d.strips.length,
      sampleRate: d.sampleRate,
    });
  }
});
