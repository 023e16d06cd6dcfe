import { describe, expect, it } from 'vitest';
import { newStrip } from '../core/session/defaults';
import { processors } from '../core/processors/registry';
import type { Session } from '../core/session/types';
import { clicksOfChanges, still, type Processed } from './testing/clicks';
import { sessionWith } from './testing/through';

/** What the session plays when nothing happens to it leaves less than -110 dBFS above 4 kHz: the tone is one of 100 Hz at -6. */
const MOST = -80;

const of = (inserts: readonly Processed[], rate = 48000) => sessionWith(inserts, 2, rate);
const changed = (
  session: Session,
  strip: string,
  to: (s: Session['strips'][number]) => Session['strips'][number],
) => ({
  ...session,
  strips: session.strips.map((s) => (s.id === strip ? to(s) : s)),
});
const without = (session: Session, strip: string) => ({
  ...session,
  strips: session.strips.filter((s) => s.id !== strip),
});

describe('a session that is edited while it plays does not click', () => {
  it.each(processors.map((p) => [p.type]))('where a %s is put in, and taken out', (type) => {
    // What a processor leaves by itself is its sound.
    const own = Math.max(MOST, still({ type }) + 3);
    for (const rate of [48000, 44100, 192000])
      expect(
        clicksOfChanges([of([], rate), of([{ type }], rate), of([], rate)], 'a'),
        `${rate}`,
      ).toBeLessThan(own);
  });
  it('where what is put in is late, strong, or repeats', () => {
    const list: readonly Processed[] = [
      { type: 'compressor', params: { threshold: -50, ratio: 20, lookAhead: 10 } },
      { type: 'delay', params: { feedback: 90, time: 30 }, mix: 1 },
      {
        type: 'equalizer',
        params: { bell1On: 1, bell1Frequency: 100, bell1Gain: 24, lowCutOn: 1, lowCutFrequency: 20 },
      },
      { type: 'gain', params: { gain: -60 } },
      { type: 'reverb', params: { character: 4, decay: 0.1, preDelay: 0 }, mix: 1 },
    ];
    for (const one of list)
      expect(clicksOfChanges([of([]), of([one]), of([])], 'a'), one.type).toBeLessThan(MOST);
  });
  it('where inserts change places', () => {
    const [a, b] = [
      { id: 'a1', type: 'equalizer', params: { bell1On: 1, bell1Frequency: 100, bell1Gain: 12 } },
      { id: 'b1', type: 'compressor', params: { threshold: -40, ratio: 10 } },
    ];
    expect(clicksOfChanges([of([a!, b!]), of([b!, a!])], 'a')).toBeLessThan(MOST);
  });
  it('where a strip is taken away, and where one comes', () => {
    const all = of([]);
    expect(clicksOfChanges([all, without(all, 'a'), all], 'main')).toBeLessThan(MOST);
    // With another that makes all later.
    const late = changed(all, 'k', (s) => ({ ...s, inserts: of([{ type: 'pitch' }]).strips[0]!.inserts }));
    expect(clicksOfChanges([late, without(late, 'k'), late], 'main')).toBeLessThan(MOST);
  });
  it('where a strip goes elsewhere, through a submix or nowhere', () => {
    const base = of([]);
    const all = {
      ...base,
      strips: [
        ...base.strips,
        newStrip({ id: 'sub', kind: 'submix', name: 'Sub', out: { to: 'main', on: true } }),
      ],
    };
    const to = (target: string | null) => changed(all, 'a', (s) => ({ ...s, out: { to: target, on: true } }));
    expect(clicksOfChanges([to('main'), to('sub'), to(null), to('main')], 'main', 25)).toBeLessThan(MOST);
  });
  it('where edits come faster than one plan gives way to another', () => {
    const list = [
      of([]),
      of([{ type: 'delay' }]),
      of([{ type: 'limiter' }]),
      of([{ type: 'pitch' }]),
      of([]),
    ];
    for (const apart of [1, 3, 8])
      expect(clicksOfChanges([...list, ...list], 'a', apart), `${apart}`).toBeLessThan(MOST);
  });
});
