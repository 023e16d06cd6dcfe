import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SHIPPED_PRESETS } from '../../core/settings/shipped';
import { startServer, type TestServer } from '../testing/testServer';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

const preset = (name: string) => JSON.parse(JSON.stringify({ ...SHIPPED_PRESETS[0]!, name }));
const list = async () =>
  (await server.ask('GET', '/presets')).body.presets as { id: string; preset: { name: string } }[];

describe('presets in the database', () => {
  it('are kept by name, listed in order, changed and removed', async () => {
    const made = await server.ask('POST', '/presets', preset('Voice of the boathouse'));
    expect(made.status).toBe(201);
    await server.ask('POST', '/presets', preset('A drum'));
    expect((await list()).map((p) => p.preset.name)).toEqual(['A drum', 'Voice of the boathouse']);
    const { id } = made.body as { id: string };
    const changed = await server.ask('PUT', `/presets/${id}`, preset('Voice, dry'));
    expect(changed.body.preset.name).toBe('Voice, dry');
    expect((await server.ask('DELETE', `/presets/${id}`)).status).toBe(204);
    expect((await list()).map((p) => p.preset.name)).toEqual(['A drum']);
  });
  it('come back as they were given', async () => {
    for (const p of SHIPPED_PRESETS.slice(0, 6)) {
      const { body } = await server.ask('POST', '/presets', JSON.parse(JSON.stringify(p)));
      const kept = (await list()).find((x) => x.id === body.id)!;
      expect(kept.preset).toEqual(JSON.parse(JSON.stringify(p)));
    }
  });
  it('that are none are refused by the field; those that are gone are told', async () => {
    const bad = await server.ask('POST', '/presets', { ...preset('x'), inserts: [{ type: 'gate', mix: 7 }] });
    expect(bad.status).toBe(422);
    expect(bad.body.error.message).toMatch(/mix/);
    for (const [method, body] of [
      ['PUT', preset('x')],
      ['DELETE', undefined],
    ] as const) {
      const gone = await server.ask(method, '/presets/00000000-0000-4000-8000-000000000000', body);
      expect(gone.status).toBe(404);
      expect(gone.body.error.message).toMatch(/removed/);
    }
    expect((await server.ask('DELETE', '/presets/ghost')).status).toBe(404);
  });
});
