import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { floatBytes, floatWavHeader } from '../../core/formats/audio/wav';
import { newDesk } from '../../core/surface/desk/desk';
import { standIns } from '../../core/surface/stands/stands';
import { findSpans } from '../audio/spans';
import { StemRow } from '../database/models';
import { startServer, type TestServer } from '../testing/testServer';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

const desk = newDesk('studio', 'Studio', standIns);
const version1 = JSON.parse(
  readFileSync(new URL('../../core/surface/profile/fixtures/version1.json', import.meta.url), 'utf8'),
) as object;

describe('desks', () => {
  it('are kept, listed, changed and removed', async () => {
    expect((await server.ask('PUT', '/desks/studio', desk)).status).toBe(200);
    expect((await server.ask('GET', '/desks')).body.desks).toEqual([desk]);
    await server.ask('PUT', '/desks/studio', { ...desk, joined: false, name: 'Annexe' });
    expect((await server.ask('GET', '/desks')).body.desks).toEqual([
      { ...desk, joined: false, name: 'Annexe' },
    ]);
    expect((await server.ask('DELETE', '/desks/studio')).status).toBe(204);
    expect((await server.ask('GET', '/desks')).body.desks).toEqual([]);
    expect((await server.ask('DELETE', '/desks/studio')).status).toBe(404);
  });
  it.each([
    ['another id than their address', '/desks/other', desk, /another id/],
    ['a unit without a profile', '/desks/studio', { ...desk, units: [{ id: 'u' }] }, /units\[0\]\.profile/],
    ['a field that there is not', '/desks/studio', { ...desk, extra: 1 }, /extra/],
  ])('with %s are refused', async (_, path, body, message) => {
    const answer = await server.ask('PUT', path, body);
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(JSON.stringify(answer.body)).toMatch(message);
  });
});

describe('profiles', () => {
  const mine = { ...standIns[0]!, id: 'mine', name: 'Mine', simulated: false };
  it('that ship come first; others are kept, of version 1 too, and removed', async () => {
    await server.ask('PUT', '/surface-profiles/mine', mine);
    const old = { ...version1, id: 'old', simulated: false };
    const kept = await server.ask('PUT', '/surface-profiles/old', old);
    expect(kept.body.profile.version).toBe(2);
    const ids = (await server.ask('GET', '/surface-profiles')).body.profiles.map((p: { id: string }) => p.id);
    expect(ids).toEqual([...standIns.map((p) => p.id), 'mine', 'old']);
    expect((await server.ask('DELETE', '/surface-profiles/mine')).status).toBe(204);
  });
  it('of a stand-in are not written over', async () => {
    const taken = { ...mine, id: standIns[0]!.id };
    expect((await server.ask('PUT', `/surface-profiles/${taken.id}`, taken)).status).toBe(400);
  });
});

/** A stereo file of three seconds: its right side sounds in the middle second. */
function middle(): Buffer {
  const frames = 3 * 48000;
  const audio = new Float32Array(frames * 2);
  for (let i = 48000; i < 96000; i++) audio[i * 2 + 1] = 0.1 * Math.sin(i / 10);
  return Buffer.concat([Buffer.from(floatWavHeader(2, 48000, frames)), Buffer.from(floatBytes(audio))]);
}
describe('where a stem sounds', () => {
  it('is kept when it comes in, and told with its facts', async () => {
    const { stem } = (await server.ask('POST', '/stems?name=m.wav&rate=48000', middle())).body;
    expect((await server.ask('GET', `/stems/${stem}`)).body.spans).toEqual([[1, 2]]);
  });
  it('is found for stems that were stored before it was looked for', async () => {
    await StemRow.update({ spans: null }, { where: {} });
    expect(await findSpans(server.sequelize)).toBeGreaterThan(0);
    const [row] = await StemRow.findAll();
    expect(row!.spans).toEqual([[1, 2]]);
    expect(await findSpans(server.sequelize)).toBe(0);
  });
});
