import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Channels } from '@core/session/types';
import { NearStems, type Near } from './nearStems';
import { nearAnswers, NearThread, type NearAnswer, type NearWorker } from './nearThread';
import { SLICE_FRAMES, StemsGone, type FetchSlices, type KeptSlice, type Slice } from './slices';
import { nearFirst } from './stemFetch';

/** The File System standard's folder as a browser has it, in memory. */
class FakeFolder {
  readonly files = new Map<string, Uint8Array>();
  readonly open = new Map<string, number>();
  /** Bytes that may be written yet. */
  room = Infinity;
  locked = new Set<string>();
  async getFileHandle(name: string, { create = false } = {}) {
    if (!this.files.has(name) && !create) throw new DOMException('No such file.', 'NotFoundError');
    if (!this.files.has(name)) this.files.set(name, new Uint8Array(0));
    return this.file(name);
  }
  private file(name: string) {
    const { files, open, locked } = this;
    const at = () => files.get(name)!;
    return {
      kind: 'file',
      getFile: async () => ({ size: at().length, text: async () => new TextDecoder().decode(at()) }),
      createSyncAccessHandle: async () => {
        if (locked.has(name)) throw new DOMException('Another window.', 'NoModificationAllowedError');
        open.set(name, (open.get(name) ?? 0) + 1);
        return {
          read: (into: Uint8Array, { at: from }: { at: number }) => {
            const got = at().subarray(from, from + into.length);
            into.set(got);
            return got.length;
          },
          write: (bytes: Uint8Array, { at: from }: { at: number }) => {
            const size = Math.max(at().length, from + bytes.length);
            if (size - at().length > this.room) throw new DOMException('Full.', 'QuotaExceededError');
            this.room -= size - at().length;
            const grown = new Uint8Array(size);
            grown.set(at());
            grown.set(bytes, from);
            files.set(name, grown);
            return bytes.length;
          },
          getSize: () => at().length,
          truncate: (size: number) => void files.set(name, at().slice(0, size)),
          flush: () => {},
          close: () => void open.set(name, open.get(name)! - 1),
        };
      },
    };
  }
  async *entries() {
    for (const name of [...this.files.keys()]) yield [name, this.file(name)] as const;
  }
  async removeEntry(name: string) {
    this.files.delete(name);
  }
}

let folder: FakeFolder;
let quota: number;
let milliseconds: number;
const storage = () => ({
  getDirectory: async () => ({ getDirectoryHandle: async () => folder }) as never,
  estimate: async () => ({ quota, usage: [...folder.files.values()].reduce((n, f) => n + f.length, 0) }),
});
const begin = () => new NearStems(storage(), () => milliseconds);
const address = (k: number) => `sha256:${k.toString(16).padStart(64, '0')}`;
function noise(seed: number, frames = SLICE_FRAMES, channels: Channels = 1): KeptSlice {
  const bytes = new Uint8Array(frames * 2 * channels);
  for (let i = 0, x = seed + 1; i < bytes.length; i++)
    bytes[i] = (x = (x * 1103515245 + 12345) & 0x7fffffff) >> 16;
  return { depth: 's16', channels, bytes };
}
async function keep(near: NearStems, stem: number, number: number, slice = noise(stem * 100 + number)) {
  near.keep(address(stem), number, slice);
  await near.settled();
  return slice;
}
const CELL = 24 + SLICE_FRAMES * 2;
beforeEach(() => {
  folder = new FakeFolder();
  quota = 1e9;
  milliseconds = 1e6;
});

describe('stems in the browser’s storage', () => {
  it('give what was kept, also when the page was opened anew, and nothing else', async () => {
    const near = begin();
    const slices = [await keep(near, 1, 0), await keep(near, 1, 3), await keep(near, 2, 1, noise(7, 100, 2))];
    for (const store of [near, begin()]) {
      expect(await store.read(address(1), 0)).toEqual(slices[0]);
      expect(await store.read(address(1), 3)).toEqual(slices[1]);
      expect(await store.read(address(2), 1)).toEqual(slices[2]);
      // What lies between was never there, nor what comes after.
      for (const [stem, number] of [
        [1, 1],
        [1, 2],
        [1, 4],
        [2, 0],
        [3, 0],
      ] as const)
        expect(await store.read(address(stem), number)).toBeNull();
      expect(await store.read('no address', 0)).toBeNull();
    }
  });

  it('never give a slice of which a byte is damaged; it is kept anew', async () => {
    const near = begin();
    const slice = await keep(near, 1, 1);
    const [name] = folder.files.keys();
    const whole = folder.files.get(name!)!;
    const places = [...Array(24).keys(), 24, 5000, CELL - 1].map((k) => CELL + k);
    for (const at of places) {
      const broken = whole.slice();
      broken[at]! ^= 1 << (at % 8);
      folder.files.set(name!, broken);
      expect(await begin().read(address(1), 1)).toBeNull();
    }
    // A slice that stands at another's place is not taken for it.
    const moved = new Uint8Array(3 * CELL);
    moved.set(whole.subarray(CELL), 2 * CELL);
    moved.set(whole.subarray(CELL), 0);
    folder.files.set(name!, moved);
    expect([await begin().read(address(1), 0), await begin().read(address(1), 2)]).toEqual([null, null]);
    const again = begin();
    await keep(again, 1, 1, slice);
    expect(await again.read(address(1), 1)).toEqual(slice);
  });

  it('never give a slice that is half written', async () => {
    const near = begin();
    await keep(near, 1, 0);
    const [name] = folder.files.keys();
    const whole = folder.files.get(name!)!;
    for (const size of [0, 3, 23, 24, 25, 4000, CELL - 1]) {
      folder.files.set(name!, whole.slice(0, size));
      expect(await begin().read(address(1), 0)).toBeNull();
    }
  });

  it('are not there where the browser gives no storage, and nothing goes wrong', async () => {
    const denied = {
      getDirectory: () => Promise.reject(new DOMException('Denied.', 'SecurityError')),
      estimate: storage().estimate,
    };
    const hung = { getDirectory: () => new Promise<never>(() => {}), estimate: storage().estimate };
    for (const none of [undefined, denied]) {
      const near = new NearStems(none);
      await keep(near, 1, 0);
      expect(await near.read(address(1), 0)).toBeNull();
    }
    // One that never answers keeps nobody waiting for long.
    vi.useFakeTimers();
    const far = vi.fn(async (slices: readonly Slice[], take: (n: number, s: KeptSlice) => void) =>
      slices.forEach((_, n) => take(n, noise(n))),
    );
    const took: number[] = [];
    const asked = nearFirst(new NearStems(hung), far)(
      [{ stem: address(1), start: 0, frames: SLICE_FRAMES }],
      (n) => took.push(n),
      new AbortController().signal,
    );
    await vi.advanceTimersByTimeAsync(500);
    await asked;
    expect(took).toEqual([0]);
    vi.useRealTimers();
  });

  it('take no more than half of what the browser gives: those that were used least of late go', async () => {
    quota = 7 * CELL;
    const near = begin();
    for (const stem of [1, 2, 3]) {
      await keep(near, stem, 0);
      milliseconds += 1000;
    }
    expect(folder.files.size).toBe(3 + 1);
    // All were used within a minute: what comes is not kept.
    await keep(near, 4, 0);
    expect(await near.read(address(4), 0)).toBeNull();
    milliseconds += 120_000;
    expect(await near.read(address(1), 0)).not.toBeNull();
    expect(await near.read(address(3), 0)).not.toBeNull();
    await keep(near, 4, 0);
    expect(await near.read(address(4), 0)).not.toBeNull();
    expect(await near.read(address(2), 0)).toBeNull();
    milliseconds += 11_000;
    expect(await near.read(address(4), 0)).not.toBeNull();
    expect(await near.read(address(3), 0)).not.toBeNull();
    const stems = [...folder.files].filter(([name]) => name.length > 20);
    expect(stems.reduce((n, [, f]) => n + f.length, 0)).toBeLessThanOrEqual(3.5 * CELL);
    // What goes is let go of.
    expect([...folder.open].filter(([name, n]) => n > 0 && !folder.files.has(name))).toEqual([]);
    // Who was used when is known when it is opened anew.
    milliseconds += 120_000;
    const later = begin();
    expect(await later.read(address(3), 0)).not.toBeNull();
    await keep(later, 5, 0);
    const there = [1, 3, 4, 5].map(async (k) => (await later.read(address(k), 0)) !== null);
    expect(await Promise.all(there)).toEqual([false, true, true, true]);
  });

  it('read on where the disk is full, and try again later', async () => {
    const near = begin();
    await keep(near, 1, 0);
    folder.room = 100;
    await keep(near, 2, 0);
    await keep(near, 3, 0);
    expect(await near.read(address(2), 0)).toBeNull();
    expect(await near.read(address(1), 0)).not.toBeNull();
    expect(folder.files.get(`${address(3).slice(7)} s16 1`)).toBeUndefined();
    folder.room = Infinity;
    milliseconds += 61_000;
    // It has less room now: what is used least goes.
    expect(await near.read(address(1), 0)).not.toBeNull();
    await keep(near, 1, 0);
    expect(await near.read(address(1), 0)).not.toBeNull();
  });

  it('that another window holds are read from the server', async () => {
    await keep(begin(), 1, 0);
    folder.locked.add([...folder.files.keys()].find((n) => n.length > 20)!);
    const near = begin();
    expect(await near.read(address(1), 0)).toBeNull();
    await keep(near, 1, 1);
    await keep(near, 2, 0);
    expect(await near.read(address(2), 0)).not.toBeNull();
  });

  it('pass over what is no stem, and a note that is damaged', async () => {
    await keep(begin(), 1, 0);
    folder.files.set('used.json', new TextEncoder().encode('{"half": '));
    folder.files.set('something else', new Uint8Array(5));
    folder.files.set(`${'0'.repeat(64)} s12 1`, new Uint8Array(5));
    const near = begin();
    expect(await near.read(address(1), 0)).not.toBeNull();
    expect([...folder.files.keys()].filter((n) => n !== 'used.json')).toEqual([
      `${address(1).slice(7)} s16 1`,
    ]);
  });
});

describe('what is near comes first', () => {
  const slice = (stem: number, number: number): Slice => ({
    stem: address(stem),
    start: number * SLICE_FRAMES,
    frames: SLICE_FRAMES,
  });
  it('and only what is not is asked for, in order, and is near then', async () => {
    const near = begin();
    await keep(near, 2, 0);
    const asked: Slice[][] = [];
    const far = async (slices: readonly Slice[], take: (n: number, s: KeptSlice) => void) => {
      asked.push([...slices]);
      // The stream's bytes are used again for the next slice.
      const room = new Uint8Array(SLICE_FRAMES * 2);
      slices.forEach(({ stem, start }, n) => {
        room.set(noise(Number.parseInt(stem.slice(-4), 16) * 100 + start / SLICE_FRAMES).bytes);
        take(n, { depth: 's16', channels: 1, bytes: room });
      });
    };
    const fetchAll = nearFirst(near, far);
    const wanted = [slice(1, 0), slice(2, 0), slice(3, 0), slice(1, 1)];
    for (const times of [1, 2]) {
      const took = new Map<number, Uint8Array>();
      await fetchAll(wanted, (n, { bytes }) => took.set(n, bytes.slice()), new AbortController().signal);
      await near.settled();
      expect(new Set(took.keys())).toEqual(new Set([0, 1, 2, 3]));
      for (const [n, seed] of [100, 200, 300, 101].entries()) expect(took.get(n)).toEqual(noise(seed).bytes);
      expect(asked).toEqual([[wanted[0], wanted[2], wanted[3]]]);
      expect(times).toBeLessThan(3);
    }
  });
  /** A thread that does as it is told, and says so when it is let. */
  function threadOf(near: Near) {
    const held: (() => void)[] = [];
    let free = true;
    const hear = nearAnswers(near, (answer) => {
      const say = () => worker.onmessage!({ data: answer } as MessageEvent<NearAnswer>);
      if (free) say();
      else held.push(say);
    });
    const worker: NearWorker = { postMessage: (m) => hear(structuredClone(m)), onmessage: null };
    return {
      thread: new NearThread(worker),
      hold: () => (free = false),
      letGo: () => {
        free = true;
        held.splice(0).forEach((say) => say());
      },
    };
  }
  const askFor = async (fetchAll: FetchSlices, wanted: readonly Slice[]) => {
    const took = new Map<number, Uint8Array>();
    await fetchAll(wanted, (n, { bytes }) => took.set(n, bytes.slice()), new AbortController().signal);
    return took;
  };
  it('also in a thread of its own, which keeps nobody waiting that does not answer', async () => {
    const near = begin();
    await near.settled();
    const { thread, hold, letGo } = threadOf(near);
    const asked: number[] = [];
    let away = false;
    const fetchAll = nearFirst(thread, async (slices, take) => {
      if (away) throw new Error('away');
      asked.push(slices.length);
      slices.forEach(({ stem, start }, n) =>
        take(n, noise(Number.parseInt(stem.slice(-4), 16) * 100 + start / SLICE_FRAMES)),
      );
    });
    const wanted = [slice(1, 0), slice(2, 5), slice(2, 6)];
    const right = (took: Map<number, Uint8Array>) =>
      [100, 205, 206].forEach((seed, n) => expect(took.get(n)).toEqual(noise(seed).bytes));
    vi.useFakeTimers();
    const go = async <T>(what: Promise<T>) => (await vi.advanceTimersByTimeAsync(1000), what);
    right(await go(askFor(fetchAll, wanted)));
    await go(near.settled());
    right(await go(askFor(fetchAll, wanted)));
    expect(asked).toEqual([3]);
    hold();
    const waits = askFor(fetchAll, wanted);
    await vi.advanceTimersByTimeAsync(79);
    expect(asked).toEqual([3]);
    await vi.advanceTimersByTimeAsync(2);
    right(await waits);
    expect(asked).toEqual([3, 3]);
    // It has said nothing: the next does not wait for it.
    const next = askFor(fetchAll, wanted);
    await vi.advanceTimersByTimeAsync(0);
    right(await next);
    // Without the server it is waited for after all.
    away = true;
    const later = new Map<number, Uint8Array>();
    const failed = fetchAll(wanted, (n, { bytes }) => later.set(n, bytes), new AbortController().signal);
    setTimeout(letGo, 1500);
    await Promise.all([expect(failed).rejects.toThrow('away'), vi.advanceTimersByTimeAsync(1500)]);
    vi.useRealTimers();
    right(later);
    right(await askFor(fetchAll, wanted));
    expect(near.asking).toBe(0);
  });
  it('no more waits to be written than there is room for, and nothing is asked without end', async () => {
    const { thread, hold, letGo } = threadOf(begin());
    hold();
    let keeps = 0;
    const near: Near = { asking: 0, read: () => new Promise(() => {}), keep: () => void keeps++ };
    const full = threadOf(near);
    full.hold();
    for (let n = 0; n < 1000; n++) full.thread.keep(address(1), n, noise(n));
    expect(keeps).toBe((8 << 20) / (SLICE_FRAMES * 2));
    full.letGo();
    full.thread.keep(address(1), 0, noise(0));
    expect(keeps).toBe((8 << 20) / (SLICE_FRAMES * 2) + 1);
    const reads = Array.from({ length: 2048 }, (_, n) => thread.read(address(1), n));
    expect(await thread.read(address(1), 0)).toBeNull();
    letGo();
    expect(new Set(await Promise.all(reads))).toEqual(new Set([null]));
    expect(await thread.read(address(1), 0)).toBeNull();
  });
  it('is asked of the disk only where it may be there', async () => {
    const reads: number[] = [];
    const get = folder.getFileHandle.bind(folder);
    folder.getFileHandle = async (name, options) => {
      const file = await get(name, options);
      const open = async () => {
        const handle = await file.createSyncAccessHandle();
        const read: typeof handle.read = (into, at) => {
          if (into.length > 24) reads.push(at.at);
          return handle.read(into, at);
        };
        return { ...handle, read };
      };
      return { ...file, createSyncAccessHandle: open };
    };
    const near = begin();
    await keep(near, 1, 1);
    for (const number of [0, 1, 2, 400]) await near.read(address(1), number);
    expect(reads).toEqual([CELL + 24]);
    // Another window locked it out: that is no word on what is there.
    const other = begin();
    folder.locked.add([...folder.files.keys()].find((n) => n.length > 20)!);
    expect(await other.read(address(1), 1)).toBeNull();
    folder.locked.clear();
    const third = begin();
    expect(await third.read(address(1), 1)).not.toBeNull();
  });
  it('and what the server lacks is told as before', async () => {
    const near = begin();
    const gone = nearFirst(near, () => Promise.reject(new StemsGone('gone', [address(9)])));
    await expect(gone([slice(9, 0)], () => {}, new AbortController().signal)).rejects.toThrow(StemsGone);
  });
});
