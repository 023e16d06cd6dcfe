import { BLOCK } from '@core/plan/layout';
import { sameShape } from '@core/plan/shape';
import { processorOf } from '@core/processors/registry';
import { deltaOf } from '@core/session/delta';
import type { Session } from '@core/session/types';
import { insertLoads, type LoadReading } from '@engine/load';
import { playedOutputs } from './channels';
import type { LateSource } from './feeder';
import { loadEngine, rehearseEngine } from './engineModule';
import { LiveMeters } from './liveMeters';
import { Paced } from '@/ui/pace';
import type { Planned, PlanWorkerMessage } from './plan.worker';
import PlanWorker from './plan.worker?worker';
import type { Wiring } from './planKeeper';
import { Probe } from './probe';
import {
  sharedBytes,
  CONTROL,
  CONTROL_WORDS,
  COST_SLOTS,
  COST_WHOLE,
  DYNAMICS_SLOT_FLOATS,
  DYNAMICS_SLOTS,
  METER_SLOT_FLOATS,
  METER_SLOTS,
  type Cue,
} from './shared';
import { StemFeed, type StemFacts } from './stemFeed';
import type { WorkletMessage, WorkletOptions } from './worklet';
import workletUrl from './worklet.ts?worker&url';
import { whyNoSound } from './whyNoSound';

export type { StemFacts } from './stemFeed';

/** What a browser tells of a context's playing: Web Audio API 1.1, AudioPlaybackStats. Not every browser does. */
interface PlaybackStats {
  readonly underrunEvents: number;
  /** Seconds. */
  readonly underrunDuration: number;
}
/** Times at which the device had nothing to play, and for how long in all. */
export interface Gaps {
  readonly times: number;
  readonly seconds: number;
}
const NO_GAPS: Gaps = { times: 0, seconds: 0 };

/** Channels of a device that are used at the most. */
const MOST_CHANNELS = 64;

/** Milliseconds after a session has been opened in which its page comes first. */
const REHEARSED_AFTER = 1000;

/** Milliseconds between two words to the engine of what has moved: a block at 48 kHz, before which nothing of it is heard. */
const PACE = 2.6;

/**
 * The live engine of one session: an audio context, its worklet, the feeder, the keeper of its plan, and the memory that they
 * share. What moves is gathered here, and told at the pace of the audio thread.
 */
export class Player {
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private readonly feed: StemFeed;
  private keeper: Worker | null = null;
  /** What the keeper has of the session, and whether it has been told how that is wired. */
  private told: Session | null = null;
  private wired = false;
  /** The newest plan that the keeper has made. */
  private planned: Planned | null = null;
  private readonly moves = new Paced(() => this.bring(), PACE);
  private readonly controlMemory = sharedBytes(CONTROL_WORDS * 4);
  private readonly meterMemory = sharedBytes(METER_SLOTS * METER_SLOT_FLOATS * 4);
  private readonly dynamicsMemory = sharedBytes(DYNAMICS_SLOTS * DYNAMICS_SLOT_FLOATS * 4);
  readonly dynamics = new Float32Array(this.dynamicsMemory);
  private readonly costMemory = sharedBytes(COST_SLOTS * 8);
  private readonly costs = new Float64Array(this.costMemory);
  private measuring = false;
  private serial = 0;
  private readonly dynamicsSlots = new Map<string, number>();
  /** Meters of strips that are looked at, and the spectrum of an insert's input and output. */
  readonly live = new LiveMeters((m) => this.node && this.tell(m));
  readonly probe = new Probe((m) => this.node && this.tell(m));
  private monitorGain = 1;
  private mono = false;
  readonly control = new Int32Array(this.controlMemory);
  readonly meters = new Float32Array(this.meterMemory);
  private readonly slots = new Map<string, number>();
  private channels = 2;
  private leaves = '';
  private generation = 0;
  private starting: Promise<void> | null = null;
  private rehearsing: ReturnType<typeof setTimeout> | undefined;
  /** Gaps of contexts that are no more. */
  private gapsBefore: Gaps = NO_GAPS;

  /**
   * @param buffer milliseconds that the device is given ahead
   * @param heard the session as it is heard, asked when there is time to tell it on; null where none is open
   * @param late told which sources were not there in time
   */
  constructor(
    private buffer: number,
    private readonly heard: () => Session | null,
    late: (sources: readonly LateSource[]) => void = () => {},
  ) {
    this.feed = new StemFeed(late);
  }

  /** Has the session shown to the engine, soon: what moved is steered, what was rerouted crosses over. */
  update(stems: Readonly<Record<string, StemFacts>>): void {
    this.feed.stems = stems;
    if (this.node) this.moves.ask();
  }

  /** Seconds from which the position is counted when nothing rolls. */
  get started(): boolean {
    return this.node !== null;
  }
  get rolling(): boolean {
    return Atomics.load(this.control, CONTROL.rolling) === 1;
  }
  /** The generation that is asked for, and whether it is the one that plays. */
  get cued(): boolean {
    return Atomics.load(this.control, CONTROL.playing) === this.generation;
  }
  get position(): number {
    return Atomics.load(this.control, CONTROL.position);
  }
  get dropouts(): number {
    return Atomics.load(this.control, CONTROL.dropouts);
  }
  get faults(): number {
    return Atomics.load(this.control, CONTROL.faults);
  }
  /** Share of real time that computing takes, 0..1. */
  get load(): number {
    return Atomics.load(this.control, CONTROL.load) / 1000;
  }

  /** The same of the dearest block of late, and how many blocks took longer than they last. */
  get worst(): number {
    return Atomics.load(this.control, CONTROL.worst) / 1000;
  }
  get overruns(): number {
    return Atomics.load(this.control, CONTROL.overruns);
  }

  /** Gaps in what the device played; null where the browser does not tell them. */
  get gaps(): Gaps | null {
    const { playbackStats } = (this.context ?? {}) as { playbackStats?: PlaybackStats };
    if (!playbackStats) return this.context || this.gapsBefore === NO_GAPS ? null : this.gapsBefore;
    return {
      times: this.gapsBefore.times + playbackStats.underrunEvents,
      seconds: this.gapsBefore.seconds + playbackStats.underrunDuration,
    };
  }
  /** Milliseconds from when a sound is computed to when it is heard. */
  get latency(): number {
    return (this.context?.outputLatency ?? 0) * 1000;
  }

  /** First float of an insert's dynamics: reduction, then the level that it hears, then from DYNAMICS_MOVES on how far its bands have gone, in decibels. */
  dynamicsSlot(strip: string, insert: string): number {
    const key = `${strip} ${insert}`;
    let slot = this.dynamicsSlots.get(key);
    if (slot === undefined) {
      slot = this.dynamicsSlots.size % DYNAMICS_SLOTS;
      this.dynamicsSlots.set(key, slot);
    }
    return slot * DYNAMICS_SLOT_FLOATS;
  }

  /** A factor on what is played, so that two settings are compared at one loudness. */
  setMonitorGain(gain: number): void {
    this.monitorGain = gain;
    this.tellMonitor();
  }
  /** Plays the monitored output in mono, or as it is. */
  setMono(on: boolean): void {
    this.mono = on;
    this.tellMonitor();
  }
  private tellMonitor() {
    if (this.node) this.tell({ type: 'monitor', gain: this.monitorGain, mono: this.mono });
  }

  /** Measures in the audio thread what each processor takes, or no more. */
  measure(on: boolean): void {
    this.measuring = on;
    if (this.node) this.tell({ type: 'measure', on });
  }
  /** What the processors of the plan that plays have taken of the audio thread's time; null until that is known. */
  get measured(): LoadReading | null {
    const blocks = Atomics.load(this.control, CONTROL.costBlocks);
    const { told, planned } = this;
    if (!told || planned?.serial !== this.serial || !blocks) return null;
    if (Atomics.load(this.control, CONTROL.costPlan) !== this.serial) return null;
    const real = (blocks * BLOCK * 1000) / told.sampleRate;
    const inserts = insertLoads(told, planned, this.costs, real);
    return { inserts, share: this.costs[COST_WHOLE]! / real, seconds: real / 1000 };
  }

  /** First float of a strip's meter: falling peak, mean square, highest peak, spare; the right channel four further on. */
  slot(strip: string): number {
    let slot = this.slots.get(strip);
    if (slot === undefined) {
      slot = this.slots.size % METER_SLOTS;
      this.slots.set(strip, slot);
    }
    return slot * METER_SLOT_FLOATS;
  }

  /** Sets the engine up; a browser asks for a gesture of the user before it sounds. */
  start(): Promise<void> {
    this.starting ??= this.setUp().catch((error) => {
      this.starting = null;
      throw error;
    });
    return this.starting;
  }

  private async setUp() {
    if (!globalThis.crossOriginIsolated) throw new Error(await whyNoSound());
    const session = this.heard();
    if (!session) return;
    const context = new AudioContext({ sampleRate: session.sampleRate, latencyHint: this.buffer / 1000 });
    const [module] = await Promise.all([loadEngine(), context.audioWorklet.addModule(workletUrl)]);
    const processorOptions: WorkletOptions = {
      module,
      control: this.controlMemory,
      meters: this.meterMemory,
      dynamics: this.dynamicsMemory,
      taps: this.live.taps,
      probe: this.probe.memory,
      costs: this.costMemory,
    };
    // A device of more than two channels takes every output on its own pair.
    this.channels = Math.max(2, Math.min(MOST_CHANNELS, context.destination.maxChannelCount));
    if (this.channels > 2) {
      context.destination.channelCount = this.channels;
      context.destination.channelInterpretation = 'discrete';
    }
    const node = new AudioWorkletNode(context, 'zonula-engine', {
      numberOfInputs: 0,
      outputChannelCount: [this.channels],
      processorOptions,
    });
    node.connect(context.destination);
    this.feed.start(this.controlMemory);
    this.keeper ??= this.newKeeper();
    const { port1, port2 } = new MessageChannel();
    this.keep({ type: 'connect', port: port1, control: this.controlMemory }, [port1]);
    node.port.postMessage({ type: 'listen', port: port2 } satisfies WorkletMessage, [port2]);
    this.context = context;
    this.node = node;
    this.bring();
    this.live.begin(session.sampleRate);
    this.probe.again();
    if (this.monitorGain !== 1 || this.mono) this.tellMonitor();
    if (this.measuring) this.measure(true);
  }

  private newKeeper(): Worker {
    const keeper = new PlanWorker();
    keeper.onmessage = ({ data }: MessageEvent<Planned>) => (this.planned = data);
    // Whatever went wrong there, the next move tells it the whole session anew.
    keeper.onerror = () => (this.told = null);
    return keeper;
  }
  /** Has a plan be made before anybody plays, so that playing does not wait for it. */
  private planAhead(session: Session) {
    if (this.keeper || this.starting) return;
    this.keeper = this.newKeeper();
    this.told = session;
    const ahead = playedOutputs(session, this.channels).map((o) => o.strip);
    this.keep({ type: 'session', delta: deltaOf(null, session), ahead });
  }

  /** Tells the keeper what the session has become, and, where it has another shape, how it is wired now. */
  private bring() {
    const session = this.heard();
    if (!session || !this.keeper) return;
    const { told } = this;
    const outputs = playedOutputs(session, this.channels);
    const sources = this.feed.sources(session);
    const leaves = outputs.map((o) => `${o.strip} ${o.channel}`).join();
    const steered =
      this.wired &&
      told !== null &&
      sameShape(told, session) &&
      this.feed.isFed(sources) &&
      leaves === this.leaves;
    if (steered && told === session) return;
    this.leaves = leaves;
    this.told = session;
    this.wired = true;
    this.feed.feed(sources);
    const delta = deltaOf(told, session);
    if (steered) return this.keep({ type: 'session', delta });
    const wiring: Wiring = {
      serial: ++this.serial,
      sources: sources.map(({ strip, channels, ring }) => ({ strip, channels, ring })),
      outputs,
      dynamics: Object.fromEntries(
        session.strips.flatMap((s) =>
          s.inserts
            .filter((i) => processorOf(i.type).levelDependent)
            .map((i) => [`${s.id} ${i.id}`, this.dynamicsSlot(s.id, i.id) / DYNAMICS_SLOT_FLOATS]),
        ),
      ),
      slots: Object.fromEntries(session.strips.map((s) => [s.id, this.slot(s.id) / METER_SLOT_FLOATS])),
    };
    this.keep({ type: 'session', delta, wiring });
  }

  private keep(message: PlanWorkerMessage, transfer: Transferable[] = []) {
    this.keeper?.postMessage(message, transfer);
  }
  /** Tells the audio thread, after all that was told before. */
  private tell(message: WorkletMessage) {
    this.keep({ type: 'pass', message });
  }
  /** It may be played from a place soon. @param start frames */
  warm(start: number): void {
    const session = this.heard();
    if (!session || !globalThis.crossOriginIsolated) return;
    this.feed.warm(session, start);
    this.planAhead(session);
    // Where there is nothing to play, nobody waits for it.
    if (session.strips.some((s) => s.kind === 'source' && s.stem !== null))
      this.rehearsing ??= setTimeout(() => this.starting ?? void rehearseEngine(), REHEARSED_AFTER);
  }

  /** Rolls from a place, as soon as its first frames are there; what plays now goes on until then. */
  async roll(cue: Cue): Promise<void> {
    await this.start();
    const { context } = this;
    if (!context) return;
    if (context.state !== 'running') await context.resume();
    // Two sets of rings take turns: what plays keeps its own, also when cues follow each other before one is taken up.
    this.generation += this.cued ? 1 : 2;
    this.feed.cue(this.generation, cue);
    // What was moved before is there before it plays.
    this.moves.run();
    this.keep({ type: 'roll', generation: this.generation, from: cue.start / context.sampleRate });
  }

  halt(): void {
    this.tell({ type: 'halt' });
  }

  clearPeaks(): void {
    this.tell({ type: 'clearPeaks' });
  }

  /** Gives the device another buffer: playing stops, and has to be begun anew. @param buffer milliseconds */
  async rebuffer(buffer: number): Promise<void> {
    if (buffer === this.buffer) return;
    this.buffer = buffer;
    const { starting } = this;
    if (!starting) return;
    await starting.catch(() => {});
    await this.close();
    this.starting = null;
    await this.start();
  }

  async close(): Promise<void> {
    this.gapsBefore = this.gaps ?? NO_GAPS;
    clearTimeout(this.rehearsing);
    this.rehearsing = undefined;
    this.feed.end();
    this.keeper?.terminate();
    this.live.end();
    this.node?.disconnect();
    await this.context?.close().catch(() => {});
    this.context = this.node = this.keeper = null;
    this.told = this.planned = null;
    this.wired = false;
    for (const word of [CONTROL.rolling, CONTROL.playing]) Atomics.store(this.control, word, 0);
  }
}
