import { filledProfile } from '../profile/profile';
import { blockWidth, EDGE, HEIGHT, keyBlock, place, type Written } from './grid';

const COLUMNS = 8;
const ROWS = 4;
const PITCH = { x: 25, y: 33 } as const;
const TOP = 13;

const KEYS = [
  ['acrossPan', 'acrossTrim', 'acrossWidth', 'acrossSend', 'acrossLevel'],
  ['acrossPreampGain', 'acrossBandFrequency', 'acrossBandGain', 'acrossThreshold', 'choiceLeft'],
  ['alongInput', 'alongInserts', 'alongInsert', 'alongSends', 'choiceRight'],
  ['alongPanning', 'alongEqualizer', 'alongCompressor', 'insert', 'pageLeft'],
  ['columns', 'spread', 'lock', 'flip', 'pageRight'],
  ['fine', 'second', 'default', 'picked', 'all'],
  ['modeRead', 'modeTouch', 'modeLatch', 'trimOn', 'sendsAcross'],
  ['reachPath', 'reachFan', 'reachFamily', 'reachPicked', 'reachAll'],
  ['undo', 'redo', 'play', 'stop', 'loop'],
  [1, 2, 3, 4, 5],
  [6, 7, 8, 9, 10],
  ['recent', 'layer', 'join', 'showAll', null],
] as const;

function encoder(row: number, column: number): readonly Written[] {
  const n = row * COLUMNS + column;
  const x = EDGE + column * PITCH.x;
  const y = TOP + row * PITCH.y;
  const note = (channel: number) => ({ type: 'note', channel, note: n });
  const control = (channel: number) => ({ type: 'control', channel, controller: n });
  const text = (
    shows: string,
    characters: number,
    prefix: number,
    dx: number,
    dy: number,
    width: number,
  ): Written => ({
    id: `${shows}Text${n + 1}`,
    kind: 'display',
    over: 'encoder',
    position: column,
    row,
    shows,
    characters,
    prefix: [125, 91, prefix],
    cell: n,
    place: place(x + dx, y + dy, width, 6),
  });
  return [
    {
      id: `colour${n + 1}`,
      kind: 'colour',
      over: 'encoder',
      position: column,
      row,
      prefix: [125, 91, 3],
      cell: n,
      place: place(x, y, 24, 1.5),
    },
    text('name', 7, 1, 0, 1.5, 24),
    text('value', 7, 2, 0, 7.5, 24),
    {
      id: `encoder${n + 1}`,
      kind: 'encoder',
      row,
      position: column,
      in: control(11),
      coding: 'twos',
      push: note(11),
      touch: note(12),
      ring: { address: control(11), style: control(12), styles: ['left', 'centre', 'dot', 'width'] },
      light: { address: note(13), dim: 24 },
      place: place(x, y + 13.5, 24, 12),
    },
    text('mode', 4, 5, 0, 25.5, 17.5),
    {
      id: `icon${n + 1}`,
      kind: 'icon',
      over: 'encoder',
      position: column,
      row,
      prefix: [125, 91, 7],
      cell: n,
      place: place(x + 18, y + 25.5, 6, 6),
    },
  ];
}

/** A stand-in for a wide module: 32 encoders in four rows of eight, and no faders. */
export const simulatedEncoders = filledProfile({
  format: 'zonula-surface',
  version: 2,
  id: 'simulated-encoders-32',
  name: 'Simulated module, 32 encoders',
  simulated: true,
  width: 0,
  size: { width: EDGE * 3 + COLUMNS * PITCH.x + blockWidth(5), height: HEIGHT },
  controls: [
    {
      id: 'page',
      kind: 'display',
      position: null,
      shows: 'page',
      characters: 60,
      prefix: [125, 91, 4],
      cell: 0,
      place: place(EDGE, 4.5, 127, 7),
    },
    {
      id: 'reach',
      kind: 'display',
      position: null,
      shows: 'reach',
      characters: 24,
      prefix: [125, 91, 6],
      cell: 0,
      place: place(EDGE + 131, 4.5, COLUMNS * PITCH.x - 132, 7),
    },
    ...Array.from({ length: ROWS }, (_, r) => Array.from({ length: COLUMNS }, (_x, c) => encoder(r, c))).flat(
      2,
    ),
    ...keyBlock(KEYS, EDGE * 2 + COLUMNS * PITCH.x, 4, 14),
  ],
});
