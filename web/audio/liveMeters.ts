import { METER_SCALES, meterScale } from '@core/metering/scales';
import type { LiveReading } from '@core/metering/liveMeter';
import type { Hertz } from '@core/base/units';
import type { MeterWorkerMessage } from './meters.worker';
import MeterWorker from './meters.worker?worker';
import { readingAt, READINGS_BYTES } from './meterReadings';
import { sharedBytes, TAPS, TAPS_BYTES } from './shared';
import type { Tapped, WorkletMessage } from './worklet';

/**
 * Meters of strips that are looked at while they play: the audio thread writes their signals, a worker measures them, the page reads.
 * A strip that several look at is measured once.
 */
export class LiveMeters {
  readonly taps = sharedBytes(TAPS_BYTES);
  private readonly memory = sharedBytes(READINGS_BYTES);
  private readonly readings = new Float64Array(this.memory);
  private readonly tapped: ((Tapped & { readonly times: number }) | null)[] = Array.from(
    { length: TAPS },
    () => null,
  );
  private serial = 0;
  private worker: Worker | null = null;
  private scale = METER_SCALES[0]!.id;

  /** @param tell tells the audio thread, where there is one */
  constructor(private readonly tell: (message: WorkletMessage) => void) {}

  /** Begins to measure once there is an audio thread. */
  begin(sampleRate: Hertz): void {
    this.worker = new MeterWorker();
    this.work({ type: 'begin', taps: this.taps, readings: this.memory, sampleRate });
    this.work({ type: 'scale', id: this.scale });
    if (this.tapped.some(Boolean)) this.tellTaps();
  }
  end(): void {
    this.worker?.terminate();
    this.worker = null;
    this.readings.fill(0);
  }

  /** Measures a strip from now on. @returns ends that; null where too many are measured already */
  watch(strip: string): (() => void) | null {
    let at = this.tapped.findIndex((t) => t?.strip === strip);
    if (at < 0) {
      at = this.tapped.indexOf(null);
      if (at < 0) return null;
      this.tapped[at] = { strip, serial: ++this.serial, times: 0 };
      this.tellTaps();
    }
    const add = (times: number) => {
      const tap = this.tapped[at]!;
      this.tapped[at] = tap.times + times > 0 ? { ...tap, times: tap.times + times } : null;
    };
    add(1);
    let ended = false;
    return () => {
      if (ended) return;
      ended = true;
      add(-1);
      if (!this.tapped[at]) this.tellTaps();
    };
  }

  /** What is known of a strip that is watched; null before anything of it was heard. */
  read(strip: string): LiveReading | null {
    const at = this.tapped.findIndex((t) => t?.strip === strip);
    return at < 0 || !this.worker ? null : readingAt(this.readings, at, this.tapped[at]!.serial);
  }

  /** Begins anew what is gathered over the time, of one strip or of all. */
  restart(strip?: string): void {
    this.tapped.forEach((t, tap) => {
      if (t && (strip === undefined || t.strip === strip)) this.work({ type: 'restart', tap });
    });
  }
  setScale(id: string): void {
    this.scale = meterScale(id).id;
    this.work({ type: 'scale', id: this.scale });
  }

  private work(message: MeterWorkerMessage) {
    this.worker?.postMessage(message);
  }
  private tellTaps() {
    this.tell({
      type: 'taps',
      taps: this.tapped.map((t) => (t ? { strip: t.strip, serial: t.serial } : null)),
    });
  }
}
