import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { apply } from '../edits/apply';
import { newSession, newStrip, newVca } from '../session/defaults';
import type { Session } from '../session/types';
import { deskHost } from '../testing/deskHost';
import { deskOrder } from './faded';
import { keyRoles } from './keys/registry';
import { simulatedFaders } from './stands/motorFaders';
import { simulatedEncoders } from './stands/wideEncoders';
import { followed, groupsOf, listOf, pinsOf } from './window';

const base = newSession('Windows');
const tracks = (count: number): Session => ({
  ...base,
  strips: [
    ...Array.from({ length: count - 1 }, (_, i) =>
      newStrip({
        id: `t${i + 1}`,
        kind: 'source',
        name: `Track ${i + 1}`,
        stem: `s${i + 1}`,
        out: { to: 'main', on: true },
      }),
    ),
    ...base.strips,
  ],
});
const numbers = (ids: readonly (string | null)[]) => ids.map((id) => id?.replace('t', '') ?? null);
const three = [simulatedFaders, simulatedFaders, simulatedEncoders];
const demo = demoSession();

describe('banks', () => {
  // Common practice, no published source: eight faders over 24 strips show 1-8, 9-16 and 17-24.
  it.each([
    [8, 24, [1, 9, 17]],
    [16, 24, [1, 17]],
    [24, 24, [1]],
    [8, 21, [1, 9, 17]],
    [16, 40, [1, 17, 33]],
  ])('of %i faders over %i strips begin at %j, and stop there', (width, count, firsts) => {
    const units = Array.from({ length: width / 8 }, () => simulatedFaders);
    const h = deskHost(tracks(count), units);
    const order = deskOrder(h.session);
    const begins = (n: number) => expect(h.slots()[0]).toBe(order[n - 1]);
    for (const first of firsts) {
      begins(first);
      h.push('bankRight');
    }
    begins(firsts.at(-1)!);
    // The last bank is part full where strips do not come out even.
    expect(h.slots().filter((id) => id !== null)).toHaveLength(count - firsts.at(-1)! + 1);
    for (const first of [...firsts].reverse()) {
      begins(first);
      h.push('bankLeft');
    }
    begins(1);
  });
  it('nudge by one, jump to the ends, and go by eight on a wide desk', () => {
    const h = deskHost(tracks(40), [simulatedFaders, simulatedFaders]);
    h.push('nudgeRight');
    expect(numbers(h.slots())[0]).toBe('2');
    h.push('bankLeft');
    expect(numbers(h.slots())[0]).toBe('1');
    h.push('eightRight');
    expect(numbers(h.slots())[0]).toBe('9');
    h.push('toLast');
    expect(numbers(h.slots())[0]).toBe('33');
    h.push('toFirst');
    h.setDesk({ bankBy: 'eight' });
    h.push('bankRight', null, 1);
    expect(numbers(h.slots())[0]).toBe('9');
  });
  it('leave hidden strips out', () => {
    const h = deskHost(demo);
    h.edit(apply(demo, [{ type: 'strip.set', id: 'rim', patch: { hidden: true } }]).session);
    expect(h.slots()[1]).toBe('stomp');
  });
  it('show the last bank when strips go', () => {
    const h = deskHost(tracks(24));
    h.push('toLast');
    h.edit(tracks(5));
    h.wait(1);
    expect(numbers(h.slots()).slice(0, 4)).toEqual(['1', '2', '3', '4']);
  });
});

describe('units', () => {
  it('joined share one window of sixteen faders; apart each has its own; nothing is lost either way', () => {
    const h = deskHost(tracks(60), three);
    expect(numbers(h.slots())).toEqual(Array.from({ length: 16 }, (_, i) => String(i + 1)));
    h.push('join', null, 0);
    expect(h.desk.joined).toBe(false);
    // Parted, everything lies where it lay.
    expect(numbers(h.slots(0))[0]).toBe('1');
    expect(numbers(h.slots(1))[0]).toBe('9');
    h.push('bankRight', null, 1);
    h.push('bankRight', null, 1);
    h.push('nudgeRight', null, 0);
    expect([numbers(h.slots(0))[0], numbers(h.slots(1))[0]]).toEqual(['2', '25']);
    h.push('join', null, 1);
    expect(numbers(h.slots())[0]).toBe('1');
    h.push('bankRight', null, 0);
    h.push('join', null, 0);
    expect([numbers(h.slots(0))[0], numbers(h.slots(1))[0]]).toEqual(['2', '25']);
    h.push('join', null, 0);
    expect(numbers(h.slots())[0]).toBe('17');
  });
  it('joined show every strip once, whatever is pinned, banked and shown', () => {
    const keys = keyRoles.filter((r) => /^(reach|bank|nudge|to|eight|pin)/.test(r.id)).map((r) => r.id);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(...keys), fc.constantFrom(...deskOrder(demo), null)), {
          maxLength: 25,
        }),
        (pushes) => {
          const h = deskHost(demo, three);
          for (const [key, pick] of pushes) {
            if (pick !== null) h.pick(demo.strips.some((s) => s.id === pick) ? [pick] : []);
            h.role(key);
            const shown = h.slots().filter((id) => id !== null);
            expect(new Set(shown).size).toBe(shown.length);
          }
        },
      ),
      { numRuns: 60 },
    );
  }, 60_000);
});

describe('pins', () => {
  const pin = (strip: string, side: 'left' | 'right', unit: string | null = null) => ({ strip, side, unit });
  it('stay at the edges of the desk when the window moves, and are in no window', () => {
    const h = deskHost({ ...tracks(40), pins: [pin('t20', 'left'), pin('main', 'right')] }, three);
    const first = numbers(h.slots());
    expect([first[0], first[15]]).toEqual(['20', 'main']);
    expect(first.slice(1, 4)).toEqual(['1', '2', '3']);
    h.push('bankRight');
    const then = numbers(h.slots());
    expect([then[0], then[15]]).toEqual(['20', 'main']);
    // Fourteen faders are left for the window; the pinned strip is passed over.
    expect(then.slice(1, 15)).toEqual([
      '15',
      '16',
      '17',
      '18',
      '19',
      '21',
      '22',
      '23',
      '24',
      '25',
      '26',
      '27',
      '28',
      '29',
    ]);
  });
  it('with the units apart are at the edges of the outer ones, or of one unit alone', () => {
    const h = deskHost(
      { ...tracks(40), pins: [pin('t20', 'left'), pin('main', 'right'), pin('t30', 'left', 'unit-2')] },
      three,
    );
    // What one unit keeps for itself is not kept while the units are joined.
    expect(h.slots()).not.toContain('t30');
    h.push('join');
    expect(h.slots(0)[0]).toBe('t20');
    expect(h.slots(0)[7]).not.toBe('main');
    expect([h.slots(1)[0], h.slots(1)[7]]).toEqual(['t30', 'main']);
    h.push('join');
    h.push('join');
    expect(h.slots(1)[0]).toBe('t30');
  });
  it('take as many faders as fit', () => {
    const many = Array.from({ length: 12 }, (_, i) => pin(`t${i + 1}`, i % 2 ? 'right' : 'left'));
    const h = deskHost({ ...tracks(40), pins: many });
    const group = groupsOf(h.context())[0]!;
    const { left, right } = pinsOf(h.context(), group);
    expect(left.length + right.length).toBe(8);
    expect(h.slots().every((id) => id !== null)).toBe(true);
  });
  it('are set and taken away from the desk, each an edit', () => {
    const h = deskHost(demo, three);
    h.push('pick', 3);
    h.push('pinLeft');
    expect(h.kept.pins).toEqual([pin('shaker', 'left')]);
    expect(h.slots()[0]).toBe('shaker');
    h.push('pinLeft');
    expect(h.kept.pins).toEqual([]);
    h.push('join');
    h.push('pick', 0, 1);
    h.push('pinRight', null, 1);
    expect(h.kept.pins).toEqual([expect.objectContaining({ side: 'right', unit: 'unit-2' })]);
  });
  it('of what is gone or hidden hold nothing', () => {
    const h = deskHost({ ...tracks(10), pins: [pin('nowhere', 'left'), pin('t2', 'left')] });
    h.edit(apply(h.session, [{ type: 'strip.set', id: 't2', patch: { hidden: true } }]).session);
    expect(numbers(h.slots())[0]).toBe('1');
  });
});

describe('reaches', () => {
  const facts = {
    s1: [[0, 4]],
    s2: [[4, 8]],
    s3: [],
    s4: [
      [0, 1],
      [6, 9],
    ],
  } as const;
  const four = { ...tracks(5), vcas: [newVca({ id: 'v', name: 'V', members: ['t3'] })] };
  const shown = (h: ReturnType<typeof deskHost>) => h.slots().filter((id) => id !== null);
  it('with material: what has sound anywhere; the output where what leads to it has', () => {
    const h = deskHost(four, undefined, { material: facts });
    expect(shown(h)).toEqual(['t1', 't2', 't3', 'v', 't4', 'main']);
    h.push('reachMaterial');
    expect(shown(h)).toEqual(['t1', 't2', 't4', 'main']);
    expect(h.light('reachMaterial')).toBe(127);
    expect(h.display('reach')).toBe('AUDIO 1-4 of 4');
    h.push('reachMaterial');
    expect(shown(h)).toHaveLength(6);
  });
  it('with material in the loop: what sounds within it, not what only ends or begins at it', () => {
    const h = deskHost(four, undefined, { material: facts });
    h.set({ transport: { rolling: false, position: 0, looping: true, loop: { start: 4, end: 6 } } });
    h.push('reachLoop');
    expect(shown(h)).toEqual(['t1', 't2', 'main']);
    h.set({ transport: { rolling: false, position: 0, looping: true, loop: { start: 4.5, end: 6 } } });
    expect(shown(h)).toEqual(['t2', 'main']);
  });
  it('at the playhead goes with the song: what stays keeps its fader, what begins takes a free one', () => {
    const h = deskHost(four, undefined, { material: facts });
    const at = (position: number) => {
      h.set({ transport: { rolling: true, position, looping: false, loop: null } });
      return h.slots().slice(0, 5);
    };
    h.set({ transport: { rolling: true, position: 0.5, looping: false, loop: null } });
    h.push('reachPlayhead');
    expect(h.slots().slice(0, 4)).toEqual(['t1', 't4', 'main', null]);
    expect(at(2)).toEqual(['t1', null, 'main', null, null]);
    expect(at(4.5)).toEqual(['t2', null, 'main', null, null]);
    expect(at(7)).toEqual(['t2', 't4', 'main', null, null]);
  });
  it('at the playhead moves nothing from under a hand', () => {
    const h = deskHost(four, undefined, { material: facts });
    h.set({ transport: { rolling: true, position: 0.5, looping: false, loop: null } });
    h.push('reachPlayhead');
    h.touch(0, true);
    h.move(0, 9000);
    h.set({ transport: { rolling: true, position: 4.5, looping: false, loop: null } });
    expect(h.slots()[0]).toBe('t1');
    expect(h.slots()[1]).toBe('t2');
    h.move(0, 9500);
    h.touch(0, false);
    h.set({ transport: { rolling: true, position: 4.6, looping: false, loop: null } });
    expect(h.slots()[0]).toBeNull();
  });
  it('picked: what is picked on the page; a pick key of the desk moves nothing away', () => {
    const h = deskHost(demo);
    h.push('reachPicked');
    expect(h.display('page')).toBe('Nothing is picked');
    h.pick(['whistle', 'skin', 'bell']);
    h.push('reachPicked');
    expect(shown(h)).toEqual(['skin', 'whistle', 'bell']);
    h.push('pick', 1);
    expect(h.picked).toEqual(['whistle']);
    expect(shown(h)).toEqual(['skin', 'whistle', 'bell']);
    h.pick(['rim']);
    expect(shown(h)).toEqual(['rim']);
  });
  it('path: the picked strip and all that its signal passes through, to the output', () => {
    const h = deskHost(demo);
    h.pick(['rim']);
    h.push('reachPath');
    expect(shown(h)).toEqual(['rim', 'percussion', 'plate', 'main']);
    expect(h.display('reach')).toBe('PATH Frame drum rim 1-4 of 4');
  });
  it('fan: what a VCA holds, what feeds a submix, what is sent to a return', () => {
    const h = deskHost(demo);
    const vca = demo.vcas[0]!;
    const fanOf = (id: string) => {
      h.role('reachAll');
      const at = () => h.slots().indexOf(id);
      for (let i = 0; i < 8 && at() < 0; i++) h.push('bankRight');
      h.push('pick', at());
      h.push('reachFan');
      return shown(h);
    };
    expect(new Set(fanOf(vca.id).slice(1))).toEqual(new Set(vca.members));
    h.push('reachFan');
    h.role('toFirst');
    expect(fanOf('choir').slice(1)).toEqual(demo.strips.filter((s) => s.out.to === 'choir').map((s) => s.id));
    h.push('reachFan');
    h.role('toFirst');
    const sent = demo.strips.filter((s) => s.sends.some((x) => x.to === 'slap')).map((s) => s.id);
    expect(fanOf('slap').slice(1)).toEqual(sent);
  });
  it('a family, and with *second* held the next', () => {
    const h = deskHost(demo);
    h.pick(['bass-mic']);
    h.push('reachFamily');
    expect(shown(h)).toEqual(expect.arrayContaining(['bass-di', 'bass-mic', 'bass-cab']));
    h.key('second', null, true);
    h.push('reachFamily');
    h.key('second', null, false);
    expect(h.display('reach')).toMatch(/^FAMILY Keys/);
  });
  it("laid out: an order of one's own, by name, several a session", () => {
    const h = deskHost(demo);
    h.push('reachLaidOut');
    expect(h.display('page')).toMatch(/^No layout/);
    h.edit({
      ...demo,
      layouts: [
        { id: 'l1', name: 'Voices', order: ['main', 'lead-voice', 'nowhere'] },
        { id: 'l2', name: 'Drums', order: ['rim', 'skin', 'rim'] },
      ],
    });
    h.push('reachLaidOut');
    expect(shown(h)).toEqual(['main', 'lead-voice']);
    h.key('second', null, true);
    h.push('reachLaidOut');
    h.key('second', null, false);
    expect(shown(h)).toEqual(['rim', 'skin']);
    expect(h.display('reach')).toMatch(/^LAYOUT Drums/);
  });
  it('the same key goes back, to where the window stood', () => {
    const h = deskHost(demo);
    h.push('bankRight');
    const before = h.slots();
    h.pick(['rim', 'bell']);
    h.push('reachPicked');
    expect(h.slots()).not.toEqual(before);
    h.push('reachPicked');
    expect(h.slots()).toEqual(before);
  });
  it("of units apart are each one's own; the desk remembers that of the joined window", () => {
    const h = deskHost(demo, three);
    h.push('reachMaterial', null, 0);
    expect(h.desk.reach).toBe('material');
    h.push('join');
    h.pick(['rim']);
    h.push('reachPath', null, 1);
    expect(h.display('reach', null, 0)).toMatch(/^AUDIO/);
    expect(h.display('reach', null, 1)).toMatch(/^PATH/);
    expect(h.desk.reach).toBe('material');
  });
  it('on a session without strips show nothing, and say so', () => {
    const h = deskHost({ ...base, strips: base.strips.map((s) => ({ ...s, hidden: true })) });
    expect(shown(h)).toEqual([]);
    expect(h.display('reach')).toBe('ALL none');
  });
});

describe('what goes with the song', () => {
  const id = fc.constantFrom<string[]>('a', 'b', 'c', 'd', 'e', 'f');
  const set = fc.uniqueArray(id);
  it('keeps what stays at its place, and never shows a strip twice', () =>
    fc.assert(
      fc.property(fc.array(fc.tuple(set, set), { maxLength: 12 }), (steps) => {
        let now: readonly (string | null)[] | null = null;
        for (const [sounding, hands] of steps) {
          const before: readonly (string | null)[] = now ?? [];
          const next = followed(now, sounding, new Set(hands));
          before.forEach((x, i) => {
            if (x !== null && (sounding.includes(x) || hands.includes(x))) expect(next[i]).toBe(x);
          });
          const shown = next.filter((x) => x !== null);
          expect(new Set(shown).size).toBe(shown.length);
          for (const x of sounding) expect(next).toContain(x);
          now = next;
        }
      }),
    ));
  it('is the same object where nothing has changed', () => {
    const before = ['a', null, 'b'];
    expect(followed(before, ['a', 'b'], new Set())).toBe(before);
  });
});

it('lists are worked out once while only levels move', () => {
  const h = deskHost(demo);
  const group = groupsOf(h.context())[0]!;
  const list = listOf(h.context(), h.state, group);
  h.edit(apply(demo, [{ type: 'strip.set', id: 'rim', patch: { faderDb: -3 } }]).session);
  expect(listOf(h.context(), h.state, group)).toBe(list);
  h.edit(apply(demo, [{ type: 'strip.set', id: 'rim', patch: { hidden: true } }]).session);
  expect(listOf(h.context(), h.state, group)).not.toBe(list);
});
