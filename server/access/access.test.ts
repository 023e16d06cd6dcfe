import { createSocket } from 'node:dgram';
import { createServer as probe, request, type RequestOptions } from 'node:http';
import { request as secureRequest } from 'node:https';
import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { randomUUID, X509Certificate } from 'node:crypto';
import { tmpdir } from 'node:os';
import { connect, type SecureVersion } from 'node:tls';
import { join } from 'node:path';
import { io, type Socket } from 'socket.io-client';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { encodeOsc, isBundle, readOsc } from '../../core/wire/osc';
import { leastFor, ROUTES } from '../api/openapi';
import { DeviceRow } from '../database/models';
import { startServer, type TestServer } from '../testing/testServer';
import { Access, CODE_MINUTES, MOST_TRIES, MOST_WRONG } from './access';

/** What is not 127.0.0.1 is another machine: here, all on this one. */
const STUDIO = '127.0.0.2';
const freePort = () =>
  new Promise<number>((done) => {
    const server = probe();
    server.listen(0, STUDIO, () => {
      const { port } = server.address() as AddressInfo;
      server.close(() => done(port));
    });
  });

let server: TestServer;
let folder: string;
let port: number;
let securePort: number;
let session: string;
const sockets: Socket[] = [];

interface Answer {
  readonly status: number;
  readonly body: any;
  readonly cookies: readonly string[];
}
/** A machine of the network, with the cookies that it was given. */
class Machine {
  cookie = '';
  constructor(
    readonly address = '127.0.0.9',
    readonly secure = false,
  ) {}
  ask(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Answer> {
    const options: RequestOptions & { rejectUnauthorized: boolean } = {
      host: STUDIO,
      port: this.secure ? securePort : port,
      localAddress: this.address,
      method,
      path: `/api${path}`,
      rejectUnauthorized: false,
      agent: false,
      headers: {
        ...(this.cookie ? { cookie: this.cookie } : {}),
        ...(body === undefined
          ? {}
          : { 'content-type': 'application/json', 'content-length': String(JSON.stringify(body).length) }),
        ...headers,
      },
    };
    return new Promise((done, fail) => {
      const sent = (this.secure ? secureRequest : request)(options, (res) => {
        let text = '';
        res.on('data', (piece: Buffer) => (text += piece.toString()));
        res.on('end', () => {
          const cookies = res.headers['set-cookie'] ?? [];
          if (cookies.length) this.cookie = cookies.map((c) => c.split(';')[0]).join('; ');
          done({ status: res.statusCode!, body: text ? JSON.parse(text) : null, cookies });
        });
      });
      sent.on('error', fail);
      sent.end(body === undefined ? undefined : JSON.stringify(body));
    });
  }
  async pair(role: string, name = 'Tablet'): Promise<Answer> {
    const { body } = await server.ask('POST', '/access/code', { role });
    return this.ask('POST', '/access/pair', { code: body.code, name });
  }
  async socket(): Promise<Socket | null> {
    const socket = io(`http://${STUDIO}:${port}`, {
      path: '/socket',
      transports: ['websocket'],
      reconnection: false,
      extraHeaders: { cookie: this.cookie },
    });
    sockets.push(socket);
    return new Promise((done) => {
      socket.on('connect', () => done(socket));
      socket.on('connect_error', () => done(null));
    });
  }
}
const commit = async (commands: unknown, kind = 'edit') => ({
  revision: (await server.ask('GET', `/sessions/${session}`)).body.revision as number,
  changeId: randomUUID(),
  kind,
  label: 'a test',
  ...(kind === 'edit' ? { commands } : {}),
});

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'zonula-studio-'));
  port = await freePort();
  securePort = await freePort();
  server = await startServer({
    studio: {
      port,
      securePort,
      everywhere: false,
      forced: false,
      folder,
      certificate: null,
      addresses: () => [STUDIO],
    },
  });
  session = (await server.ask('POST', '/sessions', { name: 'Shared', sampleRate: 48_000 })).body.id;
});
afterAll(async () => {
  await server.close();
  rmSync(folder, { recursive: true, force: true });
});
beforeEach(async () => {
  expect((await server.ask('PUT', '/access', { open: true })).status).toBe(200);
});
afterEach(() => {
  for (const s of sockets.splice(0)) s.close();
});

describe('a studio that is opened', () => {
  it('asks nobody for anything at the machine itself, and answers nobody else before it is opened', async () => {
    await server.ask('PUT', '/access', { open: false });
    await expect(new Machine().ask('GET', '/health')).rejects.toThrow(/ECONNREFUSED/);
    expect((await server.ask('GET', '/access')).body).toMatchObject({
      own: true,
      role: 'mix',
      studio: { open: false, http: [], https: [] },
    });
    const opened = await server.ask('PUT', '/access', { open: true });
    expect(opened.body.studio).toMatchObject({
      open: true,
      forced: false,
      http: [`http://${STUDIO}:${port}`],
      https: [`https://${STUDIO}:${securePort}`],
      selfMade: true,
      problem: null,
    });
    expect((await new Machine().ask('GET', '/health')).status).toBe(200);
  });

  it('gives a stranger nothing: no route, no socket, no code', async () => {
    const stranger = new Machine();
    for (const { method, path } of ROUTES) {
      if (leastFor(method.toUpperCase(), path.replace(/:\w+/g, 'x')) === 'none') continue;
      const at = path.replace(':id', session).replace(/:\w+/g, 'x');
      const { status } = await stranger.ask(method.toUpperCase(), at, method === 'get' ? undefined : {});
      expect([method, path, status]).toEqual([method, path, 401]);
    }
    // What is no route is no way round it either.
    for (const path of [
      '/uploads',
      '/sessions/',
      '//sessions',
      '/SESSIONS',
      '/sessions/%2e%2e/desks',
      '/nothing',
    ])
      expect((await stranger.ask('POST', path, {})).status).toBe(401);
    expect(await stranger.socket()).toBeNull();
    expect((await stranger.ask('GET', '/access')).body).toEqual({
      own: false,
      role: null,
      name: null,
      https: [`https://${STUDIO}:${securePort}`],
    });
  });

  it('lets a machine in by the code, with a cookie that no script reads and no other site sends', async () => {
    const tablet = new Machine();
    const { status, body, cookies } = await tablet.pair('mix', 'Tablet at the sofa');
    expect([status, body]).toEqual([200, { own: false, role: 'mix', name: 'Tablet at the sofa' }]);
    const attributes = cookies.map((c) => c.toLowerCase());
    expect(attributes.every((c) => c.includes('httponly') && c.includes('samesite=strict'))).toBe(true);
    expect(cookies.some((c) => c.startsWith('zonula='))).toBe(true);
    expect((await tablet.ask('GET', '/sessions')).status).toBe(200);
    expect((await tablet.ask('GET', '/access')).body).toMatchObject({
      name: 'Tablet at the sofa',
      role: 'mix',
    });
    const { devices } = (await server.ask('GET', '/access')).body;
    expect(devices.map((d: { name: string }) => d.name)).toContain('Tablet at the sofa');
    // A cookie that was changed, or is of another, is none.
    const forged = new Machine();
    for (const cookie of [
      tablet.cookie.replace(
        /zonula=[^;]*/,
        `zonula=${Buffer.from(JSON.stringify({ device: devices[0].id })).toString('base64')}x`,
      ),
      tablet.cookie.replace(/zonula\.sig=.{5}/, 'zonula.sig=AAAAA'),
      tablet.cookie.replace(/; zonula\.sig=[^;]*/, ''),
    ]) {
      forged.cookie = cookie;
      expect((await forged.ask('GET', '/sessions')).status).toBe(401);
    }
    // It may leave by itself.
    expect((await tablet.ask('POST', '/access/leave')).status).toBe(204);
    expect((await tablet.ask('GET', '/sessions')).status).toBe(401);
  });

  it('by HTTPS too, with a certificate of its own that speaks for its address, under a stricter cookie', async () => {
    const desk = new Machine('127.0.0.10', true);
    const { cookies } = await desk.pair('mix', 'Desk');
    expect(
      cookies.some((c) => c.startsWith('__Host-zonula=') && /; secure/i.test(c) && /; path=\//i.test(c)),
    ).toBe(true);
    expect((await desk.ask('GET', '/sessions')).status).toBe(200);
    const cert = new X509Certificate(readFileSync(join(folder, 'studio-cert.pem')));
    expect(cert.checkIP(STUDIO)).toBe(STUDIO);
    expect(cert.ca).toBe(false);
    expect(statSync(join(folder, 'studio-key.pem')).mode & 0o077).toBe(0);
    // No older TLS than 1.2 (RFC 8996).
    const tls = (maxVersion: SecureVersion) =>
      new Promise<string>((done) => {
        const line = connect(
          { host: STUDIO, port: securePort, rejectUnauthorized: false, minVersion: 'TLSv1', maxVersion },
          () => {
            done(line.getProtocol() ?? '');
            line.end();
          },
        );
        line.on('error', () => done('refused'));
      });
    expect([await tls('TLSv1.1'), await tls('TLSv1.2'), await tls('TLSv1.3')]).toEqual([
      'refused',
      'TLSv1.2',
      'TLSv1.3',
    ]);
    // It is kept: browsers that trust it go on to.
    const before = readFileSync(join(folder, 'studio-cert.pem'), 'utf8');
    await server.ask('PUT', '/access', { open: false });
    await server.ask('PUT', '/access', { open: true });
    expect(readFileSync(join(folder, 'studio-cert.pem'), 'utf8')).toBe(before);
  });

  it('holds every machine to its role, by HTTP and by socket', async () => {
    const [listener, hands] = [new Machine('127.0.0.11'), new Machine('127.0.0.12')];
    await listener.pair('listen');
    await hands.pair('hands');
    const level = [{ type: 'strip.set', id: 'main', patch: { faderDb: -3 } }];
    const remove = [{ type: 'strip.remove', id: 'main' }];
    const add = [
      {
        type: 'vca.add',
        at: 0,
        vca: { id: 'v', name: 'V', colour: '#8aa0a0', members: [], faderDb: 0, mute: false, solo: false },
      },
    ];
    const at = `/sessions/${session}`;
    expect((await listener.ask('POST', `${at}/open`)).status).toBe(200);
    // What plays asks for it, and changes nothing: an empty question gets as far as being read.
    expect((await listener.ask('POST', '/stems/slices', { slices: [] })).status).toBe(400);
    expect((await listener.ask('POST', `${at}/commits`, await commit(level))).status).toBe(403);
    expect((await hands.ask('POST', `${at}/commits`, await commit(level))).status).toBe(200);
    expect((await hands.ask('POST', `${at}/commits`, await commit(remove))).body.error).toMatchObject({
      code: 'role',
    });
    for (const [method, path, body] of [
      ['DELETE', at, undefined],
      ['POST', '/sessions', { name: 'Mine', sampleRate: 48_000 }],
      ['POST', '/sessions/import', {}],
      ['POST', '/stems?name=x.wav', {}],
      ['POST', '/presets', {}],
      ['PUT', '/desks/x', {}],
    ] as const)
      expect((await hands.ask(method, path, body)).status).toBe(403);
    // What another has added is not removed by taking it back either.
    expect((await server.ask('POST', `${at}/commits`, await commit(add))).status).toBe(200);
    expect((await hands.ask('POST', `${at}/commits`, await commit(null, 'undo'))).status).toBe(403);
    expect((await server.ask('POST', `${at}/commits`, await commit(null, 'undo'))).status).toBe(200);
    expect((await hands.ask('POST', `${at}/commits`, await commit(null, 'undo'))).status).toBe(200);
    // Nobody from outside shows codes, changes roles, takes others off or closes the studio.
    const mix = new Machine('127.0.0.13');
    await mix.pair('mix');
    const { devices } = (await server.ask('GET', '/access')).body;
    for (const [method, path, body] of [
      ['PUT', '/access', { open: false }],
      ['POST', '/access/code', { role: 'mix' }],
      ['PUT', `/access/devices/${devices[0].id}`, { role: 'mix' }],
      ['DELETE', `/access/devices/${devices[0].id}`, undefined],
      ['PUT', '/osc', { on: true, port: 9000 }],
    ] as const)
      expect((await mix.ask(method, path, body)).status).toBe(403);

    const refused = async (machine: Machine, event: string, value: unknown) => {
      const socket = (await machine.socket())!;
      await socket.emitWithAck('join', { session });
      return Promise.race([
        new Promise<string>((done) => socket.on('refused', ({ error }) => done(error.message))),
        socket.emitWithAck(event, value).then(() => 'done'),
      ]);
    };
    const drag = (commands: unknown) => ({ drag: 'x', commands });
    expect(await refused(listener, 'live', drag(level))).toMatch(/may not/);
    expect(await refused(listener, 'transport', { to: 'x', ask: 'play' })).toMatch(/may not/);
    expect(await refused(hands, 'live', drag(level))).toBe('done');
    expect(await refused(hands, 'live', drag(remove))).toMatch(/remove nothing/);
    expect(await refused(hands, 'transport', { to: 'x', ask: 'play' })).toBe('done');
    const standing = { rolling: false, position: 0, looping: false, loop: null };
    expect(await refused(hands, 'playing', standing)).toMatch(/may not/);
    expect(await refused(mix, 'playing', standing)).toBe('done');
  });

  it('cuts off who is taken off, at once, and who has another role', async () => {
    const tablet = new Machine('127.0.0.14');
    await tablet.pair('mix', 'To be taken off');
    const socket = (await tablet.socket())!;
    const gone = new Promise<string>((done) => socket.on('disconnect', done));
    const find = async () =>
      ((await server.ask('GET', '/access')).body.devices as { id: string; name: string }[]).find(
        (d) => d.name === 'To be taken off' || d.name === 'Other name',
      )!;
    const { id } = await find();
    const changed = await server.ask('PUT', `/access/devices/${id}`, { role: 'listen', name: 'Other name' });
    expect(changed.body.device).toMatchObject({ role: 'listen', name: 'Other name' });
    await gone;
    expect((await tablet.ask('POST', '/presets', {})).status).toBe(403);
    const again = (await tablet.socket())!;
    const off = new Promise<string>((done) => again.on('disconnect', done));
    expect((await server.ask('DELETE', `/access/devices/${id}`)).status).toBe(204);
    await off;
    expect((await tablet.ask('GET', '/sessions')).status).toBe(401);
    expect(await DeviceRow.findByPk(id)).toBeNull();
    expect((await server.ask('DELETE', `/access/devices/${id}`)).status).toBe(404);
  });

  it('slows wrong codes: five a minute from one address, twenty for one code', async () => {
    const guesser = new Machine('127.0.0.15');
    const { code } = (await server.ask('POST', '/access/code', { role: 'mix' })).body as { code: string };
    const wrong = code === '000000' ? '111111' : '000000';
    const tries: number[] = [];
    for (let i = 0; i < MOST_TRIES + 1; i++)
      tries.push((await guesser.ask('POST', '/access/pair', { code: wrong, name: '' })).status);
    expect(tries).toEqual([...Array(MOST_TRIES).fill(422), 429]);
    // The right one does not help who has tried too often.
    const late = await guesser.ask('POST', '/access/pair', { code, name: '' });
    expect(late).toMatchObject({ status: 429, body: { error: { code: 'often' } } });
    expect(late.body.error.message).toMatch(/Try again in \d+ seconds/);
    for (let i = 0; i < MOST_WRONG - MOST_TRIES; i++)
      await new Machine(`127.0.1.${1 + Math.floor(i / 3)}`).ask('POST', '/access/pair', {
        code: wrong,
        name: '',
      });
    expect((await server.ask('GET', '/access')).body.code).toBeNull();
    expect((await new Machine('127.0.1.99').ask('POST', '/access/pair', { code, name: '' })).status).toBe(
      422,
    );
    for (const bad of [{}, { code: 7, name: '' }, { code: '1'.repeat(90), name: '' }])
      expect((await new Machine('127.0.1.98').ask('POST', '/access/pair', bad)).status).toBe(400);
  });

  it('ends a code after ten minutes, when it is ended, and when another is shown', async () => {
    let now = 1_700_000_000_000;
    const access = new Access(() => now, false);
    const first = access.newCode('hands');
    expect(first).toMatchObject({ role: 'hands', until: now + CODE_MINUTES * 60_000 });
    expect(first.code).toMatch(/^\d{6}$/);
    now += CODE_MINUTES * 60_000 - 1;
    expect(access.code).not.toBeNull();
    now += 1;
    expect(access.code).toBeNull();
    access.newCode('mix');
    access.endCode();
    expect(access.code).toBeNull();
    // Codes are of all million, not of a few.
    const seen = new Set(Array.from({ length: 200 }, () => access.newCode('mix').code));
    expect(seen.size).toBeGreaterThan(190);
    const found = await new Machine('127.0.0.16').ask('POST', '/access/pair', { code: '123456', name: 'x' });
    expect(found.status).toBe(422);
  });

  it('speaks to no page of a stranger, whatever name leads here', async () => {
    const tablet = new Machine('127.0.0.17');
    await tablet.pair('mix');
    for (const headers of [
      { host: 'evil.example' },
      { origin: 'http://evil.example' },
      { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'cors' },
    ] as Record<string, string>[])
      expect((await tablet.ask('GET', '/sessions', undefined, headers)).status).toBe(403);
  });

  it('remembers who was let in when it starts anew', async () => {
    const tablet = new Machine('127.0.0.18');
    await tablet.pair('hands', 'Stays');
    const access = new Access();
    await access.ready;
    expect(access.list().map((d) => d.name)).toContain('Stays');
    expect(access.keys[0]).toMatch(/^[0-9a-f]{64}$/);
    expect(new Set([...access.keys, ...(await keysAgain())]).size).toBe(1);
  });
  const keysAgain = async () => {
    const other = new Access();
    await other.ready;
    return other.keys;
  };

  it('says where nothing can be listened on, and stays closed', async () => {
    await server.ask('PUT', '/access', { open: false });
    const taken = probe();
    await new Promise<void>((done) => taken.listen(port, STUDIO, () => done()));
    const { status, body } = await server.ask('PUT', '/access', { open: true });
    expect([status, body.error.message]).toEqual([422, expect.stringMatching(/Nothing can listen there/)]);
    expect((await server.ask('GET', '/access')).body.studio.open).toBe(false);
    await new Promise<void>((done) => taken.close(() => done()));
  });
});

describe('controllers of the network that speak OSC', () => {
  it('are strangers until they say the code, then held to its role, and strangers again when they are taken off', async () => {
    const osc = await freePort();
    expect((await server.ask('PUT', '/osc', { on: true, port: osc })).body).toMatchObject({
      host: '0.0.0.0',
    });
    const told: { address: string; args: readonly unknown[] }[] = [];
    const socket = createSocket('udp4');
    socket.on('message', (bytes) => {
      const packet = readOsc(bytes);
      for (const m of isBundle(packet) ? packet.elements : [packet]) if (!isBundle(m)) told.push(m);
    });
    await new Promise<void>((done) => socket.bind(0, '127.0.0.21', () => done()));
    const say = (address: string, ...args: (string | number)[]) =>
      socket.send(encodeOsc({ address, args }), osc, '127.0.0.1');
    const level = async () =>
      (await server.ask('GET', `/sessions/${session}`)).body.document.strips[0].faderDb as number;
    say('/session/open', 'Shared');
    say('/strip/1/level', -20);
    say('/subscribe');
    say('/strip/1/name');
    await new Promise((done) => setTimeout(done, 300));
    expect(told).toEqual([]);

    const { code } = (await server.ask('POST', '/access/code', { role: 'listen' })).body as { code: string };
    say('/pair', 'wrong');
    await expect.poll(() => told.at(-1)?.args[1]).toMatch(/not the code/);
    say('/pair', code);
    await expect.poll(() => told.at(-1)).toEqual({ address: '/paired', args: ['listen'] });
    say('/strip/1/level');
    await expect.poll(() => told.at(-1)?.address).toBe('/strip/1/level');
    say('/strip/1/level', -20);
    await expect.poll(() => told.at(-1)?.args[1]).toMatch(/may listen/);
    const { devices } = (await server.ask('GET', '/access')).body;
    const { id, name } = (devices as { id: string; name: string; address: string }[]).find(
      (d) => d.address === '127.0.0.21',
    )!;
    expect(name).toBe('OSC at 127.0.0.21');
    await server.ask('PUT', `/access/devices/${id}`, { role: 'hands' });
    say('/session/open', 'Shared');
    say('/strip/1/level', -20);
    await expect.poll(level).toBe(-20);
    // It removes nothing by taking back what added it either.
    const vca = { id: 'v', name: 'V', colour: '#8aa0a0', members: [], faderDb: 0, mute: false, solo: false };
    await server.ask('POST', `/sessions/${session}/commits`, await commit([{ type: 'vca.add', at: 0, vca }]));
    say('/undo');
    await expect.poll(() => told.at(-1)?.args[1]).toMatch(/remove nothing/);
    await server.ask('POST', `/sessions/${session}/commits`, await commit(null, 'undo'));
    await server.ask('DELETE', `/access/devices/${id}`);
    say('/strip/1/level', -30);
    await new Promise((done) => setTimeout(done, 900));
    expect(await level()).toBe(-20);
    // Shut to the network it listens on this machine alone.
    await server.ask('PUT', '/access', { open: false });
    expect((await server.ask('GET', '/osc')).body).toMatchObject({ on: true, host: '127.0.0.1' });
    await server.ask('PUT', '/osc', { on: false, port: osc });
    socket.close();
  });
});
