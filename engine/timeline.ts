import type { Samples } from '../core/base/units';

/** From a frame of the engine's clock on: where in the song it is, and whether it goes on from there. */
export interface Stretch {
  readonly clock: Samples;
  readonly frame: Samples;
  readonly rolls: boolean;
}

/** Stretches that are remembered: signals that are late still hear the one before. */
const MOST = 8;

/**
 * Where in the song the engine is, and was a moment ago: what works on a signal that comes late by so many frames is so many
 * frames behind when the song leaps, too.
 */
export class Timeline {
  private stretches: Stretch[] = [{ clock: 0, frame: 0, rolls: true }];

  get last(): Stretch {
    return this.stretches[this.stretches.length - 1]!;
  }
  frameAt(clock: Samples): Samples {
    const s = this.last;
    return s.rolls ? s.frame + clock - s.clock : s.frame;
  }

  /** Begins anew: nothing was before, the song stood where it begins. */
  settle(clock: Samples, frame: Samples): void {
    this.stretches = [{ clock, frame, rolls: true }];
  }
  /** Leaps to a frame of the song, or stays there; nothing where it is there anyway. @returns whether it leapt */
  leap(clock: Samples, frame: Samples, rolls: boolean): boolean {
    const { last } = this;
    if (last.rolls === rolls && this.frameAt(clock) === frame) return false;
    if (this.stretches.length === MOST) this.stretches.shift();
    this.stretches.push({ clock, frame, rolls });
    return true;
  }

  /** The stretch that holds at a frame of the clock; the first one also before it begins. */
  indexAt(clock: Samples): number {
    let i = this.stretches.length - 1;
    while (i > 0 && this.stretches[i]!.clock > clock) i--;
    return i;
  }
  stretch(index: number): Stretch {
    return this.stretches[index]!;
  }
  /** When the one after a stretch begins. */
  endOf(index: number): Samples {
    return this.stretches[index + 1]?.clock ?? Infinity;
  }
}
