import { shortNames } from '../surface/shortNames';
import type { OscArgument, OscMessage } from '../wire/osc';

/*
 * A small controller of faders, as a stand-in for one of a studio: what it shows follows from what it was told, and what it says from what is
 * done to it. `bin/zonula osc-desk` and the panel in the Surface view are it, each with a socket of its own.
 */

export const FADERS = 8;

export interface StandInFader {
  readonly name: string;
  readonly travel: number;
  readonly text: string;
  readonly mute: boolean;
  readonly solo: boolean;
}
export interface StandIn {
  readonly faders: readonly StandInFader[];
  /** The fader that keys move, from 0. */
  readonly at: number;
  readonly session: string;
  readonly first: number;
  readonly total: number;
  readonly rolling: boolean;
  /** Whether a window plays. */
  readonly there: boolean;
  readonly position: number;
  /** Whether anything has answered. */
  readonly heard: boolean;
  /** What was refused last, and why. */
  readonly refused: string;
}
const EMPTY: StandInFader = { name: '', travel: 0, text: '', mute: false, solo: false };
export const STAND_IN: StandIn = {
  faders: Array.from({ length: FADERS }, () => EMPTY),
  at: 0,
  session: '',
  first: 1,
  total: 0,
  rolling: false,
  there: false,
  position: 0,
  heard: false,
  refused: '',
};

const message = (address: string, ...args: OscArgument[]): OscMessage => ({ address, args });
/** What it says to be told; again now and then, so that it is not forgotten. */
export const standInJoins = (): readonly OscMessage[] => [
  message('/bank/size', FADERS),
  message('/subscribe'),
];
export const STAND_IN_JOINS_S = 20;

/** What it shows after a message. */
export function standInTold(desk: StandIn, { address, args }: OscMessage): StandIn {
  const [value] = args;
  const heard = { ...desk, heard: true };
  const place = /^\/bank\/(\d+)\/([a-z/]+)$/.exec(address);
  if (place) {
    const i = Number(place[1]) - 1;
    const fader = faderTold(desk.faders[i] ?? EMPTY, place[2]!, value);
    return fader && i < FADERS
      ? { ...heard, faders: desk.faders.map((f, k) => (k === i ? fader : f)) }
      : heard;
  }
  switch (address) {
    case '/session/name':
      return { ...heard, session: String(value) };
    case '/bank/first':
      return { ...heard, first: Number(value) };
    case '/bank/total':
      return { ...heard, total: Number(value) };
    case '/transport/rolling':
      return { ...heard, rolling: value === true };
    case '/transport/there':
      return { ...heard, there: value === true };
    case '/transport/position':
      return { ...heard, position: Number(value) };
    case '/refused':
      return { ...heard, refused: String(args[1] ?? '') };
    default:
      return heard;
  }
}
function faderTold(fader: StandInFader, what: string, value: OscArgument | undefined): StandInFader | null {
  switch (what) {
    case 'name':
      // An empty place has nothing else to tell.
      return value === '' ? EMPTY : { ...fader, name: String(value) };
    case 'level/travel':
      return { ...fader, travel: Number(value) };
    case 'level/text':
      return { ...fader, text: String(value) };
    case 'mute':
      return { ...fader, mute: value === true };
    case 'solo':
      return { ...fader, solo: value === true };
    default:
      return null;
  }
}

export interface StandInStep {
  readonly desk: StandIn;
  readonly says: readonly OscMessage[];
}
const put = (desk: StandIn, i: number, fader: Partial<StandInFader>, says: OscMessage): StandInStep => ({
  desk: { ...desk, refused: '', faders: desk.faders.map((f, k) => (k === i ? { ...f, ...fader } : f)) },
  says: [says],
});

/** Moves one of its faders. */
export function standInMoves(desk: StandIn, i: number, to: number): StandInStep {
  const travel = Math.max(0, Math.min(1, to));
  if (!desk.faders[i]?.name) return { desk, says: [] };
  return put(desk, i, { travel }, message(`/bank/${i + 1}/level/travel`, travel));
}
export type StandInKey =
  | 'left'
  | 'right'
  | 'up'
  | 'down'
  | 'more'
  | 'less'
  | 'mute'
  | 'solo'
  | 'bankLeft'
  | 'bankRight'
  | 'play'
  | 'undo'
  | 'redo';
const STEPS: Partial<Record<StandInKey, number>> = { up: 0.01, down: -0.01, more: 0.1, less: -0.1 };

/** Presses one of its keys. */
export function standInPresses(desk: StandIn, key: StandInKey): StandInStep {
  const { at } = desk;
  const fader = desk.faders[at]!;
  const step = STEPS[key];
  if (step !== undefined) return standInMoves(desk, at, fader.travel + step);
  const says = (address: string, ...args: OscArgument[]): StandInStep => ({
    desk: { ...desk, refused: '' },
    says: [message(address, ...args)],
  });
  switch (key) {
    case 'left':
    case 'right': {
      const to = Math.max(0, Math.min(FADERS - 1, at + (key === 'left' ? -1 : 1)));
      return { desk: { ...desk, at: to }, says: [] };
    }
    case 'mute':
    case 'solo':
      if (!fader.name) return { desk, says: [] };
      return put(desk, at, { [key]: !fader[key] }, message(`/bank/${at + 1}/${key}`, !fader[key]));
    case 'bankLeft':
      return says('/bank/left', true);
    case 'bankRight':
      return says('/bank/right', true);
    case 'play':
      return says(desk.rolling ? '/transport/stop' : '/transport/play', true);
    default:
      return says(`/${key}`, true);
  }
}

const ROWS = 12;
const WIDE = 9;
const cell = (text: string) => text.slice(0, WIDE - 1).padEnd(WIDE);
/** It as lines of text: faders from the left, what is under the keys in brackets. */
export function standInLines(desk: StandIn): readonly string[] {
  const { faders, at, session, first, total, rolling, position, heard, refused, there } = desk;
  if (!heard) return ['No answer yet. Is Zonula running, and OSC switched on in its Surface view?'];
  const minutes = `${Math.floor(position / 60)}:${String(Math.floor(position % 60)).padStart(2, '0')}`;
  const names = shortNames(
    faders.map((f) => f.name),
    WIDE - 3,
  );
  const row = (of: (f: StandInFader, i: number) => string) => faders.map((f, i) => cell(of(f, i))).join('');
  return [
    `${session}   ${total ? `${first} to ${Math.min(total, first + FADERS - 1)} of ${total}` : 'nothing to steer'}   ${there ? `${rolling ? 'plays' : 'stands'} at ${minutes}` : 'no window plays'}`,
    '',
    row((_, i) => (i === at ? `[${names[i]!}]` : ` ${names[i]!}`)),
    ...Array.from({ length: ROWS }, (_, r) =>
      row((f) =>
        !f.name
          ? ''
          : Math.round(f.travel * (ROWS - 1)) === ROWS - 1 - r
            ? '  ==='
            : f.travel * (ROWS - 1) > ROWS - 1 - r
              ? '   |'
              : '   .',
      ),
    ),
    row((f) => ` ${f.text}`),
    row((f) => ` ${f.mute ? 'M' : '-'} ${f.solo ? 'S' : '-'}`),
    '',
    refused,
  ];
}
