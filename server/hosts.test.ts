import { request } from 'node:http';
import { networkInterfaces } from 'node:os';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { createApp } from './app';
import { connect } from './database/database';
import { namesOf, rightHost } from './hosts';

// RFC 9110, 7.2: the Host field says by which name the sender speaks to this machine; 4.2.3: names know no capitals.
describe('a request speaks to this machine by a name of its own', () => {
  it.each<[string | undefined, string, boolean]>([
    ['127.0.0.1:4810', '127.0.0.1', true],
    ['localhost:4810', '127.0.0.1', true],
    ['LOCALHOST:4810', '::ffff:127.0.0.1', true],
    ['localhost.', '::1', true],
    ['[::1]:4810', '::1', true],
    ['127.0.0.1:9', '::ffff:127.0.0.1', true],
    ['zonula.example', '127.0.0.1', false],
    ['', '127.0.0.1', false],
    [undefined, '127.0.0.1', false],
    ['192.168.7.5:4810', '192.168.7.5', true],
    ['192.168.7.5:4810', '::ffff:192.168.7.5', true],
    ['[fe80::1]:4810', 'fe80::1%eth0', true],
    ['192.168.7.6:4810', '192.168.7.5', false],
    ['Studio:4810', '192.168.7.5', true],
    ['studio.local', '192.168.7.5', true],
    ['elsewhere.example', '192.168.7.5', false],
    // From another machine, whatever it calls this one.
    ['127.0.0.1:4810', '192.168.7.5', false],
    ['localhost:4810', '192.168.7.5', false],
    ['[::1]:4810', 'fe80::1', false],
  ])('%s at %s: %s', (host, local, right) => {
    expect(rightHost(host, local, ['studio', 'studio.local'])).toBe(right);
  });
  it('or by one that was given', () => expect(namesOf(['Mix.example.'])).toContain('mix.example'));
});

describe('a server that listens on every address', () => {
  const { http, live, maintenance } = createApp({
    sequelize: connect('postgres://nobody@127.0.0.1:1/none'),
    hosts: namesOf(),
  });
  let port = 0;
  beforeAll(async () => {
    await new Promise<void>((done) => http.listen(0, '0.0.0.0', done));
    ({ port } = http.address() as AddressInfo);
  });
  afterAll(async () => {
    await live.close();
    await maintenance.close();
    http.closeAllConnections();
  });
  const ask = (address: string, host: string) =>
    new Promise<number>((done, fail) =>
      request(`http://${address}:${port}/api/nothing`, { headers: { Host: host } }, (r) => {
        r.resume();
        done(r.statusCode!);
      })
        .on('error', fail)
        .end(),
    );
  const own = Object.values(networkInterfaces())
    .flat()
    .find((i) => i && i.family === 'IPv4' && !i.internal)?.address;

  it('is spoken to at loopback by its names, and by no others', async () => {
    expect(await ask('127.0.0.1', `127.0.0.1:${port}`)).toBe(404);
    expect(await ask('127.0.0.1', `LocalHost:${port}`)).toBe(404);
    expect(await ask('127.0.0.1', `elsewhere.example:${port}`)).toBe(403);
  });
  it.runIf(own)('is spoken to at an address of the machine by that, and not by a forged name', async () => {
    // Who speaks to it by its right name is asked who it is: this one has no database to know by.
    expect(await ask(own!, `${own}:${port}`)).not.toBe(403);
    expect(await ask(own!, `127.0.0.1:${port}`)).toBe(403);
    expect(await ask(own!, `localhost:${port}`)).toBe(403);
    expect(await ask(own!, `elsewhere.example:${port}`)).toBe(403);
  });
});
