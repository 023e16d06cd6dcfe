import { Refusal } from '../../base/refusal';
import { fieldsJson, type Json } from '../../session/fields/fieldJson';
import { shapeJoi, wholeJoi } from '../../session/fields/fieldJoi';
import { field } from '../../session/fields/shape';
import Joi from '../../session/fields/joi';
import { STRIP_ROLES } from '../keys/roles';
import { PROFILE, type Place } from './fields';
import { addressKey, CONTROL, inputsOf, type SurfaceProfile } from './profile';
import { fromVersion1 } from './version1';

const FIELDS = {
  ...PROFILE,
  controls: field({ kind: 'list', of: CONTROL, most: 1024, least: 1 }),
} as const;
const schema = Joi.object({
  format: Joi.string().valid('zonula-surface').required(),
  version: Joi.number().valid(2).required(),
  ...wholeJoi(PROFILE),
  controls: shapeJoi({ kind: 'list', of: CONTROL, most: 1024, least: 1 }).required(),
});

const refusal = (what: string) => new Refusal('format', `The surface profile is not understood: ${what}.`);

const overlap = (a: Place, b: Place) =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;
const isStripRole = (role: string) => (STRIP_ROLES as readonly string[]).includes(role);

/** What no field can say by itself: that controls can be told apart, lie on the device and not on each other. */
function checkControls(profile: SurfaceProfile): void {
  const ids = new Map<string, number>();
  const inputs = new Map<string, string>();
  const user = new Set<number>();
  profile.controls.forEach((c, i) => {
    const at = `"controls[${i}]`;
    const before = ids.get(c.id);
    if (before !== undefined) throw refusal(`${at}.id" is \`${c.id}\`, as is that of controls[${before}]`);
    ids.set(c.id, i);
    for (const [name, address] of inputsOf(c)) {
      const key = addressKey(address);
      const other = inputs.get(key);
      if (other !== undefined)
        throw refusal(`${at}.${name}" says what ${other} says: they cannot be told apart`);
      inputs.set(key, `controls[${i}].${name}`);
      if (address.type === 'control14') {
        const low = `control ${address.channel} ${address.controller + 32}`;
        const taken = inputs.get(low);
        if (taken !== undefined)
          throw refusal(`${at}.${name}" says what ${taken} says: they cannot be told apart`);
        inputs.set(low, `controls[${i}].${name}`);
      }
    }
    if (c.kind === 'key') {
      if (isStripRole(c.role) !== (c.position !== null))
        throw refusal(
          c.position === null
            ? `${at}.position" is null, and \`${c.role}\` is a strip's`
            : `${at}.position" is ${c.position}, and \`${c.role}\` is the whole unit's`,
        );
      if ((c.role === 'user') !== (c.user !== null))
        throw refusal(
          c.user === null
            ? `${at}.user" is null, and a user key has a number`
            : `${at}.user" is ${c.user}, and the key is no user key`,
        );
      if ((c.role === 'action') !== (c.action !== null))
        throw refusal(
          c.action === null
            ? `${at}.action" is null, and a key of the role \`action\` names one`
            : `${at}.action" is \`${c.action}\`, and the role of the key is \`${c.role}\``,
        );
      if (c.user !== null && user.has(c.user))
        throw refusal(`${at}.user" is ${c.user}, as is that of another key`);
      if (c.user !== null) user.add(c.user);
    }
    if ((c.kind === 'fader' || c.kind === 'encoder') && c.range && c.range.low >= c.range.high)
      throw refusal(`${at}.range.high" is ${c.range.high}, and lies not above ${c.range.low}`);
    if ((c.kind === 'fader' || c.kind === 'encoder') && c.steers) {
      const { of, strip } = c.steers;
      if ((of === 'strip') !== (strip !== null))
        throw refusal(
          strip === null
            ? `${at}.steers.strip" is null, and it steers one strip alone`
            : `${at}.steers.strip" is \`${strip}\`, and it steers another: \`${of}\``,
        );
    }
    const free = c.kind === 'fader' && c.steers !== null && c.steers.of !== 'place';
    const strips =
      (c.kind === 'fader' && !free) || c.kind === 'meter' || (c.kind === 'key' && c.position !== null);
    if (strips && c.position! >= profile.width)
      throw refusal(`${at}.position" is ${c.position}, and the unit is ${profile.width} strips wide`);
    if (
      (c.kind === 'display' || c.kind === 'colour' || c.kind === 'icon') &&
      c.over === 'fader' &&
      c.position !== null &&
      c.position >= profile.width
    )
      throw refusal(`${at}.position" is ${c.position}, and the unit is ${profile.width} strips wide`);
    if (c.kind === 'display' && (c.shows === 'page' || c.shows === 'reach') !== (c.position === null))
      throw refusal(
        `${at}.position" is ${c.position}: \`page\` and \`reach\` are the whole unit's, all else a control's`,
      );
    const { place } = c;
    if (!place) return;
    const { size } = profile;
    if (size && (place.x + place.width > size.width || place.y + place.height > size.height))
      throw refusal(`${at}.place" reaches beyond the device, which is ${size.width} by ${size.height} mm`);
    for (let j = 0; j < i; j++) {
      const other = profile.controls[j]!;
      if (other.place && overlap(place, other.place))
        throw refusal(`${at}.place" lies over that of controls[${j}], \`${other.id}\``);
    }
  });
}

/**
 * A profile of this version, or of the one before.
 * @throws Refusal `format` naming the field
 */
export function validProfile(raw: unknown): SurfaceProfile {
  const current = fromVersion1(raw);
  const { value, error } = schema.required().validate(current, { convert: false }) as {
    value: SurfaceProfile;
    error?: { readonly details: readonly { readonly message: string }[] };
  };
  if (error) throw refusal(error.details[0]!.message);
  checkControls(value);
  return value;
}

/** A profile's file as a JSON Schema (draft 2020-12). */
export const profileJsonSchema = (): Json => ({
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'Zonula surface profile, version 2',
  ...(fieldsJson(FIELDS, {
    format: { const: 'zonula-surface' },
    version: { const: 2 },
  }) as object),
});
