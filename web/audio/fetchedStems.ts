import pLimit from 'p-limit';
import { fitFrames, type StemReader } from '@engine/print';
import type { StemFacts } from './player';
import { fetchPiece, PIECE_FRAMES } from './stemFetch';

/** Reads stems over the network, holding two pieces of each at the most. */
export class FetchedStems implements StemReader {
  private readonly held = new Map<string, Map<number, Promise<Float32Array>>>();
  /** A browser has six connections to a server; edits and playing need some of them. */
  private readonly fetches = pLimit(3);
  constructor(private readonly facts: Readonly<Record<string, StemFacts>>) {}

  private piece(stem: string, piece: number): Promise<Float32Array> {
    let pieces = this.held.get(stem);
    if (!pieces) this.held.set(stem, (pieces = new Map()));
    let audio = pieces.get(piece);
    if (!audio) {
      pieces.set(piece, (audio = this.fetches(() => fetchPiece(stem, piece))));
      for (const old of pieces.keys()) if (old < piece - 1) pieces.delete(old);
    }
    return audio;
  }

  async read(
    strip: { readonly stem: string | null; readonly channels: 1 | 2 },
    start: number,
    into: Float32Array,
  ): Promise<void> {
    const facts = strip.stem === null ? undefined : this.facts[strip.stem];
    const wanted = strip.channels;
    const end = Math.min(start + into.length / wanted, facts?.frames ?? 0);
    let at = start;
    while (facts && at < end) {
      const index = Math.floor(at / PIECE_FRAMES);
      const audio = await this.piece(strip.stem!, index);
      const from = at - index * PIECE_FRAMES;
      const n = Math.min(PIECE_FRAMES - from, end - at);
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
