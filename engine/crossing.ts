import { bow } from '../core/base/jump';
import { BLOCK, BLOCK_BYTES, HEADER } from '../core/plan/layout';
import type { Seated } from './seated';

/** Blocks over which one plan gives way to the next: 21 ms at 48 kHz. What in it is new runs for as long before. */
const FADE_BLOCKS = 8;

/** How a signal that stops goes on: turned round its last sample, so that it goes on as steeply, and down within a block. */
function endOf(last: Float32Array, to: Float32Array): void {
  const ending = last.slice();
  const pivot = ending[BLOCK - 1]!;
  for (let i = 0; i < BLOCK; i++) {
    const mirrored = ending[Math.max(0, BLOCK - 2 - i)]!;
    to[i] = (2 * pivot - mirrored) * (1 - bow((i + 1) / BLOCK));
  }
}

/**
 * One plan gives way to another while both run. Where something is new in it, the plan that comes runs unheard until that has
 * filled: an insert that joins, or all delay lines where one makes everything later.
 */
export class Crossing {
  /** Blocks that have run, and how many of them are unheard. */
  private done = 0;
  private readonly unheard: number;
  /** For each source that leaves, the index of the same strip in the plan that comes, -1 where it has none; for captures likewise. */
  private readonly sourceIn: readonly number[];
  private readonly captureIn: readonly number[];
  private readonly share = new Float64Array(BLOCK);

  /** @param fresh whether something is new in the plan that comes */
  constructor(
    readonly leaving: Seated,
    private readonly live: Seated,
    fresh: boolean,
  ) {
    const { sources, captures } = live.plan;
    const late = Math.max(0, ...captures.map((c) => c.latency));
    this.unheard = fresh ? Math.max(FADE_BLOCKS, Math.ceil(late / BLOCK)) : 0;
    this.sourceIn = leaving.plan.sources.map((s) => sources.findIndex((t) => t.strip === s.strip));
    this.captureIn = captures.map((s) => leaving.plan.captures.findIndex((t) => t.strip === s.strip));
  }

  /** Gives the plan that leaves what the one that comes is given; strips that are gone end there without a step. @param fed which block of its room */
  feed(memory: WebAssembly.Memory, fed: number): void {
    const { leaving, live } = this;
    const bytes = new Uint8Array(memory.buffer);
    const last = Math.max(0, leaving.header[HEADER.fedBlock]! - 1);
    leaving.header[HEADER.fedBlock] = 1;
    for (let s = 0; s < leaving.rooms.length; s++) {
      const from = live.rooms[this.sourceIn[s]!];
      const own = leaving.rooms[s]!;
      for (let c = 0; c < own.length; c++) {
        const to = own[c]!;
        const input = leaving.inputs[s]![c]!;
        if (from) {
          const at = from[Math.min(c, from.length - 1)]! + fed * BLOCK_BYTES;
          bytes.copyWithin(to, at, at + BLOCK_BYTES);
        } else if (this.done > 0) input.fill(0);
        else endOf(new Float32Array(memory.buffer, to + last * BLOCK_BYTES, BLOCK), input);
      }
    }
  }

  /** Brings what both gave together where the plan that comes has it. @returns whether the other one has left */
  cross(): boolean {
    const { leaving, live, share } = this;
    for (let i = 0; i < BLOCK; i++) {
      const t = (this.done - this.unheard + (i + 1) / BLOCK) / FADE_BLOCKS;
      share[i] = t <= 0 ? 0 : bow(t);
    }
    for (let k = 0; k < live.captures.length; k++) {
      const to = live.captures[k]!;
      const old = leaving.captures[this.captureIn[k]!];
      for (let c = 0; c < to.length; c++) {
        const block = to[c]!;
        const other = old?.[Math.min(c, old.length - 1)];
        for (let i = 0; i < BLOCK; i++) {
          const w = share[i]!;
          block[i] = block[i]! * w + (other ? other[i]! * (1 - w) : 0);
        }
      }
    }
    return ++this.done >= this.unheard + FADE_BLOCKS;
  }
}
