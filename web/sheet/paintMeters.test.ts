import { describe, expect, it } from 'vitest';
import { METER_FLOATS } from '@core/plan/layout';
import { newWave, pushWave } from './paintMeters';

describe('a running waveform', () => {
  it('keeps the louder side of each picture, the newest at its head, and forgets the oldest', () => {
    const wave = newWave();
    const readings = new Float32Array(4 * METER_FLOATS);
    const n = wave.peaks.length;
    for (let i = 1; i <= n + 5; i++) {
      readings[METER_FLOATS * 2 + 3] = i / 1000;
      readings[METER_FLOATS * 3 + 3] = i / 500;
      pushWave(wave, readings, METER_FLOATS * 2, 2);
    }
    const back = (k: number) => wave.peaks[(wave.head - k + n) % n]!;
    expect(back(0)).toBeCloseTo((n + 5) / 500, 5);
    expect(back(1)).toBeCloseTo((n + 4) / 500, 5);
    expect(back(n - 1)).toBeCloseTo(6 / 500, 5);
  });
});
