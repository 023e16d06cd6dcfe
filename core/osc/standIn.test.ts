import { describe, expect, it } from 'vitest';
import { apply } from '../edits/apply';
import { EXAMPLE } from '../formats/oscPage';
import type { OscMessage } from '../wire/osc';
import type { OscWorld } from './address';
import {
  STAND_IN,
  standInJoins,
  standInLines,
  standInMoves,
  standInPresses,
  standInTold,
  type StandIn,
  type StandInKey,
} from './standIn';
import { subscriptionOf, Telling } from './telling';
import { oscFind, oscRoot } from './tree';

/** The other end, without a network: what it is told, and what becomes of what it says. */
function plugged() {
  let world: OscWorld = EXAMPLE;
  let desk: StandIn = STAND_IN;
  const telling = new Telling(subscriptionOf([]));
  const tell = () => {
    telling.look(world, new Set());
    for (let all = telling.next(); all.length; all = telling.next()) desk = all.reduce(standInTold, desk);
  };
  const hear = (messages: readonly OscMessage[]) => {
    for (const { address, args } of messages) {
      const done = oscFind(oscRoot(world), address)[0]!.take!(args);
      if (done?.type === 'edit') world = { ...world, session: apply(world.session, done.commands).session };
      else if (done?.type === 'bank') world = { ...world, bank: done.bank };
    }
    tell();
  };
  hear(standInJoins());
  return {
    get desk() {
      return desk;
    },
    get world() {
      return world;
    },
    press(key: StandInKey) {
      const step = standInPresses(desk, key);
      desk = step.desk;
      hear(step.says);
      return step.says;
    },
    move(i: number, travel: number) {
      const step = standInMoves(desk, i, travel);
      desk = step.desk;
      hear(step.says);
    },
    tell: (m: OscMessage) => (desk = standInTold(desk, m)),
  };
}
const first = (s: OscWorld) => s.session.strips[0]!;

describe('the simulated OSC controller', () => {
  it('shows nothing until it is answered, then what lies in its bank', () => {
    expect(standInLines(STAND_IN).join()).toMatch(/No answer yet/);
    const p = plugged();
    expect(p.desk.faders.map((f) => f.name)).toEqual([
      'Lead voice',
      'Voices',
      'Echo',
      EXAMPLE.session.strips.at(-1)!.name,
      '',
      '',
      '',
      '',
    ]);
    expect(p.desk).toMatchObject({ heard: true, session: 'Example', first: 1, total: 4 });
    const lines = standInLines(p.desk);
    expect(lines[0]).toBe('Example   1 to 4 of 4   stands at 0:00');
    expect(lines[2]).toMatch(/^\[LeaVoi\] {2}Voices/);
    // Every line is as wide as eight faders at most.
    for (const line of lines.slice(2)) expect(line.length).toBeLessThanOrEqual(72);
  });
  it('moves, mutes and solos what lies under it, and nothing where nothing lies', () => {
    const p = plugged();
    const before = first(p.world).faderDb!;
    p.press('up');
    expect(first(p.world).faderDb!).toBeGreaterThan(before);
    p.press('less');
    expect(first(p.world).faderDb!).toBeLessThan(before);
    p.move(0, 0);
    expect(first(p.world).faderDb).toBeNull();
    expect(p.desk.faders[0]!.text).toBe('−∞');
    p.press('mute');
    p.press('right');
    p.press('solo');
    expect([first(p.world).mute, p.world.session.vcas[0]!.solo]).toEqual([true, true]);
    expect([p.desk.faders[0]!.mute, p.desk.faders[1]!.solo]).toEqual([true, true]);
    for (let i = 0; i < 20; i++) p.press('right');
    expect(p.desk.at).toBe(7);
    expect([p.press('up'), p.press('mute')]).toEqual([[], []]);
  });
  it('goes by banks, and empties what nothing lies under', () => {
    const p = plugged();
    p.tell({ address: '/bank/1/name', args: [''] });
    expect(p.desk.faders[0]).toEqual(STAND_IN.faders[0]);
    expect(p.press('bankRight')).toEqual([{ address: '/bank/right', args: [true] }]);
    // All of four lie in the first bank of eight.
    expect(p.desk.first).toBe(1);
  });
  it('plays, stops, and says what was refused', () => {
    const p = plugged();
    expect(p.press('play')).toEqual([{ address: '/transport/play', args: [true] }]);
    p.tell({ address: '/transport/rolling', args: [true] });
    expect(p.press('play')).toEqual([{ address: '/transport/stop', args: [true] }]);
    expect(p.press('undo')).toEqual([{ address: '/undo', args: [true] }]);
    p.tell({ address: '/refused', args: ['/undo', 'There is nothing to undo.'] });
    expect(standInLines(p.desk).at(-1)).toBe('There is nothing to undo.');
    p.press('up');
    expect(standInLines(p.desk).at(-1)).toBe('');
    expect(p.tell({ address: '/bank/99/name', args: ['x'] }).faders).toHaveLength(8);
  });
});
