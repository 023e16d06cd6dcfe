import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { expect, it } from 'vitest';
import { pathKind } from './log';

it('paths are written down without what they name', () => {
  expect(pathKind('/sessions/269e0450-8b71-4b3a-8e79-da87d3b7d5b8/open')).toBe('/sessions/:id/open');
  expect(pathKind('/stems/sha256:ab12/pcm')).toBe('/stems/:id/pcm');
  expect(pathKind('/sessions/Lantern%20Tide')).toBe('/sessions/:id');
  expect(pathKind('/assets/index-B1.js')).toBe('/assets/:id');
});
it('a request is one line at info, and none at warn; nothing of its query or body is in it', () => {
  const run = (level: string) =>
    spawnSync(
      process.execPath,
      [
        '--import',
        'tsx',
        '--input-type=module',
        '-e',
        `import express from 'express';
         const { logRequests, log } = await import('./server/log.ts');
         const app = express();
         app.use(logRequests);
         app.post('/stems', (_req, res) => res.status(201).end());
         const http = app.listen(0, '127.0.0.1', async () => {
           await fetch('http://127.0.0.1:' + http.address().port + '/stems?name=Secret%20song', { method: 'POST', body: 'secret' });
           log.error({ err: Object.assign(new Error('broken'), { parameters: ['secret'] }) }, 'It failed.');
           setTimeout(() => process.exit(0), 100);
         });`,
      ],
      {
        cwd: fileURLToPath(new URL('..', import.meta.url)),
        env: { ...process.env, ZONULA_LOG: level },
        encoding: 'utf8',
      },
    )
      .stderr.trim()
      .split('\n')
      .filter((line) => line.startsWith('{'));
  const lines = run('info').map((l) => JSON.parse(l) as Record<string, unknown>);
  expect(lines).toHaveLength(2);
  expect(lines[0]).toMatchObject({ level: 30, method: 'POST', path: '/stems', status: 201, msg: 'request' });
  expect(JSON.stringify(lines)).not.toMatch(/secret/i);
  expect(lines[1]).toMatchObject({ level: 50, msg: 'It failed.', err: { message: 'broken' } });
  expect(run('warn')).toHaveLength(1);
});
