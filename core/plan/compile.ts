import { insertAt, isAutomated, ownAt, sendValuesAt, vcaAt, vcaAutomated, type When } from '../automation/at';
import { lanesBut, onlyLanes } from '../automation/lane';
import { follows } from '../automation/mode';
import { holdersOf, levelUnder } from '../groups/vca';
import { gainOf } from '../levels/decibels';
import { edgeGains, pannedChannels } from '../levels/edgeGains';
import { inputMatrix } from '../levels/inputMatrix';
import { balance } from '../levels/pan';
import { processorOf } from '../processors/registry';
import { insertLatency, latencies, type LatencyOf } from '../routing/latency';
import { signalRanks } from '../routing/order';
import { audibleStrips } from '../routing/solo';
import { stripMap } from '../session/lookup';
import type { Channels, Insert, Lane, Lanes, Send, Session, Strip } from '../session/types';
import type { Id, Samples } from '../session/units';
import { drawCurve, type Curve } from './curve';
import {
  BLOCK_BYTES,
  HEADER,
  HEADER_BYTES,
  LANES,
  METER_FLOATS,
  OP,
  RING_HEADER_BYTES,
  BLOCK,
} from './layout';
import type { Capture, KeptState, ParamRun, Plan, PlanCost, Port } from './plan';

export interface CompileOptions {
  /** Strips whose signal is wanted; the output strips when left out. */
  readonly capture?: readonly Id[];
  readonly latencyOf?: LatencyOf;
  /** Whether every strip has a meter; it has when left out. */
  readonly meters?: boolean;
}

/** Time constant of parameter moves. */
const SMOOTHING_SECONDS = 0.006;
/** Fall of a peak reading, 20 dB in 1.7 s: IEC 60268-10, Type I (from memory). */
const PEAK_FALL_DB_PER_SECOND = 20 / 1.7;
/** Time constant of the RMS reading; common practice, no published source. */
const RMS_SECONDS = 0.3;

/**
 * Frames by which curves run ahead of the block that they are read for. Parameters move by a one-pole filter that closes the
 * share s of the gap in each block; of a steady move it lies (1 - s)/s blocks behind (its lag, from y += s (x - y)), and a
 * block ends one block later than it begins: 1/s blocks together.
 */
const leadOf = (sampleRate: number): Samples => {
  const share = 1 - Math.exp(-BLOCK / sampleRate / SMOOTHING_SECONDS);
  return BLOCK / share;
};

/** Curves that were drawn before, by the first lane that they depend on: an edit elsewhere leaves them as they are. */
const drawn = new WeakMap<
  Lane,
  Map<string, { readonly inputs: readonly unknown[]; readonly curve: ReturnType<typeof drawCurve> }>
>();

/** A packed insert that waits for its turn; `late` counts the frames by which its signal lies behind the stems. */
interface Waiting {
  readonly strip: Strip;
  readonly insert: Insert;
  readonly late: Samples;
}
type Step = Waiting | (() => void);
/** A number, or an offset into the area of audio and states. */
type Word = number | { readonly at: number };

const align = (n: number) => Math.ceil(n / 16) * 16;
/** Frames of a ring that holds a signal back. */
const framesToHold = (delay: Samples) => (delay > 0 ? delay + BLOCK : 0);

/**
 * Turns the document into the engine's plan. Order inside a strip: stem or summed inputs, trim, polarity, swap, width,
 * tap input, inserts before the fader, tap pre, fader with VCAs and mute, inserts after the fader, pan, tap post, out.
 * Paths of different latency are aligned by delay lines before they add.
 * @throws Refusal `cycle`, or `unknown` for a processor that there is not
 */
export function compilePlan(session: Session, options: CompileOptions = {}): Plan {
  const strips = stripMap(session);
  const latencyOf = options.latencyOf ?? insertLatency;
  const late = latencies(session, latencyOf);
  const audible = audibleStrips(session);
  const wanted = options.capture ?? session.strips.filter((s) => s.kind === 'output').map((s) => s.id);

  const words: number[] = new Array<number>(HEADER_BYTES / 4).fill(0);
  const targets: number[] = [];
  const params: ParamRun[] = [];
  const curves: Curve[] = [];
  const states: KeptState[] = [];
  const meters: Plan['meters'][number][] = [];
  const captures: Capture[] = [];
  const reductions: Plan['reductions'][number][] = [];
  const costs: PlanCost[] = [];
  const keying = new Set(session.strips.flatMap((s) => s.inserts.flatMap((i) => i.key ?? [])));

  const param = (key: string, ...values: readonly number[]) => {
    const at = targets.length;
    targets.push(...values);
    params.push({ key, at, count: values.length });
    return at;
  };
  const lead = leadOf(session.sampleRate);
  /**
   * Parameters that lanes move.
   * @param lanes what they depend on, where it is followed
   * @param behind frames by which the signal that they work on lies behind the stems
   * @param inputs all else that they depend on
   */
  const moving = (
    key: string,
    lanes: readonly Lanes[],
    behind: Samples,
    inputs: readonly unknown[],
    make: (when: When | null) => readonly number[],
  ) => {
    const all = lanes.flatMap((list) => Object.values(list));
    const [first] = all;
    if (!first) return param(key, ...make(null));
    const known = drawn.get(first) ?? new Map<string, never>();
    drawn.set(first, known);
    const depends = [session.sampleRate, behind, ...inputs, ...all];
    let entry = known.get(key);
    if (!entry || entry.inputs.length !== depends.length || entry.inputs.some((x, i) => x !== depends[i])) {
      const times = all.flatMap((lane) => lane.map(([time]) => time));
      entry = { inputs: depends, curve: drawCurve(times, make, session.sampleRate, behind - lead) };
      known.set(key, entry);
    }
    // Where the lanes move something else, one of their values is as good as any.
    const at = param(key, ...make({ time: first[0]![0], side: 'after' }));
    if (entry.curve) curves.push({ at, ...entry.curve });
    return at;
  };
  const NONE: Lanes = {};
  const followed = (strip: Strip, lanes: Lanes): Lanes => (follows(strip.automation) ? lanes : NONE);
  const own = (strip: Strip, ...controls: readonly string[]): Lanes =>
    isAutomated(strip) ? onlyLanes(strip.lanes, ...controls) : NONE;

  // Offsets of audio, meters and states are counted from the end of the tables, whose size is known only at the end.
  let audio = 0;
  const take = (bytes: number) => {
    const at = audio;
    audio += align(bytes);
    return at;
  };
  /** Positions in `words` that hold an offset into the audio area. */
  const relocate: number[] = [];
  const emit = (...list: readonly number[]) => words.push(...list);
  const emitAt = (offset: number) => {
    relocate.push(words.length);
    words.push(offset);
  };

  const buffers = new Map<Id, number>();
  const sourceStrips = session.strips.filter((s) => s.kind === 'source');
  const sourceAt = new Map(sourceStrips.map((s, index) => [s.id, index]));
  const busStrips = session.strips.filter((s) => s.kind !== 'source');
  for (const s of sourceStrips) buffers.set(s.id, take(s.channels * BLOCK_BYTES));
  const busStart = audio;
  for (const s of busStrips) buffers.set(s.id, take(s.channels * BLOCK_BYTES));
  const captureBuffers = new Map<Id, Port>();
  for (const id of wanted) {
    const strip = strips.get(id);
    if (!strip) continue;
    const channels = pannedChannels(session, strip);
    captureBuffers.set(id, { strip: id, channels, offset: take(channels * BLOCK_BYTES) });
  }
  if (audio > busStart) {
    emit(OP.clear);
    emitAt(busStart);
    emit(audio - busStart);
  }

  const keep = (key: string, bytes: number) => {
    const offset = take(bytes);
    states.push({ key, offset, bytes: align(bytes) });
    return offset;
  };

  /** Mixes that wait for others into the same buffer: one operation adds four, and reads and writes the buffer once. */
  const together = new Map<number, { readonly source: number; readonly index: number }[]>();
  const emitMix = (
    source: number,
    destination: number,
    from: Channels,
    to: Channels,
    index: number,
    delay: Samples,
    ringAt: number,
  ) => {
    emit(OP.mix);
    emitAt(source);
    emitAt(destination);
    emit(from, to, index, delay);
    emitAt(ringAt);
    emit(framesToHold(delay));
  };
  const mixTogether = (destination: number) => {
    const list = together.get(destination) ?? [];
    together.delete(destination);
    if (list.length < 4) for (const m of list) emitMix(m.source, destination, 1, 2, m.index, 0, 0);
    else {
      emit(OP.mixFour);
      emitAt(destination);
      for (const m of list) {
        emitAt(m.source);
        emit(m.index);
      }
    }
  };
  /** @param last whether the strip's signal stays as it is until the block's end */
  const mix = (
    key: string,
    strip: Strip,
    destination: number,
    to: Channels,
    index: number,
    delay: Samples,
    last: boolean,
  ) => {
    const source = buffers.get(strip.id)!;
    if (last && delay === 0 && strip.channels === 1 && to === 2) {
      const list = together.get(destination) ?? [];
      together.set(destination, list);
      if (list.push({ source, index }) === 4) mixTogether(destination);
      return;
    }
    mixTogether(destination);
    const ring = framesToHold(delay);
    const ringAt =
      ring > 0 ? keep(`${key}~${ring}x${strip.channels}`, RING_HEADER_BYTES + ring * strip.channels * 4) : 0;
    emitMix(source, destination, strip.channels, to, index, delay, ringAt);
  };

  const sends = (strip: Strip, tap: Send['tap'], heard: boolean) => {
    for (const send of strip.sends) {
      if (send.tap !== tap) continue;
      const to = strips.get(send.to)!;
      const key = `${strip.id}/send/${send.id}/${tap}`;
      const from = late.get(strip.id)![tap];
      const { channels } = strip;
      const index = moving(
        key,
        [own(strip, 'mute', ...(tap === 'post' ? ['pan'] : [])), followed(strip, send.lanes)],
        from,
        [
          ...[session.panLaw, to.channels, heard, channels, strip.pan, strip.mute],
          ...[tap, send.levelDb, send.pan, send.on],
        ],
        (when) => {
          const now = ownAt(strip, when);
          const x = sendValuesAt(strip, send, when);
          const [l, r] = edgeGains(session.panLaw, { channels, pan: now.pan }, to.channels, {
            tap,
            levelDb: x.levelDb,
            pan: x.pan,
          });
          const on = x.on && heard && !now.mute ? 1 : 0;
          return [l * on, r * on];
        },
      );
      mix(
        key,
        strip,
        buffers.get(send.to)!,
        to.channels,
        index,
        late.get(send.to)!.input - from,
        tap === 'post',
      );
    }
  };

  const wetOf = (strip: Strip, insert: Insert, from: Samples) => {
    const lanes = onlyLanes(followed(strip, insert.lanes), 'on', 'mix');
    return moving(`${strip.id}/insert/${insert.id}/mix`, [lanes], from, [insert.on, insert.mix], (when) => {
      const now = insertAt(strip, insert, when);
      return [now.on ? now.mix : 0];
    });
  };
  const stateOf = (strip: Strip, insert: Insert, bytes: number) =>
    keep(`${strip.id}/insert/${insert.id}/${insert.type}x${strip.channels}`, bytes);
  const valuesOf = (strip: Strip, insert: Insert, from: Samples) => {
    const lanes = lanesBut(followed(strip, insert.lanes), 'on', 'mix');
    return moving(`${strip.id}/insert/${insert.id}`, [lanes], from, [session.tempo, insert.params], (when) =>
      processorOf(insert.type).engineParams(insertAt(strip, insert, when).params, session),
    );
  };
  /** A ring that holds so many channels back by so many frames. */
  const ringOf = (key: string, delay: Samples, channels: number) => {
    const frames = delay > 0 ? delay + BLOCK : 0;
    const at =
      frames > 0 ? keep(`${key}~${frames}x${channels}`, RING_HEADER_BYTES + frames * channels * 4) : 0;
    return { at, frames };
  };
  const tell = (strip: Strip, insert: Insert, offset: number, channels: number, stride: number) => {
    if (processorOf(insert.type).levelDependent)
      reductions.push({ strip: strip.id, insert: insert.id, offset, channels, stride });
  };

  /** An insert that runs by itself. */
  const process = (strip: Strip, insert: Insert, from: Samples) => {
    const processor = processorOf(insert.type);
    const bytes = processor.stateBytes(strip.channels, session.sampleRate);
    const first = valuesOf(strip, insert, from);
    const wet = wetOf(strip, insert, from);
    const state = stateOf(strip, insert, bytes);
    const latency = latencyOf(insert, session.sampleRate);
    const dry = ringOf(`${strip.id}/insert/${insert.id}/dry`, latency, strip.channels);
    costs.push({ op: words.length * 4, inserts: [{ strip: strip.id, insert: insert.id }] });
    emit(OP.process, processor.engineCode);
    emitAt(buffers.get(strip.id)!);
    emit(strip.channels, first);
    emitAt(state);
    emit(align(bytes), wet, latency);
    emitAt(dry.at);
    emit(dry.frames);
    tell(strip, insert, state, 1, 0);
  };

  /** Inserts of one kind, four channels at a time. */
  const pack = (type: string, list: readonly Waiting[]) => {
    const processor = processorOf(type);
    const bytes = align(processor.stateBytes(1, session.sampleRate));
    const flush = (group: readonly Waiting[]) => {
      const lanes: Word[][] = [];
      const inserts: PlanCost['inserts'][number][] = [];
      for (const { strip, insert, late: from } of group) {
        const first = valuesOf(strip, insert, from);
        const wet = wetOf(strip, insert, from);
        const state = stateOf(strip, insert, bytes * strip.channels);
        const latency = latencyOf(insert, session.sampleRate);
        const key = insert.key === null ? null : strips.get(insert.key)!;
        const behind = key ? from - late.get(key.id)!.post : 0;
        tell(strip, insert, state, strip.channels, bytes);
        for (let c = 0; c < strip.channels; c++) {
          const name = `${strip.id}/insert/${insert.id}`;
          const ring = key ? ringOf(`${name}/key ${key.id} ${c}`, behind, 1) : { at: 0, frames: 0 };
          const dry = ringOf(`${name}/dry ${c}`, latency, 1);
          const keyAt = key ? buffers.get(key.id)! : 0;
          const two = key?.channels === 2;
          lanes.push([
            { at: buffers.get(strip.id)! + c * BLOCK_BYTES },
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
          ]);
          inserts.push({ strip: strip.id, insert: insert.id });
        }
      }
      costs.push({ op: words.length * 4, inserts });
      emit(OP.lanes, processor.engineCode, lanes.length, latencyOf(group[0]!.insert, session.sampleRate));
      for (let lane = 0; lane < LANES; lane++) {
        // A lane that nobody fills computes silence with the numbers of the first, in a state of its own.
        const [, first, wet] = lanes[0]!;
        const words = lanes[lane] ?? [0, first!, wet!, { at: take(bytes) }, bytes, 0, 0, 0, 0, 0, 0, 0];
        for (const word of words)
          if (typeof word === 'number') emit(word);
          else emitAt(word.at);
      }
    };
    // Stereo inserts first, so that a pair never parts; then mono ones fill the lanes that are left.
    const stereo = list.filter((w) => w.strip.channels === 2);
    const mono = list.filter((w) => w.strip.channels === 1);
    while (stereo.length || mono.length) {
      const group: Waiting[] = [];
      let free: number = LANES;
      while (free >= 2 && stereo.length) {
        group.push(stereo.shift()!);
        free -= 2;
      }
      while (free >= 1 && mono.length) {
        group.push(mono.shift()!);
        free -= 1;
      }
      flush(group);
    }
  };

  /** A strip's work as steps, those of packed inserts left open for what may share their operation. */
  const stepsOf = (id: Id): readonly Step[] => {
    const strip = strips.get(id)!;
    const buffer = buffers.get(id)!;
    const at = late.get(id)!;
    // What leaves a strip: nothing when it is muted, or when something else is soloed.
    const heard = audible.has(id);
    // A strip that keys a processor goes on keying when something else is soloed.
    const passes = heard || keying.has(id);
    const steps: Step[] = [];
    const chain = (place: Insert['place'], from: Samples) => {
      let latency = from;
      for (const insert of strip.inserts) {
        if (insert.place !== place) continue;
        if (processorOf(insert.type).packed) steps.push({ strip, insert, late: latency });
        else {
          const from = latency;
          steps.push(() => process(strip, insert, from));
        }
        latency += latencyOf(insert, session.sampleRate);
      }
    };

    steps.push(() => {
      const source = sourceAt.get(id);
      if (source !== undefined) {
        emit(OP.take);
        emitAt(buffer);
        emit(strip.channels, source);
      }
      const m = inputMatrix(strip);
      if (strip.channels === 2) {
        emit(OP.matrix);
        emitAt(buffer);
        emit(param(`${id}/input`, ...m));
      } else {
        emit(OP.gain);
        emitAt(buffer);
        emit(1, param(`${id}/input`, m[0]));
      }
      sends(strip, 'input', heard);
    });
    chain('pre', at.input);
    steps.push(() => {
      sends(strip, 'pre', heard);
      emit(OP.gain);
      emitAt(buffer);
      const vcas = holdersOf(session, id);
      const lanes = vcas.filter(vcaAutomated).map((v) => v.lanes);
      emit(
        strip.channels,
        moving(
          `${id}/fader`,
          [own(strip, 'fader', 'mute'), ...lanes],
          at.pre,
          [passes, strip.faderDb, strip.mute, ...vcas],
          (when) => {
            const now = ownAt(strip, when);
            const level = levelUnder(
              now.faderDb,
              vcas.map((v) => vcaAt(v, when)),
            );
            return [now.mute || !passes ? 0 : gainOf(level)];
          },
        ),
      );
    });
    chain('post', at.pre);
    steps.push(() => {
      if (strip.channels === 2) {
        emit(OP.balance);
        emitAt(buffer);
        emit(
          moving(`${id}/pan`, [own(strip, 'pan')], at.post, [], (when) => balance(ownAt(strip, when).pan)),
        );
      }
      if (options.meters ?? true) {
        const meter = keep(`${id}/meter x${strip.channels}`, strip.channels * METER_FLOATS * 4);
        meters.push({ strip: id, channels: strip.channels, offset: meter, audio: buffer });
        emit(OP.meter);
        emitAt(buffer);
        emit(strip.channels);
        emitAt(meter);
      }
      sends(strip, 'post', heard);

      /** Gains by which it leaves for so many channels. */
      const leaving = (key: string, channels: Channels, on: boolean) =>
        moving(
          key,
          [own(strip, 'pan', 'mute')],
          at.post,
          [session.panLaw, channels, on, heard, strip.channels, strip.pan, strip.mute],
          (when) => {
            const now = ownAt(strip, when);
            const from = { channels: strip.channels, pan: now.pan };
            const [l, r] = edgeGains(session.panLaw, from, channels, null);
            const open = on && heard && !now.mute ? 1 : 0;
            return [l * open, r * open];
          },
        );
      if (strip.out.to !== null) {
        const to = strips.get(strip.out.to)!;
        const key = `${id}/out/${to.id}`;
        const index = leaving(key, to.channels, strip.out.on);
        mix(key, strip, buffers.get(to.id)!, to.channels, index, late.get(to.id)!.input - at.post, true);
      }
      const port = captureBuffers.get(id);
      if (port) {
        const key = `${id}/capture`;
        const index = leaving(key, port.channels, strip.kind !== 'output' || strip.out.on);
        mix(key, strip, port.offset, port.channels, index, 0, true);
        captures.push({ ...port, latency: at.post });
      }
    });
    return steps;
  };

  for (const rank of signalRanks(session)) {
    // Strips of one rank do not feed each other, so their chains go on side by side: those that wait at a processor of
    // one kind share its operation.
    const queues = rank.map((id) => ({ steps: stepsOf(id), at: 0 }));
    for (;;) {
      const waiting = new Map<string, Waiting[]>();
      for (const q of queues) {
        for (let step = q.steps[q.at]; typeof step === 'function'; step = q.steps[++q.at]) step();
        const step = q.steps[q.at];
        if (step === undefined || typeof step === 'function') continue;
        const kind = `${step.insert.type}~${latencyOf(step.insert, session.sampleRate)}`;
        const list = waiting.get(kind) ?? [];
        if (list.push(step) === 1) waiting.set(kind, list);
      }
      const [first] = [...waiting.values()].sort((a, b) => b.length - a.length);
      if (!first) break;
      pack(first[0]!.insert.type, first);
      const done = new Set<Step>(first);
      for (const q of queues) if (done.has(q.steps[q.at]!)) q.at++;
    }
    // What they feed stands in later ranks.
    for (const destination of [...together.keys()]) mixTogether(destination);
  }
  emit(OP.end);

  const count = align(targets.length * 4) / 4;
  const targetsAt = align(words.length * 4);
  const previousAt = targetsAt + count * 4;
  const currentAt = previousAt + count * 4;
  const audioAt = align(currentAt + count * 4);
  for (const at of relocate) words[at]! += audioAt;

  const image = new Int32Array(words);
  const floats = new Float32Array(image.buffer);
  image[HEADER.opsOffset] = HEADER_BYTES;
  image[HEADER.paramCount] = count;
  image[HEADER.targetsOffset] = targetsAt;
  image[HEADER.previousOffset] = previousAt;
  image[HEADER.currentOffset] = currentAt;
  image[HEADER.sampleRate] = session.sampleRate;
  const block = BLOCK / session.sampleRate;
  floats[HEADER.smoothing] = 1 - Math.exp(-block / SMOOTHING_SECONDS);
  floats[HEADER.peakFall] = 10 ** ((-PEAK_FALL_DB_PER_SECOND * block) / 20);
  floats[HEADER.rmsShare] = 1 - Math.exp(-block / RMS_SECONDS);

  const settle = new Float32Array(count);
  settle.set(targets);
  const place = <P extends { readonly offset: number }>(p: P): P => ({ ...p, offset: p.offset + audioAt });
  return {
    bytes: align(audioAt + audio),
    words: image,
    targets: settle,
    curves,
    params,
    states: states.map(place),
    sources: sourceStrips.map((s) =>
      place({ strip: s.id, channels: s.channels, offset: buffers.get(s.id)! }),
    ),
    captures: wanted
      .map((id) => captures.find((c) => c.strip === id))
      .filter((c): c is Capture => c !== undefined)
      .map(place),
    meters: meters.map((m) => ({ ...place(m), audio: m.audio + audioAt })),
    reductions: reductions.map(place),
    costs,
  };
}
