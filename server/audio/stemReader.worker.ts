import { once } from 'node:events';
import { createReadStream } from 'node:fs';
import type { Readable } from 'node:stream';
import type { MessagePort } from 'node:worker_threads';
import { Refusal } from '../../core/base/refusal';
import { openZip } from '../package/zip';
import { readStem, type StemChunk, type StemRead } from './stemReader';

/** A WAV file, or one inside a package. */
export interface StemSource {
  readonly file: string;
  /** Its name inside, where the file is a package. */
  readonly entry?: string;
}
export interface ReadingTask {
  readonly source: StemSource;
  readonly rate: number;
  readonly port: MessagePort;
}
export type ReadingAnswer =
  | { readonly chunk: StemChunk }
  | { readonly read: StemRead }
  | { readonly refused: { readonly rule: 'audio' | 'size' | 'format'; readonly message: string } }
  | { readonly failed: string };

/** Reads a stem and gives its chunks one after the other, each when the one before was taken. */
export default async function work({ source, rate, port }: ReadingTask): Promise<void> {
  const say = (answer: ReadingAnswer, moved: ArrayBuffer[] = []) => port.postMessage(answer, moved);
  const zip = source.entry === undefined ? null : await openZip(source.file);
  let stream: Readable | null = null;
  try {
    stream = zip
      ? await zip.stream(source.entry!)
      : createReadStream(source.file, { highWaterMark: 1 << 18 });
    const reading = readStem(stream, rate);
    for (;;) {
      const { done, value } = await reading.next();
      if (done) {
        say({ read: value });
        break;
      }
      say({ chunk: value }, value.data ? [value.data.buffer] : []);
      const [answer] = (await once(port, 'message')) as [string];
      if (answer === 'stop') break;
    }
  } catch (error) {
    if (error instanceof Refusal) say({ refused: { rule: error.rule as 'audio', message: error.message } });
    else say({ failed: (error as Error).message });
  } finally {
    stream?.destroy();
    zip?.close();
    port.close();
  }
}
