import { createSocket, type Socket } from 'node:dgram';
import { randomUUID } from 'node:crypto';
import { fromBuffer, toBuffer, type OscPacketInput, type OscPacketOutput } from 'osc-min';
import { io, type Socket as Window } from 'socket.io-client';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { EXAMPLE } from '../../core/formats/oscPage';
import type { Session } from '../../core/session/types';
import { startServer, type TestServer } from '../testing/testServer';
import { SETTLE_MS } from './gestures';
import type { OscState } from './state';

/** A free port, which the server then takes. */
const freePort = () =>
  new Promise<number>((done) => {
    const probe = createSocket('udp4');
    probe.bind(0, '127.0.0.1', () => {
      const { port } = probe.address();
      probe.close(() => done(port));
    });
  });

type Told = { readonly address: string; readonly args: readonly unknown[] };
/** A controller that speaks through osc-min. */
class Device {
  readonly told: Told[] = [];
  private constructor(
    readonly socket: Socket,
    private readonly to: number,
  ) {
    const take = (p: OscPacketOutput) => {
      if (p.oscType === 'bundle') p.elements.forEach(take);
      else
        this.told.push({
          address: p.address,
          args: p.args.map((a) => ('value' in a ? a.value : null)),
        });
    };
    socket.on('message', (bytes) => take(fromBuffer(bytes)));
  }
  static open(to: number): Promise<Device> {
    const socket = createSocket('udp4');
    return new Promise((done) => socket.bind(0, '127.0.0.1', () => done(new Device(socket, to))));
  }
  say(packet: OscPacketInput): void {
    const view = toBuffer(packet);
    this.raw(new Uint8Array(view.buffer, view.byteOffset, view.byteLength));
  }
  put(address: string, ...args: (number | string | boolean | null)[]): void {
    this.say({ address, args });
  }
  raw(bytes: Uint8Array): void {
    this.socket.send(bytes, this.to, '127.0.0.1');
  }
  /** The last that was told at an address. */
  at(address: string): unknown {
    return this.told.filter((t) => t.address === address).at(-1)?.args[0];
  }
}
const until = (what: () => unknown, within = 60_000) => expect.poll(what, { timeout: within, interval: 10 });
const rest = (ms: number) => new Promise((done) => setTimeout(done, ms));

let server: TestServer;
let port: number;
let session: string;
const devices: Device[] = [];
const windows: Window[] = [];
const device = async () => {
  const one = await Device.open(port);
  devices.push(one);
  return one;
};
const document = async () => (await server.ask('GET', `/sessions/${session}`)).body.document as Session;
const lead = async () => (await document()).strips.find((s) => s.id === 'lead')!;
const labels = async () =>
  ((await server.ask('GET', `/sessions/${session}/changes?after=0`)).body.changes as { label: string }[]).map(
    (c) => c.label,
  );
/** A window of the page that has the session open. */
async function window(): Promise<Window> {
  const socket = io(server.base, { path: '/socket', transports: ['websocket'] });
  windows.push(socket);
  await new Promise<void>((done) => socket.on('connect', () => done()));
  await socket.emitWithAck('join', { session });
  return socket;
}

beforeAll(async () => {
  server = await startServer();
  port = await freePort();
});
afterAll(() => server.close());
beforeEach(async () => {
  const made = await server.ask('POST', '/sessions', { name: `OSC ${randomUUID()}`, sampleRate: 48_000 });
  session = made.body.id;
  const { strips, vcas } = EXAMPLE.session;
  const commands = [
    ...strips
      .filter((s) => s.kind !== 'output')
      .map((s, at) => ({
        type: 'strip.add',
        at,
        strip: { ...s, sends: [], inserts: [], out: { to: strips.at(-1)!.id, on: true } },
      }))
      .reverse()
      .map((c) => ({ ...c, at: 0 })),
    ...strips[0]!.sends.map((send) => ({ type: 'send.add', strip: 'lead', send, at: 0 })),
    ...strips[0]!.inserts.map((insert) => ({ type: 'insert.add', strip: 'lead', insert, at: 0 })),
    ...vcas.map((vca, at) => ({ type: 'vca.add', vca, at })),
  ];
  const put = await server.ask('POST', `/sessions/${session}/commits`, {
    revision: 0,
    changeId: randomUUID(),
    kind: 'edit',
    label: 'the example',
    commands,
  });
  expect(put.status).toBe(200);
  await window();
  expect((await server.ask('PUT', '/osc', { on: true, port })).status).toBe(200);
});
afterEach(async () => {
  await server.ask('PUT', '/osc', { on: false, port });
  for (const d of devices.splice(0)) d.socket.close();
  for (const w of windows.splice(0)) w.close();
});

describe('OSC over UDP', () => {
  it('is off until it is switched on, stays as it was left, and says where a port is taken', async () => {
    await server.ask('PUT', '/osc', { on: false, port });
    const one = await device();
    one.put('/strip/1/level');
    await rest(60);
    expect(one.told).toEqual([]);
    const taken = await server.ask('PUT', '/osc', { on: true, port: one.socket.address().port });
    expect([taken.status, taken.body.error.message]).toEqual([
      422,
      `Another program listens on port ${one.socket.address().port}. Choose another, from 1024 to 65535.`,
    ]);
    expect((await server.ask('GET', '/osc')).body).toMatchObject({ on: false, wanted: { on: false } });
    for (const bad of [{ on: true, port: 80 }, { on: 'yes', port }, {}])
      expect((await server.ask('PUT', '/osc', bad)).status).toBe(400);
    await server.ask('PUT', '/osc', { on: true, port });
    expect((await server.ask('GET', '/osc')).body).toMatchObject({
      on: true,
      host: '127.0.0.1',
      port,
      wanted: { on: true, port },
    });
  });

  it('moves a fader: heard in windows at once, kept as one step when it rests, told as text meanwhile', async () => {
    const page = await window();
    const lives: unknown[] = [];
    page.on('live', (m) => lives.push(m));
    const one = await device();
    one.put('/subscribe', '/strip/Lead_voice/level', '/strip/Lead_voice/level/*');
    await until(() => one.at('/subscribed')).toBe(60);
    await until(() => one.at('/strip/Lead_voice/level')).toBe(0);
    for (let i = 1; i <= 40; i++) {
      one.put('/strip/Lead_voice/level', -i / 4);
      await rest(5);
    }
    await until(() => one.at('/strip/Lead_voice/level/text')).toBe('−10.0');
    expect(one.told.filter((t) => t.address === '/strip/Lead_voice/level')).toHaveLength(1);
    expect(lives.length).toBeGreaterThan(5);
    expect((await lead()).faderDb).toBe(0);
    await until(async () => (await lead()).faderDb).toBe(-10);
    await until(() => (lives.at(-1) as { commands: unknown }).commands).toBeNull();
    expect((await labels()).slice(1)).toEqual(['level Lead voice']);
    // One step of undo takes it back, and the controller is told.
    one.put('/undo');
    await until(() => one.told.filter((t) => t.address === '/strip/Lead_voice/level')).toHaveLength(2);
    expect(one.at('/strip/Lead_voice/level')).toBe(0);
    expect((await lead()).faderDb).toBe(0);
    one.put('/redo', true);
    await until(() => one.at('/strip/Lead_voice/level')).toBe(-10);
    // A key that is let go does nothing more.
    one.put('/redo', false);
    one.put('/undo', 0);
    one.put('/strip/1/name');
    await until(() => one.at('/strip/1/name')).toBe('Lead voice');
    expect((await lead()).faderDb).toBe(-10);
  });

  it('keeps what comes in one bundle as one step, at the time that it is meant for', async () => {
    const one = await device();
    const at = Date.now() + 700;
    one.say({
      timetag: new Date(at),
      elements: [
        { address: '/strip/1/level', args: [-3] },
        { address: '/strip/1/send/1/level', args: [-20] },
        { address: '/strip/1/insert/1/threshold', args: [-30] },
        { address: '/strip/1/insert/1/ratio', args: [{ type: 'integer', value: 4 }] },
        { address: '/vca/Voices/mute', args: [true] },
      ],
    });
    await rest(300);
    expect((await server.ask('GET', '/osc')).body.taken).toBe(0);
    await until(async () => (await lead()).faderDb).toBe(-3);
    expect(Date.now()).toBeGreaterThanOrEqual(at + SETTLE_MS - 20);
    const kept = await lead();
    expect(kept.sends[0]!.levelDb).toBe(-20);
    expect(kept.inserts[0]!.params).toMatchObject({ threshold: -30, ratio: 4 });
    expect((await document()).vcas[0]!.mute).toBe(true);
    expect((await labels()).slice(1)).toEqual(['level Lead voice and 4 more']);
    // What lies too far ahead is refused, not kept waiting.
    one.say({
      timetag: new Date(Date.now() + 3_600_000),
      elements: [{ address: '/undo' }],
    });
    await until(() => one.at('/refused')).toBe('');
    expect(one.told.at(-1)!.args[1]).toMatch(/clocks/);
  });

  it('leaves what others did to the same insert meanwhile, and to other strips, and follows them', async () => {
    const one = await device();
    one.put('/subscribe', '/strip/1/insert/1/*');
    await until(() => one.at('/strip/1/insert/1/threshold')).toBeDefined();
    one.put('/strip/1/insert/1/threshold', -40);
    await rest(100);
    const { revision } = (await server.ask('GET', `/sessions/${session}`)).body;
    const insert = (await lead()).inserts[0]!;
    await server.ask('POST', `/sessions/${session}/commits`, {
      revision,
      changeId: randomUUID(),
      kind: 'edit',
      label: 'by a window',
      commands: [
        {
          type: 'insert.set',
          strip: 'lead',
          id: insert.id,
          patch: { params: { ...insert.params, ratio: 7 } },
        },
      ],
    });
    await until(() => one.at('/strip/1/insert/1/ratio')).toBe(7);
    await until(async () => (await lead()).inserts[0]!.params).toMatchObject({ threshold: -40, ratio: 7 });
  });

  it('follows the hands of windows, and of two hands on one fader the last is heard, each a step of its own', async () => {
    const one = await device();
    const two = await device();
    two.put('/subscribe', '/strip/1/level');
    await until(() => two.at('/strip/1/level')).toBe(0);
    const page = await window();
    const put = (faderDb: number | null) =>
      page.emit('live', {
        drag: 'fader',
        commands: faderDb === null ? null : [{ type: 'strip.set', id: 'lead', patch: { faderDb } }],
      });
    put(-15);
    await until(() => two.at('/strip/1/level')).toBe(-15);
    one.put('/strip/1/level', -5);
    await until(() => two.at('/strip/1/level')).toBe(-5);
    put(-16);
    await until(() => two.at('/strip/1/level')).toBe(-16);
    put(null);
    await until(() => two.at('/strip/1/level')).toBe(-5);
    await until(labels).toHaveLength(2);
    // A window that goes takes its hand along.
    put(-30);
    await until(() => two.at('/strip/1/level')).toBe(-30);
    page.close();
    await until(() => two.at('/strip/1/level')).toBe(-5);
    // Both move: two steps.
    one.put('/strip/1/level', -1);
    await rest(30);
    two.put('/strip/1/level', -2);
    await until(labels).toHaveLength(4);
    expect((await lead()).faderDb).toBe(-2);
  });

  it('asks the window that plays, and says where none does', async () => {
    const one = await device();
    one.put('/strip/1/name');
    await until(() => one.at('/strip/1/name')).toBe('Lead voice');
    one.put('/transport/play');
    await until(() => one.at('/refused')).toBe('/transport/play');
    const page = await window();
    const asked: unknown[] = [];
    page.on('transport', (m) => asked.push(m));
    one.put('/subscribe');
    page.emit('playing', { rolling: true, position: 12, looping: false, loop: null });
    await until(() => one.at('/transport/rolling')).toBe(true);
    await until(() => one.at('/transport/position') as number).toBeGreaterThan(12.1);
    one.put('/transport/stop', 1);
    one.put('/transport/locate', 33.5);
    one.put('/transport/loop', true);
    one.put('/transport/loop', false);
    await until(() => asked).toEqual([
      { ask: 'stop', from: 'osc' },
      { ask: 'locate', at: 33.5, from: 'osc' },
      { ask: 'loop', from: 'osc' },
    ]);
    page.close();
    await until(() => one.at('/transport/there')).toBe(false);
    one.put('/transport/play');
    await until(() => one.told.filter((t) => t.address === '/refused').length).toBe(2);
  });

  it('refuses what is broken, unknown or wrong, without harm, and answers no stranger', async () => {
    const one = await device();
    const cut = toBuffer({ address: '/strip/1/level', args: [-6] });
    // Nobody has been understood yet: what is broken is not answered.
    one.raw(new Uint8Array(cut.buffer, cut.byteOffset, cut.byteLength - 3));
    one.raw(Buffer.from('#bundle\0'));
    one.raw(Buffer.alloc(0));
    one.raw(Buffer.from('GET / HTTP/1.1\r\n\r\n'));
    await until(async () => (await server.ask('GET', '/osc')).body.broken).toBe(4);
    expect(one.told).toEqual([]);
    const wrong: [string, (number | string | boolean | null)[], RegExp][] = [
      ['/strip/99/level', [0], /Nothing has this address/],
      ['/strip/1/level', ['loud'], /takes a number/],
      ['/strip/1/name', ['Other'], /told, and cannot be set/],
      ['/strip/[1/level', [0], /bracket/],
      ['/session/open', ['no such session'], /no session/i],
      ['/subscribe', ['everything'], /takes address patterns/],
    ];
    for (const [address, args, why] of wrong) {
      const before = one.told.length;
      one.put(address, ...args);
      await until(() => one.told.length).toBe(before + 1);
      expect(one.told.at(-1)!.args[0]).toBe(address);
      expect(one.told.at(-1)!.args[1]).toMatch(why);
    }
    expect(await labels()).toHaveLength(1);
    // Ten refusals a second, however often it is wrong.
    one.told.length = 0;
    await rest(1000);
    for (let i = 0; i < 300; i++) one.put('/nothing', i);
    await rest(400);
    expect(one.told.length).toBeLessThanOrEqual(20);
  });

  it('takes 5,000 messages a second: the last value of every control stays, others are served meanwhile', async () => {
    const one = await device();
    const other = await device();
    const begun = performance.now();
    let sent = 0;
    const slowest = { ms: 0 };
    while (performance.now() - begun < 2000) {
      for (let i = 0; i < 100; i++) {
        one.put(`/strip/${1 + (sent % 2)}/level`, -((sent % 400) / 10) - 1);
        sent++;
      }
      const asked = performance.now();
      if (sent % 1000 === 0) {
        expect((await server.ask('GET', '/health')).status).toBe(200);
        slowest.ms = Math.max(slowest.ms, performance.now() - asked);
      }
      await rest(Math.max(0, sent / 5 - (performance.now() - begun)));
    }
    one.put('/strip/1/level', -7.5);
    one.put('/strip/2/level', -8.5);
    other.put('/strip/1/name');
    await until(() => other.at('/strip/1/name')).toBe('Lead voice');
    await until(async () => (await document()).strips.slice(0, 2).map((s) => s.faderDb)).toEqual([
      -7.5, -8.5,
    ]);
    expect(sent).toBeGreaterThan(5000);
    // A hand that never rests is one step.
    expect(await labels()).toHaveLength(3);
    const state = (await server.ask('GET', '/osc')).body as OscState;
    expect(state.broken).toBe(0);
    expect(state.controllers.map((c) => c.last)).toContain('/strip/2/level');
  });

  it('keeps what a hand holds when it is switched off, and drops what has gone from under it', async () => {
    const one = await device();
    one.put('/strip/1/level', -4);
    await rest(50);
    await server.ask('PUT', '/osc', { on: false, port });
    expect((await lead()).faderDb).toBe(-4);
    await server.ask('PUT', '/osc', { on: true, port });
    one.put('/strip/Echo/level', -9);
    await rest(50);
    const { revision } = (await server.ask('GET', `/sessions/${session}`)).body;
    const removed = await server.ask('POST', `/sessions/${session}/commits`, {
      revision,
      changeId: randomUUID(),
      kind: 'edit',
      label: 'gone',
      commands: [
        { type: 'send.remove', strip: 'lead', id: 'lead-to-echo' },
        { type: 'strip.remove', id: 'echo' },
      ],
    });
    expect(removed.status).toBe(200);
    await until(() => one.at('/refused')).toBeDefined();
    expect((await labels()).at(-1)).toBe('gone');
    one.put('/strip/1/level', -5);
    await until(async () => (await lead()).faderDb).toBe(-5);
  });

  it('keeps a move in the session in which it was made, though another is opened meanwhile', async () => {
    const one = await device();
    // A copy, in which everything has the same names.
    const copy = (await server.ask('POST', '/sessions', { name: `Copy ${session}`, sampleRate: 48_000 })).body
      .id as string;
    one.put('/strip/Main/level', -11);
    await rest(60);
    const page = await window();
    await page.emitWithAck('join', { session: copy });
    await until(async () => (await document()).strips.find((s) => s.name === 'Main')!.faderDb).toBe(-11);
    const other = (await server.ask('GET', `/sessions/${copy}`)).body;
    expect([other.revision, other.document.strips[0].faderDb]).toEqual([0, 0]);
    one.put('/session/name');
    await until(() => one.at('/session/name')).toBe(`Copy ${session}`);
    await server.ask('DELETE', `/sessions/${copy}`);
  });

  it('steers another session by its name, and has banks for each controller alone', async () => {
    const [one, two] = [await device(), await device()];
    one.put('/bank/size', 2);
    one.put('/bank/right');
    one.put('/bank/first');
    two.put('/bank/first');
    await until(() => [one.at('/bank/first'), two.at('/bank/first')]).toEqual([3, 1]);
    const other = await server.ask('POST', '/sessions', { name: `Other ${session}`, sampleRate: 44_100 });
    one.put('/session/open', `Other ${session}`);
    one.put('/session/name');
    await until(() => one.at('/session/name')).toBe(`Other ${session}`);
    await server.ask('DELETE', `/sessions/${other.body.id}`);
    one.told.length = 0;
    one.put('/session/name');
    // Where it has been deleted, the one that was opened last is steered.
    await until(() => one.at('/session/name')).toBeDefined();
    expect(one.at('/session/name')).not.toBe(`Other ${session}`);
  });
});
