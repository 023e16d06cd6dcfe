/// <reference lib="webworker" />
import { PlanKeeper, type SessionNews } from './planKeeper';
import { CONTROL } from './shared';
import type { WorkletMessage } from './worklet';
import type { PlanCost } from '@core/plan/plan';

export type PlanWorkerMessage =
  | { readonly type: 'connect'; readonly port: MessagePort; readonly control: SharedArrayBuffer }
  | SessionNews
  /** Goes on to the audio thread, after all that was said before. */
  | { readonly type: 'pass'; readonly message: WorkletMessage }
  /** Plays from a place of the song, in seconds, once its curves are there. */
  | { readonly type: 'roll'; readonly generation: number; readonly from: number };
export interface Planned {
  readonly serial: number;
  readonly costs: readonly PlanCost[];
}

/**
 * Milliseconds that are drawn at a stretch, before what the page says is listened to again; and while hands move something, which do
 * not wait as long. What a hand has moved goes to the engine before the rest of it is drawn, so many milliseconds later.
 */
const STRETCH = 3;
const STRETCH_MOVED = 0.5;
const BREATH = 2;
/** Milliseconds after a move in which the next one is looked for. */
const MOVING = 100;

let port: MessagePort | null = null;
let control: Int32Array = new Int32Array(0);
const keeper: PlanKeeper = new PlanKeeper(
  (message) => port!.postMessage(message),
  (serial, costs) => postMessage({ serial, costs } satisfies Planned),
  () => {
    const cue = CONTROL.cues + (Atomics.load(control, CONTROL.playing) & 1) * 3;
    const [start, end] = [Atomics.load(control, cue + 1), Atomics.load(control, cue + 2)];
    return {
      rolling: Atomics.load(control, CONTROL.rolling) === 1,
      position: Atomics.load(control, CONTROL.position) / keeper.rate,
      loopStart: end > 0 ? start / keeper.rate : null,
    };
  },
);

const turns = new MessageChannel();
let turning = false;
let movedAt = -Infinity;
function goOn() {
  if (turning || !keeper.busy) return;
  turning = true;
  turns.port2.postMessage(null);
}
turns.port1.onmessage = () => {
  turning = false;
  const now = performance.now();
  const until = now + (now - movedAt < MOVING ? STRETCH_MOVED : STRETCH);
  if (keeper.busy) keeper.goOn(() => performance.now() >= until);
  goOn();
};

onmessage = ({ data }: MessageEvent<PlanWorkerMessage>) => {
  switch (data.type) {
    case 'connect':
      port = data.port;
      control = new Int32Array(data.control);
      return;
    case 'session':
      keeper.take(data);
      if (data.ahead || data.wiring) return goOn();
      movedAt = performance.now();
      return void setTimeout(goOn, BREATH);
    case 'pass':
      return port!.postMessage(data.message);
    case 'roll':
      keeper.prepare(data.from);
      return port!.postMessage({ type: 'roll', generation: data.generation } satisfies WorkletMessage);
  }
};
