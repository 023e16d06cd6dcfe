import { floatsOf } from '../core/formats/audio/samples';
import type { FetchSlices, Slice } from '../core/formats/audio/slices';
import type { Samples } from '../core/base/units';
import type { Channels } from '../core/session/types';
import { fitFrames, type StemReader } from './print';

/** Frames of a slice. */
const SLICE_FRAMES = 32768;
/** Slices in one question. */
const IN_ONE = 256;

interface Asked extends Slice {
  readonly took: (audio: Float32Array) => void;
  readonly failed: (error: unknown) => void;
}

/**
 * Reads stems by slices, from their beginning on, over the network or from the database: what is read of many at a time comes in one answer, and what comes next
 * of each is asked for meanwhile. Three slices of each are held at the most.
 */
export class SlicedStems implements StemReader {
  private readonly held = new Map<string, Map<number, Promise<Float32Array>>>();
  private asked: Asked[] = [];
  private readonly never = new AbortController().signal;

  constructor(
    private readonly facts: Readonly<Record<string, { readonly channels: number; readonly frames: Samples }>>,
    private readonly fetch: FetchSlices,
  ) {}

  private slice(stem: string, number: number): Promise<Float32Array> {
    let slices = this.held.get(stem);
    if (!slices) this.held.set(stem, (slices = new Map()));
    const known = slices.get(number);
    if (known) return known;
    const coming = new Promise<Float32Array>((took, failed) => {
      if (this.asked.length === 0) queueMicrotask(() => this.ask());
      this.asked.push({ stem, start: number * SLICE_FRAMES, frames: SLICE_FRAMES, took, failed });
    });
    // Where nobody comes to wait for it, it may fail unheard; who comes later asks anew.
    coming.catch(() => slices.get(number) === coming && slices.delete(number));
    slices.set(number, coming);
    for (const other of slices.keys()) if (Math.abs(other - number) > 1) slices.delete(other);
    return coming;
  }
  private ask() {
    // What is read now comes before what is read next.
    const asked = this.asked.sort((a, b) => a.start - b.start);
    this.asked = [];
    for (let from = 0; from < asked.length; from += IN_ONE) {
      const some = asked.slice(from, from + IN_ONE);
      const gone = new Error('The stem did not come.');
      void this.fetch(
        some,
        (number, { bytes, depth }) => some[number]!.took(floatsOf(bytes, depth)),
        this.never,
      ).then(
        () => some.forEach((s) => s.failed(gone)),
        (error) => some.forEach((s) => s.failed(error)),
      );
    }
  }

  async read(
    strip: { readonly stem: string | null; readonly channels: Channels },
    start: Samples,
    into: Float32Array,
  ): Promise<void> {
    const facts = strip.stem === null ? undefined : this.facts[strip.stem];
    const wanted = strip.channels;
    const end = Math.min(start + into.length / wanted, facts?.frames ?? 0);
    let at = start;
    while (facts && at < end) {
      const number = Math.floor(at / SLICE_FRAMES);
      const coming = this.slice(strip.stem!, number);
      if ((number + 1) * SLICE_FRAMES < facts.frames) void this.slice(strip.stem!, number + 1);
      const audio = await coming;
      const from = at - number * SLICE_FRAMES;
      const n = Math.min(SLICE_FRAMES - from, end - at);
      fitFrames(
        audio.subarray(from * facts.channels, (from + n) * facts.channels),
        facts.channels,
        into.subarray((at - start) * wanted, (at - start + n) * wanted),
        wanted,
      );
      at += n;
    }
    into.fill(0, (at - start) * wanted);
  }
}
