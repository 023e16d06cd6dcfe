import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { parse } from 'yaml';
import { ENVIRONMENT, readEnvironment } from '../server/environment';

// No container engine runs where this is tested: the recipe is held against what `npm start` does, as both are written.
const read = (path: string) => readFileSync(new URL(`../${path}`, import.meta.url), 'utf8');
const dockerfile = read('Dockerfile');
const database = read('container/postgres.Dockerfile');
const script = read('container/postgres.sh');
const start = read('scripts/start.mjs');
const postgres = read('scripts/postgres.mjs');
const engines = (JSON.parse(read('package.json')) as { engines: { node: string } }).engines;
interface Service {
  readonly environment: Record<string, string>;
  readonly ports?: readonly string[];
  readonly volumes: readonly string[];
  readonly build: string | { readonly context: string; readonly dockerfile: string };
}
const compose = parse(read('compose.yaml')) as { services: Record<'database' | 'zonula', Service> };

/** What a Dockerfile sets by ENV. */
const setIn = (text: string): Record<string, string> =>
  Object.fromEntries(
    [...text.matchAll(/^ENV (.*)$/gm)].flatMap(([, line]) =>
      line!.split(' ').map((pair) => pair.split('=') as [string, string]),
    ),
  );

it('runs the Node that is asked for, and the server as a start does', () => {
  const major = Number(/FROM node:(\d+)/.exec(dockerfile)![1]);
  expect(engines.node.startsWith(`>=${major}.`)).toBe(true);
  const [, command] = /CMD (\[.*\])/.exec(dockerfile)!;
  const words = JSON.parse(command!) as string[];
  expect(words.slice(1)).toEqual(['--import', 'tsx', 'server/main.ts']);
  expect(start).toContain("['--import', 'tsx', at('server', 'main.ts')]");
  expect(dockerfile).toContain('npm run build');
});
it('sets nothing that the server does not read, and all that it needs', () => {
  const given: Record<string, string> = { ...setIn(dockerfile), ...compose.services.zonula.environment };
  delete given.NODE_ENV;
  for (const name of Object.keys(given)) expect(ENVIRONMENT).toContain(name);
  const url = given.DATABASE_URL!.replace('${POSTGRES_PASSWORD}', 'secret');
  const read = readEnvironment({ ...given, DATABASE_URL: url });
  expect(read).toMatchObject({ PORT: 4810, ZONULA_HOST: '0.0.0.0', ZONULA_DATA: '/data' });
  expect(dockerfile).toContain(`EXPOSE ${read.PORT}`);
  expect(compose.services.zonula.ports).toEqual([`127.0.0.1:${read.PORT}:${read.PORT}`]);
  expect(compose.services.zonula.volumes).toEqual(['data:/data']);
});
it("its database is Debian's, set as that of a start, and not open to the machine's network", () => {
  expect(database).toMatch(/FROM debian:bookworm/);
  expect(database).toContain('apt-get install -y --no-install-recommends postgresql ');
  for (const setting of ['max_connections=60', 'autovacuum_naptime=15s']) {
    expect(postgres).toContain(setting);
    expect(script).toContain(setting);
  }
  for (const option of ['--encoding=UTF8', '--locale=C.UTF-8', '--auth=scram-sha-256'])
    expect(script).toContain(option);
  expect(compose.services.database.ports).toBe(undefined);
  const { username, pathname, hostname } = new URL(
    compose.services.zonula.environment.DATABASE_URL!.replace('${POSTGRES_PASSWORD}', 'secret'),
  );
  expect([hostname, username, pathname]).toEqual(['database', 'zonula', '/zonula']);
  expect(script).toContain('--username=zonula zonula');
});
