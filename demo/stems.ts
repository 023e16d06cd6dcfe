import type { Hertz } from '../core/base/units';
import {
  burst,
  darken,
  drum,
  fromAfar,
  midiHertz,
  pluck,
  random,
  sung,
  sustain,
  type Take,
} from './instruments';
import { BAR, BARS, chordAt, EIGHTH, isRefrain, LENGTH, melodyAt } from './score';

/** The channels of a stem, each as long as the session. */
export type StemAudio = readonly Float32Array[];
export type StemMaker = (rate: Hertz, seconds: number) => StemAudio;

const take = (rate: Hertz, seconds: number, seed: number): Take => ({
  audio: new Float32Array(Math.round(seconds * rate)),
  rate,
  rnd: random(seed),
});

/** Several microphones hear the same take: it is played once. */
function remembered(make: StemMaker): StemMaker {
  let last: { readonly key: string; readonly audio: StemAudio } | null = null;
  return (rate, seconds) => {
    const key = `${rate} ${seconds}`;
    if (last?.key !== key) last = { key, audio: make(rate, seconds) };
    return last.audio;
  };
}

/** A stem of one take, played by `play`, which is called for each bar with its time. */
const played = (seed: number, play: (t: Take, bar: number, at: number) => void): StemMaker =>
  remembered((rate, seconds) => {
    const t = take(rate, seconds, seed);
    for (let bar = 0; bar < BARS; bar++) play(t, bar, bar * BAR);
    return [t.audio];
  });

const human = (t: Take) => (t.rnd() - 0.5) * 0.012;
const reedy = [0.5, 0.42, 0.3, 0.24, 0.2, 0.12, 0.1, 0.07, 0.05];
const bowed = [0.5, 0.4, 0.34, 0.22, 0.2, 0.15, 0.1, 0.09, 0.07, 0.05, 0.04];
const piped = [0.7, 0.12, 0.05, 0.02];

const melody = (
  t: Take,
  bar: number,
  at: number,
  transpose: number,
  each: (from: number, length: number, note: number) => void,
) => {
  for (const [eighth, length, note] of melodyAt(bar))
    each(at + eighth * EIGHTH + human(t), length * EIGHTH * 0.94, note + transpose);
};

const singer = (
  seed: number,
  transpose: number,
  level: number,
  when: (bar: number) => boolean,
  detune = 0,
): StemMaker =>
  played(seed, (t, bar, at) => {
    if (!when(bar)) return;
    melody(t, bar, at, transpose, (from, length, note) => {
      const pitch = midiHertz(note + detune);
      sustain(t, from, length, level, pitch, {
        harmonics: sung(pitch),
        vibrato: 1,
        breath: 0.05,
        attack: 0.06,
      });
    });
  });

/** A choir part holds one of the chord's tones through the refrain. */
const part = (seed: number, tone: number, octave: number, level: number): StemMaker =>
  played(seed, (t, bar, at) => {
    if (!isRefrain(bar)) return;
    const { root, tones } = chordAt(bar);
    for (let k = 0; k < 3; k++) {
      const pitch = midiHertz(root + tones[tone]! + 12 * octave + (t.rnd() - 0.5) * 0.18);
      sustain(t, at + 0.02 + t.rnd() * 0.05, BAR * 0.92, level / 3, pitch, {
        harmonics: sung(pitch),
        vibrato: 1.3,
        breath: 0.08,
        attack: 0.16,
      });
    }
  });

const bassLine = (t: Take, bar: number, at: number, bright: number, level: number) => {
  const { root, tones } = chordAt(bar);
  pluck(t, at + human(t), level, midiHertz(root), bright, 1.1);
  pluck(
    t,
    at + 3 * EIGHTH + human(t),
    level * 0.85,
    midiHertz(root + (bar % 2 ? 7 : tones[1]!)),
    bright,
    0.8,
  );
  if (bar % 4 === 3) pluck(t, at + 5 * EIGHTH, level * 0.7, midiHertz(root + 5), bright, 0.4);
};

const shout = (seed: number, pitch: number): StemMaker =>
  played(seed, (t, bar, at) => {
    if (!isRefrain(bar) || bar % 2 === 0) return;
    for (const eighth of [0, 3]) {
      const hertz = midiHertz(pitch + (t.rnd() - 0.5));
      sustain(t, at + eighth * EIGHTH + t.rnd() * 0.03, 0.28, 0.3, hertz, {
        harmonics: sung(hertz),
        vibrato: 0.2,
        breath: 0.25,
        attack: 0.02,
      });
    }
  });

const strum = (t: Take, bar: number, at: number, octave: number, bright: number, level: number) => {
  const { root, tones } = chordAt(bar);
  for (const eighth of [0, 2, 3, 5])
    tones.forEach((tone, k) =>
      pluck(
        t,
        at + eighth * EIGHTH + k * 0.011 + human(t),
        level * (eighth % 3 ? 0.6 : 1),
        midiHertz(root + tone + 12 * octave),
        bright,
        0.7,
      ),
    );
};

const wide =
  (left: StemMaker, right: StemMaker): StemMaker =>
  (rate, seconds) => [left(rate, seconds)[0]!, right(rate, seconds)[0]!];

const fiddle: StemMaker = played(21, (t, bar, at) => {
  if (bar < 2) return;
  melody(t, bar, at, 12, (from, length, note) =>
    sustain(t, from, length, 0.22, midiHertz(note), {
      harmonics: bowed,
      vibrato: 0.9,
      breath: 0.09,
      attack: 0.07,
    }),
  );
});

const skin: StemMaker = played(1, (t, _bar, at) => {
  drum(t, at + human(t), 0.72, 72, 0.19, 0.7);
  drum(t, at + 3 * EIGHTH + human(t), 0.5, 78, 0.15, 0.7);
  if (t.rnd() > 0.5) drum(t, at + 5 * EIGHTH, 0.25, 90, 0.09, 0.5);
});

const bassDi: StemMaker = played(7, (t, bar, at) => bassLine(t, bar, at, 0.32, 0.95));

const leadVoice = singer(25, 0, 0.4, (bar) => bar >= 2);
const citternDi: StemMaker = played(13, (t, bar, at) => strum(t, bar, at, 2, 0.55, 0.24));

const roomOf =
  (seed: number): StemMaker =>
  (rate, seconds) => {
    const sum = new Float32Array(Math.round(seconds * rate));
    for (const [maker, gain] of [
      [skin, 0.5],
      [fiddle, 0.5],
      [leadVoice, 0.6],
    ] as const) {
      const from = maker(rate, seconds)[0]!;
      for (let i = 0; i < sum.length; i++) sum[i]! += gain * from[i]!;
    }
    return [fromAfar(sum, rate, 0.011 + (seed % 7) * 0.0006, seed)];
  };

const waves =
  (seed: number): StemMaker =>
  (rate, seconds) => {
    const t = take(rate, seconds, seed);
    let low = 0;
    const drift = t.rnd() * 6;
    for (let i = 0; i < t.audio.length; i++) {
      const at = i / rate;
      const swell = 0.35 + 0.65 * (0.5 + 0.5 * Math.sin((2 * Math.PI * at) / 6.1 + drift)) ** 2;
      low += (0.02 + 0.05 * swell) * (t.rnd() * 2 - 1 - low);
      t.audio[i] = 0.5 * swell * low;
    }
    return [t.audio];
  };

/** Every stem of the demo, by the id of its strip. */
export const STEMS: Readonly<Record<string, StemMaker>> = {
  skin,
  rim: played(2, (t, bar, at) => {
    for (const e of bar % 2 ? [1, 2, 4, 5] : [2, 5]) burst(t, at + e * EIGHTH + human(t), 0.4, 0.018, 0.9);
  }),
  stomp: played(3, (t, bar, at) => {
    drum(t, at + human(t), 0.56, 48, 0.11, 1.4);
    if (isRefrain(bar)) drum(t, at + 3 * EIGHTH + human(t), 0.49, 50, 0.1, 1.4);
  }),
  shaker: played(4, (t, bar, at) => {
    if (bar < 2) return;
    for (let e = 0; e < 6; e++) burst(t, at + e * EIGHTH + human(t), e % 3 ? 0.14 : 0.24, 0.03, 1, 0.02);
  }),
  'claps-l': played(5, (t, bar, at) => {
    if (isRefrain(bar))
      for (let k = 0; k < 4; k++) burst(t, at + 3 * EIGHTH + t.rnd() * 0.025, 0.3, 0.022, 0.75);
  }),
  'claps-r': played(6, (t, bar, at) => {
    if (isRefrain(bar))
      for (let k = 0; k < 4; k++) burst(t, at + 3 * EIGHTH + t.rnd() * 0.025, 0.3, 0.022, 0.75);
  }),
  'bass-di': bassDi,
  'bass-mic': (rate, seconds) => [fromAfar(bassDi(rate, seconds)[0]!, rate, 0.0013, 8)],
  'bass-cab': (rate, seconds) => [
    darken(
      bassDi(rate, seconds)[0]!.map((v) => Math.tanh(v * 3) * 0.5),
      rate,
      1800,
    ),
  ],
  'concertina-l': played(11, (t, bar, at) => {
    const { root, tones } = chordAt(bar);
    for (const e of [0, 3])
      for (const tone of tones)
        sustain(t, at + e * EIGHTH, EIGHTH * 2.4, 0.07, midiHertz(root + tone + 24), {
          harmonics: reedy,
          vibrato: 0,
          breath: 0.06,
          attack: 0.04,
        });
  }),
  'concertina-r': played(12, (t, bar, at) => {
    if (bar < 4) return;
    melody(t, bar, at, 12, (from, length, note) =>
      sustain(t, from, length, 0.13, midiHertz(note) * 1.002, {
        harmonics: reedy,
        vibrato: 0,
        breath: 0.06,
        attack: 0.035,
      }),
    );
  }),
  'fiddle-close': fiddle,
  'fiddle-room': (rate, seconds) => [fromAfar(fiddle(rate, seconds)[0]!, rate, 0.009, 22)],
  'cittern-di': citternDi,
  'cittern-mic': (rate, seconds) => [fromAfar(citternDi(rate, seconds)[0]!, rate, 0.0018, 14)],
  'harp-low': played(15, (t, bar, at) => {
    const { root, tones } = chordAt(bar);
    [0, 2, 4].forEach((e, k) => pluck(t, at + e * EIGHTH, 0.34, midiHertz(root + 12 + tones[k]!), 0.4, 1.6));
  }),
  'harp-high': played(16, (t, bar, at) => {
    const { root, tones } = chordAt(bar);
    if (bar % 2)
      [1, 3, 4, 5].forEach((e, k) =>
        pluck(t, at + e * EIGHTH, 0.26, midiHertz(root + 36 + tones[k % 3]!), 0.6, 1.1),
      );
  }),
  whistle: played(17, (t, bar, at) => {
    if (!isRefrain(bar)) return;
    melody(t, bar, at, 24, (from, length, note) =>
      sustain(t, from, length, 0.15, midiHertz(note), {
        harmonics: piped,
        vibrato: 0.8,
        breath: 0.12,
        attack: 0.04,
      }),
    );
  }),
  'lead-voice': leadVoice,
  'lead-double': singer(26, 0, 0.3, (bar) => isRefrain(bar), 0.06),
  'choir-soprano': part(31, 2, 3, 0.5),
  'choir-alto': part(32, 1, 3, 0.5),
  'choir-tenor': part(33, 2, 2, 0.5),
  'choir-bass': part(34, 0, 2, 0.55),
  'crew-1': shout(41, 50),
  'crew-2': shout(42, 53),
  'crew-3': shout(43, 57),
  'room-pair': wide(roomOf(51), roomOf(52)),
  'harbour-waves': wide(waves(53), waves(54)),
  bell: played(55, (t, bar, at) => {
    if (bar % 4) return;
    for (const [ratio, level, ring] of [
      [1, 0.3, 2.4],
      [2.76, 0.16, 1.3],
      [5.4, 0.09, 0.7],
      [8.93, 0.05, 0.35],
    ] as const)
      drum(t, at, level, 523 * ratio * 0.53, ring, 0);
  }),
  pulse: played(56, (t, _bar, at) => {
    for (const e of [0, 3]) drum(t, at + e * EIGHTH, 0.6, 1000, 0.01, 0);
  }),
};

export { LENGTH };
