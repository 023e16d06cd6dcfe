import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { balance, panMono, panText, readPan } from './pan';

const db = (gain: number) => 20 * Math.log10(gain);

describe('pan of a mono strip', () => {
  it('is, under law -3, the mono formula of StereoPannerNode (W3C Web Audio API, "Panning Algorithm": x = (pan+1)/2, gainL = cos(x pi/2), gainR = sin(x pi/2))', () => {
    fc.assert(
      fc.property(fc.double({ min: -1, max: 1, noNaN: true }), (pan) => {
        const x = (pan + 1) / 2;
        const [l, r] = panMono(pan, -3);
        expect(l).toBeCloseTo(Math.cos((x * Math.PI) / 2), 12);
        expect(r).toBeCloseTo(Math.sin((x * Math.PI) / 2), 12);
      }),
    );
  });

  // Textbook values: equal power 1/sqrt(2) = -3.01 dB, equal gain 1/2 = -6.02 dB, their geometric mean -4.52 dB.
  it.each([
    [-3, -3.0103],
    [-6, -6.0206],
    [-4.5, -4.5154],
    [0, 0],
  ] as const)('law %s gives %s dB to both sides at the centre', (law, expected) => {
    const [l, r] = panMono(0, law);
    expect(db(l)).toBeCloseTo(expected, 3);
    expect(db(r)).toBeCloseTo(expected, 3);
  });

  it('keeps power constant under law -3 and amplitude constant under law -6 (textbook definitions of the two laws)', () => {
    fc.assert(
      fc.property(fc.double({ min: -1, max: 1, noNaN: true }), (pan) => {
        const [l3, r3] = panMono(pan, -3);
        expect(l3 * l3 + r3 * r3).toBeCloseTo(1, 12);
        const [l6, r6] = panMono(pan, -6);
        expect(l6 + r6).toBeCloseTo(1, 12);
      }),
    );
  });

  it.each([0, -3, -4.5, -6] as const)(
    'law %s leaves the far side silent, and the near one whole, at the ends',
    (law) => {
      expect(panMono(-1, law)).toEqual([1, 0]);
      expect(panMono(1, law)[0]).toBe(0);
      expect(panMono(1, law)[1]).toBeCloseTo(1, 12);
    },
  );

  it('reaches full level on both sides between the middle and the end under law 0', () => {
    expect(panMono(0.5, 0)).toEqual([0.5, 1]);
    expect(panMono(-0.5, 0)).toEqual([1, 0.5]);
  });
});

describe('balance of a stereo strip', () => {
  it('lowers the far side by the cosine and leaves the near one alone', () => {
    expect(balance(0)).toEqual([1, 1]);
    expect(balance(1)).toEqual([0, 1]);
    expect(balance(-1)).toEqual([1, 0]);
    expect(db(balance(0.5)[0])).toBeCloseTo(-3.0103, 3);
  });
});

describe('typing a position', () => {
  it('reads what it writes', () => {
    fc.assert(
      fc.property(fc.integer({ min: -100, max: 100 }), (n) => {
        expect(readPan(panText(n / 100))).toBeCloseTo(n / 100, 10);
      }),
    );
  });
  it.each(['left', '1.5', 'L', '', 'R1x'])('takes %j for no position', (text) =>
    expect(readPan(text)).toBeUndefined(),
  );
});
