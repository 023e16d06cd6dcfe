import { STRIP_ROLES, UNIT_ROLES } from '../keys/roles';
import { filledProfile, type SurfaceProfile } from '../profile/profile';

/** Faders that a touch desk can have: as many as there are controllers of 14 bits. */
export const MOST_TOUCHED = 24;
const known = new Map<number, SurfaceProfile>();

/** Keys of a strip on a touch desk, a channel of notes each. */
const STRIP_CHANNELS = 10;
/**
 * A desk on a touch screen: so many faders with an encoder over each, and every key that there is. It speaks the same bytes to the same
 * code as a device does.
 */
export function touchDesk(width: number): SurfaceProfile {
  const n = Math.max(1, Math.min(MOST_TOUCHED, Math.floor(width)));
  let found = known.get(n);
  if (!found) known.set(n, (found = made(n)));
  return found;
}
function made(width: number): SurfaceProfile {
  const note = (channel: number, k: number) => ({ type: 'note', channel, note: k });
  const strip = (k: number) => {
    const move = { type: 'control14', channel: 1, controller: k };
    return [
      { id: `fader${k}`, kind: 'fader', position: k, in: move, out: move, touch: note(1, k) },
      {
        id: `encoder${k}`,
        kind: 'encoder',
        position: k,
        in: { type: 'control', channel: 2, controller: k },
        push: note(2, k),
        touch: note(2, 64 + k),
      },
      ...STRIP_ROLES.map((role, i) => {
        const address = note(STRIP_CHANNELS + i, k);
        return {
          id: `${role}${k}`,
          kind: 'key',
          position: k,
          role,
          in: address,
          light: { address, dim: 24 },
        };
      }),
    ];
  };
  return filledProfile({
    format: 'zonula-surface',
    version: 2,
    id: `touch-desk-${width}`,
    name: 'Touch desk',
    simulated: false,
    width,
    controls: [
      ...Array.from({ length: width }, (_, k) => strip(k)).flat(),
      ...UNIT_ROLES.filter((role) => role !== 'user' && role !== 'action').map((role, k) => {
        const address = note(3, k);
        return { id: role, kind: 'key', position: null, role, in: address, light: { address, dim: 24 } };
      }),
    ],
  });
}
