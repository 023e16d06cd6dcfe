/**
 * Memory that the page, the feeder and the audio worklet share. One writer for each word.
 */

/** Words of the control block. */
export const CONTROL = {
  /** worklet: 1 while rolling */
  rolling: 0,
  /** worklet: generation that it plays */
  playing: 1,
  /** worklet: frames played of this generation */
  clock: 2,
  /** worklet: where in the song it stands, in frames */
  position: 3,
  /** worklet: blocks in which a stem was not there in time */
  dropouts: 4,
  /** worklet: processors that gave a value that is not finite */
  faults: 5,
  /** worklet: share of the time that computing takes, in thousandths */
  load: 6,
  /** worklet: the same of its dearest block since it was last asked, in thousandths */
  worst: 7,
  /** feeder: generation whose first frames are in the rings */
  ready: 8,
  /** worklet: blocks that took longer than they last, since the start */
  overruns: 9,
  /** worklet: serial of the plan whose processors it measures, 0 where it measures none */
  costPlan: 10,
  /** worklet: blocks over which it has */
  costBlocks: 11,
  /** Start, loop start and loop end (0: no loop) of even and odd generations; feeder. */
  cues: 16,
} as const;
export const CONTROL_WORDS = 32;

/** Frames of a ring: two thirds of a second at 48 kHz. */
export const RING_FRAMES = 32768;
/** Words before a ring's audio: first and next frame of even and odd generations, and its serial. */
export const RING_WORDS = 8;

/** Two rings a channel, for the generation that plays and for the next. */
export const ringBytes = (channels: number) => RING_WORDS * 4 + 2 * channels * RING_FRAMES * 4;

export interface RingViews {
  readonly head: Int32Array;
  /** [generation parity][channel] */
  readonly audio: readonly (readonly Float32Array[])[];
  /** The same, two samples in each number: to be copied, which so takes a third of the time, and not to be looked at. */
  readonly pairs: readonly (readonly Float64Array[])[];
}
export function ringViews(memory: SharedArrayBuffer, channels: number): RingViews {
  const each = <T>(view: (at: number) => T) =>
    [0, 1].map((set) =>
      Array.from({ length: channels }, (_, c) =>
        view(RING_WORDS * 4 + (set * channels + c) * RING_FRAMES * 4),
      ),
    );
  return {
    head: new Int32Array(memory, 0, RING_WORDS),
    audio: each((at) => new Float32Array(memory, at, RING_FRAMES)),
    pairs: each((at) => new Float64Array(memory, at, RING_FRAMES / 2)),
  };
}
/** Word of a ring that tells it from all others of the page: each message brings its memory as another object. */
export const RING_SERIAL = 4;
export const ringFrom = (parity: number) => parity * 2;
export const ringNext = (parity: number) => parity * 2 + 1;

/** Meter slots: two channels of four floats each (falling peak, mean square, highest peak, spare). */
export const METER_SLOTS = 1024;
export const METER_SLOT_FLOATS = 8;

/** What dynamics tell, in decibels: reduction, level heard, and how far each of up to six bands has gone. */
export const DYNAMICS_SLOTS = 1024;
export const DYNAMICS_SLOT_FLOATS = 8;
export const DYNAMICS_MOVES = 2;

/** Milliseconds that each of a plan's `costs` has taken while it was measured, and in the last slot all that the thread did. */
export const COST_SLOTS = 1024;
export const COST_WHOLE = COST_SLOTS - 1;

/** Strips whose signal is metered at a time. */
export const TAPS = 16;
/** Samples of a tap's ring, of one or two channels: two thirds of a second at least, at 48 kHz. */
export const TAP_SAMPLES = 65536;
/** Words before each tap's samples: how many frames were written, of which tap they are, channels. */
export const TAP = { frames: 0, serial: 1, channels: 2 } as const;
export const TAP_WORDS = 4;
export const TAPS_BYTES = TAPS * (TAP_WORDS + TAP_SAMPLES) * 4;
export interface TapViews {
  readonly head: Int32Array;
  /** Interleaved frames; the newest stands before `frames`. */
  readonly audio: Float32Array;
}
export const tapViews = (memory: SharedArrayBuffer): readonly TapViews[] =>
  Array.from({ length: TAPS }, (_, i) => ({
    head: new Int32Array(memory, i * TAP_WORDS * 4, TAP_WORDS),
    audio: new Float32Array(memory, (TAPS * TAP_WORDS + i * TAP_SAMPLES) * 4, TAP_SAMPLES),
  }));

/** What goes into an insert and what comes out of it, both sides added: a ring each, after the count of frames written. */
export const PROBE_FRAMES = 8192;
export const PROBE_HEADER_BYTES = 8;
export const PROBE_BYTES = PROBE_HEADER_BYTES + 2 * PROBE_FRAMES * 4;
export const probeViews = (memory: SharedArrayBuffer) => ({
  count: new Int32Array(memory, 0, 1),
  rings: [0, 1].map((i) => new Float32Array(memory, PROBE_HEADER_BYTES + i * PROBE_FRAMES * 4, PROBE_FRAMES)),
});

export interface Cue {
  /** Frames. */
  readonly start: number;
  /** Frames; an end of 0 is no loop. */
  readonly loopStart: number;
  readonly loopEnd: number;
}

/** Where in the song the frame stands that is played `clock` frames after the cue. A loop is entered from before it alone. */
export function songAt(cue: Cue, clock: number): number {
  const at = cue.start + clock;
  if (cue.loopEnd <= cue.loopStart || cue.start >= cue.loopEnd || at < cue.loopEnd) return at;
  return cue.loopStart + ((at - cue.loopEnd) % (cue.loopEnd - cue.loopStart));
}

/** Frames from this one to the next jump. */
export function untilJump(cue: Cue, clock: number): number {
  if (cue.loopEnd <= cue.loopStart || cue.start >= cue.loopEnd) return Infinity;
  return cue.loopEnd - songAt(cue, clock);
}

/** Frames, at most, in which a loop's end goes over into what stands before its start, so that the start itself comes whole. */
export const JOIN_FRAMES = 256;
/** How many frames that takes. */
export const joinOf = (cue: Cue): number => Math.min(JOIN_FRAMES, cue.loopEnd - cue.loopStart);

/**
 * Memory that the page shares with the audio thread. A page that came by plain http has none to share: it gets some of its own, so that all but
 * playing works there.
 */
export const sharedBytes = (bytes: number): SharedArrayBuffer =>
  typeof SharedArrayBuffer === 'undefined'
    ? (new ArrayBuffer(bytes) as unknown as SharedArrayBuffer)
    : new SharedArrayBuffer(bytes);
