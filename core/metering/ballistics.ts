import type { Hertz } from '../base/units';
import type { Detector } from './scales';

/**
 * What moves a meter: takes frames, gives for each channel the level of the steady sine that would stand where the meter stands, as
 * an amplitude.
 */
export interface Ballistics {
  /** @param audio interleaved frames */
  push(audio: ArrayLike<number>): void;
  reading(channel: number): number;
  /** The meter as if nothing had ever been heard. */
  clear(): void;
}

/** Numbers a channel. */
const ROOM = 2;

function peak(rate: Hertz, channels: number, fall: number): Ballistics {
  const top = new Float64Array(channels);
  const by = 10 ** (-fall / 20 / rate);
  return {
    push(audio) {
      for (let c = 0; c < channels; c++) {
        let held = top[c]!;
        for (let i = c; i < audio.length; i += channels) held = Math.max(held * by, Math.abs(audio[i]!));
        top[c] = held;
      }
    },
    reading: (c) => top[c]!,
    clear: () => top.fill(0),
  };
}

/** Where a quasi-peak detector comes to rest for a sine of 1 kHz, over that sine's amplitude. */
function restOf(d: Detector & { kind: 'quasiPeak' }, rate: Hertz): number {
  const raw = quasiPeak(d, rate, 1, 1);
  const sine = Float64Array.from({ length: rate }, (_, i) => Math.sin((2 * Math.PI * 1000 * i) / rate));
  raw.push(sine);
  let most = 0;
  // It rises and falls a little within a period.
  for (let i = 0; i < rate / 100; i++) {
    raw.push([Math.sin((2 * Math.PI * 1000 * i) / rate)]);
    most = Math.max(most, raw.reading(0));
  }
  return most;
}

function quasiPeak(
  d: Detector & { kind: 'quasiPeak' },
  rate: Hertz,
  channels: number,
  rest: number,
): Ballistics {
  const held = new Float64Array(channels * ROOM);
  const by = 10 ** (-d.fall / 20 / rate);
  const [one, two] = d.charge.map((t) => 1 - Math.exp(-1 / (t * rate))) as [number, number];
  return {
    push(audio) {
      for (let c = 0; c < channels; c++) {
        let a = held[ROOM * c]!;
        let b = held[ROOM * c + 1]!;
        for (let i = c; i < audio.length; i += channels) {
          const x = Math.abs(audio[i]!);
          a *= by;
          b *= by;
          if (x > a) a += one * (x - a);
          if (x > b) b += two * (x - b);
        }
        held[ROOM * c] = a;
        held[ROOM * c + 1] = b;
      }
    },
    reading: (c) => (d.share * held[ROOM * c]! + (1 - d.share) * held[ROOM * c + 1]!) / rest,
    clear: () => held.fill(0),
  };
}

/**
 * IEC 60268-17 (from memory): 99 % of the way within 300 ms, 1 to 1.5 % beyond it. A needle of one mass and one spring that goes
 * 1.25 % too far has this damping, and with this angular frequency it gets there in that time.
 */
const DAMPING = 0.81272;
const FREQUENCY = 13.512;
/** The mean of a rectified sine over its amplitude. */
const MEAN = 2 / Math.PI;

function needle(rate: Hertz, channels: number): Ballistics {
  const state = new Float64Array(channels * ROOM);
  // The analogue filter's two poles, exactly, for an input that stands still from one frame to the next.
  const w = FREQUENCY * Math.sqrt(1 - DAMPING ** 2);
  const s = DAMPING * FREQUENCY;
  const t = 1 / rate;
  const e = Math.exp(-s * t);
  const [cos, sin] = [Math.cos(w * t), Math.sin(w * t)];
  const p = [
    e * (cos + (s / w) * sin),
    (e * sin) / w,
    (-FREQUENCY * FREQUENCY * e * sin) / w,
    e * (cos - (s / w) * sin),
  ];
  return {
    push(audio) {
      for (let c = 0; c < channels; c++) {
        let at = state[ROOM * c]!;
        let speed = state[ROOM * c + 1]!;
        for (let i = c; i < audio.length; i += channels) {
          const to = Math.abs(audio[i]!);
          const off = at - to;
          at = to + p[0]! * off + p[1]! * speed;
          speed = p[2]! * off + p[3]! * speed;
        }
        state[ROOM * c] = at;
        state[ROOM * c + 1] = speed;
      }
    },
    reading: (c) => Math.max(0, state[ROOM * c]!) / MEAN,
    clear: () => state.fill(0),
  };
}

/** @param seconds in which a level that sets in reaches 99 % of its power */
function meanSquare(rate: Hertz, channels: number, seconds: number): Ballistics {
  const mean = new Float64Array(channels);
  const by = 1 - 0.01 ** (1 / (seconds * rate));
  return {
    push(audio) {
      for (let c = 0; c < channels; c++) {
        let m = mean[c]!;
        for (let i = c; i < audio.length; i += channels) m += by * (audio[i]! ** 2 - m);
        mean[c] = m;
      }
    },
    reading: (c) => Math.sqrt(2 * mean[c]!),
    clear: () => mean.fill(0),
  };
}

export function ballisticsOf(detector: Detector, sampleRate: Hertz, channels: number): Ballistics {
  if (detector.kind === 'peak') return peak(sampleRate, channels, detector.fall);
  if (detector.kind === 'needle') return needle(sampleRate, channels);
  if (detector.kind === 'meanSquare') return meanSquare(sampleRate, channels, detector.seconds);
  return quasiPeak(detector, sampleRate, channels, restOf(detector, sampleRate));
}
