import type { Hertz } from '../base/units';
import { isOn, shareOf, valueOf, type Params, type Processor, type Timebase } from './description';
import { choice, decibels, frequency, milliseconds, percent, toggle } from './parameters';

/** Note values, in quarter notes. */
export const NOTE_VALUES = [
  ['1/1', 4],
  ['1/2 dotted', 3],
  ['1/2', 2],
  ['1/2 triplet', 4 / 3],
  ['1/4 dotted', 1.5],
  ['1/4', 1],
  ['1/4 triplet', 2 / 3],
  ['1/8 dotted', 0.75],
  ['1/8', 0.5],
  ['1/8 triplet', 1 / 3],
  ['1/16 dotted', 0.375],
  ['1/16', 0.25],
  ['1/16 triplet', 1 / 6],
  ['1/32', 0.125],
] as const;

const note = choice('note', 'Note value', ['By time', ...NOTE_VALUES.map(([name]) => name)], 0, {
  group: 'Time',
});
const time = milliseconds('time', 'Time', 1, 2000, 120, { group: 'Time', step: 1 });
const feedback = percent('feedback', 'Feedback', 0, 0, 95, { group: 'Time' });
const pingPong = toggle('pingPong', 'Ping-pong', 0, { group: 'Time' });
const lowCut = frequency('lowCut', 'Feedback low cut', 20, 2000, 20, { group: 'Feedback' });
const highCut = frequency('highCut', 'Feedback high cut', 200, 20000, 20000, { group: 'Feedback', step: 10 });
const drive = percent('drive', 'Saturation', 0, 0, 100, { group: 'Feedback' });
const duck = decibels('duck', 'Ducking', 0, 24, 0, { group: 'Feedback' });

/** Longest time in seconds: a whole note at 30 bpm; slower note values stop there. */
const LONGEST = 8;
/** Frames of the ring; the engine computes the same (`delay.ts` in engine/assembly). */
const delayRing = (sampleRate: Hertz) => LONGEST * sampleRate + 256 + 32;
/** How fast ducking follows what comes in; common practice, no published source. */
const RISES_MS = 5;
const FALLS_MS = 250;
/** Slope of the saturation at its most, as a factor of the level. */
const MOST_DRIVE = 4;

/** Share of the old value that a one-pole filter keeps, a corner frequency's; 0 passes all. */
const pole = (hertz: Hertz, sampleRate: Hertz) => Math.exp((-2 * Math.PI * hertz) / sampleRate);

/** Seconds between repeats. A quarter note lasts 60/bpm seconds. */
export function delaySeconds(params: Params, tempo: Timebase['tempo']): number {
  const value = NOTE_VALUES[Math.round(valueOf(note, params)) - 1];
  return value ? Math.min(LONGEST, (value[1] * 60) / tempo.bpm) : valueOf(time, params) / 1000;
}

/**
 * Repeats after a time. What is fed back goes through a low cut and a high cut of 6 dB per octave each and a saturation, so that the
 * first repeat is the signal itself and each later one is darker, thinner and rounder. In ping-pong a stereo signal is folded
 * onto the left, and repeats change sides. A time that changes glides as a tape does that runs slower or faster: by a half at most.
 */
export const delay: Processor = {
  type: 'delay',
  name: 'Delay',
  shortName: 'Delay',
  about:
    'Repeats, by a time or by a note value that follows the session’s tempo. What is fed back grows thinner and darker by its own cuts.',
  parameters: [note, time, feedback, pingPong, lowCut, highCut, drive, duck],
  channels: 'joined',
  takesKey: false,
  mixes: true,
  levelDependent: false,
  nonlinear: false,
  ambient: true,
  computes: [
    'Each frame: out = what was written a time ago; written = what comes in + feedback × s(out), where s is the high cut (1 − p)/(1 − p z⁻¹), less the same at the low cut, p = e^(−2πf/rate), and tanh(k x)/k with k = 4 × saturation. Once the low cut is off, what it has kept back comes again, less by 0.02 % a frame.',
    'The time goes to where it is wanted by 1/(50 ms) of the way, half a frame a frame at most, a pace that it gathers within 2.7 ms; at rest it is a whole number of frames, between frames a sinc of 32 taps reads.',
    'Ducking: what is heard, not what is fed back, is turned down by it where the signal that comes in is at −20 dB or above, and evenly less down to −40 dB; its level rises in 5 and falls in 250 ms.',
  ],
  measured: [
    'Every note value is as long as it says, to the frame, down to 30 beats a minute, at 44.1 to 192 kHz.',
    'While its time glides evenly a tone of 300 Hz is shifted by what the glide says, within 1 %, at 44.1 to 192 kHz.',
    'No parameter clicks: what lies above 4 kHz of a tone of 100 Hz stays below −70 dB.',
  ],
  curves: ['decay'],
  decayOf(params, { tempo }) {
    const step = delaySeconds(params, tempo);
    const each = 20 * Math.log10(Math.max(1e-9, valueOf(feedback, params) / 100));
    const repeats: [number, number][] = [];
    for (let i = 0; i < 64 && i * each >= -60; i++) repeats.push([step * (i + 1), i * each]);
    return repeats;
  },
  packed: false,
  latency: () => 0,
  direct: (params, { sampleRate, tempo }) => ({
    delay: Math.round(delaySeconds(params, tempo) * sampleRate),
    gain: 1,
    ...(isOn(pingPong, params) ? { matrix: [0.5, 0.5, 0, 0] as const } : {}),
  }),
  tail(params, { sampleRate }, channels) {
    const low = valueOf(lowCut, params);
    const high = valueOf(highCut, params);
    const onePole = (p: number, w: number) => (1 - p) ** 2 / (1 - 2 * p * Math.cos(w) + p * p);
    const fed = (valueOf(feedback, params) / 100) ** 2;
    // Powers of the second, fourth ... repeat and of the third, fifth ..., each once more through the loop.
    let [even, odd] = [0, 0];
    const lines = 256;
    for (let k = 0; k < lines; k++) {
      const w = (Math.PI * (k + 0.5)) / lines;
      const passed = high === highCut.max ? 1 : onePole(pole(high, sampleRate), w);
      const p = pole(low, sampleRate);
      const rest =
        low === lowCut.min ? 1 : (p * p * (2 - 2 * Math.cos(w))) / (1 - 2 * p * Math.cos(w) + p * p);
      const a = Math.min(0.9999, fed * passed * rest);
      even += a / (1 - a * a) / lines;
      odd += (a * a) / (1 - a * a) / lines;
    }
    // In ping-pong the second, fourth ... repeat are the right side's; of one channel the left is heard alone.
    if (isOn(pingPong, params))
      return channels === 2 ? { matrix: [0, 0, 0, 0], folded: [odd, even] } : { matrix: [odd, 0, 0, 0] };
    return { matrix: [even + odd, 0, 0, even + odd] };
  },
  stateBytes: (_channels, sampleRate) => 48 + delayRing(sampleRate) * 2 * 4,
  engineParams(params, { sampleRate, tempo }) {
    const low = valueOf(lowCut, params);
    const high = valueOf(highCut, params);
    return {
      frames: delaySeconds(params, tempo) * sampleRate,
      feedback: valueOf(feedback, params) / 100,
      lowPole: low === lowCut.min ? 1 : pole(low, sampleRate),
      highPole: high === highCut.max ? 0 : pole(high, sampleRate),
      pingPong: isOn(pingPong, params) ? 1 : 0,
      drive: (MOST_DRIVE * valueOf(drive, params)) / 100,
      duck: valueOf(duck, params),
      rises: shareOf(RISES_MS, sampleRate),
      falls: shareOf(FALLS_MS, sampleRate),
    };
  },
};
