import { filledProfile, type SurfaceProfile } from '../profile/profile';
import { blockWidth, EDGE, HEIGHT, keyBlock, place, STRIP, type Written } from './grid';

const FADERS = 8;
/** Keys that the first version of the desk had, with their notes. */
const FIRST = Object.fromEntries(
  ['bankLeft', 'bankRight', 'nudgeLeft', 'nudgeRight', 'play', 'stop', 'insert', 'pageLeft', 'pageRight'].map(
    (role, i) => [role, [15, 100 + i] as const],
  ),
);

const KEYS = [
  ['reachAll', 'reachMaterial', 'reachLoop', 'reachPlayhead', 'reachPicked'],
  ['reachPath', 'reachFan', 'reachFamily', 'reachLaidOut', 'join'],
  ['toFirst', 'bankLeft', 'nudgeLeft', 'nudgeRight', 'bankRight'],
  ['toLast', 'eightLeft', 'eightRight', 'pinLeft', 'pinRight'],
  ['modeOff', 'modeRead', 'modeTouch', 'modeLatch', 'modeWrite'],
  ['trimOn', 'picked', 'all', 'default', 'modeTrim'],
  ['flip', 'sendsAcross', 'second', 'fine', 'lock'],
  ['acrossPan', 'acrossSend', 'insert', 'pageLeft', 'pageRight'],
  ['hide', 'showAll', 'link', 'recent', 'layer'],
  [1, 2, 3, 4, 5],
  [6, 7, 8, 'undo', 'redo'],
  ['play', 'stop', 'loop', 'spread', null],
] as const;

/** One strip of the desk, from its display down to its fader. */
function strip(k: number, encoder: boolean): readonly Written[] {
  const x = EDGE + k * STRIP;
  const position = k;
  const note = (channel: number, n: number) => ({ type: 'note', channel, note: n });
  const key = (role: string, n: number, dx: number, y: number): Written => {
    const address = note(15, n);
    return {
      id: `${role}${k + 1}`,
      kind: 'key',
      position,
      role,
      in: address,
      light: { address, dim: 24 },
      place: place(x + dx, y, 11.4, 11.4),
    };
  };
  const text = (
    shows: string,
    characters: number,
    prefix: number,
    y: number,
    height: number,
    width = 24,
  ): Written => ({
    id: `${shows}Text${k + 1}`,
    kind: 'display',
    position,
    shows,
    characters,
    prefix: [125, 90, prefix],
    place: place(x, y, width, height),
  });
  const knob: readonly Written[] = encoder
    ? [
        {
          id: `encoder${k + 1}`,
          kind: 'encoder',
          position,
          in: { type: 'control', channel: 15, controller: 70 + k },
          coding: 'offset',
          push: note(15, 40 + k),
          touch: note(15, 50 + k),
          ring: {
            address: { type: 'control', channel: 15, controller: 70 + k },
            style: { type: 'control', channel: 15, controller: 80 + k },
            styles: ['left', 'centre', 'dot', 'width'],
          },
          light: { address: note(15, 60 + k), dim: 24 },
          place: place(x, 35.5, 24, 13),
        },
      ]
    : [];
  const y = encoder ? 49.5 : 36.5;
  const move = { type: 'control14', channel: 16, controller: 20 + k };
  return [
    { id: `colour${k + 1}`, kind: 'colour', position, prefix: [125, 90, 3], place: place(x, 13, 24, 2.5) },
    text('name', 7, 1, 15.5, 6.5),
    text('value', 7, 2, 22, 6.5),
    text('mode', 4, 5, 28.5, 6, 17.5),
    { id: `icon${k + 1}`, kind: 'icon', position, prefix: [125, 90, 7], place: place(x + 18, 28.5, 6, 6) },
    ...knob,
    key('pick', 24 + k, 0, y),
    key('mode', 110 + k, 12.4, y),
    key('mute', k, 0, y + 12),
    key('solo', 12 + k, 12.4, y + 12),
    {
      id: `fader${k + 1}`,
      kind: 'fader',
      position,
      in: move,
      out: move,
      touch: note(16, 20 + k),
      place: place(x, y + 24.5, 18, HEIGHT - EDGE - (y + 24.5)),
    },
    {
      id: `meter${k + 1}`,
      kind: 'meter',
      position,
      address: { type: 'control', channel: 15, controller: 90 + k },
      place: place(x + 19.5, y + 24.5, 4, HEIGHT - EDGE - (y + 24.5)),
    },
  ];
}

const desk = (id: string, name: string, encoders: boolean): SurfaceProfile =>
  filledProfile({
    format: 'zonula-surface',
    version: 2,
    id,
    name,
    simulated: true,
    width: FADERS,
    size: { width: EDGE * 3 + FADERS * STRIP + blockWidth(5), height: HEIGHT },
    controls: [
      {
        id: 'page',
        kind: 'display',
        position: null,
        shows: 'page',
        characters: 40,
        prefix: [125, 90, 4],
        cell: 0,
        place: place(EDGE, 4.5, 119, 7),
      },
      {
        id: 'reach',
        kind: 'display',
        position: null,
        shows: 'reach',
        characters: 32,
        prefix: [125, 90, 6],
        cell: 0,
        place: place(EDGE + 123, 4.5, 8 * STRIP - 124, 7),
      },
      ...Array.from({ length: FADERS }, (_, k) => strip(k, encoders)).flat(),
      ...keyBlock(KEYS, EDGE * 2 + FADERS * STRIP, 4, 14, FIRST),
    ],
  });

/** A stand-in for a desk of eight motor faders, with an encoder over each. */
export const simulatedDesk = desk('simulated-desk-8', 'Simulated desk, eight motor faders', true);
/** The same without encoders: for a desk that has them in a unit of their own. */
export const simulatedFaders = desk('simulated-faders-8', 'Simulated faders, eight motor faders', false);
