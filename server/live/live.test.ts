import { readFileSync } from 'node:fs';
import { livePage } from './livePage';
import { randomUUID } from 'node:crypto';
import { io, type Socket } from 'socket.io-client';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { rawSocket, startServer, type TestServer } from '../testing/testServer';

let server: TestServer;
let session: string;
const open: Socket[] = [];
beforeAll(async () => {
  server = await startServer();
  session = (await server.ask('POST', '/sessions', { name: 'Live' })).body.id;
});
afterEach(() => {
  for (const s of open.splice(0)) s.close();
});
afterAll(() => server.close());

const connect = (headers: Record<string, string> = {}) => {
  const socket = io(server.base, {
    path: '/socket',
    transports: ['websocket'],
    reconnection: false,
    extraHeaders: headers,
  });
  open.push(socket);
  return socket;
};
const joined = async () => {
  const socket = connect();
  await new Promise<void>((done) =>
    socket.on('connect', () => socket.emit('join', { session }, () => done())),
  );
  return socket;
};
const next = <T>(socket: Socket, event: string, ms = 20_000) =>
  new Promise<T>((done, fail) => {
    setTimeout(() => fail(new Error(`no ${event}`)), ms).unref();
    socket.once(event, done);
  });
const level = (faderDb: number) => [{ type: 'strip.set', id: 'main', patch: { faderDb } }];

describe('live sync', () => {
  it('tells every window that has the session open of a commit', async () => {
    const [a, b] = [await joined(), await joined()];
    const told = Promise.all([next<{ label: string }>(a, 'commit'), next<{ label: string }>(b, 'commit')]);
    await server.ask('POST', `/sessions/${session}/commits`, {
      revision: 0,
      changeId: randomUUID(),
      label: 'level Main',
      commands: level(-3),
    });
    expect((await told).map((c) => c.label)).toEqual(['level Main', 'level Main']);
  });
  it('carries a drag to the other windows, and not back', async () => {
    const [a, b] = [await joined(), await joined()];
    let echoed = false;
    a.on('live', () => (echoed = true));
    const told = next<{ drag: string; commands: unknown; from: string }>(b, 'live');
    a.emit('live', { drag: 'fader', commands: level(-5) });
    expect(await told).toMatchObject({ drag: 'fader', commands: level(-5), from: a.id });
    const ended = next<{ commands: unknown }>(b, 'live');
    a.emit('live', { drag: 'fader', commands: null });
    expect((await ended).commands).toBeNull();
    expect(echoed).toBe(false);
    const gone = next<{ from: string }>(b, 'gone');
    const id = a.id;
    a.close();
    expect((await gone).from).toBe(id);
  });
  it.each([
    ['live', { drag: 'fader', commands: [{ type: 'explode' }] }],
    ['live', { commands: null }],
    ['live', 'loud'],
    ['join', { session: 'not an id' }],
    ['join', null],
    ['commit', { revision: 7 }],
    ['nonsense', {}],
  ])(
    'answers a message that is not of the protocol (%s %j) with a refusal, and changes nothing',
    async (event, payload) => {
      const a = await joined();
      const b = await joined();
      let heard = 0;
      b.onAny(() => heard++);
      const refused = next<{ error: { code: string; message: string } }>(a, 'refused');
      a.emit(event, payload);
      expect((await refused).error).toMatchObject({
        code: 'format',
        message: expect.stringMatching(/message|session/),
      });
      expect(heard).toBe(0);
    },
  );
  it.each([
    '42["join"]',
    '42[1,"x"]',
    '42["error","x"]',
    '42["error"]',
    '42["join",{"session":{"toString":1}}]',
    '42["live",null]',
    '427["join"]',
    '42["__proto__",{}]',
    '42["constructor"]',
    '42[]',
    '42{}',
    '42["disconnect"]',
    '43["x"]',
    '451-["live",{"_placeholder":true,"num":7}]',
    '45999999999-["live"]',
    '42["' + 'x'.repeat(100_000) + '"]',
    '42["live",' + '['.repeat(50_000) + ']'.repeat(50_000) + ']',
    '4',
    '9',
    '',
  ])('survives the raw message %.60s', async (raw) => {
    const other = await joined();
    let heard = 0;
    other.onAny(() => heard++);
    await (await rawSocket(server.base)).send(raw);
    expect((await server.ask('GET', '/health')).status).toBe(200);
    // Windows that keep to the protocol go on.
    const a = await joined();
    const told = next<{ commands: unknown }>(other, 'live');
    a.emit('live', { drag: 'g', commands: level(-1) });
    expect((await told).commands).toEqual(level(-1));
    expect(heard).toBe(1);
  });
  it('leaves out what comes faster than any hand, and hears the window again a second later', async () => {
    const [a, b] = [await joined(), await joined()];
    let heard = 0;
    b.on('live', () => heard++);
    let ended = false;
    b.on('live', (m: { drag: string; commands: unknown }) => {
      if (m.drag === 'flood' && m.commands === null) ended = true;
    });
    for (let i = 0; i < 3000; i++) a.emit('live', { drag: 'flood', commands: level(-(i % 60)) });
    a.emit('live', { drag: 'flood', commands: null });
    // That it has ended is told all the same.
    await expect.poll(() => ended, { timeout: 20_000 }).toBe(true);
    await expect.poll(() => heard, { timeout: 20_000 }).toBeGreaterThan(100);
    await expect
      .poll(
        () => {
          a.emit('live', { drag: 'after', commands: null });
          return heard;
        },
        { timeout: 20_000, interval: 300 },
      )
      .toBeGreaterThan(400);
    expect(heard).toBeLessThan(3000);
  });
  it('refuses sockets of other origins', async () => {
    const socket = connect({ Origin: 'http://elsewhere.example' });
    await expect(
      new Promise((done, fail) => (socket.on('connect', () => done(null)), socket.on('connect_error', fail))),
    ).rejects.toThrow();
  });
});

it('what windows say stands in docs/live.md as it is judged', () => {
  const kept = readFileSync(new URL('../../docs/live.md', import.meta.url), 'utf8');
  expect(kept).toBe(livePage());
  expect(kept).toContain('"maxLength": 100');
});
