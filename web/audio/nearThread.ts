import type { KeptSlice } from './slices';
import { MOST_WAITING, type Near } from './nearStems';

/** What the thread of what is near is told. */
export type NearMessage =
  | {
      readonly type: 'read';
      readonly slices: readonly (readonly [id: number, address: string, number: number])[];
    }
  | { readonly type: 'keep'; readonly address: string; readonly number: number; readonly slice: KeptSlice }
  | { readonly type: 'asking'; readonly questions: number };
/** What it answers: slices that were read, and bytes of what no longer waits. */
export type NearAnswer =
  | { readonly type: 'read'; readonly slices: readonly (readonly [id: number, slice: KeptSlice | null])[] }
  | { readonly type: 'taken'; readonly bytes: number };

/** Slices that may be asked for at once: of one that does not answer no more is asked. */
const MOST_READING = 2048;

/** What of a worker is used. */
export interface NearWorker {
  postMessage(message: NearMessage, moved?: Transferable[]): void;
  onmessage: ((event: MessageEvent<NearAnswer>) => void) | null;
}

/**
 * What is near, in a thread of its own: whoever feeds what is heard does not stand still while a disk does, and writing to one may
 * take a tenth of a second.
 */
export class NearThread implements Near {
  private next = 0;
  private readonly reading = new Map<number, (slice: KeptSlice | null) => void>();
  private toRead: (readonly [number, string, number])[] = [];
  private waitingBytes = 0;
  private questions = 0;

  constructor(private readonly worker: NearWorker) {
    worker.onmessage = ({ data }) => {
      if (data.type === 'taken') this.waitingBytes -= data.bytes;
      else
        for (const [id, slice] of data.slices) {
          this.reading.get(id)?.(slice);
          this.reading.delete(id);
        }
    };
  }

  get asking(): number {
    return this.questions;
  }
  set asking(questions: number) {
    this.questions = questions;
    this.worker.postMessage({ type: 'asking', questions });
  }

  /** What is asked for at once is one message. */
  read(address: string, number: number): Promise<KeptSlice | null> {
    if (this.reading.size >= MOST_READING) return Promise.resolve(null);
    const id = this.next++;
    if (this.toRead.length === 0)
      queueMicrotask(() => {
        this.worker.postMessage({ type: 'read', slices: this.toRead });
        this.toRead = [];
      });
    this.toRead.push([id, address, number]);
    return new Promise((done) => this.reading.set(id, done));
  }

  keep(address: string, number: number, slice: KeptSlice): void {
    const { length } = slice.bytes;
    if (this.waitingBytes + length > MOST_WAITING) return;
    this.waitingBytes += length;
    const own = { ...slice, bytes: slice.bytes.slice() };
    this.worker.postMessage({ type: 'keep', address, number, slice: own }, [own.bytes.buffer]);
  }
}

/** Answers what is asked of what is near. @param answer tells the asker */
export function nearAnswers(
  near: Near,
  answer: (answer: NearAnswer, moved?: Transferable[]) => void,
): (message: NearMessage) => void {
  return (message) => {
    if (message.type === 'asking') near.asking = message.questions;
    else if (message.type === 'keep') {
      near.keep(message.address, message.number, message.slice);
      answer({ type: 'taken', bytes: message.slice.bytes.length });
    } else void read(message.slices);
  };
  async function read(slices: (NearMessage & { type: 'read' })['slices']) {
    // What is not there is told together: the others are fetched then.
    const missing: [number, null][] = [];
    for (const [id, address, number] of slices) {
      const slice = await near.read(address, number);
      if (slice) answer({ type: 'read', slices: [[id, slice]] }, [slice.bytes.buffer]);
      else missing.push([id, null]);
    }
    if (missing.length) answer({ type: 'read', slices: missing });
  }
}
