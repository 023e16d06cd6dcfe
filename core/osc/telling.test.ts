import { describe, expect, it } from 'vitest';
import { apply } from '../edits/apply';
import type { Command } from '../edits/commands';
import { EXAMPLE } from '../formats/oscPage';
import { encodeOsc, type OscArgument } from '../wire/osc';
import { subscriptionOf, Telling, USUAL } from './telling';

const none = new Set<string>();
/** All that waits, by its address. */
const told = (telling: Telling): Record<string, OscArgument> => {
  const all: Record<string, OscArgument> = {};
  for (let m = telling.next(); m.length; m = telling.next())
    for (const { address, args } of m) all[address] = args[0]!;
  return all;
};
const level = (faderDb: number | null): Command[] => [{ type: 'strip.set', id: 'lead', patch: { faderDb } }];
const moved = (commands: readonly Command[]) => ({
  ...EXAMPLE,
  session: apply(EXAMPLE.session, commands).session,
});

describe('what a controller is told', () => {
  it('is everything that it asked for first, then what has changed', () => {
    const telling = new Telling(subscriptionOf(['/strip/*/{level,mute}']));
    telling.look(EXAMPLE, none);
    expect(Object.keys(told(telling))).toHaveLength(2 * EXAMPLE.session.strips.length);
    telling.look(EXAMPLE, none);
    expect(told(telling)).toEqual({});
    telling.look(moved(level(-9)), none);
    expect(told(telling)).toEqual({ '/strip/1/level': -9 });
    telling.look(moved(level(null)), none);
    expect(told(telling)).toEqual({ '/strip/1/level': null });
  });
  it('is its latest, however often it changed before it could be sent', () => {
    const telling = new Telling(subscriptionOf(['/strip/1/level']));
    for (const v of [-1, -2, -3]) telling.look(moved(level(v)), none);
    expect(told(telling)).toEqual({ '/strip/1/level': -3 });
  });
  it('is not what it moves itself, until it lets go; its text is', () => {
    const telling = new Telling(subscriptionOf(['/bank/1/level/*']));
    telling.look(EXAMPLE, none);
    told(telling);
    telling.heard('/bank/1/level/travel', 0.5);
    telling.look(moved(level(-20)), new Set(['/bank/1/level/travel']));
    expect(told(telling)).toEqual({ '/bank/1/level/text': '−20.0' });
    // Where it is in truth elsewhere than its hand put it, it is told when it has let go.
    telling.look(moved(level(-20)), none);
    expect(Object.keys(told(telling))).toEqual(['/bank/1/level/travel']);
  });
  it('comes in datagrams that any network carries whole', () => {
    const telling = new Telling(subscriptionOf(['/strip/*/*', '/strip/*/*/*', '/vca/*/*']));
    telling.look(EXAMPLE, none);
    for (let m = telling.next(); m.length; m = telling.next())
      expect(encodeOsc({ at: null, elements: m }).length).toBeLessThanOrEqual(1400);
  });
  it('may be plain numbers, and by names', () => {
    const telling = new Telling(subscriptionOf(['plain', 'names', 9001, '/strip/*/{level,mute}']));
    expect(telling.subscription).toEqual({
      patterns: ['/strip/*/{level,mute}'],
      plain: true,
      byName: true,
      port: 9001,
    });
    telling.look(moved(level(null)), none);
    expect(told(telling)).toMatchObject({ '/strip/Lead_voice/level': -200, '/strip/Lead_voice/mute': 0 });
  });
  it('is the usual where nothing is asked for, and nothing that cannot be', () => {
    expect(subscriptionOf([]).patterns).toBe(USUAL);
    for (const bad of [['all'], [80], [true], [70000], [Array(70).fill('/a')].flat()])
      expect(() => subscriptionOf(bad as OscArgument[])).toThrow(/takes/);
    expect(() => new Telling(subscriptionOf(['/strip/[a/b'])).look(EXAMPLE, none)).toThrow(/bracket/);
  });
});
