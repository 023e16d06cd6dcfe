import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startServer, type TestServer } from '../testing/testServer';
import { apiDocument, ROUTES } from './openapi';
import { apiRoutes } from './routes';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

interface Layer {
  readonly route?: { readonly path: string; readonly methods: Readonly<Record<string, boolean>> };
}
it('every route of the router is described, and no other', () => {
  const router = apiRoutes({
    uploads: { router: (_: unknown, __: unknown, next: () => void) => next() },
  } as never);
  const there = (router as unknown as { stack: readonly Layer[] }).stack.flatMap((layer) =>
    layer.route ? Object.keys(layer.route.methods).map((m) => `${m} ${layer.route!.path}`) : [],
  );
  expect(ROUTES.map((r) => `${r.method} ${r.path}`).sort()).toEqual([...there].sort());
});
it('says of a request what the route asks of it', () => {
  const { paths } = apiDocument('1.2.3') as { paths: Record<string, Record<string, never>> };
  expect(paths['/sessions']!.post).toMatchObject({
    requestBody: {
      content: {
        'application/json': {
          schema: {
            properties: { name: { type: 'string', maxLength: 200 }, sampleRate: { default: 48000 } },
            required: ['name'],
          },
        },
      },
    },
  });
  expect(paths['/stems/{address}/pcm']!.get).toMatchObject({
    parameters: [
      { name: 'address', in: 'path', required: true },
      { name: 'start', in: 'query', required: false },
      { name: 'frames', in: 'query', schema: { maximum: 1 << 20 } },
    ],
  });
});
it('is served, to programs and to readers, and stands in docs/ as it is', async () => {
  const { status, body } = await server.ask('GET', '/openapi.json');
  expect([status, body.openapi]).toEqual([200, '3.1.0']);
  const { version } = body.info;
  expect(body).toEqual(JSON.parse(JSON.stringify(apiDocument(version))));
  const page = await (await fetch(`${server.base}/api/docs`)).text();
  expect(page).toContain('POST /api/sessions/:id/commits');
  const kept = JSON.parse(readFileSync(new URL('../../docs/openapi.json', import.meta.url), 'utf8'));
  const own = JSON.parse(readFileSync(new URL('../../package.json', import.meta.url), 'utf8')) as {
    version: string;
  };
  expect(kept).toEqual(JSON.parse(JSON.stringify(apiDocument(own.version))));
});
