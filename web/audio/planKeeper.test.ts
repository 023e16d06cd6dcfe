import { beforeEach, describe, expect, it } from 'vitest';
import { apply } from '@core/edits/apply';
import type { Command } from '@core/edits/commands';
import { newSession, newStrip } from '@core/session/defaults';
import { deltaOf } from '@core/session/delta';
import type { Lane, Session } from '@core/session/types';
import { PlanKeeper, type Wiring } from './planKeeper';
import type { WorkletMessage } from './worklet';

const lane: Lane = Array.from({ length: 60 }, (_, i) => [i, -6 - (i % 7)]);
const base = newSession('Kept');
const first: Session = {
  ...base,
  strips: [
    newStrip({ id: 'a', kind: 'source', name: 'A', lanes: { fader: lane }, out: { to: 'main', on: true } }),
    newStrip({ id: 'b', kind: 'source', name: 'B', out: { to: 'main', on: true } }),
    ...base.strips,
  ],
};
const wiring = (serial: number): Wiring => ({
  serial,
  sources: [],
  outputs: [{ strip: 'main', channel: 0 }],
  slots: {},
  dynamics: {},
});
const level = (id: string, faderDb: number): Command => ({ type: 'strip.set', id, patch: { faderDb } });

let said: WorkletMessage[];
let plans: number[];
let place = { rolling: false, position: 0, loopStart: null as number | null };
let session: Session;
let keeper: PlanKeeper;
beforeEach(() => {
  said = [];
  plans = [];
  place = { rolling: false, position: 0, loopStart: null };
  keeper = new PlanKeeper(
    (message) => said.push(structuredClone(message)),
    (serial) => plans.push(serial),
    () => place,
  );
  session = first;
  keeper.take({ type: 'session', delta: deltaOf(null, first), wiring: wiring(1) });
});
const edit = (...commands: readonly Command[]) => {
  const next = apply(session, commands).session;
  const delta = structuredClone(deltaOf(session, next));
  session = next;
  return delta;
};
/** Frames that the curves which were told reach over, in seconds. */
const reach = () =>
  said.flatMap((m) =>
    m.type === 'steer'
      ? m.curves.flatMap(({ curve }) =>
          curve ? [[curve.frames[0]! / 48000, curve.frames.at(-1)! / 48000] as const] : [],
        )
      : [],
  );

describe('the keeper of the plan', () => {
  it('gives a plan at once while nothing plays, and draws its curves then, those at the playhead first', () => {
    expect(said).toMatchObject([{ type: 'plan', plan: { serial: 1, curves: [] } }]);
    expect(plans).toEqual([1]);
    expect(keeper.busy).toBe(true);
    place.position = 30;
    keeper.goOn(() => true);
    for (const [from, to] of reach()) expect([from > 25, to < 36]).toEqual([true, true]);
    while (keeper.busy) keeper.goOn(() => false);
    expect(reach().at(-1)![0]).toBeLessThan(0.1);
    expect(reach().at(-1)![1]).toBeGreaterThan(58.9);
  });
  it('tells of a moved fader alone, and nothing where nothing has moved', () => {
    said.length = 0;
    keeper.take({ type: 'session', delta: edit(level('b', -20)) });
    expect(said).toHaveLength(1);
    expect(said[0]).toMatchObject({
      type: 'steer',
      curves: [],
      runs: [{ values: [expect.closeTo(0.1, 9)] }],
    });
    keeper.take({ type: 'session', delta: edit(level('b', -20)) });
    expect(said).toHaveLength(1);
  });
  it('has curves be there before it plays from a place', () => {
    said.length = 0;
    keeper.prepare(40);
    const [from, to] = reach()[0]!;
    expect([from < 40, to > 41]).toEqual([true, true]);
  });
  it('while it plays, a new plan comes with its curves, and what was drawn before is not drawn again', () => {
    while (keeper.busy) keeper.goOn(() => false);
    place.rolling = true;
    said.length = 0;
    const strip = newStrip({ id: 'c', kind: 'source', name: 'C', out: { to: 'main', on: true } });
    keeper.take({ type: 'session', delta: edit({ type: 'strip.add', at: 0, strip }), wiring: wiring(2) });
    expect(keeper.busy).toBe(false);
    const [told] = said;
    if (told?.type !== 'plan') throw new Error('a plan was expected');
    expect(told.plan.curves).toHaveLength(1);
    expect(told.plan.curves[0]!.frames.length).toBeGreaterThan(59);
    expect(told.plan.sources.map((s) => s.strip)).toContain('c');
  });
  it('draws where a loop begins before the rest', () => {
    place.loopStart = 50;
    place.position = 0;
    said.length = 0;
    let pieces = 0;
    // As far as the playhead and the loop's start, and no further.
    keeper.goOn(() => ++pieces > 41 + 11);
    expect(reach().some(([, to]) => to > 58)).toBe(true);
  });

  describe('a plan that is made before anybody plays', () => {
    /** What the engine is told of a session that is opened, edited and then played. @param ahead strips that were planned for */
    function told(ahead: readonly string[], ...commands: Command[]) {
      const plans: WorkletMessage[] = [];
      const fresh = new PlanKeeper(
        (message) => plans.push(structuredClone(message)),
        () => {},
        () => place,
      );
      fresh.take({ type: 'session', delta: deltaOf(null, first), ahead });
      expect(plans).toEqual([]);
      expect(fresh.busy).toBe(false);
      const next = commands.length ? apply(first, commands).session : first;
      fresh.take({ type: 'session', delta: deltaOf(first, next), wiring: wiring(1) });
      fresh.prepare(0);
      while (fresh.busy) fresh.goOn(() => false);
      return plans;
    }
    /** The same where nothing was made before. */
    function toldAnew(...commands: Command[]) {
      const plans: WorkletMessage[] = [];
      const fresh = new PlanKeeper(
        (message) => plans.push(structuredClone(message)),
        () => {},
        () => place,
      );
      const next = commands.length ? apply(first, commands).session : first;
      fresh.take({ type: 'session', delta: deltaOf(null, next), wiring: wiring(1) });
      fresh.prepare(0);
      while (fresh.busy) fresh.goOn(() => false);
      return plans;
    }
    const strip = newStrip({ id: 'c', kind: 'source', name: 'C', out: { to: 'main', on: true } });
    const points: Lane = [
      [0, -3],
      [1, -40],
    ];
    it.each([
      ['untouched', []],
      ['with a fader moved', [level('b', -20)]],
      ['with a lane drawn', [{ type: 'strip.set', id: 'b', patch: { lanes: { pan: points } } }]],
      ['without its lanes', [{ type: 'strip.set', id: 'a', patch: { lanes: {} } }]],
      ['with another lane', [{ type: 'strip.set', id: 'a', patch: { lanes: { fader: points } } }]],
      ['with a strip more', [{ type: 'strip.add', at: 0, strip }]],
      ['unsoloed', [{ type: 'strip.set', id: 'a', patch: { solo: true } }]],
    ] as [string, Command[]][])('is what would be made when it is played: %s', (_, commands) => {
      const anew = toldAnew(...commands);
      const curves = (messages: readonly WorkletMessage[]) => {
        const last = new Map<number, unknown>();
        for (const m of messages) {
          if (m.type === 'plan') for (const { at, ...curve } of m.plan.curves) last.set(at, curve);
          if (m.type === 'steer') for (const { at, curve } of m.curves) last.set(at, curve);
        }
        return [...last].sort(([a], [b]) => a - b);
      };
      for (const ahead of [['main'], ['main', 'other'], []]) {
        const messages = told(ahead, ...commands);
        expect(messages.filter((m) => m.type === 'plan')).toHaveLength(1);
        expect({ ...messages[0], plan: { ...(messages[0] as { plan: object }).plan, curves: [] } }).toEqual({
          ...anew[0],
          plan: { ...(anew[0] as { plan: object }).plan, curves: [] },
        });
        expect(curves(messages)).toEqual(curves(anew));
      }
    });
  });
});
