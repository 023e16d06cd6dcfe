import type { Samples } from '../base/units';
import { BLOCK, HEADER_BYTES, RING_HEADER_BYTES } from './layout';
import type { KeptState } from './plan';

/** A number, or an offset into the area of audio and states. */
export type Word = number | { readonly at: number };

export const align = (n: number) => Math.ceil(n / 16) * 16;
/** Frames of a ring that holds a signal back. */
export const framesToHold = (delay: Samples) => (delay > 0 ? delay + BLOCK : 0);

/**
 * Writes a plan's words. Offsets of audio, meters and states are counted from the end of the tables, whose size is known only
 * at the end: `relocate` moves them there.
 */
export class Emitter {
  readonly words: number[] = new Array<number>(HEADER_BYTES / 4).fill(0);
  readonly states: KeptState[] = [];
  /** Positions in `words` that hold an offset into the audio area. */
  private readonly offsets: number[] = [];
  private end = 0;

  /** Bytes of the audio area that are taken. */
  get taken(): number {
    return this.end;
  }
  /** Offset from the plan's base of the word that is written next. */
  get next(): number {
    return this.words.length * 4;
  }

  /** Writes words; offsets are given as `{ at }`. */
  emit(...list: readonly Word[]): void {
    for (const word of list)
      if (typeof word === 'number') this.words.push(word);
      else {
        this.offsets.push(this.words.length);
        this.words.push(word.at);
      }
  }

  /** Takes bytes of the audio area. @returns their offset in it */
  take(bytes: number): number {
    const at = this.end;
    this.end += align(bytes);
    return at;
  }
  /** Takes bytes that outlive a change of plan under a name. */
  keep(key: string, bytes: number): number {
    const offset = this.take(bytes);
    this.states.push({ key, offset, bytes: align(bytes) });
    return offset;
  }
  /** A ring that holds so many channels back by so many frames; none where nothing has to wait. */
  ring(key: string, delay: Samples, channels: number): { readonly at: number; readonly frames: number } {
    const frames = framesToHold(delay);
    const at =
      frames > 0 ? this.keep(`${key}~${frames}x${channels}`, RING_HEADER_BYTES + frames * channels * 4) : 0;
    return { at, frames };
  }

  /** Moves the audio area to where it stands. @param by bytes from the plan's base */
  relocate(by: number): void {
    for (const at of this.offsets) this.words[at]! += by;
  }
}
