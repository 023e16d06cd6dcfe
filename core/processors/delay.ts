import { valueOf, type Parameter, type Processor } from './description';

const time: Parameter = {
  id: 'time',
  name: 'Time',
  unit: 'ms',
  min: 1,
  max: 2000,
  default: 120,
  law: 'log',
  step: 1,
};
const feedback: Parameter = {
  id: 'feedback',
  name: 'Feedback',
  unit: '%',
  min: 0,
  max: 95,
  default: 0,
  law: 'linear',
  step: 1,
};
const lowCut: Parameter = {
  id: 'lowCut',
  name: 'Feedback low cut',
  unit: 'Hz',
  min: 20,
  max: 2000,
  default: 20,
  law: 'log',
  step: 1,
};
const highCut: Parameter = {
  id: 'highCut',
  name: 'Feedback high cut',
  unit: 'Hz',
  min: 200,
  max: 20000,
  default: 20000,
  law: 'log',
  step: 10,
};
const pingPong: Parameter = {
  id: 'pingPong',
  name: 'Ping-pong',
  unit: 'choice',
  choices: ['Off', 'On'],
  min: 0,
  max: 1,
  default: 0,
  law: 'linear',
  step: 1,
};

/** Frames of each channel's ring; the engine computes the same (`delay.ts` in engine/assembly). */
export const delayRing = (sampleRate: number) => 2 ** Math.ceil(Math.log2(2 * sampleRate + 4));

/** Share of the old value that a one-pole filter keeps, a corner frequency's; 0 passes all. */
const pole = (hertz: number, sampleRate: number) => Math.exp((-2 * Math.PI * hertz) / sampleRate);

/**
 * Repeats after a time. What is fed back goes through a low cut and a high cut of 6 dB per octave each, so that the
 * first repeat is the signal itself and each later one is darker and thinner. In ping-pong a stereo signal is folded
 * onto the left, and repeats change sides.
 */
export const delay: Processor = {
  type: 'delay',
  name: 'Delay',
  shortName: 'Delay',
  parameters: [time, feedback, lowCut, highCut, pingPong],
  takesKey: false,
  levelDependent: false,
  ambient: true,
  engineCode: 3,
  latency: () => 0,
  direct: (params, sampleRate) => ({
    delay: Math.round((valueOf(time, params) / 1000) * sampleRate),
    gain: 1,
    folded: valueOf(pingPong, params) >= 0.5,
  }),
  stateBytes: (_channels, sampleRate) => 64 + delayRing(sampleRate) * 2 * 4,
  engineParams(params, sampleRate) {
    const low = valueOf(lowCut, params);
    const high = valueOf(highCut, params);
    return [
      Math.round((valueOf(time, params) / 1000) * sampleRate),
      valueOf(feedback, params) / 100,
      low === lowCut.min ? 1 : pole(low, sampleRate),
      high === highCut.max ? 0 : pole(high, sampleRate),
      valueOf(pingPong, params) >= 0.5 ? 1 : 0,
    ];
  },
};
