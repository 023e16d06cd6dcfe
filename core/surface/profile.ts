import Joi from '../session/fields/joi';
import { Refusal } from '../base/refusal';

/** The MIDI message of a control, in either direction. */
export type MidiAddress =
  | { readonly type: 'control14'; readonly channel: number; readonly controller: number }
  | { readonly type: 'control'; readonly channel: number; readonly controller: number }
  /** relative steps, 64 is no move, 65 one step up, 63 one step down */
  | { readonly type: 'relative'; readonly channel: number; readonly controller: number }
  | { readonly type: 'note'; readonly channel: number; readonly note: number }
  | { readonly type: 'pitchBend'; readonly channel: number };

export type ButtonRole =
  | 'mute'
  | 'solo'
  | 'pick'
  | 'bankLeft'
  | 'bankRight'
  | 'nudgeLeft'
  | 'nudgeRight'
  | 'play'
  | 'stop'
  /** puts the picked strip's inserts on the encoders, one after the other, and pan again */
  | 'insert'
  | 'pageLeft'
  | 'pageRight';

export interface FaderControl {
  readonly id: string;
  readonly kind: 'fader';
  /** Place from the left, from 0. */
  readonly position: number;
  readonly in: MidiAddress;
  /** Where its motor listens; null for a plain fader. */
  readonly out: MidiAddress | null;
  /** Tells that a hand is on it; null where it cannot. */
  readonly touch: MidiAddress | null;
}
export interface EncoderControl {
  readonly id: string;
  readonly kind: 'encoder';
  readonly position: number;
  readonly in: MidiAddress;
  /** Where its ring of lights listens, 0..127. */
  readonly out: MidiAddress | null;
}
export interface ButtonControl {
  readonly id: string;
  readonly kind: 'button';
  /** Place from the left, or null for a button of the whole unit. */
  readonly position: number | null;
  readonly role: ButtonRole;
  readonly in: MidiAddress;
  /** Its light. */
  readonly led: MidiAddress | null;
}
/** A text display: system exclusive F0, prefix, cell, characters, F7. */
export interface DisplayControl {
  readonly id: string;
  readonly kind: 'display';
  /** Place from the left, or null for the one that tells what the encoders do; it is cell 0. */
  readonly position: number | null;
  readonly shows: 'name' | 'value' | 'page';
  readonly characters: number;
  readonly prefix: readonly number[];
}
/** A coloured light: system exclusive F0, prefix, cell, red, green, blue (0..127 each), F7. */
export interface ColourControl {
  readonly id: string;
  readonly kind: 'colour';
  readonly position: number;
  readonly prefix: readonly number[];
}
export type Control = FaderControl | EncoderControl | ButtonControl | DisplayControl | ColourControl;

/** What a device has, and the MIDI message of each control. Plain JSON. */
export interface SurfaceProfile {
  readonly format: 'zonula-surface';
  readonly version: 1;
  readonly id: string;
  readonly name: string;
  /** Whether it is a stand-in that the program brings itself. */
  readonly simulated: boolean;
  /** How many strips it shows at once. */
  readonly width: number;
  readonly controls: readonly Control[];
}

const channel = Joi.number().integer().min(1).max(16).required();
const seven = Joi.number().integer().min(0).max(127).required();
const address = Joi.alternatives().conditional('.type', {
  switch: [
    {
      is: 'control14',
      then: Joi.object({
        type: Joi.string().required(),
        channel,
        controller: Joi.number().integer().min(0).max(31).required(),
      }),
    },
    {
      is: Joi.valid('control', 'relative'),
      then: Joi.object({ type: Joi.string().required(), channel, controller: seven }),
    },
    { is: 'note', then: Joi.object({ type: Joi.string().required(), channel, note: seven }) },
    { is: 'pitchBend', then: Joi.object({ type: Joi.string().required(), channel }) },
  ],
  otherwise: Joi.forbidden(),
});
const position = Joi.number().integer().min(0).max(63).required();
const id = Joi.string().min(1).max(40).required();
const prefix = Joi.array().items(Joi.number().integer().min(0).max(127)).min(1).max(16).required();
const control = Joi.alternatives().conditional('.kind', {
  switch: [
    {
      is: 'fader',
      then: Joi.object({
        id,
        kind: Joi.string().required(),
        position,
        in: address.required(),
        out: address.allow(null).default(null),
        touch: address.allow(null).default(null),
      }),
    },
    {
      is: 'encoder',
      then: Joi.object({
        id,
        kind: Joi.string().required(),
        position,
        in: address.required(),
        out: address.allow(null).default(null),
      }),
    },
    {
      is: 'button',
      then: Joi.object({
        id,
        kind: Joi.string().required(),
        position: Joi.number().integer().min(0).max(63).allow(null).default(null),
        role: Joi.string()
          .valid(
            'mute',
            'solo',
            'pick',
            'bankLeft',
            'bankRight',
            'nudgeLeft',
            'nudgeRight',
            'play',
            'stop',
            'insert',
            'pageLeft',
            'pageRight',
          )
          .required(),
        in: address.required(),
        led: address.allow(null).default(null),
      }),
    },
    {
      is: 'display',
      then: Joi.object({
        id,
        kind: Joi.string().required(),
        position: Joi.when('shows', {
          is: 'page',
          then: Joi.any().valid(null).default(null),
          otherwise: position,
        }),
        shows: Joi.valid('name', 'value', 'page').required(),
        characters: Joi.number().integer().min(3).max(40).required(),
        prefix,
      }),
    },
    { is: 'colour', then: Joi.object({ id, kind: Joi.string().required(), position, prefix }) },
  ],
  otherwise: Joi.forbidden(),
});

export const profileSchema = Joi.object({
  format: Joi.string().valid('zonula-surface').required(),
  version: Joi.number().valid(1).required(),
  id,
  name: Joi.string().min(1).max(80).required(),
  simulated: Joi.boolean().default(false),
  width: Joi.number().integer().min(1).max(64).required(),
  controls: Joi.array().items(control).min(1).max(512).unique('id').required(),
});

/** @throws Refusal `format` naming the field */
export function validProfile(raw: unknown): SurfaceProfile {
  const { value, error } = profileSchema.required().validate(raw, { convert: false });
  if (error)
    throw new Refusal('format', `The surface profile is not understood: ${error.details[0]!.message}.`);
  return value as SurfaceProfile;
}
