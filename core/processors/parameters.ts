import type { Parameter } from './description';

/** Short ways to write parameters down, one a kind of quantity. */
type Rest = Partial<Pick<Parameter, 'group' | 'step'>>;

/** Decibels, linear. */
export const decibels = (
  id: string,
  name: string,
  min: number,
  max: number,
  value: number,
  rest: Rest = {},
): Parameter => ({ id, name, unit: 'dB', min, max, default: value, law: 'linear', step: 0.5, ...rest });

/** Hertz, by octaves. */
export const frequency = (
  id: string,
  name: string,
  min: number,
  max: number,
  value: number,
  rest: Rest = {},
): Parameter => ({ id, name, unit: 'Hz', min, max, default: value, law: 'log', step: 1, ...rest });

/** Milliseconds, by powers. */
export const milliseconds = (
  id: string,
  name: string,
  min: number,
  max: number,
  value: number,
  rest: Rest = {},
): Parameter => ({ id, name, unit: 'ms', min, max, default: value, law: 'log', step: 0.1, ...rest });

/** Per cent, linear. */
export const percent = (
  id: string,
  name: string,
  value: number,
  min = 0,
  max = 100,
  rest: Rest = {},
): Parameter => ({ id, name, unit: '%', min, max, default: value, law: 'linear', step: 1, ...rest });

/** One of several, counted from 0. */
export const choice = (
  id: string,
  name: string,
  choices: readonly string[],
  value = 0,
  rest: Rest = {},
): Parameter => ({
  id,
  name,
  unit: 'choice',
  choices,
  min: 0,
  max: choices.length - 1,
  default: value,
  law: 'linear',
  step: 1,
  ...rest,
});

/** Off or on: 0 or 1. */
export const toggle = (id: string, name: string, value: 0 | 1, rest: Rest = {}): Parameter =>
  choice(id, name, ['Off', 'On'], value, rest);
