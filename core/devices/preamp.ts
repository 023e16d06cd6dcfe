import type { OscArgument, OscMessage } from '../wire/osc';

/** What a remote microphone preamplifier is asked for, an input at a time. */
export interface PreampSettings {
  /** Input of the device, from 1. */
  readonly input: number;
  /** Decibels, in the device's steps. */
  readonly gainDb: number;
  readonly pad: boolean;
  readonly phantom: boolean;
  readonly lowCut: boolean;
  readonly invert: boolean;
}

export const PREAMP = {
  inputs: 24,
  gainMin: 0,
  gainMax: 60,
  gainStep: 3,
  padDb: -20,
  lowCutHertz: 80,
} as const;
export const PREAMP_FIELDS = ['gainDb', 'pad', 'phantom', 'lowCut', 'invert'] as const;
export type PreampField = (typeof PREAMP_FIELDS)[number];

export const newPreamp = (input: number): PreampSettings => ({
  input,
  gainDb: 30,
  pad: false,
  phantom: false,
  lowCut: false,
  invert: false,
});

/** What is known of one input: what was asked, what the device has said, and whether it answers. */
export interface PreampState {
  readonly input: number;
  readonly asked: PreampSettings;
  /** Fields that the device has confirmed, with the values that it said. */
  readonly confirmed: Partial<Pick<PreampSettings, PreampField>>;
  /**
   * `waiting` for answers; `settled`, all is answered, also where the device has set something else than was asked; or
   * `silent`: it has not answered, however often it was asked.
   */
  readonly state: 'waiting' | 'settled' | 'silent';
  /** Greater for each that follows: an answer to a question may come after what was told since. */
  readonly order: number;
}

/**
 * Fields that the device has not confirmed as they were asked.
 * @param wanted what is wanted by now, where that may not have been asked yet
 */
export const unconfirmed = (s: PreampState, wanted = s.asked): readonly PreampField[] =>
  PREAMP_FIELDS.filter((f) => s.confirmed[f] !== wanted[f]);

/** Whether what is wanted has been asked of the device, as far as is known. */
export const isAsked = (s: PreampState, wanted: PreampSettings): boolean =>
  PREAMP_FIELDS.every((f) => s.asked[f] === wanted[f]);

const NAMES: Readonly<Record<PreampField, string>> = {
  gainDb: 'gain',
  pad: 'pad',
  phantom: 'phantom',
  lowCut: 'lowcut',
  invert: 'polarity',
};

/** The message that asks for one setting; the device answers with the same address and what it has set. */
export const preampMessage = (input: number, field: PreampField, value: number | boolean): OscMessage => ({
  address: `/preamp/${input}/${NAMES[field]}`,
  args: [value],
});

/** @returns null for a message that is about no setting of a preamplifier */
export function readPreampMessage(
  m: OscMessage,
): { readonly input: number; readonly field: PreampField; readonly value: number | boolean } | null {
  const parts = /^\/preamp\/(\d+)\/([a-z]+)$/.exec(m.address);
  const field = PREAMP_FIELDS.find((f) => NAMES[f] === parts?.[2]);
  const value: OscArgument | undefined = m.args[0];
  if (!parts || !field || typeof value === 'string' || value === undefined || value === null) return null;
  if ((field === 'gainDb') !== (typeof value === 'number')) return null;
  return { input: Number(parts[1]), field, value };
}
