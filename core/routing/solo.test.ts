import { describe, expect, it } from 'vitest';
import { newSend, newSession, newStrip, newVca } from '../session/defaults';
import type { Session, Strip } from '../session/types';
import { audibleStrips } from './solo';

const base = newSession('Solo');
const strip = (id: string, kind: Strip['kind'], to: string, more: Partial<Strip> = {}) =>
  newStrip({ id, kind, name: id, out: { to, on: true }, ...more });
const session = (changes: Record<string, Partial<Strip>>, vcas: Session['vcas'] = []): Session => ({
  ...base,
  vcas,
  strips: [
    strip('kick', 'source', 'drums', { sends: [newSend({ id: 'k', to: 'plate' })] }),
    strip('snare', 'source', 'drums'),
    strip('voice', 'source', 'main', { sends: [newSend({ id: 'v', to: 'plate' })] }),
    strip('drums', 'submix', 'main'),
    strip('plate', 'return', 'main'),
    ...base.strips,
  ].map((s) => ({ ...s, ...changes[s.id] })),
});
const heard = (s: Session) => [...audibleStrips(s)].sort().join(' ');

// Meaning of solo as the session format states it; common practice of solo in place, no published source.
describe('solo', () => {
  it('lets all through when nothing is soloed', () => expect(audibleStrips(session({})).size).toBe(6));
  it('keeps the soloed strip, what it passes through, the returns and the output', () =>
    expect(heard(session({ kick: { solo: true } }))).toBe('drums kick main plate'));
  it('keeps what feeds a soloed submix', () =>
    expect(heard(session({ drums: { solo: true } }))).toBe('drums kick main plate snare'));
  it('keeps what feeds a soloed return, by its sends too', () =>
    expect(heard(session({ plate: { solo: true } }))).toBe('kick main plate voice'));
  it('does not count a send that is off as feeding', () =>
    expect(
      heard(
        session({
          plate: { solo: true },
          voice: { sends: [newSend({ id: 'v', to: 'plate', on: false })] },
        }),
      ),
    ).toBe('kick main plate'));
  it('silences a return that is not solo-safe', () =>
    expect(heard(session({ snare: { solo: true }, plate: { soloSafe: false } }))).toBe('drums main snare'));
  it('keeps a solo-safe source', () =>
    expect(heard(session({ snare: { solo: true }, voice: { soloSafe: true } }))).toBe(
      'drums main plate snare voice',
    ));
  it('of a VCA solos what it holds, through other VCAs too', () =>
    expect(
      heard(
        session({}, [
          newVca({ id: 'a', name: 'A', members: ['voice'] }),
          newVca({ id: 'b', name: 'B', members: ['a'], solo: true }),
        ]),
      ),
    ).toBe('main plate voice'));
});
