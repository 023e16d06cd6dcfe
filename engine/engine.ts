import type { Curve } from '../core/plan/curve';
import type { Plan, PlanSteering } from '../core/plan/plan';
import { BLOCK, BLOCK_BYTES, HEADER, LANE_WORDS, LANES_WORDS, METER_FLOATS, OP } from '../core/plan/layout';
import { engineCodeOf } from '../core/processors/registry';
import { LANE_HEADER_BYTES, type Processor } from '../core/processors/description';
import type { Hertz, Samples } from '../core/base/units';
import { Crossing } from './crossing';
import { PORT_BYTES, roomOf, Seated } from './seated';
import { Timeline } from './timeline';

interface EngineExports {
  readonly memory: WebAssembly.Memory;
  /** Moves parameters by hand one block on. @returns whether any was not there yet */
  advance(base: number): boolean;
  run(base: number, moves: boolean): void;
  runMany(
    base: number,
    feeds: number,
    feedCount: number,
    takes: number,
    takeCount: number,
    first: number,
    blocks: number,
    moves: boolean,
  ): void;
  arenaStart(): number;
  measure(on: boolean): void;
  /** Looks at what goes into an operation and comes out of it: its address, and those of two buffers; 0 looks at none. */
  probe(op: number, left: number, right: number): void;
  /** Where what was looked at stands: a block before the operation, a block after it. */
  probed(): number;
  stateBytes(processor: number, sampleRate: number): number;
}

/** Room for many blocks in the engine's own memory, for hosts that have no deadline. */
export interface Batch {
  /** The interleaved frames of each source of the plan: the host writes them. */
  readonly inputs: readonly Float32Array<ArrayBuffer>[];
  /** The interleaved frames of each capture of the plan: the host reads them. */
  readonly outputs: readonly Float32Array<ArrayBuffer>[];
  /** Runs so many blocks, from the inputs' block `first` on. */
  run(first: number, blocks: number): void;
  /** The highest sample, either way, that a capture gave in the last run. */
  peak(capture: number): number;
}

/** Offsets in a plan of the operation that computes an insert, and of the buffers of its left and right; null where it has none. */
function probePlace(plan: Plan, strip: string, insert: string): readonly [number, number, number] | null {
  const mine = (i: { readonly strip: string; readonly insert: string }) =>
    i.strip === strip && i.insert === insert;
  const cost = plan.costs.find((c) => c.inserts.some(mine));
  if (!cost) return null;
  const at = cost.op / 4;
  if (plan.words[at] === OP.process) {
    const left = plan.words[at + 2]!;
    return [cost.op, left, left + (plan.words[at + 3] === 2 ? BLOCK_BYTES : 0)];
  }
  const buffers = cost.inserts.flatMap((i, lane) =>
    mine(i) ? [plan.words[at + LANES_WORDS + lane * LANE_WORDS]!] : [],
  );
  return [cost.op, buffers[0]!, buffers.at(-1)!];
}

/** Curves with some that took the place of those of the same runs, and without those that were taken away. */
function merged(before: readonly Curve[], changes: PlanSteering['curves']): readonly Curve[] {
  const curves = new Map(before.map((c) => [c.at, c]));
  for (const { at, curve } of changes)
    if (curve) curves.set(at, { at, ...curve });
    else curves.delete(at);
  return [...curves.values()];
}

/**
 * One engine in one host: the audio worklet, a worker or Node. It runs a plan, 128 frames at a time. A new plan is set
 * up beside the running one, takes over the states that live on, and the two cross over.
 */
export class Engine {
  private readonly exports: EngineExports;
  private live: Seated | null = null;
  private crossing: Crossing | null = null;
  /** The plan that ran last: a block's end may have taken up another, of which nothing is to be read yet. */
  private ran: Seated | null = null;
  /** A plan that came while two were crossing over; it is taken up when they have. */
  private waiting: Plan | null = null;
  private batched = false;
  private now: Samples = 0;
  private readonly timeline = new Timeline();

  /** @param module the compiled engine; the same binary in every host */
  constructor(module: WebAssembly.Module) {
    const instance = new WebAssembly.Instance(module, {
      env: {
        abort: () => {
          throw new Error('The engine stopped: an internal check failed.');
        },
        tick: (op: number) => this.tick(op),
      },
    });
    this.exports = instance.exports as unknown as EngineExports;
  }

  get plan(): Plan | null {
    return this.live?.plan ?? null;
  }

  /** Bytes that the engine itself needs for a processor's state, a channel of a packed one; 0 where it counts none. */
  stateBytes(processor: Processor, sampleRate: Hertz): number {
    return this.exports.stateBytes(engineCodeOf(processor), sampleRate);
  }

  private clock: () => number = () => 0;
  private begun = 0;
  private spent = new Float64Array(0);
  private costAt = new Map<number, number>();

  /** Measures from now on what each operation of a processor takes. @param clock gives milliseconds */
  startMeasuring(clock: () => number): void {
    this.clock = clock;
    const costs = this.live?.plan.costs ?? [];
    this.spent = new Float64Array(costs.length);
    this.costAt = new Map(costs.map((c, i) => [c.op, i]));
    this.exports.measure(true);
  }
  /** Milliseconds that each of the plan's `costs` has taken since. */
  get measured(): Float64Array {
    return this.spent;
  }
  /** Ends that. @returns what was measured */
  stopMeasuring(): Float64Array {
    this.exports.measure(false);
    return this.spent;
  }
  private tick(op: number) {
    if (op >= 0) {
      this.begun = this.clock();
      return;
    }
    const at = this.costAt.get(-op);
    if (at !== undefined) this.spent[at]! += this.clock() - this.begun;
  }

  private probing: readonly [strip: string, insert: string] | null = null;
  private probeView: Float32Array | null = null;
  /** Looks from now on at what goes into an insert and what comes out of it. */
  probe(insert: readonly [strip: string, insert: string] | null): void {
    this.probing = insert;
    this.findProbe();
  }
  /**
   * The last block that went into the insert that is looked at, then the one that came out of it, both sides added and halved; null
   * where there is none in the plan.
   */
  get probed(): Float32Array | null {
    const { probeView, exports } = this;
    if (probeView?.length === 0)
      return (this.probeView = new Float32Array(exports.memory.buffer, exports.probed(), 2 * BLOCK));
    return probeView;
  }
  private findProbe() {
    this.probeView = null;
    const { live, probing } = this;
    const place = live && probing ? probePlace(live.plan, ...probing) : null;
    if (!place) return this.exports.probe(0, 0, 0);
    const [op, left, right] = place.map((at) => live!.base + at) as [number, number, number];
    this.exports.probe(op, left, right);
    this.probeView = new Float32Array(this.exports.memory.buffer, this.exports.probed(), 2 * BLOCK);
  }

  /** Takes up a plan: at once and settled when none is running, else by crossing over from the running one. */
  load(plan: Plan): void {
    if (this.batched) throw new Error('An engine that runs batches keeps its plan.');
    if (this.crossing) {
      this.waiting = plan;
      return;
    }
    const before = this.live;
    const base = this.place(plan, before);
    const memory = this.exports.memory;
    new Uint8Array(memory.buffer, base, plan.bytes).fill(0);
    new Int32Array(memory.buffer, base, plan.words.length).set(plan.words);
    const seat = new Seated(plan, base, this.timeline);
    seat.look(memory);
    seat.targets.set(plan.targets);
    seat.previous.set(plan.targets);
    seat.current.set(plan.targets);
    seat.drive.follow(plan.curves);
    seat.bypass.follow(seat.drive.moved());
    if (before) {
      const fresh = this.inherit(before, seat);
      seat.drive.claimAll();
      seat.bypass.toldAll(this.now);
      this.crossing = new Crossing(before, seat, fresh);
    } else {
      seat.drive.settle(this.now);
      seat.bypass.begin();
    }
    this.live = seat;
    this.findProbe();
  }

  /** Steers the newest plan's parameters, and has others or none be moved by curves. */
  steer({ runs, curves }: PlanSteering): void {
    if (this.waiting) {
      const { targets, curves: before } = this.waiting;
      for (const { at, values } of runs) targets.set(values, at);
      this.waiting = { ...this.waiting, curves: merged(before, curves) };
    } else if (this.live) {
      const { live } = this;
      for (const { at, values } of runs) {
        live.targets.set(values, at);
        live.bypass.told(this.now, at, values.length);
        for (let i = at; i < at + values.length; i++) if (live.steps[i]) live.current[i] = values[i - at]!;
      }
      live.atRest = false;
      if (live.drive.change(curves)) live.bypass.follow(live.drive.moved());
      for (const { at } of runs) live.drive.claim(at);
    }
  }

  /**
   * Says where in the song the next block is; from there it goes on by itself.
   * @param settled whether all that lanes move stands there at once, as at the start of a print, or gets there as by a jump
   * @param within frames of the block after which it is there
   */
  seek(frame: Samples, settled = false, within: Samples = 0): void {
    if (settled) {
      this.timeline.settle(this.now, frame);
      this.live?.drive.settle(this.now);
      if (this.live) this.live.atRest = false;
    } else if (this.timeline.leap(this.now + within, frame, true)) this.leapt();
  }
  /** Says that the song stands still at a frame. */
  rest(frame: Samples): void {
    if (this.timeline.leap(this.now, frame, false)) this.leapt();
  }
  private leapt() {
    this.live?.drive.leapt();
    this.crossing?.leaving.drive.leapt();
  }

  /**
   * Makes room for so many blocks beside the plan, which this engine then keeps: one call runs them all.
   * @throws where no plan is loaded
   */
  batch(blocks: number): Batch {
    const seat = this.live!;
    const { plan, base } = seat;
    const ports = [...plan.sources, ...plan.captures];
    const tables = (base + plan.bytes + roomOf(plan) + 15) & ~15;
    let end = (tables + ports.length * PORT_BYTES + 15) & ~15;
    const rooms = ports.map(({ channels }) => {
      const at = end;
      end += channels * blocks * BLOCK_BYTES;
      return at;
    });
    this.grow(end);
    this.batched = true;
    const buffer = this.exports.memory.buffer;
    new Int32Array(buffer, tables).set(ports.flatMap((p, i) => [p.offset, p.channels, rooms[i]!, 0]));
    const views = ports.map((p, i) => new Float32Array(buffer, rooms[i], p.channels * blocks * BLOCK));
    const feeds = plan.sources.length;
    const takes = tables + feeds * PORT_BYTES;
    const floats = new Float32Array(buffer, takes, plan.captures.length * (PORT_BYTES / 4));
    const peaks = new Float32Array(plan.captures.length);
    return {
      inputs: views.slice(0, feeds),
      outputs: views.slice(feeds),
      run: (first, count) => {
        peaks.fill(0);
        for (let done = 0; done < count;) {
          const moves = this.bring(seat);
          // A block at a time while anything moves; else as many as nothing moves in.
          const still = seat.drive.any ? seat.drive.stillFor(this.now) / BLOCK : count;
          const step = moves ? 1 : Math.max(1, Math.min(count - done, still));
          this.exports.runMany(base, tables, feeds, takes, ports.length - feeds, first + done, step, moves);
          this.now += step * BLOCK;
          done += step;
          for (let k = 0; k < peaks.length; k++)
            peaks[k] = Math.max(peaks[k]!, floats[k * (PORT_BYTES / 4) + 3]!);
        }
      },
      peak: (capture) => peaks[capture]!,
    };
  }

  /** Where the host writes a source's next 128 frames. */
  input(source: number, channel: number): Float32Array {
    return this.live!.inputs[source]![channel]!;
  }

  /** The same memory as `input`, two samples in each number. */
  inputPairs(source: number, channel: number): Float64Array {
    return this.live!.inputPairs[source]![channel]!;
  }
  /**
   * Where the host may write FEED_BLOCKS blocks of a source at once, two samples in each number: `run` is then told which of
   * them it takes. A plan that comes has a room of its own.
   */
  feedPairs(source: number, channel: number): Float64Array {
    return this.live!.feedPairs[source]![channel]!;
  }
  /** Where the last block is read: by the places that its plan has. */
  private get read(): Seated {
    return (this.ran ?? this.live)!;
  }
  /** What a capture of the plan that ran gave in the last block. */
  output(capture: number, channel: number): Float32Array {
    return this.read.captures[capture]![channel]!;
  }

  /** A strip's signal of the last block, after its fader, inserts and pan; the plan's `meters` name the strips. */
  signal(meter: number, channel: number): Float32Array {
    return this.read.signals[meter]![channel]!;
  }

  /** Readings of a meter: four floats a channel, see METER_FLOATS. */
  meter(index: number): Float32Array {
    return this.read.meters[index]!;
  }

  /** By how much a level-dependent insert turned down in the last block, in decibels; the plan's `reductions` name it. */
  reduction(index: number): number {
    const channels = this.read.reductions[index]!;
    const first = channels[0]![0]!;
    return channels.length === 1 ? first : Math.max(first, channels[1]![0]!);
  }

  /** The highest level that a level-dependent insert heard in the last block, in decibels. */
  heard(index: number): number {
    const channels = this.read.reductions[index]!;
    const first = channels[0]![1]!;
    return channels.length === 1 ? first : Math.max(first, channels[1]![1]!);
  }

  /** How many bands of a level-dependent insert move by themselves. */
  moving(index: number): number {
    return this.read.plan.reductions[index]!.moves;
  }
  /** By how many decibels one of them had gone from its gain in the last block: on the side where it went further. */
  move(index: number, band: number): number {
    const channels = this.read.reductions[index]!;
    const first = channels[0]![LANE_HEADER_BYTES / 4 + band]!;
    const other = channels.length === 1 ? 0 : channels[1]![LANE_HEADER_BYTES / 4 + band]!;
    return Math.abs(other) > Math.abs(first) ? other : first;
  }

  /** How often a processor gave a value that is not finite, and was reset. */
  get faults(): number {
    return this.live ? this.live.header[HEADER.faults]! : 0;
  }

  /** Forgets the highest peaks. */
  clearPeaks(): void {
    if (!this.live) return;
    for (const m of this.live.meters) for (let i = 2; i < m.length; i += METER_FLOATS) m[i] = 0;
  }

  /**
   * Runs one block.
   * @param fed which of the blocks that stand where `feedPairs` has them; the first is what `input` has
   */
  run(fed = 0): void {
    const live = this.live;
    if (!live) return;
    const { crossing } = this;
    crossing?.feed(this.exports.memory, fed);
    live.header[HEADER.fedBlock] = fed + 1;
    this.ran = live;
    this.exports.run(live.base, this.bring(live));
    if (crossing) {
      this.exports.run(crossing.leaving.base, this.bring(crossing.leaving));
      if (crossing.cross()) {
        this.crossing = null;
        if (this.waiting) {
          const next = this.waiting;
          this.waiting = null;
          this.load(next);
        }
      }
    }
    this.now += BLOCK;
  }
  /** Brings a plan's parameters to where they go in the next block. @returns whether any of them moves in it */
  private bring(seat: Seated): boolean {
    let moves = false;
    if (seat.bypass.run(this.now)) seat.atRest = false;
    if (!seat.atRest) {
      seat.header[HEADER.changes]!++;
      moves = this.exports.advance(seat.base);
      seat.atRest = !moves;
    }
    if (!seat.drive.any || !seat.drive.move(this.now)) return moves;
    // What it set down for this block is to be taken back in the next.
    seat.atRest = false;
    seat.header[HEADER.changes]!++;
    return true;
  }

  /**
   * Copies what lives on: tails and delay lines, meters, and where parameters stand in their moves.
   * @returns whether any of them is new
   */
  private inherit(before: Seated, seat: Seated): boolean {
    const fresh = new Set<number>();
    const memory = new Uint8Array(this.exports.memory.buffer);
    const states = new Map(before.plan.states.map((s) => [s.key, s]));
    for (const state of seat.plan.states) {
      const old = states.get(state.key);
      if (old?.bytes === state.bytes)
        memory.copyWithin(
          seat.base + state.offset,
          before.base + old.offset,
          before.base + old.offset + old.bytes,
        );
      else fresh.add(state.offset);
    }
    const at = new Map(before.plan.params.map((p) => [p.key, p]));
    const from = new Map<number, number>();
    for (const run of seat.plan.params) {
      const was = at.get(run.key);
      if (was?.count !== run.count) continue;
      from.set(run.at, was.at);
      seat.current.set(before.current.subarray(was.at, was.at + was.count), run.at);
      seat.ends.set(before.ends.subarray(was.at, was.at + was.count), run.at);
      seat.turns.set(before.turns.subarray(was.at, was.at + was.count), run.at);
    }
    seat.bypass.inherit(before.bypass, from);
    seat.bypass.begun(fresh);
    return fresh.size > 0;
  }

  /** Finds room beside the running plan, below it where it fits, else above. */
  private place(plan: Plan, before: Seated | null): number {
    const bytes = plan.bytes + roomOf(plan);
    const start = this.exports.arenaStart();
    let base = start;
    if (before && start + bytes > before.base)
      base = Math.max(start, before.base + before.plan.bytes + roomOf(before.plan));
    this.grow(base + bytes);
    return base;
  }

  /** Sees to it that memory reaches so far; views onto it are made anew where it had to grow. */
  private grow(bytes: number) {
    const memory = this.exports.memory;
    const missing = bytes - memory.buffer.byteLength;
    if (missing <= 0) return;
    memory.grow(Math.ceil(missing / 65536));
    this.live?.look(memory);
  }
}
