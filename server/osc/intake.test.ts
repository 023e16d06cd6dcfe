import type { RemoteInfo } from 'node:dgram';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { encodeOsc, type OscPacket } from '../../core/wire/osc';
import { Controller, LAPSES_S } from './controller';
import { Intake, MOST_PACKETS } from './intake';

const from: RemoteInfo = { address: '127.0.0.1', port: 5000, family: 'IPv4', size: 0 };
const at = 1_700_000_000_000;
function intake() {
  vi.useFakeTimers({ now: at });
  const refused: string[] = [];
  let arrived = 0;
  const one = new Intake(
    () => arrived++,
    (_, __, why) => refused.push(why),
  );
  return {
    one,
    refused,
    arrived: () => arrived,
    say: (packet: OscPacket) => one.packet(encodeOsc(packet), from),
    addresses: () => one.turn().map((h) => `${h.message.address} ${String(h.message.args[0])}`),
  };
}
afterEach(() => {
  vi.useRealTimers();
});

describe('what comes in faster than it is dealt with', () => {
  it('is the last of each address, in the order in which they came last; what acts is done each time', () => {
    const t = intake();
    for (let i = 0; i < 1000; i++) t.say({ address: `/strip/${1 + (i % 2)}/level`, args: [i] });
    t.say({ address: '/bank/right', args: [true] });
    t.say({ address: '/bank/right', args: [true] });
    t.say({ address: '/strip/1/level', args: [-1] });
    expect(t.addresses()).toEqual([
      '/strip/2/level 999',
      '/bank/right true',
      '/bank/right true',
      '/strip/1/level -1',
    ]);
    expect([t.one.waits, t.addresses()]).toEqual([false, []]);
    expect(t.one.taken).toBe(1003);
  });
  it('is thrown away and counted beyond what can be read in a second, and read again in the next', () => {
    const t = intake();
    const bytes = encodeOsc({ address: '/strip/1/level', args: [0] });
    for (let i = 0; i < MOST_PACKETS + 500; i++) t.one.packet(bytes, from);
    expect([t.one.taken, t.one.dropped]).toEqual([MOST_PACKETS, 500]);
    vi.setSystemTime(at + 1000);
    t.one.packet(bytes, from);
    expect(t.one.taken).toBe(MOST_PACKETS + 1);
  });
  it('acts two hundred times a turn at most', () => {
    const t = intake();
    for (let i = 0; i < 1000; i++) t.say({ address: '/undo', args: [] });
    expect(t.one.turn()).toHaveLength(200);
    expect(t.one.dropped).toBe(800);
  });
});

describe('bundles', () => {
  const message = { address: '/strip/1/level', args: [1] };
  it('wait for their time, and those of the past do not', () => {
    const t = intake();
    t.say({ at: at + 500, elements: [message] });
    t.say({ at: at - 500, elements: [{ ...message, args: [2] }] });
    t.say({ at: null, elements: [{ ...message, args: [3] }] });
    expect(t.addresses()).toEqual(['/strip/1/level 3']);
    const before = t.arrived();
    vi.advanceTimersByTime(499);
    expect(t.one.waits).toBe(false);
    vi.advanceTimersByTime(1);
    expect([t.one.waits, t.arrived()]).toEqual([true, before + 1]);
    expect(t.addresses()).toEqual(['/strip/1/level 1']);
  });
  it('of a far time, or too many that wait, are refused; none waits any more when it is closed', () => {
    const t = intake();
    t.say({ at: at + 61_000, elements: [message] });
    expect(t.refused).toEqual([expect.stringMatching(/clocks/)]);
    for (let i = 0; i < 1001; i++) t.say({ at: at + 1000, elements: [message] });
    expect(t.refused.at(-1)).toMatch(/1000 bundles wait/);
    t.one.clear();
    vi.advanceTimersByTime(2000);
    expect([t.one.waits, vi.getTimerCount()]).toEqual([false, 0]);
  });
});

describe('a controller', () => {
  it('lapses a minute after it said anything last', () => {
    const one = new Controller('127.0.0.1', 5000);
    one.heard = at;
    expect([one.lapsed(at + LAPSES_S * 1000), one.lapsed(at + LAPSES_S * 1000 + 1)]).toEqual([false, true]);
  });
  it('is told ten refusals a second', () => {
    const one = new Controller('127.0.0.1', 5000);
    const told = (now: number) => Array.from({ length: 50 }, () => one.mayBeTold(now)).filter(Boolean).length;
    expect([told(at), told(at + 900), told(at + 1000)]).toEqual([10, 0, 10]);
  });
});
