import { describe, expect, it } from 'vitest';
import type { Decibels, Gain, Hertz, Samples, Seconds, Travel } from './units';

const frames = (n: Samples): number => n;
const gain = (g: Gain): number => g;

describe('units', () => {
  it('are told apart by the compiler, and bare numbers fit any of them', () => {
    const time: Seconds = 2;
    const level: Decibels = -6;
    const rate: Hertz = 48000;
    const travel: Travel = 0.5;
    expect(frames(96000)).toBe(96000);
    expect(frames(time * rate)).toBe(96000);
    // @ts-expect-error seconds are no frames
    frames(time);
    // @ts-expect-error a rate is no number of frames
    frames(rate);
    // @ts-expect-error decibels are no factor
    gain(level);
    // @ts-expect-error a place on a fader's travel is no factor
    gain(travel);
    // @ts-expect-error decibels that are no silence are no factor either
    gain(level);
  });
});
