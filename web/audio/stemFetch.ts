import { planar } from '@engine/print';
import { floatsOf } from '@core/formats/audio/samples';
import { SliceStream } from '@core/formats/audio/slices';
import { say } from './texts';

/** Frames that are fetched at once; ranges begin at multiples of it, so that the browser's cache serves them again. */
export const PIECE_FRAMES = 65536;

/** A piece of a stem from the server: interleaved frames. */
export async function fetchPiece(
  stem: string,
  piece: number,
  signal?: AbortSignal,
): Promise<Float32Array<ArrayBuffer>> {
  const response = await fetch(
    `/api/stems/${stem}/pcm?start=${piece * PIECE_FRAMES}&frames=${PIECE_FRAMES}`,
    { signal },
  );
  if (!response.ok) throw new Error(say('stemCouldNotFetchedServer', { status: response.status }));
  return new Float32Array(await response.arrayBuffer());
}

/** A part of a stem. */
export interface Slice {
  readonly stem: string;
  readonly start: number;
  readonly frames: number;
}
/**
 * Parts of many stems from the server, in one question.
 * @param take gets each as it comes, by its number: a list of frames a channel, as far as the stem reaches
 * @throws Error where they do not all come; those of stems that are not there any more do not
 */
export async function fetchSlices(
  slices: readonly Slice[],
  take: (number: number, audio: Float32Array[]) => void,
  signal: AbortSignal,
): Promise<void> {
  const response = await fetch('/api/stems/slices', {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ slices }),
    signal,
  });
  if (!response.ok || !response.body)
    throw new Error(say('stemCouldNotFetchedServer', { status: response.status }));
  let missing = false;
  const stream = new SliceStream((head, samples) => {
    if (head.depth === null) missing = true;
    else take(head.number, planar(floatsOf(samples, head.depth), head.channels));
  });
  const reader = response.body.getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    stream.push(value);
  }
  stream.end();
  if (missing) throw new Error(say('stemCouldNotFetchedServer', { status: 404 }));
}
