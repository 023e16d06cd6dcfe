// How many frames a kernel computes at once: a block, or a part of one while a parameter moves.

export let frames: i32 = 128;
/** Bytes of so many frames of one channel, and of four lanes. */
export let oneBytes: usize = 512;
export let fourBytes: usize = 2048;
/** The share that one of them is of all. */
export let perFrame: f32 = 0.0078125;

export function span(count: i32): void {
  frames = count;
  oneBytes = <usize>count << 2;
  fourBytes = <usize>count << 4;
  perFrame = <f32>1 / <f32>count;
}
