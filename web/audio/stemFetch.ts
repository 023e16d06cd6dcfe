import { planar } from '@engine/print';
import { floatsOf } from '@core/formats/audio/samples';
import { SliceStream } from '@core/formats/audio/slices';
import { say } from './texts';

/** A part of a stem. */
export interface Slice {
  readonly stem: string;
  readonly start: number;
  readonly frames: number;
}
/** Fetches slices of stems, and gives each by its number as it comes: a list of frames a channel, as far as the stem reaches. */
export type FetchSlices = (
  slices: readonly Slice[],
  take: (number: number, audio: Float32Array[]) => void,
  signal: AbortSignal,
) => Promise<void>;

/** Stems that the server does not have, or has no more. */
export class StemsGone extends Error {
  constructor(
    message: string,
    readonly stems: readonly string[],
  ) {
    super(message);
  }
}

/**
 * Parts of many stems from the server, in one question.
 * @throws StemsGone where some are not there; the others came.
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
    body: JSON.stringify({ slices: slices.map(({ stem, start, frames }) => ({ stem, start, frames })) }),
    signal,
  });
  if (!response.ok || !response.body)
    throw new Error(say('stemCouldNotFetchedServer', { status: response.status }));
  const missing = new Set<string>();
  const stream = new SliceStream((head, samples) => {
    if (head.depth === null) missing.add(slices[head.number]!.stem);
    else take(head.number, planar(floatsOf(samples, head.depth), head.channels));
  });
  const reader = response.body.getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    stream.push(value);
  }
  stream.end();
  if (missing.size) throw new StemsGone(say('stemCouldNotFetchedServer', { status: 404 }), [...missing]);
}
