import { compilePlan } from '../../core/plan/compile';
import { sameStructure, type Plan } from '../../core/plan/plan';
import type { Session } from '../../core/session/types';
import { playedOutputs } from './channels';
import type { FeederMessage, FeedSource } from './feeder.worker';
import FeederWorker from './feeder.worker?worker';
import { CONTROL, CONTROL_WORDS, METER_SLOT_FLOATS, METER_SLOTS, ringBytes, type Cue } from './shared';
import type { WorkletMessage, WorkletOptions } from './worklet';
import workletUrl from './worklet.ts?worker&url';

export interface StemFacts {
  readonly channels: number;
  readonly frames: number;
}

/** Channels of a device that are used at the most. */
const MOST_CHANNELS = 64;

let engineModule: Promise<WebAssembly.Module> | null = null;
/** The compiled engine, fetched once. */
export function loadEngine(): Promise<WebAssembly.Module> {
  engineModule ??= fetch('/engine.wasm').then(async (response) => {
    if (!response.ok) throw new Error('The audio engine could not be loaded. Reload the page.');
    return WebAssembly.compile(await response.arrayBuffer());
  });
  engineModule.catch(() => (engineModule = null));
  return engineModule;
}

/** The live engine of one session: an audio context, its worklet, the feeder, and the memory that they share. */
export class Player {
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private feeder: Worker | null = null;
  private readonly controlMemory = new SharedArrayBuffer(CONTROL_WORDS * 4);
  private readonly meterMemory = new SharedArrayBuffer(METER_SLOTS * METER_SLOT_FLOATS * 4);
  readonly control = new Int32Array(this.controlMemory);
  readonly meters = new Float32Array(this.meterMemory);
  private readonly slots = new Map<string, number>();
  private readonly rings = new Map<string, FeedSource>();
  private plan: Plan | null = null;
  private channels = 2;
  private leaves = '';
  private session: Session | null = null;
  private stems: Readonly<Record<string, StemFacts>> = {};
  private generation = 0;
  private starting: Promise<void> | null = null;
  private fed: readonly FeedSource[] = [];

  /** Shows the session to the engine: what moved is steered, what was rerouted crosses over. */
  update(session: Session, stems: Readonly<Record<string, StemFacts>>): void {
    this.session = session;
    this.stems = stems;
    if (this.node) this.bring();
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
    if (!globalThis.crossOriginIsolated)
      throw new Error(
        'This page is not isolated, so it has no shared memory to play from. Open Zonula at the address that it printed.',
      );
    const session = this.session;
    if (!session) return;
    const context = new AudioContext({ sampleRate: session.sampleRate, latencyHint: 'interactive' });
    const [module] = await Promise.all([loadEngine(), context.audioWorklet.addModule(workletUrl)]);
    const processorOptions: WorkletOptions = {
      module,
      control: this.controlMemory,
      meters: this.meterMemory,
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
    this.feeder = new FeederWorker();
    this.feed({ type: 'start', control: this.controlMemory });
    this.context = context;
    this.node = node;
    this.bring();
  }

  private bring() {
    const session = this.session!;
    const outputs = playedOutputs(session, this.channels);
    const plan = compilePlan(session, { capture: outputs.map((o) => o.strip) });
    const sources = this.sources(session);
    const leaves = outputs.map((o) => `${o.strip} ${o.channel}`).join();
    const same =
      this.plan !== null && sameStructure(this.plan, plan) && sources === this.fed && leaves === this.leaves;
    this.leaves = leaves;
    this.plan = plan;
    if (same) return this.tell({ type: 'steer', targets: plan.targets });
    if (sources !== this.fed) {
      this.fed = sources;
      this.feed({ type: 'sources', sources });
    }
    this.tell({
      type: 'plan',
      plan,
      sources: sources.map(({ strip, channels, ring }) => ({ strip, channels, ring })),
      outputs,
      slots: Object.fromEntries(plan.meters.map((m) => [m.strip, this.slot(m.strip) / METER_SLOT_FLOATS])),
    });
  }

  /** The sources with their rings; the same list as before where nothing has changed. */
  private sources(session: Session): readonly FeedSource[] {
    const list = session.strips
      .filter((s) => s.kind === 'source')
      .map((s): FeedSource => {
        const facts = s.stem === null ? undefined : this.stems[s.stem];
        const known = this.rings.get(s.id);
        const stem = facts ? s.stem : null;
        if (known && known.channels === s.channels && known.stem === stem) return known;
        const source: FeedSource = {
          strip: s.id,
          channels: s.channels,
          stem,
          stemChannels: facts?.channels ?? 1,
          stemFrames: facts?.frames ?? 0,
          ring: new SharedArrayBuffer(ringBytes(s.channels)),
        };
        this.rings.set(s.id, source);
        return source;
      });
    const same = list.length === this.fed.length && list.every((s, i) => s === this.fed[i]);
    return same ? this.fed : list;
  }

  private tell(message: WorkletMessage) {
    this.node?.port.postMessage(message);
  }
  private feed(message: FeederMessage) {
    this.feeder?.postMessage(message);
  }

  /** Rolls from a place, as soon as its first frames are there; what plays now goes on until then. */
  async roll(cue: Cue): Promise<void> {
    await this.start();
    if (this.context?.state !== 'running') await this.context?.resume();
    // Two sets of rings take turns: what plays keeps its own, also when cues follow each other before one is taken up.
    this.generation += this.cued ? 1 : 2;
    this.feed({ type: 'cue', generation: this.generation, cue });
    this.tell({ type: 'roll', generation: this.generation });
  }

  halt(): void {
    this.tell({ type: 'halt' });
  }

  clearPeaks(): void {
    this.tell({ type: 'clearPeaks' });
  }

  async close(): Promise<void> {
    this.feeder?.terminate();
    this.node?.disconnect();
    await this.context?.close().catch(() => {});
    this.context = this.node = this.feeder = null;
  }
}
