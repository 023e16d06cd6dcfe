import { SliceStream } from '@core/formats/audio/slices';
import type { Near } from './nearStems';
import { SLICE_FRAMES, StemsGone, type FetchSlices } from './slices';
import { say } from './texts';

/**
 * Parts of many stems from the server, in one question.
 * @throws StemsGone where some are not there; the others came
 * @throws Error where they do not all come
 */
export const fetchSlices: FetchSlices = async (slices, take, signal) => {
  const response = await fetch('/api/stems/slices', {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ slices: slices.map(({ stem, start, frames }) => ({ stem, start, frames })) }),
    signal,
  });
  if (!response.ok || !response.body)
    throw new Error(say('stemCouldNotFetchedServer', { status: response.status }));
  const missing = new Set<string>();
  let away = false;
  const stream = new SliceStream(({ number, depth, channels }, bytes) => {
    if (depth === 'gone') missing.add(slices[number]!.stem);
    else if (depth === 'away') away = true;
    else take(number, { depth, channels, bytes });
  });
  await each(response.body, (piece) => stream.push(piece));
  stream.end();
  if (away) throw new Error(say('stemCouldNotFetchedServer', { status: 503 }));
  if (missing.size) throw new StemsGone(say('stemCouldNotFetchedServer', { status: 404 }), [...missing]);
};
/** Bytes that are read at once. */
const PIECE = 1 << 18;
/** Gives what comes, piece by piece, always in the same room where the browser can: megabytes a second would have to be collected. */
async function each(body: ReadableStream<Uint8Array>, does: (piece: Uint8Array) => void): Promise<void> {
  let reader: ReadableStreamBYOBReader;
  try {
    reader = body.getReader({ mode: 'byob' });
  } catch {
    const pieces = body.getReader();
    for (let next; !(next = await pieces.read()).done;) does(next.value);
    return;
  }
  let room = new ArrayBuffer(PIECE);
  for (;;) {
    const { done, value } = await reader.read(new Uint8Array(room));
    if (value?.length) does(value);
    if (done) return;
    room = value.buffer;
  }
}

/** Milliseconds for which what is near may say nothing, before the rest is asked of the server; and where that has no answer. */
const PATIENCE = 80;
const LONG_PATIENCE = 2000;

/** Parts of many stems: what is near from there, the others from the server, from where they come near. */
export function nearFirst(near: Near, fetchFar = fetchSlices): FetchSlices {
  /** Who has said nothing at all is not waited for again. */
  let patience = PATIENCE;
  let said = -Infinity;
  /** Resolves when it was silent for too long. */
  const silence = async () => {
    const begun = performance.now();
    for (let left; (left = Math.max(begun, said) + patience - performance.now()) > 0;)
      await wait(Math.ceil(left));
    if (said < begun) patience = 0;
  };
  return async (slices, take, signal) => {
    near.asking++;
    try {
      /** Those that nobody has said anything of. */
      const open = new Set(slices.keys());
      const far: number[] = [];
      const reading = Promise.all(
        slices.map(async ({ stem, start }, n) => {
          const kept = await near.read(stem, start / SLICE_FRAMES);
          said = performance.now();
          patience = PATIENCE;
          // Late it is still right, where nothing has come meanwhile.
          if (kept) take(n, kept);
          else if (open.has(n)) far.push(n);
          open.delete(n);
        }),
      );
      await Promise.race([reading, silence()]);
      const late = [...open];
      open.clear();
      far.push(...late);
      if (far.length === 0 || signal.aborted) return;
      far.sort((a, b) => a - b);
      try {
        await fetchFar(
          far.map((n) => slices[n]!),
          (k, kept) => {
            const { stem, start } = slices[far[k]!]!;
            take(far[k]!, kept);
            near.keep(stem, start / SLICE_FRAMES, kept);
          },
          signal,
        );
      } catch (error) {
        if (late.length) await Promise.race([reading, wait(LONG_PATIENCE)]);
        throw error;
      }
    } finally {
      near.asking--;
    }
  };
}
const wait = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));
