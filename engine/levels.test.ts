import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { newSend, newSession, newStrip, newVca } from '../core/session/defaults';
import type { PanLaw, Session, Strip } from '../core/session/types';
import { level, pan } from '../core/testing/arbitraries';
import { constant, noise, peakOf, play } from './testing/run';

const base = newSession('Levels');
const db = (v: number) => 20 * Math.log10(Math.abs(v));
const source = (more: Partial<Strip> = {}) =>
  newStrip({ id: 'a', kind: 'source', name: 'A', out: { to: 'main', on: true }, ...more });
const session = (...strips: Strip[]): Session => ({ ...base, strips: [...strips, ...base.strips] });
/** What a constant of 1 at the source gives at the output, settled. */
const through = (s: Session, stems = { a: [constant(1, 512)] }, at = 'main'): number[] =>
  play(s, stems, 2, { capture: [at] })[at]!.map((c) => c[200]!);

describe('the engine, against the numbers of the session format', () => {
  it.each<[PanLaw, number]>([
    [0, 0],
    [-3, -3.0103],
    [-4.5, -4.5154],
    [-6, -6.0206],
  ])('pans by law %s: %s dB at the centre', (panLaw, expected) => {
    const [l, r] = through({ ...session(source()), panLaw });
    expect(db(l!)).toBeCloseTo(expected, 3);
    expect(db(r!)).toBeCloseTo(expected, 3);
  });

  it('adds two equal coherent signals to +6.02 dB and two incoherent ones to +3.01 dB (textbook)', () => {
    const two = session(source({ pan: -1 }), source({ id: 'b', pan: -1 }));
    expect(
      db(through(two, { a: [constant(0.5, 512)], b: [constant(0.5, 512)] } as never)[0]!) - db(0.5),
    ).toBeCloseTo(6.0206, 3);
    const frames = 128 * 400;
    const power = (x: Float32Array) => x.reduce((s, v) => s + v * v, 0) / x.length;
    const a = noise(frames, 7);
    const out = play(two, { a: [a], b: [noise(frames, 99)] }, 400).main![0]!;
    expect(10 * Math.log10(power(out) / power(a))).toBeCloseTo(3.01, 1);
  });

  it('runs a strip in order: trim, polarity, swap, width, tap input, tap pre, fader with VCAs, pan, tap post', () => {
    fc.assert(
      fc.property(
        fc.record({
          trimDb: level,
          faderDb: level,
          pan,
          width: fc.integer({ min: 0, max: 200 }).map((n) => n / 100),
          invert: fc.boolean(),
          swap: fc.boolean(),
          vca: level,
          sendDb: level,
          sendPan: pan,
          tap: fc.constantFrom('input', 'pre', 'post'),
        }),
        (x) => {
          const strip = source({
            channels: 2,
            trimDb: x.trimDb,
            faderDb: x.faderDb,
            pan: x.pan,
            width: x.width,
            invert: x.invert,
            swap: x.swap,
            sends: [newSend({ id: 'x', to: 'plate', tap: x.tap, levelDb: x.sendDb, pan: x.sendPan })],
          });
          const s: Session = {
            ...session(
              strip,
              newStrip({ id: 'plate', kind: 'return', name: 'P', out: { to: null, on: false } }),
            ),
            vcas: [newVca({ id: 'v', name: 'V', faderDb: x.vca, members: ['a'] })],
          };
          const gain = (d: number | null) => (d === null ? 0 : 10 ** (d / 20));
          // The formulas of the session format, written out here a second time.
          let l = 0.5 * gain(x.trimDb) * (x.invert ? -1 : 1);
          let r = -0.25 * gain(x.trimDb) * (x.invert ? -1 : 1);
          if (x.swap) [l, r] = [r, l];
          const m = (l + r) / 2;
          const side = (x.width * (l - r)) / 2;
          [l, r] = [m + side, m - side];
          const tapped = [l, r];
          const fader = gain(x.faderDb) * gain(x.vca);
          l *= fader * (x.pan > 0 ? Math.cos((x.pan * Math.PI) / 2) : 1);
          r *= fader * (x.pan < 0 ? Math.cos((x.pan * Math.PI) / 2) : 1);
          const send = x.tap === 'post' ? [l, r] : tapped;
          const wet = [
            send[0]! * gain(x.sendDb) * (x.sendPan > 0 ? Math.cos((x.sendPan * Math.PI) / 2) : 1),
            send[1]! * gain(x.sendDb) * (x.sendPan < 0 ? Math.cos((x.sendPan * Math.PI) / 2) : 1),
          ];
          const out = play(s, { a: [constant(0.5, 512), constant(-0.25, 512)] }, 2, {
            capture: ['main', 'plate'],
          });
          const close = (got: number, want: number) =>
            expect(Math.abs(got - want)).toBeLessThan(1e-5 * Math.max(1, Math.abs(want)));
          close(out.main![0]![200]!, l);
          close(out.main![1]![200]!, r);
          close(out.plate![0]![200]!, wet[0]!);
          close(out.plate![1]![200]!, wet[1]!);
        },
      ),
      { numRuns: 150 },
    );
  });

  it('pans an input or pre send of a mono strip by its own pan, and balances a post send on the panned strip', () => {
    const plate = newStrip({ id: 'plate', kind: 'return', name: 'P', out: { to: 'main', on: true } });
    const wet = (tap: 'input' | 'post', strip: number, own: number) =>
      through(
        session(source({ pan: strip, sends: [newSend({ id: 'x', to: 'plate', tap, pan: own })] }), plate),
        undefined,
        'plate',
      );
    expect(wet('input', 1, -1)).toEqual([1, 0]);
    expect(wet('post', 1, -1)).toEqual([0, 0]);
    const [l, r] = wet('post', 0, 0.5);
    expect(l).toBeCloseTo(Math.SQRT1_2 * Math.cos(Math.PI / 4), 5);
    expect(r).toBeCloseTo(Math.SQRT1_2, 5);
  });

  it('folds stereo into mono as (L+R)/2, and ignores pan from mono to mono', () => {
    const mono = { ...base, strips: base.strips.map((s) => ({ ...s, channels: 1 as const })) };
    const into = (strip: Strip): Session => ({ ...mono, strips: [strip, ...mono.strips] });
    expect(through(into(source({ channels: 2 })), { a: [constant(0.5, 512), constant(0.3, 512)] })).toEqual([
      expect.closeTo(0.4, 6),
    ]);
    expect(through(into(source({ pan: -1 })))).toEqual([1]);
  });

  it('mute silences out and sends of every tap; a dry path that is off silences the out alone', () => {
    const plate = newStrip({ id: 'plate', kind: 'return', name: 'P', out: { to: null, on: false } });
    const sends = (['input', 'pre', 'post'] as const).map((tap) =>
      newSend({ id: tap, to: 'plate', tap, pan: 0 }),
    );
    const run = (more: Partial<Strip>) =>
      play(session(source({ sends, ...more }), plate), { a: [constant(1, 512)] }, 2, {
        capture: ['main', 'plate'],
      });
    const open = run({});
    expect(open.main![0]![200]).toBeGreaterThan(0.5);
    const muted = run({ mute: true });
    expect([peakOf(muted.main![0]!), peakOf(muted.plate![0]!)]).toEqual([0, 0]);
    const off = run({ out: { to: 'main', on: false } });
    expect(peakOf(off.main![0]!)).toBe(0);
    expect(off.plate![0]![200]).toBeCloseTo(open.plate![0]![200]!, 6);
  });

  it('keeps a fader at silence from its pre-fader send, and a VCA from its post-fader one', () => {
    const plate = newStrip({ id: 'plate', kind: 'return', name: 'P', out: { to: null, on: false } });
    const s = session(
      source({ faderDb: null, sends: [newSend({ id: 'x', to: 'plate', tap: 'pre' })] }),
      plate,
    );
    expect(through(s, undefined, 'plate')[0]).toBeCloseTo(Math.SQRT1_2, 6);
    const held = {
      ...session(source({ sends: [newSend({ id: 'x', to: 'plate', tap: 'post' })] }), plate),
      vcas: [newVca({ id: 'v', name: 'V', faderDb: -20, members: ['a'] })],
    };
    expect(through(held, undefined, 'plate')[0]).toBeCloseTo(Math.SQRT1_2 / 10, 6);
  });

  it('does not clip inside: a bus may be far above full scale', () => {
    const bus = newStrip({
      id: 'bus',
      kind: 'submix',
      name: 'Bus',
      faderDb: -24,
      out: { to: 'main', on: true },
    });
    const loud = Array.from({ length: 8 }, (_, i) =>
      source({ id: `a${i}`, pan: -1, out: { to: 'bus', on: true } }),
    );
    const stems = Object.fromEntries(loud.map((s) => [s.id, [constant(1, 512)]]));
    expect(through(session(...loud, bus), stems as never)[0]).toBeCloseTo(8 * 10 ** (-24 / 20), 5);
  });
});
