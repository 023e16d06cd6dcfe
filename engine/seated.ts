import { BLOCK, BLOCK_BYTES, FEED_BLOCKS, HEADER, HEADER_BYTES, METER_FLOATS } from '../core/plan/layout';
import type { Plan } from '../core/plan/plan';
import { LANE_HEADER_BYTES } from '../core/processors/description';
import { Drive } from './drive';
import { Bypass } from './bypass';
import type { Timeline } from './timeline';

/** Values that curves can move otherwise than straight in one block: at least, and at most. */
const LEAST_ROWS = 256;
const MOST_ROWS = 4096;
/** Bytes behind a plan in which such values stand, a frame each. */
const rowsOf = (plan: Plan): number => {
  const moved = plan.curves.reduce((n, c) => n + c.count, 0);
  return Math.min(MOST_ROWS, LEAST_ROWS + 2 * moved) * BLOCK_BYTES;
};

/** Buffer, channels, where the frames stand, highest sample or the distance of a right channel: as the engine's `runMany` reads them. */
export const PORT_BYTES = 16;
const CHANNEL_BYTES = FEED_BLOCKS * BLOCK_BYTES;
/** Bytes behind those, for blocks of all sources at once: the list of them, and their frames. */
const feedsOf = (plan: Plan): number =>
  plan.sources.reduce((sum, { channels }) => sum + PORT_BYTES + channels * CHANNEL_BYTES, 0);

/** Bytes behind a plan that are its own. */
export const roomOf = (plan: Plan): number => rowsOf(plan) + feedsOf(plan);

/** A plan at its place in the engine's memory, with views that are made once, so that running allocates nothing. */
export class Seated {
  /** Where the room for FEED_BLOCKS of each source's channels stands in the engine's memory, in bytes. */
  rooms: number[][] = [];
  /** Its first block. */
  inputs: Float32Array[][] = [];
  /** The same, and all of the room, two samples in each number, to be copied into. */
  inputPairs: Float64Array[][] = [];
  feedPairs: Float64Array[][] = [];
  captures: Float32Array[][] = [];
  meters: Float32Array[] = [];
  signals: Float32Array[][] = [];
  /** A view of a channel's first floats: reduction and level heard; behind the header how far bands have gone. */
  reductions: Float32Array[][] = [];
  targets = new Float32Array(0);
  current = new Float32Array(0);
  previous = new Float32Array(0);
  ends = new Float32Array(0);
  turns = new Float32Array(0);
  /** Which parameters are set at once: see `ParamRun`. */
  readonly steps: Uint8Array;
  header = new Int32Array(0);
  readonly drive: Drive;
  readonly bypass: Bypass;
  /** Whether all parameters that hands move are where they were sent. */
  atRest = false;

  constructor(
    readonly plan: Plan,
    readonly base: number,
    timeline: Timeline,
  ) {
    this.steps = new Uint8Array(plan.targets.length);
    for (const { at, steps } of plan.params) for (const i of steps) this.steps[at + i] = 1;
    this.drive = new Drive(timeline);
    this.bypass = new Bypass(plan);
  }

  /** Makes the views anew; after the memory has grown the old ones are dead. */
  look(memory: WebAssembly.Memory) {
    const floats = (at: number, n: number) => new Float32Array(memory.buffer, this.base + at, n);
    const port = (p: { offset: number; channels: number }) =>
      Array.from({ length: p.channels }, (_, c) => floats(p.offset + c * BLOCK * 4, BLOCK));
    this.captures = this.plan.captures.map(port);
    this.meters = this.plan.meters.map((m) => floats(m.offset, m.channels * METER_FLOATS));
    this.signals = this.plan.meters.map((m) => port({ offset: m.audio, channels: m.channels }));
    this.reductions = this.plan.reductions.map((r) =>
      Array.from({ length: r.channels }, (_, c) =>
        floats(r.offset + c * r.stride, r.moves ? LANE_HEADER_BYTES / 4 + r.moves : 2),
      ),
    );
    this.header = new Int32Array(memory.buffer, this.base, HEADER_BYTES / 4);
    const table = (word: number) => floats(this.header[word]!, this.plan.targets.length);
    this.targets = table(HEADER.targetsOffset);
    this.current = table(HEADER.currentOffset);
    this.previous = table(HEADER.previousOffset);
    this.ends = table(HEADER.endsOffset);
    this.turns = table(HEADER.turnsOffset);
    this.bypass.look({
      targets: this.targets,
      current: this.current,
      asleep: new Uint8Array(
        memory.buffer,
        this.base + this.header[HEADER.asleepOffset]!,
        this.targets.length,
      ),
      bytes: new Uint8Array(memory.buffer, this.base, this.plan.bytes),
    });
    const rowsAt = this.base + this.plan.bytes;
    this.drive.look({
      steps: this.steps,
      targets: this.targets,
      current: this.current,
      previous: this.previous,
      ends: this.ends,
      turns: this.turns,
      paths: new Uint32Array(
        memory.buffer,
        this.base + this.header[HEADER.pathsOffset]!,
        this.targets.length,
      ),
      rows: new Float32Array(memory.buffer, rowsAt, rowsOf(this.plan) / 4),
      rowsAt,
    });
    this.lookAtFeeds(memory);
  }
  private lookAtFeeds({ buffer }: WebAssembly.Memory) {
    const { sources } = this.plan;
    const offset = this.plan.bytes + rowsOf(this.plan);
    this.header[HEADER.feedsOffset] = offset;
    const list = new Int32Array(buffer, this.base + offset, (sources.length * PORT_BYTES) / 4);
    let at = list.byteOffset + list.byteLength;
    this.rooms = sources.map((source, s) => {
      const { channels } = source;
      list.set([source.offset, channels, at, channels === 2 ? CHANNEL_BYTES : 0], (s * PORT_BYTES) / 4);
      return Array.from({ length: channels }, () => (at += CHANNEL_BYTES) - CHANNEL_BYTES);
    });
    this.inputs = this.rooms.map((own) => own.map((from) => new Float32Array(buffer, from, BLOCK)));
    const pairs = (blocks: number) =>
      this.rooms.map((own) => own.map((from) => new Float64Array(buffer, from, (blocks * BLOCK) / 2)));
    this.inputPairs = pairs(1);
    this.feedPairs = pairs(FEED_BLOCKS);
  }
}
