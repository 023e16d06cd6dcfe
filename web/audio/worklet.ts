import { BLOCK, METER_FLOATS } from '@core/plan/layout';
import { bow } from '@core/base/jump';
import type { Plan, PlanSteering } from '@core/plan/plan';
import { Engine } from '@engine/engine';
import type { PlayedOutput } from './channels';
import { rehearseCopies } from './ringBlock';
import { RingFeed, type WorkletSource } from './ringFeed';
import {
  CONTROL,
  COST_WHOLE,
  DYNAMICS_MOVES,
  DYNAMICS_SLOT_FLOATS,
  METER_SLOT_FLOATS,
  probeViews,
  PROBE_FRAMES,
  TAP,
  TAP_SAMPLES,
  tapViews,
  songAt,
  untilJump,
  type Cue,
  type TapViews,
} from './shared';

declare const registerProcessor: (name: string, processor: unknown) => void;
declare const sampleRate: number;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

/** A plan that tells itself from those before it. */
export type NumberedPlan = Plan & { readonly serial?: number };
export type WorkletMessage =
  | {
      readonly type: 'plan';
      readonly plan: NumberedPlan;
      readonly sources: readonly WorkletSource[];
      readonly slots: Readonly<Record<string, number>>;
      /** Where the reductions of inserts are written, by strip and insert. */
      readonly dynamics?: Readonly<Record<string, number>>;
      /** Where outputs leave, beside the first capture, which leaves by the first two channels. */
      readonly outputs?: readonly PlayedOutput[];
    }
  | ({ readonly type: 'steer' } & PlanSteering)
  /** Another way by which it is told. */
  | { readonly type: 'listen'; readonly port: MessagePort }
  | { readonly type: 'roll'; readonly generation: number }
  | { readonly type: 'halt' }
  /** The strips whose signals are metered, by the place of their taps. */
  | { readonly type: 'taps'; readonly taps: readonly (Tapped | null)[] }
  /** The insert whose input and output are looked at. */
  | { readonly type: 'probe'; readonly strip: string; readonly insert: string | null }
  /**
   * A factor on all that is played, so that two settings are compared at one loudness; and whether the monitored output is played in
   * mono.
   */
  | { readonly type: 'monitor'; readonly gain: number; readonly mono: boolean }
  /** Whether what each processor takes is measured. */
  | { readonly type: 'measure'; readonly on: boolean }
  | { readonly type: 'clearPeaks' };

export interface Tapped {
  readonly strip: string;
  /** A number of its own, so that what was heard of another is told from it. */
  readonly serial: number;
}

export interface WorkletOptions {
  readonly module: WebAssembly.Module;
  readonly control: SharedArrayBuffer;
  readonly meters: SharedArrayBuffer;
  readonly dynamics?: SharedArrayBuffer;
  readonly taps?: SharedArrayBuffer;
  readonly probe?: SharedArrayBuffer;
  readonly costs?: SharedArrayBuffer;
}

/** Blocks over which computing time is averaged: about two thirds of a second. */
const LOAD_BLOCKS = 256;
/** Blocks in which the factor on what is played goes over to another: 21 ms at 48 kHz, without a corner. */
const MONITOR_BLOCKS = 8;
/** Blocks after which meters are told anew: 11 ms at 48 kHz. */
const METERED_BLOCKS = 4;
const now: () => number = typeof performance === 'undefined' ? () => Date.now() : () => performance.now();
/** By how many milliseconds a time that is taken may be too long. */
const UNSURE = typeof performance === 'undefined' ? 1 : 0;

/** Runs the engine in real time: stems from the rings in, the monitored output out, meters into shared memory. */
class EngineProcessor extends AudioWorkletProcessor {
  private readonly engine: Engine;
  private readonly control: Int32Array;
  private readonly meters: Float32Array;
  private adopted: NumberedPlan | null = null;
  private readonly feed: RingFeed;
  private slotOf: Readonly<Record<string, number>> = {};
  private slots: readonly number[] = [];
  private readonly dynamics: Float32Array | null;
  private dynamicsOf: Readonly<Record<string, number>> = {};
  private dynamicsSlots: readonly number[] = [];
  private readonly taps: readonly TapViews[];
  private tapped: readonly (Tapped | null)[] = [];
  /** The plan's meter of each tap; -1 where it has none. */
  private tapMeters: number[] = [];
  private readonly probe: ReturnType<typeof probeViews> | null;
  private probed: readonly [strip: string, insert: string] | null = null;
  /** A factor on all that is played: where it came from and goes to, and how far of the way it is. */
  private monitorFrom = 1;
  private monitor = 1;
  private monitorAt = 1;
  /** How far the monitored output is in mono, 0..1, and where that goes. */
  private mono = 0;
  private monoTo = 0;
  private outputs: readonly PlayedOutput[] = [];
  /** First channel of each capture of the plan that runs; -1 where it is not played. */
  private leaves: number[] = [];
  private wanted = 0;
  private playing = 0;
  private clock = 0;
  private cue: Cue = { start: 0, loopStart: 0, loopEnd: 0 };
  /** 1: full; what is played fades in and out by single blocks. */
  private level = 0;
  private spent = 0;
  private worst = 0;
  private counted = 0;
  private readonly costs: Float64Array | null;
  private measuring = false;
  private measuredBlocks = 0;
  private measuredWhole = 0;

  constructor(options: { processorOptions: WorkletOptions }) {
    super();
    const { module, control, meters, dynamics, taps, probe, costs } = options.processorOptions;
    this.costs = costs ? new Float64Array(costs) : null;
    this.dynamics = dynamics ? new Float32Array(dynamics) : null;
    this.taps = taps ? tapViews(taps) : [];
    this.probe = probe ? probeViews(probe) : null;
    this.engine = new Engine(module);
    this.feed = new RingFeed(this.engine);
    this.control = new Int32Array(control);
    this.meters = new Float32Array(meters);
    this.listen(this.port);
  }

  private readonly ports: MessagePort[] = [];
  private listen(port: MessagePort) {
    this.ports.push(port);
    port.onmessage = ({ data }: MessageEvent<WorkletMessage>) => this.receive(data);
  }
  private receive(m: WorkletMessage) {
    if (m.type === 'plan') {
      this.feed.offer(m.sources);
      this.slotOf = m.slots;
      this.dynamicsOf = m.dynamics ?? {};
      this.outputs = m.outputs ?? [];
      this.engine.load(m.plan);
    } else if (m.type === 'steer') this.engine.steer(m);
    else if (m.type === 'roll') this.wanted = m.generation;
    else if (m.type === 'halt') this.wanted = 0;
    else if (m.type === 'listen') this.listen(m.port);
    else if (m.type === 'monitor') {
      this.monitorFrom = this.monitorGain(this.monitorAt);
      this.monitor = m.gain;
      this.monitorAt = 0;
      this.monoTo = m.mono ? 1 : 0;
    } else if (m.type === 'measure') this.measure(m.on);
    else if (m.type === 'taps') {
      this.tapped = m.taps;
      this.findTaps();
    } else if (m.type === 'probe') {
      this.probed = m.insert === null ? null : [m.strip, m.insert];
      this.engine.probe(this.probed);
    } else this.engine.clearPeaks();
  }

  /**
   * Measures from now on, or no more. A clock of whole milliseconds will do: an operation sees it step in proportion to the
   * time that it takes, so that over many blocks the sums come out right.
   */
  private measure(on: boolean) {
    this.measuring = on && this.costs !== null;
    this.measuredBlocks = this.measuredWhole = 0;
    Atomics.store(this.control, CONTROL.costPlan, 0);
    if (this.measuring) this.engine.startMeasuring(now);
    else this.engine.stopMeasuring();
  }

  private tellCosts() {
    const { measured } = this.engine;
    const slots = this.costs!;
    for (let i = 0; i < measured.length && i < COST_WHOLE; i++) slots[i] = measured[i]!;
    slots[COST_WHOLE] = this.measuredWhole;
    Atomics.store(this.control, CONTROL.costBlocks, this.measuredBlocks);
    Atomics.store(this.control, CONTROL.costPlan, this.adopted!.serial ?? 0);
  }

  private findTaps() {
    const meters = this.adopted?.meters ?? [];
    this.tapMeters = this.tapped.map((t) => (t ? meters.findIndex((m) => m.strip === t.strip) : -1));
    this.tapMeters.forEach((meter, i) => {
      const head = this.taps[i]?.head;
      if (!head) return;
      if (meter >= 0) Atomics.store(head, TAP.channels, meters[meter]!.channels);
      Atomics.store(head, TAP.serial, meter < 0 ? 0 : this.tapped[i]!.serial);
    });
  }
  /** Writes what the metered strips gave in the last block. */
  private fillTaps() {
    for (let t = 0; t < this.tapMeters.length; t++) {
      const meter = this.tapMeters[t]!;
      const tap = this.taps[t];
      if (meter < 0 || !tap) continue;
      const { head, audio } = tap;
      const channels = head[TAP.channels]!;
      const at = head[TAP.frames]!;
      for (let c = 0; c < channels; c++) {
        const signal = this.engine.signal(meter, c);
        for (let i = 0; i < BLOCK; i++) audio[((at + i) * channels + c) & (TAP_SAMPLES - 1)] = signal[i]!;
      }
      Atomics.store(head, TAP.frames, (at + BLOCK) | 0);
    }
  }
  private fillProbe() {
    const heard = this.probe && this.engine.probed;
    if (!heard) return;
    const { count, rings } = this.probe!;
    const at = count[0]!;
    for (let k = 0; k < 2; k++)
      for (let i = 0; i < BLOCK; i++) rings[k]![(at + i) & (PROBE_FRAMES - 1)] = heard[k * BLOCK + i]!;
    Atomics.store(count, 0, (at + BLOCK) | 0);
  }

  /** Finds rings and meter slots for the plan that the engine runs now; it may have let one wait. */
  private adopt(plan: NumberedPlan) {
    this.adopted = plan;
    this.feed.adopt(plan);
    this.slots = plan.meters.map((m) => this.slotOf[m.strip] ?? -1);
    this.dynamicsSlots = plan.reductions.map((r) => this.dynamicsOf[`${r.strip} ${r.insert}`] ?? -1);
    this.findTaps();
    if (this.measuring) this.measure(true);
    this.leaves = plan.captures.map((c, k) =>
      k === 0 ? 0 : (this.outputs.find((o) => o.strip === c.strip)?.channel ?? -1),
    );
  }

  /** Where the level goes in this block: to silence before another generation begins, up when it has. */
  private turn(): number {
    if (this.playing === this.wanted) return this.playing === 0 ? 0 : 1;
    if (this.wanted !== 0 && Atomics.load(this.control, CONTROL.ready) !== this.wanted)
      return this.playing === 0 ? 0 : 1;
    if (this.level > 0) return 0;
    this.playing = this.wanted;
    this.clock = 0;
    if (this.playing === 0) return 0;
    const base = CONTROL.cues + (this.playing & 1) * 3;
    this.cue = {
      start: this.control[base]!,
      loopStart: this.control[base + 1]!,
      loopEnd: this.control[base + 2]!,
    };
    this.engine.seek(this.cue.start, true);
    return 1;
  }

  /** Tells the engine where in the song this block is; at rest lanes stand where it stopped. */
  private place() {
    if (this.playing === 0) {
      this.engine.rest(this.control[CONTROL.position]!);
      return;
    }
    this.engine.seek(songAt(this.cue, this.clock));
    // A loop may end within the block, more than once where it is shorter.
    for (let at = untilJump(this.cue, this.clock); at < BLOCK; at += untilJump(this.cue, this.clock + at))
      this.engine.seek(this.cue.loopStart, false, at);
  }

  private monitorGain(at: number): number {
    return this.monitorFrom + (this.monitor - this.monitorFrom) * bow(Math.min(1, at));
  }
  /** Brings a block of the monitored output to mono, or back, within 21 ms at 48 kHz. */
  private narrow(left: Float32Array, right: Float32Array) {
    const step = 1 / (8 * BLOCK);
    for (let i = 0; i < BLOCK; i++) {
      this.mono += Math.max(-step, Math.min(step, this.monoTo - this.mono));
      const half = (this.mono * (left[i]! - right[i]!)) / 2;
      left[i]! -= half;
      right[i]! += half;
    }
  }

  /** Readings fall over many blocks: the page, which looks 60 times a second, needs them no oftener than every few. */
  private tellMeters() {
    for (let m = 0; m < this.slots.length; m++) {
      const readings = this.engine.meter(m);
      const slot = this.slots[m]! * METER_SLOT_FLOATS;
      if (slot < 0) continue;
      for (let i = 0; i < readings.length; i++) this.meters[slot + i] = readings[i]!;
      if (readings.length === METER_FLOATS) this.meters[slot + METER_FLOATS] = -1;
    }
    if (this.dynamics)
      for (let r = 0; r < this.dynamicsSlots.length; r++) {
        const slot = this.dynamicsSlots[r]! * DYNAMICS_SLOT_FLOATS;
        if (slot < 0) continue;
        this.dynamics[slot] = this.engine.reduction(r);
        this.dynamics[slot + 1] = this.engine.heard(r);
        for (let band = 0; band < this.engine.moving(r); band++)
          this.dynamics[slot + DYNAMICS_MOVES + band] = this.engine.move(r, band);
      }
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const plan = this.engine.plan;
    if (!plan) return true;
    const begun = now();
    if (plan !== this.adopted) this.adopt(plan);
    const from = this.level;
    const to = this.turn();
    const fed = this.feed.next(this.playing, this.clock, from, to);
    if (this.feed.late) Atomics.add(this.control, CONTROL.dropouts, 1);
    this.level = to;
    this.place();
    this.engine.run(fed);
    const device = outputs[0]!;
    for (let k = 0; k < this.leaves.length; k++) {
      const first = this.leaves[k]!;
      const left = device[first];
      const right = device[first + 1];
      if (first < 0 || !left || !right) continue;
      left.set(this.engine.output(k, 0));
      right.set(this.engine.output(k, plan.captures[k]!.channels - 1));
      if (this.monitor !== 1 || this.monitorAt < 1)
        for (let i = 0; i < BLOCK; i++) {
          const g = this.monitorGain(this.monitorAt + (i + 1) / (MONITOR_BLOCKS * BLOCK));
          left[i]! *= g;
          right[i]! *= g;
        }
      if (k === 0 && (this.mono > 0 || this.monoTo > 0)) this.narrow(left, right);
    }
    this.monitorAt = Math.min(1, this.monitorAt + 1 / MONITOR_BLOCKS);
    if (this.playing !== 0) this.clock += BLOCK;
    Atomics.store(this.control, CONTROL.rolling, this.playing === 0 ? 0 : 1);
    Atomics.store(this.control, CONTROL.playing, this.playing);
    Atomics.store(this.control, CONTROL.clock, this.clock);
    if (this.playing !== 0) Atomics.store(this.control, CONTROL.position, songAt(this.cue, this.clock));
    Atomics.store(this.control, CONTROL.faults, this.engine.faults);
    if (this.counted % METERED_BLOCKS === 0) this.tellMeters();
    this.fillTaps();
    this.fillProbe();
    const took = now() - begun;
    if (took > this.worst) this.worst = took;
    if ((took - UNSURE) * sampleRate > BLOCK * 1000) Atomics.add(this.control, CONTROL.overruns, 1);
    this.spent += took;
    if (this.measuring) {
      this.measuredBlocks++;
      this.measuredWhole += took;
    }
    if (++this.counted === LOAD_BLOCKS) {
      Atomics.store(
        this.control,
        CONTROL.load,
        Math.round((this.spent / ((LOAD_BLOCKS * BLOCK * 1000) / sampleRate)) * 1000),
      );
      Atomics.store(
        this.control,
        CONTROL.worst,
        Math.round((this.worst / ((BLOCK * 1000) / sampleRate)) * 1000),
      );
      this.spent = this.counted = this.worst = 0;
      if (this.measuring) this.tellCosts();
    }
    return true;
  }
}

rehearseCopies();
registerProcessor('zonula-engine', EngineProcessor);
