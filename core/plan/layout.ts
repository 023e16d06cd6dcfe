import { BLOCK } from '../base/block';

/**
 * The memory layout that the plan compiler and the engine agree on. All offsets are bytes from the plan's base. The
 * engine's own file of them is made of this one at each build (engineSource.ts).
 */
export { BLOCK };
export const BLOCK_BYTES = BLOCK * 4;

/** Words of the header, in 32-bit steps. */
export const HEADER = {
  opsOffset: 0,
  paramCount: 1,
  targetsOffset: 2,
  previousOffset: 3,
  currentOffset: 4,
  /** float: e^(-a), a the blocks of a parameter's time constant in one block; see SMOOTHING_SECONDS */
  smoothing: 5,
  /** engine: how often a processor gave a value that is not finite */
  faults: 6,
  /** engine: offset of the op that did last */
  faultOp: 7,
  sampleRate: 8,
  /** float: factor by which a peak reading falls in one block */
  peakFall: 9,
  /** float: share of the new block in the mean square */
  rmsShare: 10,
  /** float: a */
  hurry: 11,
  /** How fast parameters move by hand, a block, at its start and at its end. */
  startsOffset: 12,
  endsOffset: 13,
  /** What a parameter does in a block: 0 goes straight, 1 moves by hand, else where its 128 values stand (+1: a jump). */
  pathsOffset: 14,
  /** A byte a parameter: of the mix of an insert, 1 where it has been bypassed for so long that it is not computed, 2 where it is to wake. */
  asleepOffset: 15,
  /** How fast that speed changes by hand, a block a block, at the block's end. */
  turnsOffset: 16,
  /** Counts from 1 how often the host has had a parameter move: what an operation found out of its numbers before is then out of date. */
  changes: 17,
  /** host: where the list of its sources' room stands, and which block of it they are taken from, counted from 1. */
  feedsOffset: 18,
  fedBlock: 19,
} as const;
export const HEADER_BYTES = 80;

export const OP = {
  end: 0,
  /** offset, bytes */
  clear: 1,
  /** buffer (2 channels), param (4: ll rl lr rr) */
  matrix: 2,
  /** buffer, channels, param */
  gain: 3,
  /** buffer (2 channels), param (2: left, right) */
  balance: 4,
  /** source, destination, source channels, destination channels, param (left, right), delay frames, ring offset, ring frames */
  mix: 5,
  /**
   * A processor of one insert: processor, buffer, channels, first param, state offset, state bytes, mix param,
   * latency in frames, offset and frames of the ring that holds the dry signal back by it
   */
  process: 6,
  /** buffer, channels, meter offset */
  meter: 7,
  /**
   * One processor for up to four channels, a lane of a vector each: processor, lanes, latency; the engine's: the header's `changes`
   * when it last found something out of its numbers, and what; then LANE_WORDS a lane.
   */
  lanes: 8,
  /** buffer, channels, source: takes a source's next frames; what is no finite number there becomes 0 */
  take: 9,
  /** destination (2 channels), then source (1 channel) and param (left, right) of each of four: as four mixes without delay */
  mixFour: 10,
  /** buffer, channels, delay frames, ring offset, ring frames: holds a strip's signal back */
  wait: 11,
} as const;

/** Words of each op, its code included. */
export const OP_WORDS = {
  end: 1,
  clear: 3,
  matrix: 3,
  gain: 4,
  balance: 3,
  mix: 9,
  process: 11,
  meter: 4,
  lanes: 6 + 4 * 12,
  take: 4,
  mixFour: 10,
  wait: 6,
} as const;

/** Channels that one vector holds. */
export const LANES = 4;
/**
 * Words of a lane: buffer, first param, mix param, state offset, state bytes, place in its pair (0 alone, 1 left,
 * 2 right), key buffer (0: its own signal), second key buffer that is folded into it (0: none), key delay frames, key
 * ring offset, ring frames, offset of the ring that holds the dry signal back.
 */
export const LANE_WORDS = 12;
/** Words before the first lane. */
export const LANES_WORDS = 6;

/** Blocks of each source that a host which has a deadline may hand over at once. */
export const FEED_BLOCKS = 8;

/** Floats of a meter, a channel: falling peak, mean square, highest peak since the start, a peak that falls within hundredths of a second. */
export const METER_FLOATS = 4;
/** Offset of a mix ring's write position within its ring. */
export const RING_HEADER_BYTES = 16;
