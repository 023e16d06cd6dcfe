import { effectiveLevel } from '../groups/vca';
import { gainOf } from '../levels/decibels';
import { edgeGains, pannedChannels } from '../levels/edgeGains';
import { inputMatrix } from '../levels/inputMatrix';
import { balance } from '../levels/pan';
import { processorOf } from '../processors/registry';
import { insertLatency, latencies, type LatencyOf } from '../routing/latency';
import { signalOrder } from '../routing/order';
import { audibleStrips } from '../routing/solo';
import { stripMap } from '../session/lookup';
import type { Channels, Insert, Send, Session, Strip } from '../session/types';
import type { Id, Samples } from '../session/units';
import { BLOCK_BYTES, HEADER, HEADER_BYTES, METER_FLOATS, OP, RING_HEADER_BYTES, BLOCK } from './layout';
import type { Capture, KeptState, Plan, Port } from './plan';

export interface CompileOptions {
  /** Strips whose signal is wanted; the output strips when left out. */
  readonly capture?: readonly Id[];
  readonly latencyOf?: LatencyOf;
}

/** Time constant of parameter moves. */
const SMOOTHING_SECONDS = 0.006;
/** Fall of a peak reading, 20 dB in 1.7 s: IEC 60268-10, Type I (from memory). */
const PEAK_FALL_DB_PER_SECOND = 20 / 1.7;
/** Time constant of the RMS reading; common practice, no published source. */
const RMS_SECONDS = 0.3;

const align = (n: number) => Math.ceil(n / 16) * 16;

/**
 * Turns the document into the engine's plan. Order inside a strip: stem or summed inputs, trim, polarity, swap, width,
 * tap input, inserts before the fader, tap pre, fader with VCAs and mute, inserts after the fader, pan, tap post, out.
 * Paths of different latency are aligned by delay lines before they add.
 * @throws Refusal `cycle`, or `unknown` for a processor that there is not
 */
export function compilePlan(session: Session, options: CompileOptions = {}): Plan {
  const strips = stripMap(session);
  const order = signalOrder(session);
  const latencyOf = options.latencyOf ?? insertLatency;
  const late = latencies(session, latencyOf);
  const audible = audibleStrips(session);
  const wanted = options.capture ?? session.strips.filter((s) => s.kind === 'output').map((s) => s.id);

  const words: number[] = new Array<number>(HEADER_BYTES / 4).fill(0);
  const targets: number[] = [];
  const paramKeys: string[] = [];
  const states: KeptState[] = [];
  const meters: Port[] = [];
  const captures: Capture[] = [];
  const reductions: Plan['reductions'][number][] = [];
  const keying = new Set(session.strips.flatMap((s) => s.inserts.flatMap((i) => i.key ?? [])));

  const param = (key: string, ...values: readonly number[]) => {
    const index = targets.length;
    values.forEach((v, i) => {
      targets.push(v);
      paramKeys.push(values.length === 1 ? key : `${key}#${i}`);
    });
    return index;
  };

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

  const mix = (
    key: string,
    strip: Strip,
    destination: number,
    to: Channels,
    gains: readonly [number, number],
    delay: Samples,
  ) => {
    const index = param(key, ...gains);
    const ring = delay > 0 ? delay + BLOCK : 0;
    const ringAt =
      ring > 0 ? keep(`${key}~${ring}x${strip.channels}`, RING_HEADER_BYTES + ring * strip.channels * 4) : 0;
    emit(OP.mix);
    emitAt(buffers.get(strip.id)!);
    emitAt(destination);
    emit(strip.channels, to, index, delay);
    emitAt(ringAt);
    emit(ring);
  };

  const sends = (strip: Strip, tap: Send['tap'], open: number) => {
    for (const send of strip.sends) {
      if (send.tap !== tap) continue;
      const to = strips.get(send.to)!;
      const [l, r] = edgeGains(session.panLaw, strip, to.channels, send);
      const on = send.on ? open : 0;
      const delay = late.get(send.to)!.input - late.get(strip.id)![tap];
      mix(
        `${strip.id}/send/${send.id}/${tap}`,
        strip,
        buffers.get(send.to)!,
        to.channels,
        [l * on, r * on],
        delay,
      );
    }
  };

  const process = (strip: Strip, insert: Insert, latency: Samples) => {
    const processor = processorOf(insert.type);
    const values = processor.engineParams(insert.params, session.sampleRate);
    const first = param(`${strip.id}/insert/${insert.id}`, ...values);
    const wet = param(`${strip.id}/insert/${insert.id}/mix`, insert.on ? insert.mix : 0);
    const bytes = processor.stateBytes(strip.channels, session.sampleRate);
    const state = keep(`${strip.id}/insert/${insert.id}/${insert.type}x${strip.channels}`, bytes);
    emit(OP.process, processor.engineCode);
    emitAt(buffers.get(strip.id)!);
    emit(strip.channels, first, values.length);
    emitAt(state);
    emit(align(bytes), wet);
    if (processor.levelDependent) reductions.push({ strip: strip.id, insert: insert.id, offset: state });
    if (insert.key === null) return emit(0, 0, 0, 0, 0);
    const key = strips.get(insert.key)!;
    const delay = latency - late.get(key.id)!.post;
    const ring = delay > 0 ? delay + BLOCK : 0;
    const ringAt =
      ring > 0
        ? keep(
            `${strip.id}/insert/${insert.id}/key ${key.id}~${ring}x${key.channels}`,
            RING_HEADER_BYTES + ring * key.channels * 4,
          )
        : 0;
    emitAt(buffers.get(key.id)!);
    emit(key.channels, delay);
    emitAt(ringAt);
    emit(ring);
  };
  const chain = (strip: Strip, place: Insert['place'], from: Samples) => {
    let latency = from;
    for (const insert of strip.inserts) {
      if (insert.place !== place) continue;
      process(strip, insert, latency);
      latency += latencyOf(insert, session.sampleRate);
    }
  };

  for (const id of order) {
    const strip = strips.get(id)!;
    const buffer = buffers.get(id)!;
    // What leaves a strip: nothing when it is muted, or when something else is soloed.
    const open = strip.mute || !audible.has(id) ? 0 : 1;
    // A strip that keys a processor goes on keying when something else is soloed.
    const pass = strip.mute || !(audible.has(id) || keying.has(id)) ? 0 : 1;

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
    sends(strip, 'input', open);
    chain(strip, 'pre', late.get(id)!.input);
    sends(strip, 'pre', open);
    emit(OP.gain);
    emitAt(buffer);
    emit(strip.channels, param(`${id}/fader`, gainOf(effectiveLevel(session, strip)) * pass));
    chain(strip, 'post', late.get(id)!.pre);
    if (strip.channels === 2) {
      emit(OP.balance);
      emitAt(buffer);
      emit(param(`${id}/pan`, ...balance(strip.pan)));
    }
    const meter = keep(`${id}/meter x${strip.channels}`, strip.channels * METER_FLOATS * 4);
    meters.push({ strip: id, channels: strip.channels, offset: meter });
    emit(OP.meter);
    emitAt(buffer);
    emit(strip.channels);
    emitAt(meter);
    sends(strip, 'post', open);

    const on = strip.out.on ? open : 0;
    if (strip.out.to !== null) {
      const to = strips.get(strip.out.to)!;
      const [l, r] = edgeGains(session.panLaw, strip, to.channels, null);
      const delay = late.get(to.id)!.input - late.get(id)!.post;
      mix(`${id}/out/${to.id}`, strip, buffers.get(to.id)!, to.channels, [l * on, r * on], delay);
    }
    const port = captureBuffers.get(id);
    if (port) {
      const [l, r] = edgeGains(session.panLaw, strip, port.channels, null);
      const leaves = strip.kind === 'output' ? on : open;
      mix(`${id}/capture`, strip, port.offset, port.channels, [l * leaves, r * leaves], 0);
      captures.push({ ...port, latency: late.get(id)!.post });
    }
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
    paramKeys,
    states: states.map(place),
    sources: sourceStrips.map((s) =>
      place({ strip: s.id, channels: s.channels, offset: buffers.get(s.id)! }),
    ),
    captures: wanted
      .map((id) => captures.find((c) => c.strip === id))
      .filter((c): c is Capture => c !== undefined)
      .map(place),
    meters: meters.map(place),
    reductions: reductions.map(place),
  };
}
