import { describe, expect, it } from 'vitest';
import { ballisticsOf } from './ballistics';
import { METER_SCALES, meterScale } from './scales';

const RATES = [44100, 48000, 96000, 192000];
const db = (x: number) => 20 * Math.log10(x);
const tone = (seconds: number, hertz: number, rate: number, gain = 1) =>
  Float64Array.from(
    { length: Math.round(seconds * rate) },
    (_, i) => gain * Math.sin((2 * Math.PI * hertz * i) / rate),
  );
const moved = (id: string, rate: number) => ballisticsOf(meterScale(id).detector, rate, 1);

/** The highest that a meter reads of a burst of 5 kHz, over what it reads of the tone when it goes on. */
function burst(id: string, ms: number, rate: number): number {
  const steady = moved(id, rate);
  steady.push(tone(2, 5000, rate));
  const meter = moved(id, rate);
  let top = 0;
  const audio = tone(ms / 1000, 5000, rate);
  for (let i = 0; i < audio.length; i += 8) {
    meter.push(audio.subarray(i, i + 8));
    top = Math.max(top, meter.reading(0));
  }
  return db(top / steady.reading(0));
}

// IEC 60268-10:1991, tables of dynamic response (from memory): bursts of 5 kHz over the steady tone, with their tolerances.
describe.each(RATES)('programme meters at %s Hz', (rate) => {
  it.each([
    ['typeI', 100, 0, 1],
    ['typeI', 10, -1, 0.5],
    ['typeI', 5, -2, 1],
    ['typeI', 3, -4, 1],
    ['typeI', 0.4, -15, 4],
    ['typeIIa', 100, 0, 0.5],
    ['typeIIa', 10, -2.5, 0.5],
    ['typeIIa', 5, -4, 0.75],
    ['typeIIa', 1.5, -9, 1],
    ['typeIIa', 0.5, -17, 2],
  ])('%s reads a burst of %s ms %s dB lower', (id, ms, by, tolerance) =>
    expect(Math.abs(burst(id, ms, rate) - by)).toBeLessThan(tolerance),
  );
  it.each([
    ['typeI', 20, 1.7, 0.3],
    ['typeIIb', 24, 2.8, 0.3],
    // IEC 60268-18:1995 (from memory): 20 dB in 1.7 s.
    ['digital', 20, 1.7, 0.3],
  ])('%s falls by %s dB in %s s', (id, by, seconds, tolerance) => {
    const meter = moved(id, rate);
    meter.push(tone(1, 1000, rate));
    const from = meter.reading(0);
    let n = 0;
    for (; db(meter.reading(0) / from) > -by; n += 100) meter.push(new Float64Array(100));
    expect(Math.abs(n / rate - seconds)).toBeLessThan(tolerance);
  });
  // IEC 60268-17:1990 (from memory): 99 % in 300 ms within a tenth, and 1 to 1.5 % beyond.
  it('the volume meter gets to 99 % of its way in 300 ms, and 1 to 1.5 % too far', () => {
    const meter = moved('volume', rate);
    const audio = tone(1.5, 1000, rate);
    const step = rate / 1000;
    let arrived = 0;
    let top = 0;
    for (let i = 0; i < audio.length; i += step) {
      meter.push(audio.subarray(i, i + step));
      const at = meter.reading(0);
      if (!arrived && at >= 0.99) arrived = (i + step) / rate;
      top = Math.max(top, at);
    }
    expect(Math.abs(arrived - 0.3)).toBeLessThan(0.03);
    expect(top).toBeGreaterThan(1.01);
    expect(top).toBeLessThan(1.015);
  });
  it('the average is there to 99 % of its power in 600 ms', () => {
    const meter = moved('k20', rate);
    meter.push(tone(0.6, 1000, rate));
    expect(meter.reading(0) ** 2).toBeCloseTo(0.99, 2);
  });
  it.each(METER_SCALES.map((s) => s.id))('%s reads a sine as its peak, from 60 Hz to 10 kHz', (id) => {
    for (const hertz of [60, 440, 1000, 9970]) {
      const meter = moved(id, rate);
      meter.push(tone(3, hertz, rate, 0.25));
      expect(Math.abs(db(meter.reading(0) / 0.25)), `${hertz} Hz`).toBeLessThan(0.2);
    }
  });
});

describe('every meter', () => {
  it.each(METER_SCALES.map((s) => s.id))('%s keeps channels apart, and is cleared', (id) => {
    const meter = ballisticsOf(meterScale(id).detector, 48000, 2);
    const audio = tone(1, 1000, 48000);
    const both = new Float64Array(audio.length * 2);
    audio.forEach((x, i) => (both[2 * i] = x));
    meter.push(both);
    expect(meter.reading(0)).toBeGreaterThan(0.9);
    expect(meter.reading(1)).toBe(0);
    meter.clear();
    expect(meter.reading(0)).toBe(0);
  });
  it.each(METER_SCALES.map((s) => s.id))('%s reads the same whatever pieces it is given', (id) => {
    const audio = tone(0.4, 997, 48000, 0.5);
    const whole = moved(id, 48000);
    whole.push(audio);
    const parts = moved(id, 48000);
    for (let i = 0; i < audio.length; i += 77) parts.push(audio.subarray(i, i + 77));
    expect(parts.reading(0)).toBeCloseTo(whole.reading(0), 12);
  });
});

describe('scales', () => {
  it.each(METER_SCALES.map((s) => [s.id, s] as const))(
    '%s has its marks in order, within its ends',
    (_, s) => {
      const places = s.marks.map((m) => s.place(m.at));
      expect(places).toEqual([...places].sort((a, b) => a - b));
      expect(s.place(null)).toBe(0);
      expect(s.place(-200)).toBeCloseTo(0, 6);
      expect(s.place(40)).toBe(1);
      expect(s.place(s.high)).toBeCloseTo(1, 9);
      expect(s.hot).toBeGreaterThan(s.low);
      expect(s.hot).toBeLessThanOrEqual(s.high);
      expect(s.read(null)).toBeTruthy();
    },
  );
  // EBU R 68-2000: alignment at -18 dBFS, programme up to -9 dBFS.
  it('agree on the alignment level and on the highest level of programme', () => {
    expect(meterScale('typeIIa').read(-18)).toBe('4.0');
    expect(meterScale('typeIIa').read(-10)).toBe('6.0');
    expect(meterScale('typeIIb').read(-18)).toBe('0.0');
    expect(meterScale('typeIIb').read(-9)).toBe('+9.0');
    expect(meterScale('typeI').read(-18)).toBe('−9.0');
    expect(meterScale('typeI').read(-9)).toBe('0.0');
    expect(meterScale('volume').read(-18)).toBe('0.0');
    expect(meterScale('digital').read(-18)).toBe('−18.0');
    expect(meterScale('k20').read(-20)).toBe('0.0');
  });
  // IEC 60268-17 (from memory): the reference stands at 71 % of the whole deflection.
  it('of the volume meter has its reference at 71 % of its way', () =>
    expect(meterScale('volume').place(-18)).toBeCloseTo(0.71, 2));
  it('takes the first for a name that it does not know', () =>
    expect(meterScale('nothing').id).toBe('digital'));
});
