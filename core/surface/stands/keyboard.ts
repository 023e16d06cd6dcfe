import { filledProfile, type SurfaceProfile } from '../profile/profile';
import { place, type Written } from './grid';

const COLUMNS = 8;
const PITCH = 25;
const EDGE = 5;

/** Controllers of its faders and knobs, as they happen to be. */
const FADERS = [73, 75, 79, 72, 80, 81, 82, 83] as const;
const KNOBS = [74, 71, 76, 77, 93, 18, 19, 16] as const;

const column = (k: number): readonly Written[] => [
  {
    id: `knob${k + 1}`,
    kind: 'encoder',
    position: k,
    in: { type: 'control', channel: 1, controller: KNOBS[k] },
    coding: 'position',
    place: place(EDGE + k * PITCH, EDGE, 18, 15),
  },
  {
    id: `fader${k + 1}`,
    kind: 'fader',
    position: k,
    in: { type: 'control', channel: 1, controller: FADERS[k] },
    place: place(EDGE + k * PITCH, 25, 18, 60),
  },
];
const KEYS = 15;

/**
 * A stand-in for a plain keyboard controller: eight faders without motors, eight knobs with ends, two keys, and keys to be played. What it
 * says is written here so that it can be moved and drawn; the program has no profile of it, so that it has to be learned.
 */
export const keyboardController = filledProfile({
  format: 'zonula-surface',
  version: 2,
  id: 'simulated-keyboard-8',
  name: 'Simulated keyboard controller',
  simulated: true,
  width: COLUMNS,
  size: { width: EDGE + COLUMNS * PITCH + 30, height: 130 },
  controls: [
    ...Array.from({ length: COLUMNS }, (_, k) => column(k)).flat(),
    ...['left', 'right'].map((side, k) => ({
      id: side,
      kind: 'key',
      position: null,
      role: k === 0 ? 'bankLeft' : 'bankRight',
      in: { type: 'control', channel: 1, controller: 102 + k },
      place: place(EDGE + COLUMNS * PITCH, EDGE + k * 16, 18.4, 11.4),
    })),
    // Keys to be played are no controls of a desk: as user keys they stand here to be seen and heard.
    ...Array.from({ length: KEYS }, (_, k) => ({
      id: `note${k + 1}`,
      kind: 'key',
      position: null,
      role: 'user',
      user: k + 1,
      in: { type: 'note', channel: 1, note: 48 + [0, 2, 4, 5, 7, 9, 11][k % 7]! + 12 * Math.floor(k / 7) },
      place: place(EDGE + k * 15, 92, 14, 33),
    })),
  ],
});
/** Devices that the program brings without a profile by which they speak. */
export const withoutProfile: readonly SurfaceProfile[] = [keyboardController];
/** The stand-in of an id; undefined where there is none. */
export const deviceOf = (id: string | null): SurfaceProfile | undefined =>
  withoutProfile.find((d) => d.id === id);
/** How hard a key is struck: those that are played are never struck twice alike, all others say the most there is. */
export const struck = (device: string, control: string, nth: number): number =>
  device === keyboardController.id && control.startsWith('note') ? 40 + ((nth * 29) % 80) : 127;
