import type { Channels, Strip } from '../session/types';
import type { Id, Samples } from '../base/units';
import type { Emitter } from './emitter';
import { OP } from './layout';

/** Mixes that one operation can add: it reads and writes the destination once. */
const TOGETHER = 4;

/** Writes the mixes of strips into what they feed. Mono strips that come on time wait for others into the same buffer. */
export class Mixing {
  private readonly waiting = new Map<number, { readonly source: number; readonly params: number }[]>();

  /** @param buffers where the strips' signals stand */
  constructor(
    private readonly emitter: Emitter,
    private readonly buffers: ReadonlyMap<Id, number>,
  ) {}

  /**
   * @param destination buffer of so many channels
   * @param params place of the two gains
   * @param delay frames by which it waits for what is later
   * @param last whether the strip's signal stays as it is until the block's end
   */
  mix(
    key: string,
    strip: Strip,
    destination: number,
    channels: Channels,
    params: number,
    delay: Samples,
    last: boolean,
  ): void {
    const source = this.buffers.get(strip.id)!;
    if (last && delay === 0 && strip.channels === 1 && channels === 2) {
      const list = this.waiting.get(destination) ?? [];
      this.waiting.set(destination, list);
      if (list.push({ source, params }) === TOGETHER) this.flush(destination);
      return;
    }
    this.flush(destination);
    const ring = this.emitter.ring(key, delay, strip.channels);
    this.single(source, destination, strip.channels, channels, params, delay, ring);
  }

  /** Writes what waits. */
  flushAll(): void {
    for (const destination of [...this.waiting.keys()]) this.flush(destination);
  }

  private flush(destination: number) {
    const list = this.waiting.get(destination) ?? [];
    this.waiting.delete(destination);
    if (list.length < TOGETHER)
      for (const m of list) this.single(m.source, destination, 1, 2, m.params, 0, { at: 0, frames: 0 });
    else
      this.emitter.emit(
        OP.mixFour,
        { at: destination },
        ...list.flatMap((m) => [{ at: m.source }, m.params]),
      );
  }

  private single(
    source: number,
    destination: number,
    from: Channels,
    to: Channels,
    params: number,
    delay: Samples,
    ring: { readonly at: number; readonly frames: number },
  ) {
    this.emitter.emit(
      OP.mix,
      { at: source },
      { at: destination },
      ...[from, to, params, delay],
      { at: ring.at },
      ring.frames,
    );
  }
}
