import { planar } from '@engine/print';
import { floatsOf } from '@core/formats/audio/samples';
import { SliceStream } from '@core/formats/audio/slices';
import type { NearStems } from './nearStems';
import { SLICE_FRAMES, StemsGone, type FetchSlices, type KeptSlice, type Slice } from './slices';
import { say } from './texts';

/**
 * Parts of many stems from the server, in one question.
 * @param take gets each as it comes, by its number, as it is kept; its bytes are the stream's again when it returns
 * @throws StemsGone where some are not there; the others came
 * @throws Error where they do not all come
 */
export async function fetchKept(
  slices: readonly Slice[],
  take: (number: number, slice: KeptSlice) => void,
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
  const stream = new SliceStream(({ number, depth, channels }, bytes) => {
    if (depth === null) missing.add(slices[number]!.stem);
    else take(number, { depth, channels, bytes });
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
const floatsIn = ({ bytes, depth, channels }: KeptSlice) => planar(floatsOf(bytes, depth), channels);

/** Parts of many stems from the server, in one question, as floats. */
export const fetchSlices: FetchSlices = (slices, take, signal) =>
  fetchKept(slices, (number, slice) => take(number, floatsIn(slice)), signal);

/** Milliseconds for which a slice that is near may keep others waiting. */
const PATIENCE = 400;

/** Parts of many stems: what is near from there, the others from the server, from where they come near. */
export const nearFirst =
  (near: Pick<NearStems, 'read' | 'keep'>, fetchFar = fetchKept): FetchSlices =>
  async (slices, take, signal) => {
    const numberOf = ({ start }: Slice) => start / SLICE_FRAMES;
    const far: number[] = [];
    const late = new Promise<null>((done) => setTimeout(() => done(null), PATIENCE));
    await Promise.all(
      slices.map(async (slice, n) => {
        const kept = await Promise.race([near.read(slice.stem, numberOf(slice)), late]);
        if (kept) take(n, floatsIn(kept));
        else far.push(n);
      }),
    );
    if (far.length === 0 || signal.aborted) return;
    far.sort((a, b) => a - b);
    await fetchFar(
      far.map((n) => slices[n]!),
      (k, kept) => {
        const n = far[k]!;
        take(n, floatsIn(kept));
        near.keep(slices[n]!.stem, numberOf(slices[n]!), { ...kept, bytes: kept.bytes.slice() });
      },
      signal,
    );
  };
