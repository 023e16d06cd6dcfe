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
    ['playing', { rolling: 'yes', position: 0, looping: false, loop: null }],
    ['playing', { rolling: true, position: -1, looping: false, loop: null }],
    ['transport', { to: 'x', ask: 'locate' }],
    ['transport', { to: 'x', ask: 'explode' }],
    ['transport', { to: 'x', ask: 'play', at: 3 }],
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
    // That a window joins is told to those that are there.
    other.onAny((event) => event !== 'joined' && heard++);
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
  it('tells where the window that plays stands, asks it alone, and says when it has gone', async () => {
    const [plays, tablet, third] = [await joined(), await joined(), await joined()];
    let asked = 0;
    third.on('transport', () => asked++);
    const stands = { rolling: true, position: 12.5, looping: true, loop: { start: 8, end: 16 } };
    const told = next<{ from: string }>(tablet, 'playing');
    plays.emit('playing', stands);
    const { from } = await told;
    expect(await told).toEqual({ ...stands, from: plays.id });
    const heard = next(plays, 'transport');
    const answer = (to: string) =>
      new Promise((done) => tablet.emit('transport', { to, ask: 'locate', at: 3 }, done));
    expect(await answer(from)).toEqual({ ok: true });
    expect(await heard).toEqual({ ask: 'locate', at: 3, from: tablet.id });
    expect(asked).toBe(0);
    // One that joins makes the one that plays say it anew.
    const newcomer = next<{ from: string }>(plays, 'joined');
    const fourth = await joined();
    expect((await newcomer).from).toBe(fourth.id);
    const gone = next(tablet, 'gone');
    plays.close();
    await gone;
    expect(await answer(from)).toEqual({ ok: false });
    // Nor is a window reached that has another session open.
    const { body } = await server.ask('POST', '/sessions', { name: 'Another' });
    const other = connect();
    await new Promise<void>((done) =>
      other.on('connect', () => other.emit('join', { session: body.id }, () => done())),
    );
    expect(await answer(other.id!)).toEqual({ ok: false });
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
