// What goes into one operation of a processor and what comes out of it, for hosts that show both.
import { BLOCK_BYTES } from '../../build/engine/layout';

/** The block before the operation, then the block after it: both sides added and halved. */
const room: usize = memory.data(1024, 16);
let left: usize = 0, right: usize = 0;
/** Address of the operation that is looked at; 0 where none is. */
export let probedOp: usize = 0;

/** Looks from now on at an operation and two buffers, by their addresses. */
export function probe(op: usize, leftAt: usize, rightAt: usize): void {
  probedOp = op;
  left = leftAt;
  right = rightAt;
  memory.fill(room, 0, 2 * BLOCK_BYTES);
}
/** Where the two blocks stand. */
export function probed(): usize {
  return room;
}
/** Keeps what the buffers hold. @param at bytes into the room */
export function keepProbe(at: usize): void {
  const half = f32x4.splat(0.5);
  for (let i: usize = 0; i < BLOCK_BYTES; i += 16)
    v128.store(room + at + i, f32x4.mul(half, f32x4.add(v128.load(left + i), v128.load(right + i))));
}
