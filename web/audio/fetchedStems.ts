import pLimit from 'p-limit';
import { fitChannels, type StemReader } from '../../engine/print';
import type { StemFacts } from './player';
import { fetchPiece, PIECE_FRAMES } from './stemFetch';

/** Reads stems over the network, holding two pieces of each at the most. */
export class FetchedStems implements StemReader {
  private readonly held = new Map<string, Map<number, Promise<Float32Array[]>>>();
  /** A browser has six connections to a server; edits and playing need some of them. */
  private readonly fetches = pLimit(3);
  constructor(private readonly facts: Readonly<Record<string, StemFacts>>) {}

  private piece(stem: string, piece: number): Promise<Float32Array[]> {
    let pieces = this.held.get(stem);
    if (!pieces) this.held.set(stem, (pieces = new Map()));
    let audio = pieces.get(piece);
    if (!audio) {
      pieces.set(piece, (audio = this.fetches(() => fetchPiece(stem, piece, this.facts[stem]!.channels))));
      for (const old of pieces.keys()) if (old < piece - 1) pieces.delete(old);
    }
    return audio;
  }

  async read(
    strip: { readonly stem: string | null; readonly channels: 1 | 2 },
    start: number,
    frames: number,
  ): Promise<readonly Float32Array[]> {
    const out = Array.from({ length: strip.channels }, () => new Float32Array(frames));
    const facts = strip.stem === null ? undefined : this.facts[strip.stem];
    if (!facts) return out;
    for (let at = start; at < Math.min(start + frames, facts.frames);) {
      const index = Math.floor(at / PIECE_FRAMES);
      const audio = await this.piece(strip.stem!, index);
      const from = at - index * PIECE_FRAMES;
      const n = Math.min(PIECE_FRAMES - from, start + frames - at);
      fitChannels(
        audio.map((c) => c.subarray(from, from + n)),
        strip.channels,
      ).forEach((c, k) => out[k]!.set(c, at - start));
      at += n;
    }
    return out;
  }
}
