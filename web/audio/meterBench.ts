import { LiveMeter } from '@core/metering/liveMeter';
import { METER_SCALES, meterScale, type MeterScale } from '@core/metering/scales';
import type { Hertz } from '@core/base/units';
import { writeReading } from './meterReadings';
import { TAP, TAP_SAMPLES, tapViews, type TapViews } from './shared';

/** Frames by which the audio thread may go on while what lies furthest back is read. */
const MARGIN = 4096;

interface Measured {
  readonly serial: number;
  readonly channels: 1 | 2;
  readonly meter: LiveMeter;
  /** Frames that have been measured. */
  frames: number;
}

/** Measures what the audio thread writes of the strips that are looked at. */
export class MeterBench {
  private readonly taps: readonly TapViews[];
  private readonly measured: (Measured | null)[];
  private scale: MeterScale = METER_SCALES[0]!;

  constructor(
    taps: SharedArrayBuffer,
    private readonly readings: Float64Array,
    private readonly sampleRate: Hertz,
  ) {
    this.taps = tapViews(taps);
    this.measured = this.taps.map(() => null);
  }

  setScale(id: string): void {
    this.scale = meterScale(id);
    for (const m of this.measured) m?.meter.setScale(this.scale);
  }
  restart(tap: number): void {
    this.measured[tap]?.meter.restart();
  }

  /** Measures what has come since the last time. What came while this one slept too long is left out. */
  run(): void {
    for (let t = 0; t < this.taps.length; t++) {
      const { head, audio } = this.taps[t]!;
      const serial = Atomics.load(head, TAP.serial);
      const written = Atomics.load(head, TAP.frames);
      if (serial === 0) {
        this.measured[t] = null;
        continue;
      }
      const channels = Atomics.load(head, TAP.channels) as 1 | 2;
      let m = this.measured[t]!;
      if (m?.serial !== serial || m.channels !== channels) {
        m = {
          serial,
          channels,
          meter: new LiveMeter(this.sampleRate, channels, this.scale),
          frames: written,
        };
        this.measured[t] = m;
      }
      const most = TAP_SAMPLES / channels - MARGIN;
      if (((written - m.frames) | 0) > most) m.frames = (written - most) | 0;
      let at = (m.frames * channels) & (TAP_SAMPLES - 1);
      let left = ((written - m.frames) | 0) * channels;
      while (left > 0) {
        const length = Math.min(left, TAP_SAMPLES - at);
        m.meter.push(audio.subarray(at, at + length));
        at = (at + length) & (TAP_SAMPLES - 1);
        left -= length;
      }
      m.frames = written;
      writeReading(this.readings, t, serial, m.meter.read());
    }
  }
}
