import { once } from 'node:events';
import { createReadStream } from 'node:fs';
import type { Readable } from 'node:stream';
import type { MessagePort } from 'node:worker_threads';
import { Refusal } from '../../core/base/refusal';
import { readFactsBehind } from '../../core/formats/audio/aiff';
import { FactsBehind, MOST_HEADER_BYTES } from '../../core/formats/audio/facts';
import { openZip } from '../package/zip';
import { copyRows } from './copyRows';
import { readStems, type StemRead, type Taking } from './stemReader';

/** An audio file, or one inside a package. */
export interface StemSource {
  readonly file: string;
  /** Its name inside, where the file is a package. */
  readonly entry?: string;
}
export interface ReadingTask {
  readonly source: StemSource;
  readonly taking: Taking;
  readonly port: MessagePort;
}
/** What the thread says. To `begins` it is answered with the stems' numbers, which their rows bear; to rows, for the next. */
export type ReadingAnswer =
  | { readonly begins: number }
  | { readonly rows: Uint8Array<ArrayBuffer> }
  | { readonly read: readonly StemRead[] }
  | { readonly refused: { readonly rule: 'audio' | 'cut' | 'size' | 'format'; readonly message: string } }
  | { readonly failed: string };

/** Loads of rows that may be on their way before one is asked for. */
const AHEAD = 3;

/** Up to so many bytes of a stream, from one on. */
async function tailOf(stream: AsyncIterable<Buffer>, from: number, most: number): Promise<Buffer> {
  const pieces: Buffer[] = [];
  let at = 0;
  for await (const piece of stream) {
    if (at + piece.length > from) pieces.push(piece.subarray(Math.max(0, from - at)));
    at += piece.length;
    if (at >= from + most) break;
  }
  return Buffer.concat(pieces).subarray(0, most);
}

/** Reads a file and gives its stems' rows, load by load, each when one before it was taken. */
export default async function work({ source, taking, port }: ReadingTask): Promise<void> {
  const say = (answer: ReadingAnswer, moved: ArrayBuffer[] = []) => port.postMessage(answer, moved);
  let wanted = AHEAD;
  let stopped = false;
  let numbers: readonly number[] = [];
  port.on('message', (answer: 'stop' | 'next' | readonly number[]) => {
    if (answer === 'stop') stopped = true;
    else if (answer === 'next') wanted++;
    else numbers = answer;
  });
  const begin = async (stems: number) => {
    say({ begins: stems });
    while (numbers.length === 0 && !stopped) await once(port, 'message');
  };
  const zip = source.entry === undefined ? null : await openZip(source.file);
  let stream = null as Readable | null;
  const open = async () => {
    stream?.destroy();
    stream = zip
      ? await zip.stream(source.entry!)
      : createReadStream(source.file, { highWaterMark: 1 << 20 });
    return stream;
  };
  try {
    let reading = readStems(await open(), taking, begin);
    // What tells of its audio may stand behind it.
    const first = await reading.next().catch(async (error: unknown) => {
      if (!(error instanceof FactsBehind)) throw error;
      const facts = readFactsBehind(error, await tailOf(await open(), error.next, MOST_HEADER_BYTES));
      reading = readStems(await open(), taking, begin, facts);
      return reading.next();
    });
    for (let step = first; ; step = await reading.next()) {
      const { done, value } = step;
      if (done) {
        say({ read: value });
        break;
      }
      if (stopped) break;
      const rows = copyRows(numbers[value.stem]!, value);
      if (rows.length === 0) continue;
      say({ rows }, [rows.buffer]);
      wanted--;
      while (wanted <= 0 && !stopped) await once(port, 'message');
      if (stopped) break;
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
