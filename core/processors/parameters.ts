import type { Parameter, Unit, Law } from './description';

type Rest = Partial<Pick<Parameter, 'group' | 'step' | 'latent'>>;

/** A way to write parameters of one quantity down: its unit, its law, and a step that fits most of them. */
const quantity =
  (unit: Unit, law: Law, step: number) =>
  (id: string, name: string, min: number, max: number, value: number, rest: Rest = {}): Parameter => ({
    id,
    name,
    unit,
    min,
    max,
    default: value,
    law,
    step,
    ...rest,
  });

export const decibels = quantity('dB', 'linear', 0.5);
/** Hertz, by octaves. */
export const frequency = quantity('Hz', 'log', 1);
/** Milliseconds, by powers. */
export const milliseconds = quantity('ms', 'log', 0.1);
/** Milliseconds from 0 on. */
export const span = quantity('ms', 'linear', 1);
/** A ratio of levels in decibels, n : 1. */
export const ratioOf = quantity('ratio', 'log', 0.1);
/** A number without a unit, by powers. */
export const factor = quantity('', 'log', 0.01);
/** A whole number. */
export const count = quantity('', 'linear', 1);

/** Per cent, linear. */
export const percent = (
  id: string,
  name: string,
  value: number,
  min = 0,
  max = 100,
  rest: Rest = {},
): Parameter => quantity('%', 'linear', 1)(id, name, min, max, value, rest);

/** One of several, counted from 0. */
export const choice = (
  id: string,
  name: string,
  choices: readonly string[],
  value = 0,
  rest: Rest = {},
): Parameter => ({
  ...quantity('choice', 'linear', 1)(id, name, 0, choices.length - 1, value, rest),
  choices,
});

/** Off or on: 0 or 1. */
export const toggle = (id: string, name: string, value: 0 | 1, rest: Rest = {}): Parameter =>
  choice(id, name, ['Off', 'On'], value, rest);
