import { createXXHash64, type IHasher } from 'hash-wasm';
import { depthBytes, DEPTHS, type Depth } from '@core/formats/audio/samples';
import type { Channels } from '@core/session/types';
import { SLICE_FRAMES, type KeptSlice } from './slices';

/** Before each slice: four letters, its number, its bytes (32 bits each), what the file's name says, and xxHash64 of its bytes. */
const HEAD = 24;
const MARK = 0x316c737a;
/** Bytes that are kept at the most, and of what the browser gives. */
const LIMIT = 20e9;
const SHARE = 0.5;
/** A stem that was used within so many milliseconds does not go for another. */
const IN_USE = 60_000;
/** Milliseconds after which storage that failed is tried again. */
const REST = 60_000;
/** Bytes that may wait to be written, and milliseconds between two words to the disk of what was used when. */
export const MOST_WAITING = 8 << 20;
/** Times as long as a slice took to be written that is waited before the next. */
const SHARE_OF_TIME = 4;
const NOTE_EVERY = 10_000;
const USED = 'used.json';
const MOST_OPEN = 256;

/** What of the File System standard is used: a file that one thread reads and writes in place. */
interface Handle {
  read(into: Uint8Array, options: { at: number }): number;
  write(from: Uint8Array, options: { at: number }): number;
  getSize(): number;
  truncate(size: number): void;
  flush(): void;
  close(): void;
}
interface OpenFile extends FileSystemFileHandle {
  createSyncAccessHandle(options?: { mode: string }): Promise<Handle>;
}
/** A folder, whose entries the types of this compiler do not have yet. */
interface Folder extends FileSystemDirectoryHandle {
  entries(): AsyncIterable<[string, FileSystemHandle]>;
}
interface Stem {
  /** `hash depth channels` */
  readonly name: string;
  readonly depth: Depth;
  readonly channels: Channels;
  size: number;
  used: number;
  handle: Promise<Handle | null> | null;
  /** Slices of which it is known whether they are there; of others `known` tells whether nothing is, or nobody knows. */
  readonly slices: Map<number, boolean>;
  known: boolean;
}

/** What is near of stems. */
export interface Near {
  /** Questions that somebody waits for: nothing is written meanwhile. */
  asking: number;
  /** A slice as it was kept; null where it is not there, or not whole. @param number of slices of SLICE_FRAMES */
  read(address: string, number: number): Promise<KeptSlice | null>;
  /** Keeps a copy of a slice, when there is time; where too many wait, not this one. */
  keep(address: string, number: number, slice: KeptSlice): void;
}

/** What storage there is. */
export interface Storage {
  getDirectory(): Promise<FileSystemDirectoryHandle>;
  estimate(): Promise<{ readonly quota?: number; readonly usage?: number }>;
}

const hashOf = (stem: string) => /^sha256:([0-9a-f]{64})$/.exec(stem)?.[1] ?? null;
const cellBytes = ({ channels, depth }: { channels: Channels; depth: Depth }) =>
  HEAD + SLICE_FRAMES * channels * depthBytes(depth);

/**
 * Slices of stems in the browser's own storage (File System standard, origin private file system): what was played once is played
 * from there. A file for each stem, each slice at its place in it, with a hash of its bytes: what is damaged, half written or
 * somebody else's is as if it were not there. It is the least used that goes where room is little. Whatever fails here, all goes
 * on without.
 */
export class NearStems implements Near {
  private readonly stems = new Map<string, Stem>();
  private folder: FileSystemDirectoryHandle | null = null;
  private hasher: IHasher | null = null;
  private limit = 0;
  private restUntil = -Infinity;
  asking = 0;
  private waiting: { readonly stem: string; readonly number: number; readonly slice: KeptSlice }[] = [];
  private waitingBytes = 0;
  private writing: Promise<void> | null = null;
  private noted = 0;
  private noting: ReturnType<typeof setTimeout> | null = null;
  private readonly ready: Promise<void>;

  constructor(
    private readonly storage: Storage | undefined,
    private readonly now: () => number = () => Date.now(),
  ) {
    this.ready = this.open().catch(() => void (this.folder = null));
  }

  private async open() {
    if (!this.storage) return;
    const root = await this.storage.getDirectory();
    const folder = await root.getDirectoryHandle('zonula-stems', { create: true });
    this.hasher = await createXXHash64();
    const { quota = 0, usage = 0 } = await this.storage.estimate();
    const used = await readUsed(folder);
    let own = 0;
    for await (const [name, entry] of (folder as Folder).entries()) {
      if (name === USED || entry.kind !== 'file') continue;
      const [hash, depth, channels] = name.split(' ');
      const known = DEPTHS.find((d) => d === depth);
      if (!known || (channels !== '1' && channels !== '2') || !/^[0-9a-f]{64}$/.test(hash!)) {
        await folder.removeEntry(name).catch(() => {});
        continue;
      }
      const { size } = await (entry as FileSystemFileHandle).getFile();
      own += size;
      this.stems.set(hash!, {
        name,
        depth: known,
        channels: Number(channels) as Channels,
        size,
        used: used[hash!] ?? 0,
        handle: null,
        slices: new Map(),
        known: false,
      });
    }
    // What others of this origin have taken is not to be had.
    this.limit = Math.min(LIMIT, (quota - Math.max(0, usage - own)) * SHARE);
    this.folder = folder;
  }

  private get own(): number {
    return [...this.stems.values()].reduce((n, s) => n + s.size, 0);
  }

  /** A stem's file, open; null where another window has it, or it is not there. */
  private handleOf(stem: Stem, create = false): Promise<Handle | null> {
    if (stem.handle) return stem.handle;
    const open = [...this.stems.values()].filter((s) => s.handle !== null);
    if (open.length >= MOST_OPEN) {
      open.sort((a, b) => a.used - b.used);
      for (const old of open.slice(0, MOST_OPEN / 4)) this.shut(old);
    }
    const opening = (async () => {
      const file = (await this.folder!.getFileHandle(stem.name, { create })) as OpenFile;
      // Windows share it: each slice tells by its hash whether it is whole.
      return file.createSyncAccessHandle({ mode: 'readwrite-unsafe' });
    })().catch(() => {
      setTimeout(() => stem.handle === opening && (stem.handle = null), REST);
      return null;
    });
    return (stem.handle = opening);
  }
  private shut(stem: Stem) {
    const { handle } = stem;
    stem.handle = null;
    void handle?.then((h) => h?.close()).catch(() => {});
  }

  private sum(bytes: Uint8Array): Uint8Array {
    return this.hasher!.init().update(bytes).digest('binary');
  }

  async read(address: string, number: number): Promise<KeptSlice | null> {
    await this.ready;
    const hash = hashOf(address);
    const stem = hash === null ? undefined : this.stems.get(hash);
    if (!stem || !this.folder) return null;
    // What is known not to be there is not looked for: a turn to the disk for each of hundreds takes longer than to fetch them.
    const there = stem.slices.get(number) ?? !stem.known;
    if (!there || number * cellBytes(stem) >= stem.size) return null;
    const slice = await this.readIn(stem, number);
    if (slice !== undefined) stem.slices.set(number, slice !== null);
    return slice ?? null;
  }
  /** @returns null where it is not there, undefined where that cannot be told now */
  private async readIn(stem: Stem, number: number): Promise<KeptSlice | null | undefined> {
    try {
      const handle = await this.handleOf(stem);
      if (!handle) return undefined;
      const at = number * cellBytes(stem);
      // Where nothing was kept no room is asked for.
      const head = new DataView(new ArrayBuffer(HEAD));
      if (handle.read(new Uint8Array(head.buffer), { at }) < HEAD) return null;
      const size = head.getUint32(8, true);
      if (head.getUint32(0, true) !== MARK || head.getUint32(4, true) !== number) return null;
      if (size > cellBytes(stem) - HEAD || head.getUint32(12, true) !== kindOf(stem)) return null;
      const bytes = new Uint8Array(size);
      if (handle.read(bytes, { at: at + HEAD }) < size) return null;
      if (this.sum(bytes).some((b, k) => b !== head.getUint8(16 + k))) return null;
      stem.used = this.now();
      this.noteSoon();
      return { depth: stem.depth, channels: stem.channels, bytes };
    } catch {
      this.shut(stem);
      return undefined;
    }
  }

  keep(address: string, number: number, slice: KeptSlice): void {
    if (hashOf(address) === null || this.now() < this.restUntil) return;
    if (this.waitingBytes + slice.bytes.length > MOST_WAITING) return;
    this.waitingBytes += slice.bytes.length;
    this.waiting.push({ stem: address, number, slice: { ...slice, bytes: slice.bytes.slice() } });
    this.writing ??= this.write().finally(() => (this.writing = null));
  }
  private async write() {
    await this.ready;
    for (let next; (next = this.waiting.shift());) {
      this.waitingBytes -= next.slice.bytes.length;
      const begun = performance.now();
      if (!this.folder || this.now() < this.restUntil) continue;
      try {
        await this.put(hashOf(next.stem)!, next.number, next.slice);
      } catch {
        // No room, most likely: it is tried again later, with less.
        this.restUntil = this.now() + REST;
        this.limit = Math.min(this.limit, this.own);
      }
      // What is played comes first: most of the time is its own.
      const took = performance.now() - begun;
      await new Promise((done) => setTimeout(done, took * SHARE_OF_TIME));
      while (this.asking > 0) await new Promise((done) => setTimeout(done, 20));
    }
  }
  private async put(hash: string, number: number, slice: KeptSlice) {
    let stem = this.stems.get(hash);
    if (stem && kindOf(stem) !== kindOf(slice)) return;
    const cell = new Uint8Array(HEAD + slice.bytes.length);
    const size = number * cellBytes(slice) + cell.length;
    if (!(await this.makeRoom(hash, size - (stem?.size ?? 0)))) return;
    const { depth, channels } = slice;
    if (!stem) {
      stem = {
        name: `${hash} ${depth} ${channels}`,
        depth,
        channels,
        size: 0,
        used: this.now(),
        handle: null,
        slices: new Map(),
        known: true,
      };
      this.stems.set(hash, stem);
    }
    const handle = await this.handleOf(stem, true);
    if (!handle) return;
    // Another window may have begun it.
    if (stem.size === 0 && handle.getSize() > 0) stem.known = false;
    const view = new DataView(cell.buffer);
    view.setUint32(0, MARK, true);
    view.setUint32(4, number, true);
    view.setUint32(8, slice.bytes.length, true);
    view.setUint32(12, kindOf(slice), true);
    cell.set(this.sum(slice.bytes), 16);
    cell.set(slice.bytes, HEAD);
    const wrote = handle.write(cell, { at: number * cellBytes(slice) });
    stem.size = Math.max(stem.size, handle.getSize());
    stem.used = this.now();
    this.noteSoon();
    if (wrote !== cell.length) throw new Error('There is no room.');
    stem.slices.set(number, true);
  }
  /** @returns whether so many more bytes may be kept */
  private async makeRoom(hash: string, more: number): Promise<boolean> {
    if (more <= 0) return true;
    const old = [...this.stems].filter(([h]) => h !== hash).sort(([, a], [, b]) => a.used - b.used);
    for (const [h, stem] of old) {
      if (this.own + more <= this.limit) break;
      if (this.now() - stem.used < IN_USE) return false;
      this.stems.delete(h);
      const handle = await stem.handle;
      handle?.close();
      await this.folder!.removeEntry(stem.name).catch(() => {});
    }
    return this.own + more <= this.limit;
  }

  /** Writes down what was used when, now and then. */
  private noteSoon() {
    const wait = this.noted + NOTE_EVERY - this.now();
    if (wait > 0) {
      this.noting ??= setTimeout(() => ((this.noting = null), this.noteSoon()), wait);
      return;
    }
    this.noted = this.now();
    void this.note().catch(() => {});
  }
  private async note() {
    const file = (await this.folder!.getFileHandle(USED, { create: true })) as OpenFile;
    const handle = await file.createSyncAccessHandle();
    try {
      const used = Object.fromEntries([...this.stems].map(([hash, { used }]) => [hash, used]));
      const text = new TextEncoder().encode(JSON.stringify(used));
      handle.truncate(0);
      handle.write(text, { at: 0 });
      handle.flush();
    } finally {
      handle.close();
    }
  }

  /** Resolves when nothing waits to be written. */
  async settled(): Promise<void> {
    await this.ready;
    while (this.writing) await this.writing;
  }
}

const kindOf = ({ depth, channels }: { depth: Depth; channels: Channels }) =>
  DEPTHS.indexOf(depth) * 256 + channels;

async function readUsed(folder: FileSystemDirectoryHandle): Promise<Readonly<Record<string, number>>> {
  try {
    const file = await (await folder.getFileHandle(USED)).getFile();
    const read = JSON.parse(await file.text()) as Record<string, unknown>;
    return Object.fromEntries(
      Object.entries(read).filter((e): e is [string, number] => Number.isFinite(e[1])),
    );
  } catch {
    return {};
  }
}
