import { filled, filledValue, type ValueOf, type Values } from '../../session/fields/shape';
import { STRIP_ROLES, UNIT_ROLES } from '../keys/roles';
import { acrosses } from '../encoders/across/registry';
import { controlsOf, PROFILE, type MidiAddress } from './fields';

export const CONTROLS = controlsOf(
  [...STRIP_ROLES, ...UNIT_ROLES],
  acrosses.map((a) => a.id),
);
export const CONTROL = { kind: 'oneOf', by: 'kind', of: CONTROLS } as const;

export type Control = ValueOf<typeof CONTROL>;
export type ControlKind = Control['kind'];
/** What a control always moves. */
export type Steers = NonNullable<FaderControl['steers']>;
type OfKind<K extends ControlKind> = Extract<Control, { kind: K }>;
export type FaderControl = OfKind<'fader'>;
export type EncoderControl = OfKind<'encoder'>;
export type KeyControl = OfKind<'key'>;
export type DisplayControl = OfKind<'display'>;

/** What a device has, and the MIDI message of each control. Plain JSON: docs/surfaces.md. */
export interface SurfaceProfile extends Values<typeof PROFILE> {
  readonly format: 'zonula-surface';
  readonly version: 2;
  readonly controls: readonly Control[];
}

/** What messages say an address, so that two of them cannot be told apart. */
export const addressKey = (a: MidiAddress): string => {
  switch (a.type) {
    case 'note':
      return `note ${a.channel} ${a.note}`;
    case 'pitchBend':
      return `bend ${a.channel}`;
    case 'parameter':
      return `parameter ${a.channel} ${a.parameter}`;
    default:
      return `control ${a.channel} ${a.controller}`;
  }
};
/** The messages that a control sends, with the field that says each. */
export const inputsOf = (c: Control): readonly (readonly [field: string, address: MidiAddress])[] => {
  const list: [string, MidiAddress | null][] =
    c.kind === 'fader'
      ? [
          ['in', c.in],
          ['touch', c.touch],
        ]
      : c.kind === 'encoder'
        ? [
            ['in', c.in],
            ['push', c.push],
            ['touch', c.touch],
          ]
        : c.kind === 'key'
          ? [['in', c.in]]
          : [];
  return list.filter((x): x is [string, MidiAddress] => x[1] !== null);
};

/** A profile as it was written down, with the defaults of fields that were left out. It is not judged: `validProfile` does that. */
export function filledProfile(written: {
  readonly controls: readonly object[];
  readonly [field: string]: unknown;
}): SurfaceProfile {
  return {
    ...filled(PROFILE, written),
    controls: written.controls.map((c) => filledValue(CONTROL, c)),
  } as unknown as SurfaceProfile;
}
