import { afterEach, describe, expect, it } from 'vitest';
import { isAsked, newPreamp, unconfirmed, type PreampState } from '../../core/devices/preamp';
import { connectPreamp, type PreampBridge } from './preampBridge';
import { startSimulatedPreamp, type SimulatedPreamp, type SimulatedPreampOptions } from './simulatedPreamp';

let device: SimulatedPreamp;
let bridge: PreampBridge;
let told: PreampState[] = [];
async function connect(options: SimulatedPreampOptions) {
  told = [];
  device = await startSimulatedPreamp(options);
  bridge = await connectPreamp({
    port: device.port,
    again: 120,
    tries: 8,
    changed: (s) => told.push(s),
  });
}
afterEach(async () => {
  await bridge.close();
  await device.close();
});
async function until(done: () => boolean, ms = 6000) {
  const end = Date.now() + ms;
  while (!done()) {
    if (Date.now() > end) throw new Error(`In time: ${JSON.stringify(told.at(-1))}`);
    await new Promise((r) => setTimeout(r, 15));
  }
}

describe('the remote preamplifier', () => {
  it('confirms what is asked, later than it is asked', async () => {
    await connect({ delay: [60, 90], loss: 0 });
    const asked = { ...newPreamp(3), gainDb: 36, phantom: true };
    expect(bridge.ask(asked).state).toBe('waiting');
    expect(unconfirmed(bridge.states()[0]!)).toHaveLength(5);
    await until(() => bridge.states()[0]!.state === 'settled');
    expect(bridge.states()[0]!.confirmed).toEqual({
      gainDb: 36,
      pad: false,
      phantom: true,
      lowCut: false,
      invert: false,
    });
    const orders = told.map((s) => s.order);
    expect(orders).toEqual([...new Set(orders)].sort((a, b) => a - b));
  });
  it('is not taken to have confirmed a wish that it was not told yet', async () => {
    await connect({ delay: [1, 5], loss: 0 });
    bridge.ask(newPreamp(6));
    await until(() => bridge.states()[0]!.state === 'settled');
    const wanted = { ...newPreamp(6), gainDb: 42 };
    expect(isAsked(bridge.states()[0]!, wanted)).toBe(false);
    expect(unconfirmed(bridge.states()[0]!, wanted)).toEqual(['gainDb']);
    bridge.ask(wanted);
    expect(isAsked(bridge.states()[0]!, wanted)).toBe(true);
    expect(unconfirmed(bridge.states()[0]!, wanted)).toEqual(['gainDb']);
  });
  it('that loses half of what it is told is asked again until it has confirmed all', async () => {
    await connect({ delay: [5, 30], loss: 0.5 });
    bridge.ask({ ...newPreamp(1), pad: true });
    await until(() => bridge.states()[0]!.state !== 'waiting');
    // Asked eight times at one half each, all five are confirmed but once in fifty runs; asked anew, they are.
    for (let i = 0; i < 5 && bridge.states()[0]!.state === 'silent'; i++) {
      bridge.ask({ ...newPreamp(1), pad: true });
      await until(() => bridge.states()[0]!.state !== 'waiting');
    }
    expect(unconfirmed(bridge.states()[0]!)).toEqual([]);
  });
  it('that does not answer is told as silent, with what is not confirmed, and other inputs go on', async () => {
    await connect({ delay: [5, 10], loss: 0, dead: [7] });
    bridge.ask(newPreamp(7));
    bridge.ask(newPreamp(8));
    await until(() => bridge.states().every((s) => s.state !== 'waiting'));
    const [seven, eight] = bridge.states();
    expect(seven).toMatchObject({ input: 7, state: 'silent', confirmed: {} });
    expect(eight!.state).toBe('settled');
  });
  it('with gain between its steps says what it has set, and that it is not what was asked', async () => {
    await connect({ delay: [1, 5], loss: 0 });
    bridge.ask({ ...newPreamp(2), gainDb: 31 });
    await until(() => bridge.states()[0]!.state === 'settled');
    expect(bridge.states()[0]!.confirmed.gainDb).toBe(30);
    expect(unconfirmed(bridge.states()[0]!)).toEqual(['gainDb']);
  });
  it('asked anew before it has answered keeps the last wish alone', async () => {
    await connect({ delay: [40, 60], loss: 0 });
    for (const gainDb of [12, 24, 48]) bridge.ask({ ...newPreamp(5), gainDb });
    await new Promise((r) => setTimeout(r, 400));
    await until(() => bridge.states()[0]!.state === 'settled');
    expect(bridge.states()[0]!.confirmed.gainDb).toBe(48);
  });
});
