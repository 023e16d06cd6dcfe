import { describe, expect, it } from 'vitest';
import { newSession, newStrip, newVca } from '../session/defaults';
import type { Session } from '../session/types';
import { effectiveLevel, heldBy, holdersOf, vcaLoop, vcaOffset } from './vca';

const base = newSession('VCAs');
const drum = newStrip({
  id: 'drum',
  kind: 'source',
  name: 'Drum',
  faderDb: -6,
  out: { to: 'main', on: true },
});
const withVcas = (...vcas: Session['vcas']): Session => ({ ...base, strips: [drum, ...base.strips], vcas });

describe('VCAs', () => {
  it('add their decibels to the fader', () => {
    const s = withVcas(
      newVca({ id: 'a', name: 'A', faderDb: -3, members: ['drum'] }),
      newVca({ id: 'b', name: 'B', faderDb: 1.5, members: ['drum'] }),
    );
    expect(effectiveLevel(s, drum)).toBeCloseTo(-7.5, 12);
    expect(vcaOffset(s, 'drum')).toBeCloseTo(-1.5, 12);
  });
  it('count once when they hold a strip by two ways', () => {
    const s = withVcas(
      newVca({ id: 'top', name: 'Top', faderDb: -4, members: ['a', 'b', 'drum'] }),
      newVca({ id: 'a', name: 'A', faderDb: -1, members: ['drum'] }),
      newVca({ id: 'b', name: 'B', faderDb: -2, members: ['drum'] }),
    );
    expect(effectiveLevel(s, drum)).toBe(-13);
    expect(holdersOf(s, 'drum').map((v) => v.id)).toEqual(['top', 'a', 'b']);
    expect(heldBy(s, 'top').map((x) => x.id)).toEqual(['drum']);
  });
  it('silence a strip when one of them is down or muted', () => {
    expect(
      effectiveLevel(withVcas(newVca({ id: 'a', name: 'A', faderDb: null, members: ['drum'] })), drum),
    ).toBeNull();
    expect(
      effectiveLevel(withVcas(newVca({ id: 'a', name: 'A', mute: true, members: ['drum'] })), drum),
    ).toBeNull();
    expect(effectiveLevel(withVcas(newVca({ id: 'a', name: 'A', mute: true, members: [] })), drum)).toBe(-6);
  });
  it('must not hold each other in a loop', () => {
    expect(
      vcaLoop([
        newVca({ id: 'a', name: 'A', members: ['b'] }),
        newVca({ id: 'b', name: 'B', members: ['a'] }),
      ]),
    ).toEqual(['a', 'b', 'a']);
    expect(vcaLoop([newVca({ id: 'a', name: 'A', members: ['a'] })])).toEqual(['a', 'a']);
    expect(
      vcaLoop([
        newVca({ id: 'a', name: 'A', members: ['b'] }),
        newVca({ id: 'b', name: 'B', members: ['drum'] }),
      ]),
    ).toBeNull();
  });
});
