import { actingOf } from './engineParams';
import { pannedChannels } from '../routing/edgeGains';
import { engineCodeOf, processorOf } from '../processors/registry';
import { insertLatencyIn } from '../routing/latency';
import { stagesOf } from '../routing/stages';
import type { Channels, Insert, Strip, Tap } from '../session/types';
import type { Id, Samples } from '../base/units';
import { align, type Emitter, type Word } from './emitter';
import { BLOCK_BYTES, LANES, METER_FLOATS, OP } from './layout';
import { Mixing } from './mixing';
import { isPacked, type Step, type Waiting } from './packing';
import { keyOf, type PlanFacts } from './parameters';
import type { ParameterTable } from './parameterTable';
import type { Capture, Plan, PlanCost, Port } from './plan';

/** Writes the operations of strips, stage by stage, and remembers where hosts find what they read and write. */
export class StripWalk {
  readonly buffers = new Map<Id, number>();
  readonly meters: Plan['meters'][number][] = [];
  readonly reductions: Plan['reductions'][number][] = [];
  readonly costs: PlanCost[] = [];
  readonly captures = new Map<Id, Capture>();
  readonly sources: readonly Strip[];
  readonly mixing: Mixing;
  private readonly sourceAt: ReadonlyMap<Id, number>;
  private readonly ports = new Map<Id, Port>();

  /** Takes the buffers of all strips and captures, and clears those that are mixed into. */
  constructor(
    private readonly facts: PlanFacts,
    private readonly emitter: Emitter,
    private readonly table: ParameterTable,
    private readonly metered: boolean,
  ) {
    const { strips } = facts.session;
    this.sources = strips.filter((s) => s.kind === 'source');
    this.sourceAt = new Map(this.sources.map((s, index) => [s.id, index]));
    this.mixing = new Mixing(emitter, this.buffers);
    const room = (s: Strip) => this.buffers.set(s.id, emitter.take(s.channels * BLOCK_BYTES));
    this.sources.forEach(room);
    const mixed = emitter.taken;
    strips.filter((s) => s.kind !== 'source').forEach(room);
    for (const [strip, channels] of facts.captured)
      this.ports.set(strip, { strip, channels, offset: emitter.take(channels * BLOCK_BYTES) });
    if (emitter.taken > mixed) emitter.emit(OP.clear, { at: mixed }, emitter.taken - mixed);
  }

  /** A strip's work as steps; those of packed inserts are left open for what may share their operation. */
  stepsOf(strip: Strip): readonly Step[] {
    const steps: Step[] = [];
    const late = this.facts.late.get(strip.id)!;
    for (const stage of stagesOf(strip))
      switch (stage.at) {
        case 'input':
          steps.push(() => this.input(strip));
          break;
        case 'tap':
          steps.push(() => this.sends(strip, stage.tap));
          break;
        case 'insert': {
          const { insert } = stage;
          const { wait, input } = insertLatencyIn(late, insert.id);
          if (wait > 0) steps.push(() => this.wait(strip, insert, wait));
          steps.push(isPacked(insert) ? { strip, insert, late: input } : () => this.process(strip, insert));
          break;
        }
        case 'fader':
          steps.push(() => this.gain(strip, keyOf.fader(strip)));
          break;
        case 'pan':
          steps.push(() => this.pan(strip));
          break;
        case 'out':
          steps.push(() => this.out(strip));
      }
    return steps;
  }

  latencyOf(insert: Insert): Samples {
    return this.facts.latencyOf(insert, this.facts.session.sampleRate);
  }
  private at(strip: Id) {
    return { at: this.buffers.get(strip)! };
  }
  private gain(strip: Strip, key: string) {
    this.emitter.emit(OP.gain, this.at(strip.id), strip.channels, this.table.at(strip, key));
  }

  /** Holds a strip's signal back until the key of its next insert is there. */
  private wait(strip: Strip, insert: Insert, frames: Samples) {
    const ring = this.emitter.ring(`${keyOf.insert(strip, insert)}/wait`, frames, strip.channels);
    this.emitter.emit(OP.wait, this.at(strip.id), strip.channels, frames, { at: ring.at }, ring.frames);
  }

  private input(strip: Strip) {
    const source = this.sourceAt.get(strip.id);
    if (source !== undefined) this.emitter.emit(OP.take, this.at(strip.id), strip.channels, source);
    if (strip.channels === 2)
      this.emitter.emit(OP.matrix, this.at(strip.id), this.table.at(strip, keyOf.input(strip)));
    else this.gain(strip, keyOf.input(strip));
  }

  private sends(strip: Strip, tap: Tap) {
    for (const send of strip.sends) {
      if (send.tap !== tap) continue;
      const to = this.facts.strips.get(send.to)!;
      this.feed(strip, keyOf.send(strip, send), to, this.facts.late.get(strip.id)![tap], tap === 'post');
    }
  }
  /** @param from frames by which its signal lies behind the stems where it leaves */
  private feed(strip: Strip, key: string, to: Strip, from: Samples, last: boolean) {
    const { input } = this.facts.late.get(to.id)!;
    const params = this.table.at(strip, key);
    this.mixing.mix(key, strip, this.buffers.get(to.id)!, to.channels, params, input - from, last);
  }

  private pan(strip: Strip) {
    if (strip.channels === 2)
      this.emitter.emit(OP.balance, this.at(strip.id), this.table.at(strip, keyOf.pan(strip)));
    if (!this.metered) return;
    const { channels, id } = strip;
    const offset = this.emitter.keep(`${id}/meter x${channels}`, channels * METER_FLOATS * 4);
    this.meters.push({ strip: id, channels, offset, audio: this.buffers.get(id)! });
    this.emitter.emit(OP.meter, this.at(id), channels, { at: offset });
  }

  private out(strip: Strip) {
    const { post } = this.facts.late.get(strip.id)!;
    if (strip.out.to !== null) {
      const to = this.facts.strips.get(strip.out.to)!;
      this.feed(strip, keyOf.out(strip, to.id), to, post, true);
    }
    const port = this.ports.get(strip.id);
    if (!port) return;
    const key = keyOf.capture(strip);
    this.mixing.mix(key, strip, port.offset, port.channels, this.table.at(strip, key), 0, true);
    this.captures.set(strip.id, { ...port, latency: post });
  }

  private tell(strip: Strip, insert: Insert, offset: number, channels: number, stride: number) {
    const { levelDependent, movedResponseAt, bands } = processorOf(insert.type);
    if (levelDependent) {
      const moves = movedResponseAt ? bands!.length : 0;
      this.reductions.push({ strip: strip.id, insert: insert.id, offset, channels, stride, moves });
    }
  }
  /** Places of an insert's own parameters and of its mix. */
  private placesOf(strip: Strip, insert: Insert) {
    const { session } = this.facts;
    const [first] = actingOf(processorOf(insert.type), session).map((part) =>
      this.table.at(strip, keyOf.acting(strip, insert, part)),
    ) as [number];
    return { first, wet: this.table.at(strip, keyOf.mix(strip, insert)) };
  }
  private stateOf(strip: Strip, insert: Insert, bytes: number): number {
    return this.emitter.keep(`${keyOf.insert(strip, insert)}/${insert.type}x${strip.channels}`, bytes);
  }

  /** An insert that runs by itself. */
  private process(strip: Strip, insert: Insert) {
    const processor = processorOf(insert.type);
    const { emitter } = this;
    const bytes = processor.stateBytes(strip.channels, this.facts.session.sampleRate);
    const { first, wet } = this.placesOf(strip, insert);
    const state = this.stateOf(strip, insert, bytes);
    const latency = this.latencyOf(insert);
    const dry = emitter.ring(`${keyOf.insert(strip, insert)}/dry`, latency, strip.channels);
    this.costs.push({ op: emitter.next, inserts: [{ strip: strip.id, insert: insert.id }] });
    emitter.emit(
      ...[OP.process, engineCodeOf(processor), this.at(strip.id), strip.channels, first, { at: state }],
      ...[align(bytes), wet, latency, { at: dry.at }, dry.frames],
    );
    this.tell(strip, insert, state, 1, 0);
  }

  /** Inserts of one kind that share an operation: four channels at most. */
  pack(group: readonly Waiting[]): void {
    const processor = processorOf(group[0]!.insert.type);
    const bytes = align(processor.stateBytes(1, this.facts.session.sampleRate));
    const latency = this.latencyOf(group[0]!.insert);
    const lanes: Word[][] = [];
    const inserts: PlanCost['inserts'][number][] = [];
    for (const waiting of group) {
      lanes.push(...this.lanesOf(waiting, bytes, latency));
      const named = { strip: waiting.strip.id, insert: waiting.insert.id };
      for (let c = 0; c < waiting.strip.channels; c++) inserts.push(named);
    }
    this.costs.push({ op: this.emitter.next, inserts });
    this.emitter.emit(OP.lanes, engineCodeOf(processor), lanes.length, latency, 0, 0);
    for (let lane = 0; lane < LANES; lane++) {
      // A lane that nobody fills computes silence with the numbers of the first, in a state of its own.
      const [, first, wet] = lanes[0]!;
      const empty = () => [0, first!, wet!, { at: this.emitter.take(bytes) }, bytes, 0, 0, 0, 0, 0, 0, 0];
      this.emitter.emit(...(lanes[lane] ?? empty()));
    }
  }
  /** The words of the lanes that one insert fills. */
  private lanesOf({ strip, insert, late }: Waiting, bytes: number, latency: Samples): readonly Word[][] {
    const { first, wet } = this.placesOf(strip, insert);
    const state = this.stateOf(strip, insert, bytes * strip.channels);
    const key = insert.key === null ? null : this.facts.strips.get(insert.key)!;
    const behind = key ? late - this.facts.late.get(key.id)!.post : 0;
    this.tell(strip, insert, state, strip.channels, bytes);
    const name = keyOf.insert(strip, insert);
    const ringOf = (channel: string, delay: Samples) => this.emitter.ring(`${name}/${channel}`, delay, 1);
    return Array.from({ length: strip.channels }, (_, c) => {
      const ring = key ? ringOf(`key ${key.id} ${c}`, behind) : { at: 0, frames: 0 };
      const dry = ringOf(`dry ${c}`, latency);
      const keyAt = key ? this.buffers.get(key.id)! : 0;
      const two = key?.channels === 2;
      return [
        { at: this.buffers.get(strip.id)! + c * BLOCK_BYTES },
        first,
        wet,
        { at: state + c * bytes },
        bytes,
        strip.channels === 2 ? c + 1 : 0,
        // A stereo strip is keyed side by side; a mono one by both sides of its key, folded.
        key ? { at: keyAt + (two && strip.channels === 2 ? c * BLOCK_BYTES : 0) } : 0,
        two && strip.channels === 1 ? { at: keyAt + BLOCK_BYTES } : 0,
        behind,
        { at: ring.at },
        ring.frames,
        { at: dry.at },
      ];
    });
  }
}

/** Strips whose signal is wanted, with the channels by which it leaves. */
export const capturedOf = (
  session: PlanFacts['session'],
  strips: PlanFacts['strips'],
  wanted: readonly Id[],
): ReadonlyMap<Id, Channels> =>
  new Map(
    wanted.flatMap((id) => {
      const strip = strips.get(id);
      return strip ? [[id, pannedChannels(session, strip)] as const] : [];
    }),
  );
